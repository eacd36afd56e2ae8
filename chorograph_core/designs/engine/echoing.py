"""Open spots between figures, echoed: the line that passes swings aside into each, round it and back.

What is farther from every line than figures keep from each other is an open spot. A hand does not squeeze one
more figure in there: it runs a drop into it, along its neighbours and into the corner, and goes on.
"""

from __future__ import annotations

import math

import numpy as np
import shapely
import shapely.ops
from shapely.geometry import LineString, Polygon

from chorograph_core.designs.engine.turning import joined
from chorograph_core.designs.space import polygons

APART = 0.6
"""Gaps from a line to the drop beside it."""
OPEN = (0.88, 1.1)
"""Gaps from every line from which a spot is open, at the edge and amid figures."""
AT_EDGE = 0.05
NECK, OPENING = 0.7, 1.3
"""Gaps between the ways into a drop and out of it, where they leave the line and where the drop begins."""
SLIM = 0.26
"""Gaps. What is narrower than twice that is no room for a drop."""
SMALLEST = 1.6
"""Gaps round a drop at least."""
ROUNDS = 3


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
    drawn = LineString(line)
    bare, wide = (part.difference(drawn.buffer(each * gap, quad_segs=6)) for each in OPEN)
    near = drawn.buffer(APART * gap, quad_segs=6)
    found = []
    for spot in polygons(part.difference(near)):
        at_edge = spot.distance(part.boundary) < AT_EDGE * gap
        if not spot.intersects(bare if at_edge else wide):
            continue
        for drop in polygons(spot.buffer(-SLIM * gap).buffer(SLIM * gap, quad_segs=6)):
            if drop.exterior.length > SMALLEST * gap:
                found.append(Polygon(drop.exterior).simplify(0.004))
    return found


def _with(line: np.ndarray, drops: list[Polygon], gap: float) -> np.ndarray:
    """The line with each drop put in where it comes nearest to it."""
    whole, half = LineString(line), NECK / 2 * gap
    if whole.length < 4 * half:
        return line
    # It begins and ends where it did.
    inner = shapely.ops.substring(whole, 1.1 * half, whole.length - 1.1 * half)
    asides = []
    for drop in drops:
        ring = drop.exterior
        on_line, _ = shapely.get_coordinates(shapely.shortest_line(inner, ring))
        asides.append((float(whole.project(shapely.points(on_line))), ring))
    shapely.prepare(whole)
    made, gone = list[np.ndarray](), 0.0
    for at, ring in sorted(asides, key=lambda each: each[0]):
        leave, back = at - half, at + half
        if leave <= gone or back >= whole.length:
            continue
        before, after = _between(whole, gone, leave), _between(whole, back, whole.length)
        neck = min(OPENING * gap, ring.length / 3)
        into = _round(ring, whole.interpolate(leave), whole.interpolate(back), neck)
        aside = _aside(before, into, after, whole, made[1::2])
        if aside is None:
            continue
        made += [before, aside]
        gone = back
    return np.vstack([*made, _between(whole, gone, whole.length)])


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


def _round(ring, leave, back, neck: float) -> np.ndarray:
    """Round a drop, from beside where one leaves the line to beside where one is back on it."""
    foot = ring.project(shapely.shortest_line(leave, ring).interpolate(1.0, normalized=True))
    inches = ring.length - neck
    at = foot + neck / 2 + np.linspace(0, inches, max(12, math.ceil(inches / 0.06)))
    points = shapely.get_coordinates(shapely.line_interpolate_point(ring, at % ring.length))
    one, two = (shapely.get_coordinates(each)[0] for each in (leave, back))
    straight = math.dist(one, points[0]) + math.dist(two, points[-1])
    return (
        points
        if straight < math.dist(one, points[-1]) + math.dist(two, points[0])
        else points[::-1]
    )


def _between(whole: LineString, start: float, stop: float) -> np.ndarray:
    return shapely.get_coordinates(shapely.ops.substring(whole, start, stop))
