"""Runs: every one once, as it was drawn, or drawn again by the rules for that."""

from __future__ import annotations

from collections import defaultdict
from functools import lru_cache
from types import SimpleNamespace

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely import STRtree

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.registry import designs
from chorograph_core.route.replay.measuring import NEAR, inches_of

WHERE_PARTS_MEET = 1.4
"""The same for a filling drawn in parts: where two meet it may be that much wider than anywhere before."""
EVERY = 0.05
"""Inches between places of a line that are looked at."""
AT_DOOR = 0.05
"""Inches within which a line that was drawn again must begin and end at a doorway."""
TWICE = 0.75
"""Inches of a line that was left and taken up again that may lie along what was stitched before at one
place: it crosses it, or touches it as ribbons do."""
APART = 0.25
"""Inches of a line between two passings of one place, at least: within them it only goes on."""
INCHES, GAP = 0.15, 1.1
"""How much the inches of a line that was drawn again may differ, and how many times wider its largest
gap may be, than those of the first drawing."""


def run_faults(
    asked, shapes, policy, steps, passes, one_way: str = "", rolled: bool = False, begun=None, left=None,
) -> list[str]:  # fmt: skip
    """Every run once, in one go where the policy asks for it and a pass holds it, as it was drawn; of those
    *begun* before, only what was not stitched, in as many goes as parts of it are *left*."""
    faults, begun, left = [], begun or {}, dict(left or {})
    found: dict[str, list] = defaultdict(list)
    last_run, closed_runs = "", set()
    for number, step in enumerate(steps, 1):
        if step.kind not in ("stitch", "travel"):
            continue
        if step.run.startswith("ditch:"):
            last_run = ""
            continue
        if step.run and step.run != last_run:
            again = step.run in closed_runs and policy.whole_runs and step.run in asked
            if step.run in begun:
                # It was cut for passes; where the machine stitches one way each part may be turned round.
                left[step.run] = left.get(step.run, 1) - 1
                again = again and not one_way and left[step.run] < 0
            if again and (
                _held(asked[step.run][1], passes) or _asked_whole(asked[step.run][0], rolled)
            ):
                faults.append(f"step {number}: {step.run} is stitched a second time")
            closed_runs.add(step.run)
        if step.run:
            found[step.run].append(step)
        last_run = step.run
    for key, (one, run) in asked.items():
        if run.in_ditch or len(run.points) < 2:
            continue
        parts = found.pop(key, None)
        if not parts:
            faults.append(f"{key} is never stitched")
            continue
        if {step.thread for step in parts} != {one.thread}:
            faults.append(f"{key} is stitched in the wrong thread")
        if key in begun:
            fault = _gone_on(one, run, begun[key], parts, shapes.get(one.zone))
            faults += [f"{key} {fault}"] if fault else []
            continue
        if not _held(run, passes) and not _asked_whole(one, rolled):
            fault = ""
            if not _same_stitching(parts, run) and not _same_in_parts(
                [step.points for step in parts], run
            ):
                fault = _drawn_in_parts(one, run, parts, shapes.get(one.zone))
            if fault:
                faults.append(f"{key} {fault}")
            continue
        line = np.concatenate([step.points for step in parts])
        if _same_line(line, run) or (one_way and _same_stitching(parts, run)):
            continue
        fault = _drawn_again(one, run, parts, shapes.get(one.zone))
        if any(wish.kind == "drawn" and one.zone in wish.zones for wish in policy.wishes):
            fault = "is drawn again, though it was wished as it is"
        if fault:
            faults.append(f"{key} {fault}")
    faults += [f"{key} is stitched but was never asked for" for key in found]
    return faults


def _asked_whole(one: LayerLinework, rolled: bool) -> bool:
    """Whether the quilt is to be rolled under what no pass holds, so that nothing is cut; what may be
    drawn in parts is."""
    drawing = designs().get(one.design)
    return rolled and not (drawing is not None and drawing.divisible)


def _held(run, passes) -> bool:
    """Whether a pass holds all of a run, to the hair: one that none holds may be stitched in parts."""
    low, high = run.points[:, 1].min(), run.points[:, 1].max()
    return not passes or any(each.top <= low and high <= each.bottom for each in passes)


def _same_in_parts(parts, run) -> bool:
    """All of the drawn line, nothing of it twice, and nothing else, in whatever order."""
    drawn = shapely.linestrings(run.points)
    made = shapely.multilinestrings([shapely.linestrings(p) for p in parts if len(p) > 1])
    if abs(made.length - drawn.length) > NEAR + 1e-4 * drawn.length:
        return False
    return _close(made, drawn) and _close(drawn, made)


