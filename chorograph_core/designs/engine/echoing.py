"""Open spots between figures, echoed: the line that passes swings aside into each, round it and back.

What is farther from every line than figures keep from each other is an open spot. A hand does not squeeze one
more figure in there: it runs a drop into it, along its neighbours and into the corner, and goes on.
"""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import LinearRing, LineString, Polygon

from chorograph_core.designs.engine.turning import joined
from chorograph_core.designs.space import polygons

APART = 0.6
"""Gaps from a line to the drop beside it."""
OPEN = (0.88, 1.1)
"""Gaps from every line from which a spot is open, at the edge and amid figures."""
AT_EDGE = 0.05
"""Gaps from the edge within which a spot lies at it."""
NECK, OPENING = 0.7, 1.3
"""Gaps between the ways into a drop and out of it, where they leave the line and where the drop begins."""
SLIM = 0.26
"""Gaps. What is narrower than twice that is no room for a drop."""
SMALLEST = 1.6
"""Gaps round a drop at least."""
COARSE = 0.04
"""Gaps by which a line may be off where open spots are looked for."""
ROUNDS = 3
"""How often what is still open is looked for: a wide spot has a drop in a drop."""


def echoed(line: np.ndarray, part: Polygon, gap: float) -> np.ndarray:
    """*line* (n, 2) with a drop in every open spot of *part*; what would cross it is left out."""
    for _ in range(ROUNDS):
        drops = _drops(line, part, gap)
        if not drops:
            break
        line = _with(line, drops, gap)
    return line


def _drops(line: np.ndarray, part: Polygon, gap: float) -> list[Polygon]:
    """The open spots, rounded, each as wide as a drop."""
    # As near as spots are measured; of all its points widening it takes ten times as long.
    drawn = LineString(line).simplify(COARSE * gap)
    bare, wide, near = (drawn.buffer(each * gap, quad_segs=4) for each in (*OPEN, APART))
    bare, wide = part.difference(bare), part.difference(wide)
    spots = np.array(polygons(part.difference(near)))
    edge = part.boundary
    for each in (bare, wide, edge):
        shapely.prepare(each)
    at_edge = shapely.dwithin(edge, spots, AT_EDGE * gap)
    is_open = np.where(at_edge, shapely.intersects(bare, spots), shapely.intersects(wide, spots))
    found = []
    for spot in spots[is_open]:
        for drop in polygons(spot.buffer(-SLIM * gap).buffer(SLIM * gap, quad_segs=6)):
            if drop.exterior.length > SMALLEST * gap:
                found.append(Polygon(drop.exterior).simplify(0.004))
    return found


def _with(line: np.ndarray, drops: list[Polygon], gap: float) -> np.ndarray:
    """The line with each drop put in where it comes nearest to it."""
    whole, half = LineString(line), NECK / 2 * gap
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    if along[-1] < 4 * half:
        return line
    shapely.prepare(whole)
    # It begins and ends where it did.
    inner = LineString(_between(line, along, 1.1 * half, along[-1] - 1.1 * half))
    rings = [drop.exterior for drop in drops]
    near = shapely.get_point(shapely.shortest_line(inner, rings), 0)
    places = shapely.line_locate_point(whole, near)
    made, gone = list[np.ndarray](), 0.0
    for k in np.argsort(places, kind="stable"):
        leave, back = places[k] - half, places[k] + half
        if leave <= gone or back >= along[-1]:
            continue
        before, after = (
            _between(line, along, *ends) for ends in ((gone, leave), (back, along[-1]))
        )
        into = _round(rings[k], before[-1], after[0], min(OPENING * gap, rings[k].length / 3))
        aside = _aside(before, into, after, whole, made[1::2])
        if aside is None:
            continue
        made += [before, aside]
        gone = back
    return np.vstack([*made, _between(line, along, gone, along[-1])])


def _aside(
    before: np.ndarray,
    into: np.ndarray,
    after: np.ndarray,
    whole: LineString,
    others: list[np.ndarray],
) -> np.ndarray | None:
    """The way into a drop, round it and out again, smoothly or straight; None where it would cross the line,
    itself or *others*."""
    for smooth in (True, False):
        way = np.vstack([joined(before, into), into, joined(into, after)]) if smooth else into
        ends = np.vstack([before[-1:], way, after[:1]])
        drawn = LineString(ends)
        # Where it leaves the line and comes back it touches it.
        clear = not whole.crosses(LineString(ends[1:-1])) and drawn.is_simple
        if clear and not any(
            drawn.crosses(LineString(other)) for other in others if len(other) > 1
        ):
            return way
    return None


def _round(ring: LinearRing, leave: np.ndarray, back: np.ndarray, neck: float) -> np.ndarray:
    """Round a drop, from beside where one leaves the line to beside where one is back on it."""
    foot = ring.project(shapely.points(leave))
    inches = ring.length - neck
    at = foot + neck / 2 + np.linspace(0, inches, max(12, math.ceil(inches / 0.06)))
    points = shapely.get_coordinates(shapely.line_interpolate_point(ring, at % ring.length))
    here = math.dist(leave, points[0]) + math.dist(back, points[-1])
    there = math.dist(leave, points[-1]) + math.dist(back, points[0])
    return points if here < there else points[::-1]


def _between(line: np.ndarray, along: np.ndarray, start: float, stop: float) -> np.ndarray:
    """A line's points from one place to another, inches *along* it."""
    low, high = np.searchsorted(along, (start + 1e-9, stop - 1e-9))
    ends = [[np.interp(at, along, line[:, k]) for k in (0, 1)] for at in (start, stop)]
    return np.vstack([ends[:1], line[low:high], ends[1:]])
