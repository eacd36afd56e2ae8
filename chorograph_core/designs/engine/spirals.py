"""Level lines of a zone joined into spirals: in on every ring, or in on one and out on the next.

Rings at fitted depths form a tree: where a zone narrows, a ring falls into several. The line goes inwards
along a spiral, sliding from each ring to the next over a short stretch; an arm that lies to the side is gone
in and out of on alternate rings (connected spirals: Zhao et al., Connected Fermat Spirals, 2016), so that
nothing crosses a ring and nothing is stitched twice.
"""

from __future__ import annotations

import itertools
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
SHY = 0.015
"""Inches by which a round stops short of its own beginning: closed to the eye, and no crossing."""
SLIDE = 2.0
"""Spacings along which one slides from a ring to the next."""


@dataclass
class Ring:
    """A level line: the part of the zone inside it, and the rings next inside."""

    polygon: Polygon
    depth: float
    inner: list[Ring] = field(default_factory=list)

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
        parts = [part for part in polygons(_inset(ring.polygon, apart)) if part.length > SMALLEST]
        ring.inner = [Ring(part, ring.depth + apart) for part in parts]
        arms = _left_open(ring.polygon, parts, apart, spacing)
        if len(ring.inner) != 1 or arms:
            for each in ring.inner:
                _fill(each, spacing)
            ring.inner += arms
            return
        ring = ring.inner[0]


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


class Level:
    """The outer line of a ring as a closed way with places on it, from 0 to its length."""

    def __init__(self, polygon: Polygon) -> None:
        ring = polygon.exterior if polygon.exterior.is_ccw else polygon.exterior.reverse()
        self.points = shapely.get_coordinates(ring.simplify(1e-6))
        self.at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(self.points, axis=0).T))])
        self.line = shapely.linestrings(self.points)

    @property
    def length(self) -> float:
        return float(self.at[-1])

    def place(self, spot: np.ndarray) -> float:
        """The place nearest to *spot*."""
        return float(shapely.line_locate_point(self.line, shapely.points(spot)))

    def spot(self, at: float) -> np.ndarray:
        """The point at a place; places go on round."""
        at %= self.length
        return np.array([np.interp(at, self.at, self.points[:, k]) for k in (0, 1)])

    def way(self, start: float, inches: float) -> np.ndarray:
        """Points from *start* forward along *inches*, or back for a negative number."""
        if inches < 0:
            return self.way(start + inches, -inches)[::-1]
        start %= self.length
        stops = np.concatenate([self.at[:-1], self.at[:-1] + self.length])
        inner = stops[(stops > start + 1e-7) & (stops < start + inches - 1e-7)]
        return np.array([self.spot(at) for at in (start, *inner, start + inches)])

    def start(self) -> float:
        """The middle of its longest side: a start meets its end cleanly there."""
        sides = np.round(np.diff(self.at), 4)
        k = int(np.argmax(sides))
        return float(self.at[k] + sides[k] / 2)


def spiral(ring: Ring, spacing: float) -> np.ndarray:
    """The tree from *ring* inwards as one line, to the middle of its deepest arm. Holes are not gone round:
    see `holes_of`."""
    chain = [ring]
    while chain[-1].inner:
        chain.append(max(chain[-1].inner, key=lambda each: each.height))
    levels = [Level(each.polygon) for each in chain]
    # Found from the inside: where a ring lies square to the one inside it, one slides from it to that.
    anchors = [levels[-1].start()]
    for outer, inner in zip(levels[-2::-1], levels[:0:-1], strict=True):
        anchors.append(outer.place(inner.spot(anchors[-1])))
    anchors.reverse()
    # It begins a hair further on, so that coming round again does not touch its own beginning.
    made, begun = [levels[0].spot(anchors[0] + SHY)[None]], anchors[0] + SHY
    for k, (each, level, anchor) in enumerate(zip(chain, levels, anchors, strict=True)):
        inside = chain[k + 1] if k + 1 < len(chain) else None
        arms = [arm for arm in each.inner if arm is not inside]
        if inside is None:
            # The way in already lies beside the last stretch of the innermost ring.
            short = 0.5 * (begun - anchor) if k else SHY
            made.append(_round_with(level, begun, level.length - short, arms, spacing)[1:])
            break
        inches = (anchor - begun) % level.length
        made.append(_round_with(level, begun, inches, arms, spacing)[1:])
        slide = min(SLIDE * spacing, level.length / 5, levels[k + 1].length / 4)
        begun = anchors[k + 1] + slide
        made.append(_slid(level, anchor, slide, levels[k + 1], begun))
    return np.concatenate(made)


