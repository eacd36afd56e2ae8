"""Paths: stations that are said to follow one path are stitched alike."""

from __future__ import annotations

from collections import defaultdict

import numpy as np

SISTERS = 0.15
"""Inches by which stitching in one station may lie elsewhere than in another on the same path."""


def path_faults(steps, one_way: str = "") -> list[str]:
    """Stations on one path are stitched alike: one after the other the same lines, turned or mirrored,
    forwards or backwards. A path that is a single run only says which strips have one design. Where a
    machine stitches only one way (*one_way*), each line may run either way."""
    visits: dict[str, list[tuple[str, list, int]]] = defaultdict(list)
    for number, step in enumerate(steps, 1):
        if step.kind == "path" and step.station:
            visits[step.path].append((step.station, [], number))
        elif step.kind in ("stitch", "travel") and step.station and visits.get(step.path):
            visits[step.path][-1][1].append(step)
    faults = []
    for path, found in visits.items():
        lines = [
            (station, [_drawn_through(parts, either) for either in (False, True)], number)
            for station, parts, number in found
            if any(step.seams for step in parts) or len({step.run for step in parts} - {""}) > 1
        ]
        for station, line, number in lines[1:]:
            same = sisters(lines[0][1][0], line[0])
            if not same and not (one_way and sisters(lines[0][1][1], line[1])):
                faults.append(f"step {number}: {station} is not stitched by path {path}")
    return faults


def _drawn_through(parts, either: bool) -> np.ndarray:
    """The line of a visit: through ditches with all travel, since backwards the other of two times is
    the first; of every run where it begins, its middle, its end, since a ring may be gone either way
    round and the way to the next may begin at another door."""
    made: list[np.ndarray] = []
    runs: list[tuple[str, list]] = []
    seams = any(step.seams for step in parts)
    for step in parts:
        if seams:
            runs.append(("", [step.points]))
        elif step.kind == "travel" and not step.run:
            continue
        elif runs and runs[-1][0] == step.run:
            runs[-1][1].append(step.points)
        else:
            runs.append((step.run, [step.points]))
    for name, points in runs:
        line = np.concatenate(points)
        if either:
            line = ((line.min(axis=0) + line.max(axis=0)) / 2)[None]
        elif name:
            line = np.array([line[0], (line.min(axis=0) + line.max(axis=0)) / 2, line[-1]])
        made.append(line)
    return np.concatenate(made)


def sisters(one: np.ndarray, other: np.ndarray) -> bool:
    """Whether one line is the other turned by quarters or mirrored, gone either way."""
    a, b = _even(one), _even(other)
    a, b = a - (a.min(axis=0) + a.max(axis=0)) / 2, b - (b.min(axis=0) + b.max(axis=0)) / 2
    for x, y in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
        for turned in (a * (x, y), a[:, ::-1] * (x, y)):
            for way in (b, b[::-1]):
                if np.abs(turned - way).max() < SISTERS:
                    return True
    return False


def _even(line: np.ndarray) -> np.ndarray:
    """Points (400, 2) along a line; what is jumped over between its parts counts as line."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.linspace(0, along[-1], 400)
    return np.column_stack([np.interp(at, along, line[:, k]) for k in (0, 1)])


def wish_faults(policy, steps) -> list[str]:
    """Where runs were wanted in an order, they are done in it, or in it backwards: a path may be gone
    either way."""
    visits: list[tuple[int, list[str]]] = []
    now: list[str] = []
    for number, step in enumerate(steps, 1):
        if step.kind == "path":
            now = []
            visits.append((number, now))
        elif step.kind == "stitch" and step.run and not step.seams and step.run not in now:
            now.append(step.run)
    faults = []
    for order in policy.orders:
        for number, names in visits:
            if set(names) == set(order) and names not in (list(order), list(order)[::-1]):
                faults.append(f"step {number}: the runs are not done in the order that was wanted")
    return faults
