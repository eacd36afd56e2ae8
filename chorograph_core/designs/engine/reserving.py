"""What a motif keeps free of the ground round it."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.engine.guides import in_seam
from chorograph_core.designs.engine.widening import widened
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.space import Space

HAIR = 0.02
COARSE = 0.04
"""Of what lines are closed by, how exactly they are followed."""
ALONG = 0.7
"""Of its width along a guide, from line to line, up to which what lies between is a strip's own."""


def covered_by(linework: Linework, closing: float) -> BaseGeometry | None:
    """The area under a motif: its lines with what lies within them, and between those nearer to each other
    than *closing* inches; None for one that drew nothing. What a way along the edge shuts in is none."""
    lines = [
        points
        for run in linework.runs
        for points, _, kind in run.pieces()
        if kind != "link" and len(points) > 1
    ]
    if not lines:
        return None
    fat = widened(lines, closing / 2, COARSE * closing)
    whole = [Polygon(part.exterior) for part in shapely.get_parts(fat)]
    return shapely.union_all(whole).buffer(HAIR - closing / 2, quad_segs=4)


def strip_along_guide(space: Space, linework: Linework) -> BaseGeometry | None:
    """What a motif for strips keeps free that follows a guide at a width of its own: the strip and what is
    drawn; None where it reaches to the edge."""
    if not space.guide or space.guide_width <= 0 or not linework.runs:
        return None
    # Along a seam all of the strip lies on one side of the guide.
    beside = in_seam(np.array(space.guide), space.polygon.boundary)
    half = space.guide_width if beside else space.guide_width / 2
    strip = shapely.buffer(shapely.linestrings(space.guide), half, cap_style="flat")
    drawn = covered_by(linework, ALONG * space.guide_width)
    return strip if drawn is None else strip.union(drawn)
