"""Pockets behind necks too narrow for a figure: the line that passes goes in along one side of the neck,
round the pocket along its edge, and out along the other side. What lies apart and is too small for anything
is gone round by itself. Less than one unit is echoed, never squeezed in.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry import LineString, Polygon

from chorograph_core.designs.contract import SPILL
from chorograph_core.designs.curves import bezier
from chorograph_core.designs.engine.echoing import Stroke, turn_between, turned_aside
from chorograph_core.designs.engine.redrawn_runs import along, eased, stops_of
from chorograph_core.designs.engine.strokes import flowing
from chorograph_core.designs.engine.tight import LEAST, tight_turns
from chorograph_core.designs.engine.widening import widened
from chorograph_core.designs.linework import Linework, Run
from chorograph_core.designs.space import Space, polygons

NEAR, FAR = 0.8, 1.1
"""Spacings from a line within which nothing is a pocket, and how far off some of it must lie."""
MOUTH = 1.5
"""Spacings that a pocket is open towards the line at most: what is wider is no neck."""
COARSE = 0.04
"""Spacings by which a line may be off where pockets are looked for."""
WALL = 1e-4
"""Inches from the edge within which a pocket's side lies on it."""
STEP = 0.03
"""Inches from place to place along a pocket's edge."""
WORTH = 0.5
"""Spacings across of what is worth a line of its own."""
HALF = (0.5, 0.3, 0.8, 0.1)
"""Mouths from the place that is nearest to a pocket to where the line is left for it, the best first."""
SPOTS = 40
"""Places of a line by which one tells in which part it lies."""
MOST = 4
"""Pockets of a part."""
SLENDER = 0.62
"""Of a square as deep, what a slender pocket covers at most."""
SHORT, PLUMP = 0.12, 0.3
"""Inches from the end of a pocket to that of a spur into it, and how far its sides swing out, of its foot's
width."""


def pocketed(
    made: Linework, space: Space, spacing: float, margin: float, least_turn: float
) -> Linework:
    """A drawing whose lines are *spacing* inches apart, with the pockets gone round that it leaves bare in
    *space*, *margin* inches from the edge; nothing turns in less than *least_turn* inches if that can be
    helped. As it was where there are none."""
    if spacing <= 0 or not made.runs:
        return made
    runs = list(made.runs)
    for part in space.inset(margin):
        mine = [k for k, run in enumerate(runs) if _lies_in(run, part)]
        if not mine:
            if (alone := _alone(part, spacing, least_turn, runs[0])) is not None:
                runs.append(alone)
            continue
        for _ in range(MOST):
            found = _with_one(runs, mine, part, space, spacing, least_turn)
            if found is None:
                break
            at, run = found
            runs[at] = run
    return replace(made, runs=tuple(runs))


