"""Foot and ruler as shapes on the sheet: whether a placement can be stitched as it is told.

The foot is a ring of the foot's radius about the needle, the ruler a plate beside its edge. Along the whole
placement the edge must touch the ring and the plate must not reach under the needle; on a sit-down machine,
whose arm stands behind the foot, the plate must not lie there.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.rulers.placing import RulerPlacement, lies_behind

BREADTH = 2.5
"""Inches from a ruler's edge to its other side."""
TOUCHES = 0.01
"""Inches by which the edge may miss the ring of the foot, or press into it."""


@dataclass(frozen=True)
class Fault:
    """What is wrong with a placement, in words, and where."""

    words: str
    spot: tuple[float, float]


def plate_of(placement: RulerPlacement, breadth: float = BREADTH) -> Polygon:
    """The ruler as it lies: its edge, and as far on the side away from the line as it is broad."""
    edge, line = placement.pose, placement.stitched
    away = edge.mean(axis=0) - line.mean(axis=0)
    away = away / max(float(np.hypot(*away)), 1e-12)
    return Polygon(np.vstack([edge, (edge + away * breadth)[::-1]])).buffer(0)


def simulated(
    placement: RulerPlacement, foot_radius: float,
    machine: Literal["frame", "sit-down"] = "frame", step: float = 0.1,
) -> list[Fault]:  # fmt: skip
    """Move the needle along the *stitched* line of *placement* and say what goes wrong; nothing for what is
    followed by hand.

    On a sit-down machine the plate must not lie behind the foot, as the quilt lies then (`turned`).
    """
    if placement.by_hand:
        return []
    line, edge = shapely.linestrings(placement.stitched), shapely.linestrings(placement.pose)
    plate = plate_of(placement)
    faults: list[Fault] = []
    count = max(2, math.ceil(line.length / step) + 1)
    for share in np.linspace(0, 1, count):
        needle = shapely.line_interpolate_point(line, share, normalized=True)
        spot = (float(needle.x), float(needle.y))
        apart = float(shapely.distance(needle, edge)) - foot_radius
        if abs(apart) > TOUCHES:
            word = "misses the foot" if apart > 0 else "presses into the foot"
            faults.append(Fault(f"the edge {word} by {abs(apart):.3f}", spot))
        if plate.contains(needle):
            faults.append(Fault("the ruler lies under the needle", spot))
    if machine == "sit-down" and not faults and lies_behind(placement):
        faults.append(Fault("the ruler lies behind the foot", tuple(placement.stitched[0])))
    return faults[:4]
