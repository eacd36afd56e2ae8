"""Rings of a zone: level lines at fitted depths, a tree where a ring falls into several."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.space import polygons

LEAST_CORE = 0.75
"""Spacings. What is left inside the last ring is no deeper than this, else another ring is fitted in."""
WIDEST = 0.78
"""Spacings from the nearest line at most: a circle 1.6 spacings wide finds no room."""
SMALLEST = 0.4
"""Inches round. A shorter ring is a blob of thread."""
SLIT, SLIT_LONG = 0.22, 1.5
"""Spacings. A ring whose two sides lie closer together, over such a length, is a line stitched twice."""
CLOSER = (1.0, 0.92, 0.84, 0.76, 0.68)
"""How much nearer than fitted a ring may lie so that it becomes no slit."""


@dataclass
class Ring:
    """A level line: the part of the zone inside it, and the rings next inside; or a line round a *hole*, and
    what is inside that."""

    polygon: Polygon
    depth: float
    inner: list[Ring] = field(default_factory=list)
    hole: bool = False

    @cached_property
    def height(self) -> int:
        """Rings from here inwards, along the deepest arm."""
        # Not by asking the next one in: a large zone has more rings than Python goes down by itself.
        level, count = [self], 0
        while level:
            level = [inside for each in level for inside in each.inner]
            count += 1
        return count


def depth_of(polygon: Polygon, near: float = 0.01) -> float:
    """Radius of the largest circle in *polygon*."""
    return float(shapely.maximum_inscribed_circle(polygon, tolerance=near).length)


def fitted_depth(deep: float, spacing: float) -> tuple[int, float]:
    """How many rings inside a line *deep* inches from the middle, and how far apart: the last leaves half a
    spacing, as far as anything is left to be filled.

    >>> fitted_depth(3.4, 1.0)
    (3, 0.9714285714285714)
    """
    if deep < LEAST_CORE * spacing:
        return 0, spacing
    count = max(1, math.ceil(deep / spacing - WIDEST - 1e-9))
    return count, deep / (count + 0.5)


def rings_of(polygon: Polygon, first: float, spacing: float, count: int = 0) -> list[Ring]:
    """Trees of rings in *polygon*: *count* of them just *spacing* apart, or, for 0, as many as fit, their
    depth fitted anew in every arm so that no core stays open."""
    outer = polygons(_inset(polygon, first))
    made = []
    for part in outer:
        if part.length < SMALLEST:
            continue
        ring = Ring(part, first)
        if count:
            _fixed(ring, spacing, count - 1)
        else:
            _fill(ring, spacing)
        made.append(ring)
    return made


def _inset(polygon: Polygon, by: float):
    return polygon.buffer(-by, join_style="mitre") if by > 1e-6 else polygon


def _fixed(ring: Ring, spacing: float, more: int) -> None:
    while more > 0:
        parts = [part for part in polygons(_inset(ring.polygon, spacing)) if part.length > SMALLEST]
        ring.inner = [Ring(part, ring.depth + spacing) for part in parts]
        more -= 1
        if len(ring.inner) != 1:
            for each in ring.inner:
                _fixed(each, spacing, more)
            return
        ring = ring.inner[0]


def _fill(ring: Ring, spacing: float) -> None:
    while True:
        count, apart = fitted_depth(depth_of(ring.polygon, spacing / 40), spacing)
        if not count:
            return
        apart, parts = _open_parts(ring.polygon, apart, spacing)
        ring.inner = [Ring(part, ring.depth + apart) for part in parts]
        arms = _left_open(ring.polygon, parts, apart, spacing)
        if len(ring.inner) != 1 or arms:
            for each in ring.inner:
                _fill(each, spacing)
            ring.inner += arms
            return
        ring = ring.inner[0]


def _open_parts(polygon: Polygon, apart: float, spacing: float) -> tuple[float, list[Polygon]]:
    """What lies *apart* inside, or as little nearer as leaves no slits; and how far that is."""
    first: list[Polygon] | None = None
    for share in CLOSER:
        inside = polygons(_inset(polygon, apart * share))
        parts = [part for part in inside if part.length > SMALLEST]
        if not any(_is_slit(part, spacing) for part in parts):
            return apart * share, parts
        first = parts if first is None else first
    return apart, first or []


def _is_slit(part: Polygon, spacing: float) -> bool:
    """Whether the sides of *part* run along beside each other somewhere."""
    open_wide = part.buffer(-SLIT * spacing).buffer(1.5 * SLIT * spacing)
    return any(
        each.length > 2 * SLIT_LONG * spacing for each in polygons(part.difference(open_wide))
    )


def _left_open(polygon: Polygon, parts: list[Polygon], apart: float, spacing: float) -> list[Ring]:
    """A ring for each arm too narrow for the next depth and too wide to be left."""
    core = polygon.buffer(-WIDEST * spacing)
    if core.is_empty:
        return []
    reached = shapely.union_all([part.boundary for part in parts]).buffer(WIDEST * spacing)
    bare = core.difference(reached)
    if bare.is_empty:
        return []
    rest = polygon.difference(shapely.union_all(parts).buffer(1.02 * apart))
    found = []
    for arm in polygons(rest):
        deep = depth_of(arm, spacing / 40)
        if deep < LEAST_CORE * spacing or not bare.intersects(arm):
            continue
        for part in polygons(_inset(arm, deep / 2))[:1]:
            if part.length > SMALLEST:
                found.append(Ring(part, deep / 2))
    return found


def holes_of(ring: Ring) -> list[np.ndarray]:
    """The inner lines of the rings of a tree: what goes round holes."""
    found, left = [], [ring]
    while left:
        each = left.pop()
        found += [shapely.get_coordinates(hole) for hole in each.polygon.interiors]
        left += each.inner
    return [line for line in found if math.isfinite(line.sum())]


def round_holes(ring: Ring) -> Ring:
    """The tree from *ring* on, changed so that what goes round a hole is an arm of the ring from which
    nothing else comes between: all of it can be gone through in one line."""
    left = [(ring, _holes_in(ring))]
    while left:
        each, holes = left.pop()
        gone_on: set[int] = set()
        for inside in each.inner:
            further = _holes_in(inside)
            for wide in further:
                within = [
                    hole
                    for hole in holes
                    if wide.polygon.covers(hole.polygon.representative_point())
                ]
                wide.inner += within
                gone_on |= set(map(id, within))
            left.append((inside, further))
        each.inner += [hole for hole in holes if id(hole) not in gone_on]
    return ring


def _holes_in(ring: Ring) -> list[Ring]:
    return [Ring(Polygon(hole), ring.depth, hole=True) for hole in ring.polygon.interiors]
