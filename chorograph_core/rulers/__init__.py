"""The shelf's rulers as geometry: what each can stitch, where it lies, how it is laid."""

from chorograph_core.rulers.model import STARTING_RULERS, Ruler, straight_ruler
from chorograph_core.rulers.placing import RulerPlacement, count_placements, placements_along

__all__ = [
    "STARTING_RULERS",
    "Ruler",
    "RulerPlacement",
    "count_placements",
    "placements_along",
    "straight_ruler",
]