def _gone_on(one: LayerLinework, run, before, parts, shape) -> str:
    """What is wrong with a run that was begun *before* and is stitched to its end: together they must be what
    was drawn, with nothing of it twice."""
    earlier = [SimpleNamespace(kind="stitch", points=np.asarray(line)) for line in before]
    lines = [*earlier, *(step for step in parts if step.kind == "stitch")]
    if _same_stitching(lines, run):
        return ""
    made = [shapely.linestrings(step.points) for step in lines if inches_of(step.points) > 1e-9]
    earlier = [step for step in earlier if inches_of(step.points) > 1e-9]
    twice = _twice_over(made[: len(earlier)], made[len(earlier) :])
    if twice > TWICE and twice > TWICE + _over_itself(shapely.linestrings(run.points)):
        return f"is stitched twice over for {twice:.1f} inches"
    return (
        _filled_otherwise(run, [*earlier, *parts], shape, WHERE_PARTS_MEET)
        if shape is not None
        else "is not as drawn"
    )


def _twice_over(before, after) -> float:
    """Inches of the lines *after* that lie along those *before*, at the place where most do: looked at every
    twentieth of an inch, since the outline of a long line takes minutes."""
    if not before or not after:
        return 0.0
    old, _ = _legs(before)
    most = 0
    for line in after:
        spots = shapely.line_interpolate_point(line, np.arange(0.0, line.length, EVERY))
        there = np.zeros(len(spots), bool)
        there[old.query(spots, predicate="dwithin", distance=NEAR)[0]] = True
        most = max(most, _longest(there))
    return most * EVERY


def _over_itself(line) -> float:
    """Inches of a *line* that lie along an earlier part of it, at the place where most do: strands of a rope,
    heads of a feather. Wherever such a line is left and taken up again, so much of it is stitched twice."""
    legs, lengths = _legs([line])
    ends = np.cumsum(lengths)
    at = np.arange(0.0, line.length, EVERY)
    spots = shapely.line_interpolate_point(line, at)
    which, leg = legs.query(spots, predicate="dwithin", distance=NEAR)
    there = np.zeros(len(spots), bool)
    there[which[ends[leg] < at[which] - APART]] = True
    return _longest(there) * EVERY


def _longest(there: np.ndarray) -> int:
    """The most of *there* (n,) that are true one after another."""
    steps = np.diff(np.concatenate([[0], there.astype(int), [0]]))
    return int(max(np.flatnonzero(steps < 0) - np.flatnonzero(steps > 0), default=0))


def _legs(lines) -> tuple[STRtree, np.ndarray]:
    """The straight pieces (m) of *lines*, to be looked up, and their inches (m,)."""
    coords, owner = shapely.get_coordinates(lines, return_index=True)
    same = owner[1:] == owner[:-1]
    legs = shapely.linestrings(np.stack([coords[:-1][same], coords[1:][same]], axis=1))
    return STRtree(legs), shapely.length(legs)


def _same_stitching(parts, run) -> bool:
    """All that is stitched of the drawn line, each part of it either way; the ways between may be left
    out, where the machine goes empty."""
    drawn = [points for points, _, kind in run.pieces() if kind == "stitch"]
    made = [step.points for step in parts if step.kind == "stitch"]
    if abs(sum(map(inches_of, made)) - sum(map(inches_of, drawn))) > NEAR + 1e-4 * run.inches:
        return False
    one, other = (
        shapely.multilinestrings([shapely.linestrings(p) for p in each if inches_of(p) > 1e-9])
        for each in (made, drawn)
    )
    return _close(one, other) and _close(other, one)


def _close(one, other) -> bool:
    """Whether every place of a line lies on another line, looked at each quarter inch."""
    spots, others = (
        shapely.get_coordinates(shapely.segmentize(each, 0.25)) for each in (one, other)
    )
    spots = shapely.points(_off(spots, others))
    if not len(spots):
        return True
    legs, _ = _legs(shapely.get_parts(other))
    return len(np.unique(legs.query(spots, predicate="dwithin", distance=NEAR)[0])) == len(spots)


def _off(spots: np.ndarray, others: np.ndarray) -> np.ndarray:
    """Those of *spots* (n, 2) that do not lie on one of the points *others* (m, 2) of a line: who has the
    same points need not be looked for between them, which takes a hundred times as long."""
    if not len(others):
        return spots
    away = cKDTree(others).query(spots, distance_upper_bound=NEAR)[0]
    return spots[~np.isfinite(away)]


