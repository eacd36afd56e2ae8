"""The sides of a zone between its corners, and points on them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.space import Space, turning_points

FEWEST = 3


@dataclass(frozen=True)
class Side:
    """A side from corner to corner: its points (n, 2), curved or straight."""

    points: np.ndarray

    @property
    def length(self) -> float:
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())

    @property
    def straight(self) -> bool:
        """Whether it runs straight from corner to corner."""
        chord = float(np.hypot(*(self.points[-1] - self.points[0])))
        return chord > 0.999 * self.length

    def at(self, share: float) -> np.ndarray:
        """The point at a share of its length."""
        line = shapely.linestrings(self.points)
        return shapely.get_coordinates(
            shapely.line_interpolate_point(line, share, normalized=True)
        )[0]


def sides_of(space: Space) -> list[Side]:
    """The sides of the outer edge in order, counter-clockwise (y down: clockwise to the eye), begun at the
    corner that lies first in the zone's own frame; four quarters where there are no corners."""
    return space.fact("sides", lambda: _sides(space.polygon))


def _sides(polygon: Polygon) -> list[Side]:
    exterior = polygon.exterior if polygon.exterior.is_ccw else polygon.exterior.reverse()
    ring = shapely.get_coordinates(exterior.simplify(0.004))[:-1]
    corners = turning_points(ring).tolist()
    if len(corners) < FEWEST:
        ring, corners = _quartered(ring, corners)
    found = []
    for k, corner in enumerate(corners):
        stop = corners[(k + 1) % len(corners)]
        index = np.arange(corner, stop + 1 if stop > corner else stop + len(ring) + 1) % len(ring)
        found.append(Side(ring[index]))
    return found


def _quartered(ring: np.ndarray, corners: list[int]) -> tuple[np.ndarray, list[int]]:
    """A ring without enough corners, with points between them."""
    line = shapely.linestrings(np.vstack([ring, ring[:1]]))
    begin = 0.0
    if corners:
        begin = float(shapely.line_locate_point(line, shapely.points(ring[corners[0]])))
    total = line.length
    if len(corners) == 2:
        # What lies between two corners stays whole; the longer way round is halved.
        far = float(shapely.line_locate_point(line, shapely.points(ring[corners[1]])))
        middle = (
            (begin + far) / 2 if far - begin > total / 2 else ((far + begin + total) / 2) % total
        )
        wanted = np.array([begin, far, middle])
    else:
        wanted = (begin + total * np.arange(4) / 4) % total
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line.coords, axis=0).T))])[:-1]
    merged = np.unique(np.round(np.concatenate([at, wanted]), 6))
    merged = merged[merged < total - 1e-6]
    points = shapely.get_coordinates(shapely.line_interpolate_point(line, merged))
    return points, sorted(int(np.argmin(np.abs(merged - q))) for q in wanted)


def leg_between(one: Side, two: Side) -> np.ndarray | None:
    """Where two straight sides meet when drawn out; None where they are parallel or curved."""
    if not (one.straight and two.straight):
        return None
    a, b, c, d = one.points[0], one.points[-1], two.points[0], two.points[-1]
    u, v = b - a, d - c
    across = u[0] * v[1] - u[1] * v[0]
    if abs(across) < 0.02 * np.hypot(*u) * np.hypot(*v):
        return None
    t = ((c - a)[0] * v[1] - (c - a)[1] * v[0]) / across
    return a + t * u
