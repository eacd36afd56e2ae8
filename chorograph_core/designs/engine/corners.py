"""What stands in the corners that a strip turns."""

from __future__ import annotations

import math

import numpy as np
from shapely.geometry import Polygon

from chorograph_core.designs.engine.cells import cell_of
from chorograph_core.designs.engine.turning import Spiral, pieces_of, round_middle

SWIRL = 0.14
"""From line to line of the swirl in a corner, against the width of the corner."""


def swirl_in_corner(room: Polygon, come: np.ndarray, go: np.ndarray) -> np.ndarray | None:
    """A swirl in *room*, entered from where one comes and left towards where one goes; None without room."""
    wide = math.sqrt(room.area)
    gap = min(SWIRL * wide, 0.6)
    cell = cell_of(room, gap, 0.6)
    if cell is None:
        return None
    begin, end = cell.towards(come), cell.towards(go)
    turn = (end - begin + math.pi) % (2 * math.pi) - math.pi
    sense = 1 if turn < 0 else -1
    kind = Spiral(2 * gap, gap, 0.15, round_middle)
    return pieces_of(cell, kind, begin, sense, min(max(abs(turn), 0.4), 2 * math.pi - 0.3))[0]
