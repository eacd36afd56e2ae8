"""A ruler as it looks from above, to scale: who enters one sees whether it is the one she holds."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import Point, Polygon, box

from chorograph_core.rulers.model import Ruler

BREADTH = 2.5
"""Inches from edge to edge where nothing else tells it."""


def outline_of(ruler: Ruler) -> Polygon:
    """The plate in inches, its length from left to right, its outer edge uppermost.

    An arc is a band between its two edges; one that is missing is straight.
    """
    long = ruler.length
    if ruler.shape == "circle":
        rim = ruler.convex or (ruler.concave or 1.0) + 0.75
        disc = Point(rim, rim).buffer(rim, quad_segs=32)
        hole = ruler.concave
        return (
            disc.difference(Point(rim, rim).buffer(hole, quad_segs=32))
            if hole and hole < rim
            else disc
        )
    if ruler.shape == "arc":
        # No longer than the tighter of its edges is wide.
        long = min([long, *(2 * radius for radius in (ruler.convex, ruler.concave) if radius)])
        upper, lower = (_sagged(long, radius) for radius in (ruler.convex, ruler.concave))
        deep = BREADTH + max(0.0, float(lower[:, 1].max() - upper[:, 1].max()))
        lower = lower + np.array([0.0, deep])
        return Polygon(np.vstack([upper, lower[::-1]])).buffer(0)
    if ruler.shape == "s" and ruler.period and ruler.height:
        x = np.linspace(0, long, 160)
        y = ruler.height / 2 * (1 - np.sin(2 * math.pi * x / ruler.period))
        return Polygon(np.vstack([np.column_stack([x, y]), [[long, ruler.height + BREADTH],
                                                            [0, ruler.height + BREADTH]]]))  # fmt: skip
    return box(0, 0, long, BREADTH)


def _sagged(long: float, radius: float | None) -> np.ndarray:
    """An edge over *long* inches that stands highest in its middle; straight without a radius."""
    if radius is None or 2 * radius < 1e-6:
        return np.array([[0.0, 0.0], [long, 0.0]])
    half = min(long / 2, radius)
    x = np.linspace(-half, half, 60)
    return np.column_stack(
        [x + long / 2, radius - np.sqrt(np.maximum(radius * radius - x * x, 0.0))]
    )


def lines_of(ruler: Ruler) -> list[np.ndarray]:
    """Its etched lines and marks, as far as they lie on the plate."""
    plate = outline_of(ruler)
    if ruler.shape != "straight":
        return []
    rows = [np.array([[0.0, at], [ruler.length, at]]) for at in ruler.lines if at < BREADTH]
    return [row for row in rows if shapely.linestrings(row).intersects(plate)]