def _drawn_again(one: LayerLinework, run, parts, shape) -> str:
    """What is wrong with a line that is not the drawn one; empty if it may stand in its place."""
    doors = np.empty((0, 2))
    if one.pattern is not None and one.placement is not None and len(one.linework.runs) == 1:
        doors = one.placement.apply(designs()[one.design].doors(one.pattern, one.settings))
    if len(doors) < 2 or shape is None:
        return "is not stitched as it was drawn"
    line = np.concatenate([step.points for step in parts])
    for end, word in ((line[0], "begins"), (line[-1], "ends")):
        if np.hypot(*(doors - end).T).min() > AT_DOOR:
            return f"{word} where the design has no doorway"
    return _filled_otherwise(run, parts, shape, GAP)


def _drawn_in_parts(one: LayerLinework, run, parts, shape) -> str:
    """What is wrong with a filling that was drawn anew in parts, since no pass reaches all of it."""
    drawing = designs().get(one.design)
    if drawing is None or not drawing.divisible or shape is None or len(one.linework.runs) != 1:
        return "is not stitched as it was drawn"
    return _filled_otherwise(run, parts, shape, WHERE_PARTS_MEET)


def _filled_otherwise(run, parts, shape, wider: float) -> str:
    """What is wrong with lines that are others than those drawn; empty if they fill the zone as well."""
    lines = [step.points for step in parts if step.kind == "stitch"]
    # Between two parts the thread is cut, or travels elsewhere.
    moved = shapely.multilinestrings(
        [shapely.linestrings(step.points) for step in parts if inches_of(step.points) > 1e-9]
    )
    if not shapely.covers(shape.buffer(NEAR), moved):
        return "was drawn again and leaves its zone"
    first = [points for points, _, kind in run.pieces() if kind == "stitch"]
    was, now = (sum(inches_of(each) for each in them) for them in (first, lines))
    if abs(now - was) > INCHES * was:
        return f"was drawn again with {now:.1f} inches in place of {was:.1f}"
    wide, before = _widest_gap(shape, lines), _widest_gap(shape, first)
    if wide > before * wider:
        return f"was drawn again and leaves a gap of {wide:.2f} where {before:.2f} was widest"
    return ""


def _widest_gap(shape, lines) -> float:
    """Diameter of the largest circle in *shape* that touches neither its edge nor a stitch.

    The distances are taken on a lattice; a place between its points lies at most half a diagonal
    further off, which is the same for both drawings.
    """
    spots, edge = _lattice(shape)
    if not len(spots):
        return 0.0
    dense = shapely.segmentize([shapely.linestrings(line) for line in lines if len(line) > 1], 0.1)
    reach = cKDTree(shapely.get_coordinates(dense)).query(spots)[0]
    return float(2 * np.minimum(reach, edge).max())


@lru_cache(maxsize=2)
def _lattice(shape) -> tuple[np.ndarray, np.ndarray]:
    """Even spots (n, 2) in *shape* and how far (n,) they are from its edge: looked at for both drawings."""
    x0, y0, x1, y1 = shape.bounds
    # Of a large zone each place is looked at as closely as of a small one.
    most = 40_000 if shape.area < 300 else 160_000
    step = max(1 / 32, float(np.sqrt((x1 - x0) * (y1 - y0) / most)))
    xs, ys = np.meshgrid(np.arange(x0 + step / 2, x1, step), np.arange(y0 + step / 2, y1, step))
    inside = shapely.contains_xy(shape, xs.ravel(), ys.ravel())
    spots = np.column_stack([xs.ravel()[inside], ys.ravel()[inside]])
    return spots, shapely.distance(shape.boundary, shapely.points(spots))


def _along_each_other(one: np.ndarray, two: np.ndarray) -> bool:
    """Whether no point of either line (n, 2) is farther than `NEAR` from the other."""
    if one.shape == two.shape and (
        np.abs(one - two).max() <= NEAR or np.abs(one - two[::-1]).max() <= NEAR
    ):
        return True
    for line, other in ((one, two), (two, one)):
        if not len(spots := _off(line, other)):
            continue
        whole = shapely.linestrings(other)
        shapely.prepare(whole)
        if not shapely.dwithin(whole, shapely.points(spots), NEAR).all():
            return False
    return True


def _same_line(line, run) -> bool:
    """The same points in the same order, backwards where allowed, from anywhere on a ring."""
    drawn = np.asarray(run.points)
    if abs(inches_of(line) - inches_of(drawn)) > NEAR:
        return False
    if not _along_each_other(line, drawn):
        return False
    ends = line[[0, -1]]
    if run.closed:
        return bool(np.hypot(*(ends[0] - ends[1])) < NEAR)
    forward = np.abs(ends - drawn[[0, -1]]).max() < NEAR
    return bool(forward or (run.reversible and np.abs(ends - drawn[[-1, 0]]).max() < NEAR))
