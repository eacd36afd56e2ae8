"""Open spots between figures, echoed: the line that passes swings aside into each, round it and back.

What is farther from every line than figures keep from each other is an open spot. A hand does not squeeze one
more figure in there: it runs a drop into it, along its neighbours and into the corner, and goes on.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LinearRing, LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.curves import bezier
from chorograph_core.designs.engine.widening import widened
from chorograph_core.designs.space import Space, polygons

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
IN_CORNER = (0.15, 1.0)
"""Both in a corner, where a hand goes in and out in one turn."""
COARSE = 0.04
"""Gaps by which a line may be off where open spots are looked for."""
END = 1.1
"""Half necks from the ends of a line within which it is not left."""
WINDOW = 5.0
"""Gaps along the line from a spot's foot within which it may swing round it."""
SWING_STEP, SLACK = 0.1, 0.12
"""Gaps from place to place of a spot's edge, and how much farther off than a drop it still runs beside the
line."""
BEND = 0.7
"""Gaps that the line and the spot's edge give up on either side for the bend from one into the other."""
WIDEST = 1.7
"""Gaps across what a line that swings round a spot leaves open at most."""
FINE = 0.02
"""Gaps: half the width of a line that parts what it leaves open."""
SHORTEST = 1e-6
"""Inches of a line at least where it may be left."""
HAIR = 0.01
"""Inches of a way that may lie on the line it leaves."""
ASIDE, SIDES = 5, 4
"""From how many places round a spot one tries to come into it, if nothing else is left to do, and how many
sides it has for that."""
ROUNDS = 5
"""How often what is still open is looked for: a wide spot has a drop in a drop."""


def echoed(line: np.ndarray, part: BaseGeometry, gap: float) -> np.ndarray:
    """*line* (n, 2) with a drop in every open spot of *part*; what would cross it, or leave the part, is left
    out."""
    room = part.buffer(SLACK * gap)
    shapely.prepare(room)
    corners = [shapely.points(c) for each in polygons(part) for c in Space(each).corners]
    for _ in range(ROUNDS):
        drops = _drops(line, part, corners, gap)
        if not drops:
            break
        for turn in range(ASIDE):
            # Where it comes nearest to a spot it may be shut off from it by what it drew there.
            fuller = _with(line, drops, gap, part, room, turn)
            if len(fuller) != len(line):
                line = fuller
                break
        else:
            break
    return line


def _drops(
    line: np.ndarray, part: BaseGeometry, corners: Sequence[Point], gap: float
) -> list[Polygon]:
    """The open spots, rounded, each as wide as a drop."""
    # As near as spots are measured.
    bare, wide, near = (widened([line], each * gap, COARSE * gap) for each in (*OPEN, APART))
    bare, wide = part.difference(bare), part.difference(wide)
    spots = np.array(polygons(part.difference(near)))
    edge = part.boundary
    for each in (bare, wide, edge):
        shapely.prepare(each)
    at_edge = shapely.dwithin(edge, spots, AT_EDGE * gap)
    is_open = np.where(at_edge, shapely.intersects(bare, spots), shapely.intersects(wide, spots))
    found = []
    far = [corner for corner in corners if bare.covers(corner)]
    for spot in spots[is_open]:
        slim, least = SLIM, SMALLEST
        if spot.buffer(-slim * gap).is_empty and any(map(spot.intersects, far)):
            slim, least = IN_CORNER
        for drop in polygons(spot.buffer(-slim * gap).buffer(slim * gap, quad_segs=6)):
            if drop.exterior.length > least * gap:
                found.append(Polygon(drop.exterior).simplify(0.004))
    return found