def _slid(level: Level, at: float, slide: float, below: Level, to: float) -> np.ndarray:
    """From a place on a ring to one on the ring below, evenly over a stretch of both."""
    shares = np.linspace(0, 1, 9)[1:]
    outer = np.array([level.spot(at + share * slide) for share in shares])
    inner = np.array([below.spot(to - (1 - share) * slide) for share in shares])
    return outer * (1 - shares[:, None]) + inner * shares[:, None]


def _round_with(
    level: Level, start: float, inches: float, arms: list[Ring], spacing: float
) -> np.ndarray:
    """Along a ring, going in and out of each of *arms* on the way."""
    stops = []
    for arm in arms:
        inside = Level(arm.polygon)
        spots = np.array([inside.spot(k * inside.length / 24) for k in range(24)])
        away = shapely.distance(shapely.points(spots), level.line)
        at = (level.place(spots[int(np.argmin(away))]) - start) % level.length
        stops.append((min(at, max(inches - 1e-3, 0.0)), arm))
    made, gone = [], 0.0
    for at, arm in sorted(stops, key=lambda each: each[0]):
        # One leaves before the arm is nearest and is back behind that: the two ways do not touch.
        lane = min(spacing, Level(arm.polygon).length / 6) / 2
        leave, back = max(gone + 1e-6, at - lane), min(at + lane, inches - 1e-6)
        if back <= leave:
            leave, back = gone + 1e-6, max(gone + 2e-6, back)
        made.append(level.way(start + gone, leave - gone))
        made.append(_in_and_out(arm, spacing, level.spot(start + at)))
        gone = back
    made.append(level.way(start + gone, inches - gone))
    return np.concatenate(made)


def _in_and_out(arm: Ring, spacing: float, near: np.ndarray) -> np.ndarray:
    """Into an arm on every other ring and out on those between, beginning and ending on its outer ring
    beside *near*."""
    rings = [arm]
    while rings[-1].inner:
        rings.append(max(rings[-1].inner, key=lambda each: each.height))
    levels = [Level(each.polygon) for each in rings]
    if len(levels) == 1:
        only = levels[0]
        gap = min(spacing, only.length / 8)
        return only.way(only.place(near) - gap / 2, -(only.length - gap))
    begin = [levels[0].place(near)]
    for one, two in itertools.pairwise(levels):
        begin.append(two.place(one.spot(begin[-1])))
    # In on rings 0, 2, 4 …, out on 1, 3, 5 …; both leave the same narrow lane free.
    lane = [min(spacing, level.length / 6) for level in levels]
    into, out = [], []
    for k in range(0, len(levels), 2):
        into.append(levels[k].way(begin[k] - lane[k] / 2, -(levels[k].length - lane[k])))
    for k in range(1, len(levels), 2):
        out.append(levels[k].way(begin[k] + lane[k] / 2, levels[k].length - lane[k]))
    return np.concatenate([*into, *out[::-1]])


def holes_of(ring: Ring) -> list[np.ndarray]:
    """The inner lines of the rings of a tree: what goes round holes."""
    found, left = [], [ring]
    while left:
        each = left.pop()
        found += [shapely.get_coordinates(hole) for hole in each.polygon.interiors]
        left += each.inner
    return [line for line in found if math.isfinite(line.sum())]
