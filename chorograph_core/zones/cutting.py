"""Cut zones: by lines, circles, bands and insets, on any number of alike zones at once.

A tool is a function from a polygon to its pieces, which tile it. On alike zones it is used once, on
the pattern, and its pieces are laid on the sisters, so that they are cut the same way round.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Point, Polygon
from shapely.ops import split

from chorograph_core.chart import alike, begun_at_corner, sides_of_outline, turned_round
from chorograph_core.chart.side_by_side import NARROWEST, met
from chorograph_core.measure import format_inches
from chorograph_core.zones.model import Zone, ZoneError

GRID = 1e-6
HAIR = 0.004
"""Inches. What is narrower than twice this is no part of a zone."""
SMALLEST = 0.02
"""Square inches under which a piece is a sliver that no needle finds."""
AWAY = {"top": (0, -1), "right": (1, 0), "bottom": (0, 1), "left": (-1, 0)}
CORNERS = ("top left", "top right", "bottom right", "bottom left")
Tool = Callable[[Polygon], list[Polygon]]


def cut(zones: Sequence[Zone], tool: Tool, middles: Sequence[np.ndarray | None] = ()) -> list[Zone]:
    """The zones cut by *tool*, every class of alike ones the same way round: where the *middles* (2,) of the
    blocks are known in which they lie, turned round those.

    Pieces are called after their zone: ``z:b1.1.p0/1``, ``/2``, largest first. Raises `ZoneError`
    when a zone would not be cut at all.
    """
    shapes = [zone.polygon for zone in zones]
    classes = alike(shapes)
    placements = dict(enumerate(classes.placements))
    for number in set(classes.classes) if middles else ():
        first, *_ = group = classes.members(number)
        laid = [(i, placements[i]) for i in group]
        placements |= dict(turned_round(laid, shapes[first], middles[first], middles))
    made: list[Zone] = []
    patterns: dict[int, list[Polygon]] = {}
    for i, (zone, number) in enumerate(zip(zones, classes.classes, strict=True)):
        if number not in patterns:
            patterns[number] = _pieces(tool, zone)
            laid = patterns[number]
        else:
            moved = [shapely.transform(piece, placements[i].apply) for piece in patterns[number]]
            laid = _fitted(moved, zone.polygon)
        made += _named(zone, laid)
    return made


def _pieces(tool: Tool, zone: Zone) -> list[Polygon]:
    made, name = tool(zone.polygon), zone.label or zone.id
    pieces = [begun_at_corner(p) for p in _without_slivers(made)]
    if len(pieces) < 2 and sum(p.area > SMALLEST for p in made) > 1:
        narrow = format_inches(NARROWEST, 16)
        raise ZoneError(f"That cuts less than {narrow} off {name}: cut farther from its edge.")
    if len(pieces) < 2:
        raise ZoneError(f"That does not cut {name}.")
    pieces.sort(key=lambda p: -p.area)
    return pieces


def _without_slivers(pieces: Sequence[Polygon]) -> list[Polygon]:
    """The *pieces*, those too narrow joined to the one with which they have most of their edge in common."""
    wide = [p for p in pieces if p.area > SMALLEST and not p.buffer(-NARROWEST / 2).is_empty]
    for sliver in (p for p in pieces if p.area > SMALLEST and p.buffer(-NARROWEST / 2).is_empty):
        beside = [shapely.intersection(p, sliver, grid_size=GRID).length for p in wide]
        if any(beside):
            k = int(np.argmax(beside))
            joined = shapely.union(wide[k], sliver, grid_size=GRID)
            wide[k] = joined if isinstance(joined, Polygon) else wide[k]
    return wide


def _fitted(moved: list[Polygon], whole: Polygon) -> list[Polygon]:
    """Pieces laid on a sister: trimmed to it, the largest taking what the tolerance leaves."""
    rest, fitted = whole, []
    for piece in moved[1:]:
        # On a grid, so that edges which nearly coincide leave no hair between them.
        part = _largest(shapely.intersection(piece, whole, grid_size=GRID))
        if part is None:
            continue
        fitted.append(begun_at_corner(part))
        rest = shapely.difference(rest, part, grid_size=GRID)
    # Sisters are alike to the tolerance, not to the last digit: hairs along the cut are taken off.
    bare = rest.buffer(-HAIR, join_style="mitre").buffer(HAIR, join_style="mitre")
    first = _largest(bare)
    return ([begun_at_corner(first)] if first is not None else []) + fitted


def _named(zone: Zone, pieces: Sequence[Polygon]) -> list[Zone]:
    return [
        replace(
            zone,
            id=f"{zone.id}/{k}",
            polygon=piece,
            kind="part",
            label=f"{zone.label}, part {k}",
            whole=None,
        )
        for k, piece in enumerate(pieces, 1)
    ]


def along(points: Sequence[tuple[float, float]]) -> Tool:
    """Cut along a line or a curve drawn by hand; its ends are drawn out until they cross."""
    way = np.asarray(points, float).reshape(-1, 2)
    if len(way) and np.isfinite(way).all():
        # Where a hand rests, or is lifted where it stopped, points come twice.
        way = way[np.append(True, np.hypot(*np.diff(way, axis=0).T) > 1e-9)]
    if len(way) < 2 or not np.isfinite(way).all():
        raise ZoneError("Draw the cut from one side of the zone to the other.")

    def tool(shape: Polygon) -> list[Polygon]:
        x0, y0, x1, y1 = shape.bounds
        far = math.hypot(x1 - x0, y1 - y0) + math.hypot(*(way.max(axis=0) - way.min(axis=0)))
        start = way[0] + _unit(way[0] - way[1]) * far
        stop = way[-1] + _unit(way[-1] - way[-2]) * far
        return _split(shape, np.vstack([start, way, stop]))

    return tool


def centre_line(across: bool = False) -> Tool:
    """Cut along the middle of the longer way, or *across* it."""

    def tool(shape: Polygon) -> list[Polygon]:
        corners = _frame(shape)
        middles = (corners + np.roll(corners, -1, axis=0)) / 2
        # The frame's first side is its longer one, so its middles 1 and 3 lie at the short ends.
        a, b = (middles[0], middles[2]) if across else (middles[1], middles[3])
        return along([tuple(a), tuple(b)])(shape)

    return tool


def diagonal(both: bool = False, other: bool = False) -> Tool:
    """Cut from corner to corner: one way, the *other* way, or *both*."""

    def tool(shape: Polygon) -> list[Polygon]:
        ring = sides_of_outline(shape)[:-1]
        corners = ring if len(ring) == 4 else _frame(shape)
        ways = [(corners[0], corners[2]), (corners[1], corners[3])]
        chosen = ways if both else ways[1:] if other else ways[:1]
        parts = [shape]
        for a, b in chosen:
            parts = [piece for part in parts for piece in along([tuple(a), tuple(b)])(part)]
        return parts

    return tool


def circle(diameter: float, corner: int | str | None = None, inwards: float = 0.0) -> Tool:
    """Cut a circle out: in the middle, or about a point *inwards* from a *corner* or a side.

    *corner* is a corner by number (from 0), ``"top left"`` and so on for the one that lies furthest
    that way, or ``"top"``, ``"right"``, ``"bottom"``, ``"left"`` for the middle of a side.
    """
    if not diameter > 0:
        raise ZoneError("A circle has a diameter above zero.")

    def tool(shape: Polygon) -> list[Polygon]:
        middle = np.array(shape.centroid.coords[0])
        if isinstance(corner, str) and corner in AWAY:
            a, b = _side(shape, corner)
            way = _unit(b - a)
            middle = (a + b) / 2 + np.array([-way[1], way[0]]) * inwards
        elif corner is not None:
            spot = _corner(shape, corner)
            middle = spot + _unit(middle - spot) * inwards
        chords = max(48, round(diameter * 12))
        disc = Point(*middle).buffer(diameter / 2, quad_segs=chords // 4)
        inside = shape.intersection(disc)
        if inside.is_empty or shape.difference(disc).area < SMALLEST:
            raise ZoneError(
                f"A circle of {format_inches(diameter)} does not leave anything round it."
            )
        return [*_parts(inside), *_parts(shape.difference(disc))]

    return tool


def inset(distance: float) -> Tool:
    """A frame *distance* inches wide, and the core inside it."""
    if not distance > 0:
        raise ZoneError("A frame has a width above zero.")

    def tool(shape: Polygon) -> list[Polygon]:
        core = shape.buffer(-distance, join_style="mitre")
        if core.area < SMALLEST:
            raise ZoneError(f"A frame of {format_inches(distance)} leaves no core.")
        return [*_parts(core), *_parts(shape.difference(core))]

    return tool


def band(width: float, across: bool = False) -> Tool:
    """A band of *width* along the middle of the longer way, or *across* it."""
    if not width > 0:
        raise ZoneError("A band has a width above zero.")

    def tool(shape: Polygon) -> list[Polygon]:
        corners = _frame(shape)
        middles = (corners + np.roll(corners, -1, axis=0)) / 2
        a, b = (middles[0], middles[2]) if across else (middles[1], middles[3])
        way = _unit(b - a)
        aside = np.array([-way[1], way[0]]) * width / 2
        parts = [shape]
        for sign in (1, -1):
            line = [tuple(a + sign * aside), tuple(b + sign * aside)]
            parts = [piece for part in parts for piece in along(line)(part)]
        return parts

    return tool


def beside(side: int | str, distance: float) -> Tool:
    """Cut along a copy of one *side* moved *distance* inches inwards.

    A side is called by its number (from 0), or ``"top"``, ``"right"``, ``"bottom"``, ``"left"`` for
    the one that faces that way.
    """
    if not distance > 0:
        raise ZoneError("Move the seam by more than nothing.")

    def tool(shape: Polygon) -> list[Polygon]:
        a, b = _side(shape, side)
        way = _unit(b - a)
        inwards = np.array([-way[1], way[0]]) * distance
        return along([tuple(a + inwards), tuple(b + inwards)])(shape)

    return tool


def _corners(shape: Polygon) -> np.ndarray:
    """Corners (n, 2) with the shape to their left hand when y is up: to the right as one sees it."""
    return sides_of_outline(shapely.geometry.polygon.orient(shape, 1.0))[:-1]


def _side(shape: Polygon, side: int | str) -> tuple[np.ndarray, np.ndarray]:
    """The two ends of a side, the shape lying to the side that (-y, x) of its way points to."""
    ring = _corners(shape)
    if isinstance(side, int):
        return ring[side % len(ring)], ring[(side + 1) % len(ring)]
    way = np.roll(ring, -1, axis=0) - ring
    outward = np.column_stack([way[:, 1], -way[:, 0]])
    length = np.maximum(np.hypot(*way.T), 1e-12)
    # The side that faces that way best; of several the longest.
    facing = np.round((outward @ np.array(AWAY[side])) / length, 6)
    k = max(range(len(ring)), key=lambda n: (facing[n], length[n]))
    return ring[k], ring[(k + 1) % len(ring)]


def _corner(shape: Polygon, corner: int | str) -> np.ndarray:
    if isinstance(corner, int):
        ring = sides_of_outline(shape)[:-1]
        return ring[corner % len(ring)]
    ring = _corners(shape)
    down, across = corner.split()
    toward = np.array(AWAY[down]) + np.array(AWAY[across])
    return ring[int(np.argmax(ring @ toward))]


def edge_of(other: Polygon, distance: float) -> Tool:
    """Cut along a copy of the edge of *other*, whatever its shape, moved *distance* inches away from
    it into the zone."""
    if not distance > 0:
        raise ZoneError("Move the seam by more than nothing.")

    def tool(shape: Polygon) -> list[Polygon]:
        # Round where the other zone has a corner: every point of the copy is as far from its edge.
        reach = other.buffer(distance, quad_segs=24)
        return [*_parts(shape.intersection(reach)), *_parts(shape.difference(reach))]

    return tool


def let_in(zones: Sequence[Zone], shape: Polygon, zone_id: str, label: str) -> list[Zone]:
    """A zone of *shape* that ignores the piecing, let into *zones*, which keep what it leaves."""
    if not shape.is_valid or shape.area < SMALLEST:
        raise ZoneError("Draw one closed shape that does not cross itself.")
    shape = met(shape, [zone.polygon for zone in zones])
    beneath = [zone.polygon.intersection(shape) for zone in zones]
    covered = [part for part in beneath if part.area >= SMALLEST]
    ground = shapely.union_all(covered, grid_size=1e-5) if covered else Polygon()
    # Where the edge of the top leaves it in two parts, the larger one; the zones keep the other.
    visible = _largest(shape.intersection(ground.buffer(1e-4)))
    if visible is None:
        raise ZoneError("The shape lies outside the top.")
    made = []
    for zone, part in zip(zones, beneath, strict=True):
        if part.area < SMALLEST or part.intersection(visible).area < SMALLEST:
            made.append(zone)
            continue
        pieces = [p for p in _parts(zone.polygon.difference(visible)) if p.area > SMALLEST]
        if len(pieces) == 1:
            made.append(replace(zone, polygon=pieces[0], kind="part"))
        else:
            made += _named(zone, pieces)
    return [*made, Zone(zone_id, visible, (), "free", label)]


def _split(shape: Polygon, line: np.ndarray) -> list[Polygon]:
    cutter = LineString(line)
    if not cutter.is_simple:
        raise ZoneError("The cut crosses itself.")
    return [piece for piece in split(shape, cutter).geoms if isinstance(piece, Polygon)]


def _frame(shape: Polygon) -> np.ndarray:
    """Corners (4, 2) of the smallest rectangle round *shape*, its first side the longer one."""
    corners = np.asarray(shapely.minimum_rotated_rectangle(shape).exterior.coords)[:-1]
    first, second = (np.hypot(*(corners[k + 1] - corners[k])) for k in (0, 1))
    return np.roll(corners, -1, axis=0) if second > first + 1e-9 else corners


def _unit(vector: np.ndarray) -> np.ndarray:
    length = float(np.hypot(*vector))
    if length < 1e-9:
        raise ZoneError("Draw the cut from one side of the zone to the other.")
    return vector / length


def _parts(shape) -> list[Polygon]:
    return [
        p for p in getattr(shape, "geoms", [shape]) if isinstance(p, Polygon) and not p.is_empty
    ]


def _largest(shape) -> Polygon | None:
    if isinstance(shape, MultiPolygon) or not isinstance(shape, Polygon):
        return max(_parts(shape), key=lambda p: p.area, default=None)
    return None if shape.is_empty else shape