@dataclass(frozen=True)
class Stroke:
    """A line: its *points* (n, 2), how far *along* it each lies in inches, and the line as one shape."""

    points: np.ndarray
    along: np.ndarray
    whole: LineString

    @classmethod
    def of(cls, points: np.ndarray) -> Stroke:
        along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
        whole = LineString(points)
        shapely.prepare(whole)
        return cls(points, along, whole)

    @property
    def inches(self) -> float:
        return float(self.along[-1])

    def between(self, start: float, stop: float) -> np.ndarray:
        """Its points from one place to another, inches along it."""
        low, high = np.searchsorted(self.along, (start + 1e-9, stop - 1e-9))
        ends = [
            [np.interp(at, self.along, self.points[:, k]) for k in (0, 1)] for at in (start, stop)
        ]
        return np.vstack([ends[:1], self.points[low:high], ends[1:]])


Way = tuple[float, float, np.ndarray]
"""Where a line is left and where one is back on it, inches along it, and the way between."""


def _with(
    line: np.ndarray, drops: list[Polygon], gap: float, part: BaseGeometry, room: BaseGeometry, turn: int
) -> np.ndarray:  # fmt: skip
    """The line swung round each open spot where it comes nearest to it, or with a drop there, in *room*; at a
    later *turn*, where it comes nearest to one of its `SIDES`."""
    stroke = Stroke.of(line)
    # It begins and ends where it did.
    ends = END * NECK / 2 * gap
    if stroke.inches - 2 * ends < SHORTEST:
        return line
    inner = LineString(stroke.between(ends, stroke.inches - ends))
    rings = [drop.exterior for drop in drops]
    to = np.array(rings)
    if turn:
        to = shapely.line_interpolate_point(to, (turn - 1) / SIDES, normalized=True)
    near = shapely.get_point(shapely.shortest_line(inner, to), 0)
    places = shapely.line_locate_point(stroke.whole, near)
    made, gone = list[np.ndarray](), 0.0
    others: list[LineString] = []
    for k in np.argsort(places, kind="stable"):
        for way in (_swing, _drop):
            found = way(rings[k], stroke, float(places[k]), gap, part)
            if found is None or found[0] <= gone or found[1] >= stroke.inches:
                continue
            leave, back, into = found
            before = stroke.between(gone, leave)
            after = stroke.between(back, min(back + gap, stroke.inches))
            aside = turned_aside(before, into, after, stroke.whole, others)
            if aside is None:
                continue
            there = LineString(np.vstack([before[-1:], aside, after[:1]]))
            if room.covers(there):
                made += [before, aside]
                if len(aside) > 1:
                    others.append(LineString(aside))
                gone = back
                break
    return np.vstack([*made, stroke.between(gone, stroke.inches)])


def _drop(ring: LinearRing, stroke: Stroke, place: float, gap: float, part: BaseGeometry) -> Way:
    """Round *ring* by a neck at *place*."""
    leave, back = place - NECK / 2 * gap, place + NECK / 2 * gap
    ends = shapely.get_coordinates(shapely.line_interpolate_point(stroke.whole, (leave, back)))
    return leave, back, _round(ring, ends[0], ends[1], min(OPENING * gap, ring.length / 3))


