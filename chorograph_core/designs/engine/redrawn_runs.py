"""Runs whose line is drawn otherwise: what of them ends somewhere ends where the line now comes by there."""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from chorograph_core.designs.contract import SPILL
from chorograph_core.designs.curves import thin
from chorograph_core.designs.engine.tight import THINNING, tight_turns, without_kinks
from chorograph_core.designs.linework import Run
from chorograph_core.designs.space import Space


def dense(points: np.ndarray, step: float) -> tuple[np.ndarray, np.ndarray]:
    """A line (n, 2) with points no more than *step* inches apart, and where each of its own is among them."""
    legs = np.hypot(*np.diff(points, axis=0).T)
    parts = np.maximum(1, np.ceil(legs / step).astype(int))
    at = np.concatenate([[0], np.cumsum(parts)])
    leg = np.repeat(np.arange(len(parts)), parts)
    share = (np.arange(at[-1]) - at[leg]) / parts[leg]
    between = points[leg] + share[:, None] * (points[leg + 1] - points[leg])
    return np.concatenate([between, points[-1:]]), at


def finer(run: Run, step: float) -> Run:
    """The run with points no more than *step* inches apart."""
    points, at = dense(run.points, step)
    return along(run, points, {stop: int(at[stop]) for stop in stops_of(run)})


def along(run: Run, points: np.ndarray, at: Mapping[int, int]) -> Run:
    """The run along *points*, whose spans and units end *at* others of them."""
    return replace(run, points=points,
                   spans=tuple(span.ending(at[span.stop]) for span in run.spans),
                   units=tuple(unit.ending(at[unit.stop]) for unit in run.units))  # fmt: skip


def stops_of(run: Run) -> list[int]:
    """Points of a run that are to stay: where its spans and units end."""
    last = len(run.points) - 1
    inner = {s.stop for s in run.spans} | {u.stop for u in run.units}
    return [0, *sorted(inner - {0, last}), last]


def thinned(run: Run) -> Run:
    """Without points that tell nothing."""
    stops = stops_of(run)
    pieces, at, count = [], {0: 0}, 0
    for first, last in itertools.pairwise(stops):
        piece = thin(run.points[first : last + 1], THINNING)
        pieces.append(piece[:-1])
        count += len(piece) - 1
        at[last] = count
    points = np.concatenate([*pieces, run.points[-1:]])
    return along(run, points, at)


def eased(run: Run, radius: float, space: Space, most: int) -> Run:
    """The run without turns tighter than *radius* inches, if there are more of them than *most*; what ends
    somewhere ends where it now comes by there."""
    if tight_turns(run.points, radius, run.closed) <= most:
        return run
    line = without_kinks(run.points, radius, space.polygon, SPILL / 2, run.closed)
    at, begun = {0: 0, len(run.points) - 1: len(line) - 1}, 0
    inner = stops_of(run)[1:-1]
    for k, stop in enumerate(inner):
        # No two end at one point, and all before the last.
        ahead = line[begun + 1 : len(line) - len(inner) + k]
        if not len(ahead):
            return run
        begun += 1 + int(np.hypot(*(ahead[:400] - run.points[stop]).T).argmin())
        at[stop] = begun
    return along(run, line, at)
