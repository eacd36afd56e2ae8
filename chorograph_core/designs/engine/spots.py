"""Open spots between figures and in tips, each with room for a loop.

Where one more figure has no room, and the way to the next does not come by, a hand throws in a loop.
"""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.engine.cells import ANGLES, Cell
from chorograph_core.designs.space import Space, polygons

ROUND = 16
"""Corners to a quarter of a circle that is kept free."""
BY_CORNER = 4.0
"""Radii of a loop from a corner within which it lies by it."""
EXACT = 0.1
"""How nearly the largest circle of a spot is found, in the least there is."""


def open_spots(
    part: Polygon, cells: list[Cell], reach: float, radii: tuple[float, float, float], apart: float
) -> list[Cell]:
    """Spare cells: circles in *part* that keep *apart* inches from each other and from the circles that
    figures take up, *reach* of what each cell has at its narrowest. Their *radii* in inches: at least by a
    corner, at least elsewhere, at most."""
    tip, least, most = radii
    corners = Space(part).corners
    middles = np.array([cell.middle for cell in cells]).reshape(-1, 2)
    taken = shapely.union_all(
        shapely.buffer(
            shapely.points(middles),
            [reach * cell.narrowest + apart for cell in cells],
            quad_segs=ROUND,
        )
    )
    pieces = polygons(part.difference(taken))
    found: list[Cell] = []
    while pieces:
        spot = pieces.pop()
        if spot.area < math.pi * tip**2:
            continue
        circle = shapely.maximum_inscribed_circle(spot, tolerance=EXACT * tip)
        middle, radius = np.array(circle.coords[0]), min(float(circle.length), most)
        near = np.hypot(*(corners - middle).T).min(initial=math.inf) < BY_CORNER * radius
        if radius < (tip if near else least):
            continue
        found.append(Cell(middle, np.full(ANGLES, radius), spare=True))
        room = shapely.points(middle).buffer(radius + apart, quad_segs=ROUND)
        pieces += polygons(spot.difference(room))
    return found