def _swing(
    ring: LinearRing, stroke: Stroke, place: float, gap: float, part: BaseGeometry
) -> Way | None:
    """From where *ring* leaves the line that it runs beside, round its far side, to where it comes back: what
    a hand does in a tip. None where that would leave too much open."""
    foot = ring.project(stroke.whole.interpolate(place))
    steps = np.arange(0, ring.length, SWING_STEP * gap)
    spots = shapely.line_interpolate_point(ring, (foot + steps) % ring.length)
    half = NECK / 2 * gap
    ends = (END - 1) * half
    low = max(ends, place - WINDOW * gap)
    high = min(stroke.inches - ends, place + WINDOW * gap)
    window = LineString(stroke.between(low, high))
    off = np.flatnonzero(shapely.distance(spots, window) > (APART + SLACK) * gap)
    if not 0 < len(off) < len(spots):
        return None
    points = shapely.get_coordinates(spots[off[0] : off[-1] + 1])
    if len(points) < 4:
        return None
    at = low + shapely.line_locate_point(window, shapely.points(points[[0, -1]]))
    if at[0] > at[1]:
        at, points = at[::-1], points[::-1]
    # The bend from the line into the spot's side begins before it and ends in it. Of a small spot
    # half the edge is left.
    trim = min(round(BEND / SWING_STEP), len(points) // 4)
    leave, back = float(at[0]) - trim * SWING_STEP * gap, float(at[1]) + trim * SWING_STEP * gap
    points = points[trim : len(points) - trim]
    if len(points) < 4 or not low < leave < place < back < high:
        return None
    near = Polygon(ring).buffer(2 * gap)
    passed = shapely.clip_by_rect(stroke.whole, *near.bounds)
    left = passed.difference(LineString(stroke.between(leave, back)).buffer(FINE * gap))
    drawn = shapely.union_all([left, LineString(points)]).buffer(FINE * gap, quad_segs=1)
    widest = max(
        (shapely.maximum_inscribed_circle(piece, tolerance=COARSE * gap).length
         for piece in polygons(part.intersection(near).difference(drawn)) if piece.intersects(ring)),
        default=0.0,
    )  # fmt: skip
    return (leave, back, points) if 2 * widest <= WIDEST * gap else None


def turned_aside(
    before: np.ndarray,
    into: np.ndarray,
    after: np.ndarray,
    whole: LineString,
    others: list[LineString],
) -> np.ndarray | None:
    """The way into a drop, round it and out again, smoothly or straight; None where it would cross the line,
    itself or *others*."""
    for smooth in (True, False):
        way = (
            np.vstack([turn_between(before, into), into, turn_between(into, after)])
            if smooth
            else into
        )
        ends = np.vstack([before[-1:], way, after[:1]])
        drawn = LineString(ends)
        # Where it leaves the line and comes back it touches it.
        clear = not whole.crosses(LineString(_shortened(ends))) and drawn.is_simple
        if clear and not shapely.crosses(drawn, others).any():
            return way
    return None


def _shortened(way: np.ndarray) -> np.ndarray:
    """A way without a hair's breadth at either end, by which it touches what it leaves."""
    inner = way.copy()
    for end, on in ((0, 1), (-1, -2)):
        leg = way[on] - way[end]
        inner[end] = way[end] + leg * min(0.5, HAIR / max(float(np.hypot(*leg)), 1e-9))
    return inner


def turn_between(before: np.ndarray, after: np.ndarray) -> np.ndarray:
    """The way from the end of one line to the beginning of the next, as near to an arc as one curve comes
    (its handles are those of an arc that turns as far); without either."""
    a, b = before[-1], after[0]
    into, onto = before[-1] - before[-2], after[1] - after[0]
    into, onto = into / max(np.hypot(*into), 1e-9), onto / max(np.hypot(*onto), 1e-9)
    turn = math.acos(float(np.clip(into @ onto, -1, 1)))
    reach = math.dist(a, b) / 3
    if turn > 0.1:
        reach = math.dist(a, b) * 2 / 3 * math.tan(turn / 4) / math.sin(turn / 2)
    return bezier(a, a + into * reach, b - onto * reach, b, 12)[1:-1]


def _round(ring: LinearRing, leave: np.ndarray, back: np.ndarray, neck: float) -> np.ndarray:
    """Round a drop, from beside where one leaves the line to beside where one is back on it."""
    foot = ring.project(shapely.points(leave))
    inches = ring.length - neck
    at = foot + neck / 2 + np.linspace(0, inches, max(12, math.ceil(inches / 0.06)))
    points = shapely.get_coordinates(shapely.line_interpolate_point(ring, at % ring.length))
    here = math.dist(leave, points[0]) + math.dist(back, points[-1])
    there = math.dist(leave, points[-1]) + math.dist(back, points[0])
    return points if here < there else points[::-1]
