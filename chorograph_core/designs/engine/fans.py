"""Fans: a point from which a zone is seen, and the angle that it fills."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import Point

from chorograph_core.designs.engine.sides import leg_between, sides_of
from chorograph_core.designs.space import Space

ORIGINS = (
    ("meeting", "where the sides of the wedge meet"),
    ("corner", "a corner"),
    ("side", "the middle of the longest side"),
    ("middle", "the middle"),
)

EVEN = 0.12
"""How much the far edge may vary in its distance where rays are to be of one length."""


def meeting_of(space: Space) -> np.ndarray | None:
    """Where two straight sides that do not touch, or the only two that converge, would meet."""
    return space.fact("where the sides meet", lambda: _met(space))


def _met(space):
    sides = sides_of(space)
    best = None
    for i, one in enumerate(sides):
        for two in sides[i + 1 :]:
            spot = leg_between(one, two)
            if spot is None or space.polygon.buffer(-0.05).contains(Point(spot)):
                continue
            both = min(one.length, two.length)
            ends = [side.points[k] for side in (one, two) for k in (0, -1)]
            reach = [float(np.hypot(*(end - spot))) for end in ends]
            # Both sides lead away from the meeting, at a sharp angle, about alike.
            alike = abs(reach[0] + reach[1] - reach[2] - reach[3]) < 0.25 * both
            if not alike or max(reach) > 12 * both:
                continue
            u, v = (ends[0] + ends[1]) / 2 - spot, (ends[2] + ends[3]) / 2 - spot
            if min(np.hypot(*u), np.hypot(*v)) < 1e-6:
                continue
            angle = math.acos(np.clip(u @ v / np.hypot(*u) / np.hypot(*v), -1, 1))
            if angle < math.radians(130) and (best is None or both > best[1] + 1e-6):
                best = spot, both
    return best[0] if best else None


def fan_of(space: Space, origin: str) -> tuple[np.ndarray, float, float, float]:
    """The point, the first heading, the angle that is swept, and how far the farthest edge lies."""
    return space.fact(("fan", origin), lambda: _opened(space, origin))


def _opened(space, origin: str):
    ring = shapely.get_coordinates(shapely.segmentize(space.polygon.exterior, 0.25))
    sides = sides_of(space)
    point = None
    if origin == "meeting":
        point = meeting_of(space)
        origin = "corner" if point is None else origin
    if origin == "corner":
        spots = np.array([side.points[0] for side in sides])
        # The corner from which the zone is seen at its most even: the farthest from its middle.
        middle = np.array(space.polygon.centroid.coords[0])
        point = spots[int(np.argmax(np.round(np.hypot(*(spots - middle).T), 3)))]
    elif origin == "side":
        long = max(sides, key=lambda side: round(side.length, 3))
        straight = [side for side in sides if side.straight]
        point = (max(straight, key=lambda side: round(side.length, 3)) if straight else long).at(
            0.5
        )
    elif origin == "middle":
        point = np.array(space.polygon.centroid.coords[0])
    away = ring - point
    far = float(np.hypot(*away.T).max())
    if origin == "middle" and space.polygon.contains(Point(point)):
        return point, 0.0, 2 * math.pi, far
    kept = away[np.hypot(*away.T) > 1e-6]
    headings = np.sort(np.arctan2(kept[:, 1], kept[:, 0]))
    gaps = np.diff(np.concatenate([headings, headings[:1] + 2 * math.pi]))
    widest = int(np.argmax(gaps))
    begin = float(headings[(widest + 1) % len(headings)])
    return point, begin, float(2 * math.pi - gaps[widest]), far


def suited_origin(space: Space) -> str:
    """From where rays are most even: in what is round its middle; where two sides meet; in a half circle and
    its like the middle of its straight side; else a corner."""
    if unevenness(space, "middle") < EVEN / 2:
        return "middle"
    if meeting_of(space) is not None:
        return "meeting"
    return "side" if unevenness(space, "side") < EVEN else "corner"


def unevenness(space: Space, origin: str) -> float:
    """How much the far edge varies in its distance from the point of a fan (standard deviation over mean);
    infinite where one sees less than a half circle of it."""

    def find() -> float:
        point, _, sweep, far = fan_of(space, origin)
        if sweep < math.radians(150):
            return math.inf
        edge = shapely.get_coordinates(shapely.segmentize(space.polygon.exterior, 0.25)) - point
        away = np.hypot(*edge.T)
        if origin == "side":
            # What lies on the straight side itself is not looked at.
            base = max((side for side in sides_of(space) if side.straight), default=None,
                       key=lambda side: round(side.length, 3))  # fmt: skip
            if base is None:
                return math.inf
            off = shapely.distance(shapely.linestrings(base.points), shapely.points(edge + point))
            away = away[off > 0.02 * far]
        return float(np.std(away) / max(np.mean(away), 1e-9)) if len(away) else math.inf

    return float(space.fact(("evenness", origin), find))
