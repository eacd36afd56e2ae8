"""What lies near a line: of a long one that comes back beside itself found piece by piece, which takes a
fifth of the time."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

LEGS = 24
"""Legs of a line that are widened together."""


def widened(lines: Iterable[np.ndarray], by: float, coarse: float) -> BaseGeometry:
    """What lies within *by* inches of polylines (n, 2), which are followed to within *coarse* inches."""
    whole = [shapely.linestrings(line) for line in lines if len(line) > 1]
    thinned = shapely.simplify(whole, coarse, preserve_topology=False)
    pieces = [
        shapely.linestrings(points[k : k + LEGS + 1])
        for points in map(shapely.get_coordinates, thinned)
        for k in range(0, len(points) - 1, LEGS)
    ]
    return shapely.union_all(shapely.buffer(pieces, by, quad_segs=4))
