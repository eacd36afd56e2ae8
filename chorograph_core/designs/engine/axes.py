"""Directions that a zone itself offers: its sides, and the axis about which it is alike."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import sides_of_outline
from chorograph_core.designs.space import Space, side_heading
from chorograph_core.designs.symmetry import (
    mirror_axes,
    mirrored_about,
    off_axis,
    principal_axis,
)

MOST_AXES = 40
BESIDE = 0.05
"""Inches from an axis from which a point lies beside it."""


def base_angle(space: Space, relative: str) -> float:
    """The direction, in radians, from which a layout's angles are measured."""
    if relative == "top":
        return 0.0
    if relative == "axis":
        return symmetry_of(space)
    if relative == "zone":
        return space.side
    return side_heading(sides_of_outline(space.polygon), longest=False)


def symmetry_of(space: Space) -> float:
    """The zone's axis of symmetry, found once; radians."""
    return space.fact("axis of symmetry", lambda: axis_of(space.cut_from or space.polygon))


def beside_axes(space: Space, spot: np.ndarray) -> bool:
    """Whether a zone is its own mirror image about one line or two, and *spot* (2,) lies on none of them."""
    axes = space.fact("mirror_axes", lambda: mirror_axes(space.polygon))
    return min((off_axis(space.polygon, each, spot) for each in axes), default=0.0) > BESIDE


def axes_at(
    polygon: Polygon, angle: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Unit vectors along *angle* (radians) and square to it, and the places of the outer corners of *polygon*
    along either."""
    along = np.array([math.cos(angle), math.sin(angle)])
    across = np.array([-along[1], along[0]])
    points = shapely.get_coordinates(polygon.exterior)
    return along, across, points @ along, points @ across


def axis_of(polygon: Polygon) -> float:
    """Direction of the axis about which *polygon* is its own mirror image: where there are several, one
    along its longest side, else the longest; where there is none, that of the narrowest box round it.
    Radians, folded to a half turn."""
    ring = sides_of_outline(polygon)[:-1]
    middle = np.array(polygon.centroid.coords[0])
    main = principal_axis(polygon)
    if main is None:
        spots = np.concatenate([ring, (ring + np.roll(ring, -1, axis=0)) / 2]) - middle
        spots = spots[np.hypot(*spots.T) > 1e-6]
        angles = np.unique(np.round(np.arctan2(spots[:, 1], spots[:, 0]) % math.pi, 6))[:MOST_AXES]
    else:
        angles = np.array([main, (main + math.pi / 2) % math.pi])
    along = side_heading(np.vstack([ring, ring[:1]]))
    best: tuple[float, float] | None = None
    for angle in angles.tolist():
        if not mirrored_about(polygon, angle):
            continue
        reach = (ring - middle) @ (math.cos(angle), math.sin(angle))
        long = round(float(reach.max() - reach.min()), 3)
        if math.cos(angle - along) ** 2 > 1 - 1e-6:
            # Of a square, what runs with its sides rather than across its corners.
            long *= 1.5
        if best is None or long > best[0]:
            best = long, angle
    if best is not None:
        return best[1]
    return side_heading(shapely.get_coordinates(shapely.oriented_envelope(polygon))[:3])
