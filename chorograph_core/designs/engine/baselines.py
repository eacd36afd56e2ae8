"""The side of a zone that a row stands on: a straight or bent way from end to end."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.engine.sides import Side, sides_of
from chorograph_core.designs.space import Space

PARALLEL = 0.2
"""Radians by which two sides may differ and still be the two long sides of a border."""


def long_sides(space: Space) -> tuple[Side, Side]:
    """The longest side, and the one across from it: the one most nearly parallel of those that do not touch
    it, else the next longest. The shorter of the two is that towards the middle of the top in a mitred
    border."""
    return space.fact("long sides", lambda: _pair(sides_of(space), space.cut_from))


def _pair(sides: list[Side], cut_from: Polygon | None) -> tuple[Side, Side]:
    straight = [side for side in sides if side.straight] or sides
    if cut_from is not None:
        # What the finish took may have made another side the longest.
        along = Space(cut_from).frame.axis
        lying = [side for side in straight if _off(_heading(side), along) < PARALLEL]
        straight = lying or straight
    long = max(straight, key=lambda side: round(side.length, 3))
    k = next(j for j, side in enumerate(sides) if side is long)
    heading = _heading(long)
    others = [
        side for j, side in enumerate(sides)
        if j not in (k, (k + 1) % len(sides), (k - 1) % len(sides))
        and _off(_heading(side), heading) < PARALLEL
    ]  # fmt: skip
    if not others:
        others = [side for j, side in enumerate(sides) if j != k]
    return long, max(others, key=lambda side: round(side.length, 3))


def _heading(side: Side) -> float:
    along = side.points[-1] - side.points[0]
    return float(np.arctan2(along[1], along[0]))


def _off(one: float, two: float) -> float:
    apart = abs(one - two) % np.pi
    return float(min(apart, np.pi - apart))


def inward(side: Side) -> np.ndarray:
    """The unit vector square to a side's chord into the zone, whose edge runs counter-clockwise."""
    along = side.points[-1] - side.points[0]
    along = along / max(float(np.hypot(*along)), 1e-9)
    return np.array([-along[1], along[0]])


def depth_over(space: Space, side: Side) -> float:
    """How far the zone reaches inwards, square to the middle of *side*."""
    middle, way = side.at(0.5), inward(side)
    long = float(np.hypot(*np.ptp(shapely.get_coordinates(space.polygon), axis=0))) + 1
    ray = shapely.linestrings(np.array([middle + way * 1e-6, middle + way * long]))
    cut = shapely.intersection(ray, space.polygon)
    parts = [part for part in shapely.get_parts(cut) if part.length > 1e-6]
    near = min(parts, key=lambda part: shapely.distance(part, shapely.points(middle)), default=None)
    return float(near.length) if near is not None else 0.0