def _lies_in(run: Run, part: Polygon) -> bool:
    """Whether most of it does: here and there it swings over the margin."""
    spots = run.points[:: max(1, len(run.points) // SPOTS)]
    return bool(shapely.dwithin(part, shapely.points(spots), SPILL).mean() > 0.5)


def _alone(part: Polygon, spacing: float, least_turn: float, like: Run) -> Run | None:
    """Once round a *part* in which nothing is; None where it is not worth that."""
    across = 2 * float(shapely.maximum_inscribed_circle(part, tolerance=0.02).length)
    if across < WORTH * spacing or across < 2 * least_turn:
        return None
    round_ = part.buffer(-least_turn).buffer(least_turn, quad_segs=8)
    if not isinstance(round_, Polygon) or round_.is_empty:
        return None
    return Run(shapely.get_coordinates(round_.exterior), like.technique, closed=True)


def _with_one(
    runs: Sequence[Run], mine: Sequence[int], part: Polygon, space: Space, spacing: float,
    least_turn: float,
) -> tuple[int, Run] | None:  # fmt: skip
    """Which of the runs that are *mine*, in *part*, goes round a pocket, and how; None where there is none,
    or nobody comes into it."""
    lines = [runs[k].points for k in mine]
    # Most parts have none, which is told at once: a pocket's sides lie along the edge.
    shapes = [LineString(line) for line in lines]
    stitches = shapely.get_coordinates(shapely.segmentize(shapes, spacing / 4))
    rim = shapely.get_coordinates(shapely.segmentize(part.boundary, spacing / 4))
    if cKDTree(stitches).query(rim)[0].max() < FAR * spacing:
        return None
    bare = part.difference(widened(lines, NEAR * spacing, COARSE * spacing))
    for pocket in polygons(bare):
        spots = shapely.points(shapely.get_coordinates(pocket.exterior))
        if shapely.distance(shapely.MultiLineString(shapes), spots).max() < FAR * spacing:
            continue
        walls = _walls(pocket, part, MOUTH * spacing)
        if walls is None:
            continue
        mouth = LineString(walls[[0, -1]])
        nearest = int(np.argmin([shape.distance(mouth) for shape in shapes]))
        run = runs[mine[nearest]]
        others = [shape for k, shape in enumerate(shapes) if k != nearest]
        found = _round(run, walls, others, part, space, least_turn)
        if found is not None:
            return mine[nearest], found
    return None


def _walls(pocket: Polygon, part: Polygon, widest: float) -> np.ndarray | None:
    """The sides (n, 2) of a pocket from one end of its mouth to the other; None where it is open to more than
    one side, or by more than *widest* inches."""
    ring = shapely.get_coordinates(shapely.segmentize(pocket.exterior, STEP))[:-1]
    if len(pocket.interiors):
        return None
    wall = shapely.distance(part.boundary, shapely.points(ring)) < WALL
    begins = np.flatnonzero(wall & ~np.roll(wall, 1))
    if len(begins) != 1:
        return None
    ring, wall = np.roll(ring, -begins[0], axis=0), np.roll(wall, -begins[0])
    walls = ring[: int(wall.sum())]
    return walls if len(walls) > 3 and np.hypot(*(walls[0] - walls[-1])) <= widest else None


def _round(
    run: Run, walls: np.ndarray, others: Sequence[LineString], part: Polygon, space: Space,
    least_turn: float,
) -> Run | None:  # fmt: skip
    """The run, gone into a pocket between its *walls*, round and out again where it comes nearest to it, or
    to its end if that is there; without a crossing."""
    mouth = walls[[0, -1]].mean(axis=0)
    width = float(np.hypot(*(walls[0] - walls[-1])))
    if run.closed and not run.units:
        # It may begin anywhere: as far from here as can be.
        begin = int(np.argmax(np.hypot(*(run.points[:-1] - mouth).T)))
        points = np.roll(run.points[:-1], -begin, axis=0)
        run = replace(run, points=np.vstack([points, points[:1]]))
    stroke = Stroke.of(run.points)
    place = float(stroke.whole.project(shapely.points(mouth)))
    into = flowing(walls, max(least_turn, LEAST))
    room = space.polygon.buffer(SPILL / 2)
    shapely.prepare(room)
    tight = tight_turns(run.points, least_turn, run.closed) if least_turn else 0
    if not least_turn and _slender(walls):
        # What has points anyway goes out into it and straight back.
        spur = _spurred(run, stroke, place, walls, others)
        if spur is not None and room.covers(LineString(spur.points)):
            return spur
    for half in HALF:
        leave, back = place - half * width, place + half * width
        for way in (into, into[::-1]):
            if leave > 0 and back < stroke.inches:
                found = _in_and_out(run, stroke, leave, back, way, others)
            elif run.closed or run.spans:
                continue
            else:
                found = _to_its_end(run, stroke, min(max(place, 0.0), stroke.inches), way, others)
            if found is not None and room.covers(LineString(found.points)):
                return eased(found, least_turn, space, tight) if least_turn else found
    return None


def _slender(walls: np.ndarray) -> bool:
    """Whether a pocket between its *walls* (n, 2) is much deeper than wide."""
    deep = np.hypot(*(walls - walls[[0, -1]].mean(axis=0)).T).max()
    return bool(Polygon(walls).area < SLENDER * deep**2)


def _spurred(
    run: Run, stroke: Stroke, place: float, walls: np.ndarray, others: Sequence[LineString]
) -> Run | None:
    """The run with a spur between its *walls* as deep into a pocket as it goes, out and back nearly on one
    line; None where that would cross something."""
    mouth, width = walls[[0, -1]].mean(axis=0), math.dist(walls[0], walls[-1])
    tip = walls[int(np.hypot(*(walls - mouth).T).argmax())]
    end = tip + (mouth - tip) * min(1.0, SHORT / max(math.dist(mouth, tip), 1e-9))
    for half in HALF:
        leave, back = place - half * width, place + half * width
        if leave <= 0 or back >= stroke.inches:
            continue
        before, after = stroke.between(0.0, leave), stroke.between(back, stroke.inches)
        aside = (before[-1] - after[0]) * PLUMP
        out, home = (bezier(at, at + (end - at) / 3 + by, end + (at - end) / 3 + by, end, 12)
                     for at, by in ((before[-1], aside), (after[0], -aside)))  # fmt: skip
        home = home[::-1]
        kept = [LineString(piece) for piece in (before, after) if len(piece) > 1]
        if not shapely.crosses(LineString(np.vstack([out, home[1:]])), [*kept, *others]).any():
            return _put_in(
                run, stroke, leave, back, before, np.vstack([out[1:], home[1:-1]]), after
            )
    return None


def _in_and_out(
    run: Run, stroke: Stroke, leave: float, back: float, way: np.ndarray,
    others: Sequence[LineString],
) -> Run | None:  # fmt: skip
    """The run left at a place, inches along it, gone along a *way* and on from another place."""
    before, after = stroke.between(0.0, leave), stroke.between(back, stroke.inches)
    aside = turned_aside(before, way, after[:2], stroke.whole, list(others))
    if aside is None:
        return None
    made = _put_in(run, stroke, leave, back, before, aside, after)
    return made if LineString(made.points).is_simple or not stroke.whole.is_simple else None


def _put_in(
    run: Run, stroke: Stroke, leave: float, back: float, before: np.ndarray, aside: np.ndarray,
    after: np.ndarray,
) -> Run:  # fmt: skip
    """The run along what comes *before* a place, a way *aside*, and what comes *after* another place."""
    line = np.vstack([before, aside, after])
    gained, between, at = len(line) - len(run.points), 0, dict[int, int]()
    for stop in stops_of(run):
        on = stroke.along[stop]
        at[stop] = stop if on < leave else stop + gained if on > back else len(before) - 1 + between
        # What ends between them ends on the way aside, one after the other.
        between += leave <= on <= back
    return along(run, line, at)


def _to_its_end(
    run: Run, stroke: Stroke, place: float, way: np.ndarray, others: Sequence[LineString]
) -> Run | None:
    """The run with a *way* for its end, or its beginning, from a place shortly before it."""
    first = place < stroke.inches / 2
    if min(place, stroke.inches - place) > 2 * math.dist(way[0], way[-1]) + STEP:
        return None
    kept = stroke.between(place, stroke.inches)[::-1] if first else stroke.between(0.0, place)
    # One need not come out again.
    way = way[: max(4, len(way) - round(math.dist(way[0], way[-1]) / STEP) - 2)]
    added = np.vstack([turn_between(kept, way), way])
    line = np.vstack([kept, added])
    drawn = LineString(line)
    clear = not shapely.crosses(LineString(np.vstack([kept[-1:], added])), list(others)).any()
    if not clear or (not drawn.is_simple and stroke.whole.is_simple):
        return None
    stops, last = stops_of(run), len(line) - 1
    if first:
        gained = len(line) - len(run.points)
        at = {stop: max(stop + gained, k) for k, stop in enumerate(stops)}
        return along(run, line[::-1], at | {0: 0, stops[-1]: last})
    return along(run, line, {stop: min(stop, last) for stop in stops} | {stops[-1]: last})
