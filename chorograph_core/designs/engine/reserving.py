"""What a motif keeps free of the ground round it."""

from __future__ import annotations

import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.contract import Linework

HAIR = 0.02


def covered_by(linework: Linework, closing: float) -> BaseGeometry | None:
    """The area under a motif: its lines with what lies between those nearer to each other than
    *closing* inches; None for one that drew nothing."""
    lines = [shapely.linestrings(run.points) for run in linework.runs if len(run.points) > 1]
    if not lines:
        return None
    fat = shapely.union_all(shapely.buffer(lines, closing / 2, quad_segs=4))
    whole = [Polygon(part.exterior) for part in shapely.get_parts(fat)]
    return shapely.union_all(whole).buffer(HAIR - closing / 2, quad_segs=4)
