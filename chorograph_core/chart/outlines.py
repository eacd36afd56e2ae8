"""Outlines as they are walked: where they begin."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Polygon

HAIR = 0.02
"""Inches by which a point may lie beside a side and be in it."""
STRAIGHT = np.radians(3.0)
"""Turn below which a point of an outline lies in a side of it."""


def begun_at_corner(shape: Polygon) -> Polygon:
    """The same polygon, beginning at the first of its corners; as it is where it has none. What is joined or
    cut may begin in the middle of a side."""
    ring = shapely.get_coordinates(shape.exterior)[:-1]
    into, onto = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    cross = into[:, 0] * onto[:, 1] - into[:, 1] * onto[:, 0]
    turn = np.abs(np.arctan2(cross, (into * onto).sum(axis=1)))
    corners = np.flatnonzero(turn > STRAIGHT)
    if not len(corners) or corners[0] == 0:
        return shape
    return Polygon(np.roll(ring, -corners[0], axis=0), shape.interiors)


def sides_of_outline(shape: Polygon) -> np.ndarray:
    """The corners (n + 1, 2) of the outer edge of *shape*, the first one last again: without points that lie
    within `HAIR` inches in a side.

    >>> sides_of_outline(Polygon([(2, 0), (4, 0), (0, 4), (0, 0)])).tolist()
    [[4.0, 0.0], [0.0, 4.0], [0.0, 0.0], [4.0, 0.0]]
    """
    # Who simplifies an outline keeps the point where it begins, and with its topology four of a triangle.
    ring = begun_at_corner(shape).exterior
    made = shapely.get_coordinates(ring.simplify(HAIR, preserve_topology=False))
    return made if len(made) > 3 else shapely.get_coordinates(ring)
