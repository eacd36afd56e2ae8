"""The shelf's rulers as geometry: what each can stitch, where it lies, how it is laid."""

from chorograph_core.rulers.advising import Laid, laid_with, nearest_spacings
from chorograph_core.rulers.fitting import (
    Reach,
    Wish,
    edges_for,
    nearest_edge,
    off_by,
    reach_of,
    to_buy,
)
from chorograph_core.rulers.model import STARTING_RULERS, Edge, Ruler, straight_ruler
from chorograph_core.rulers.placing import (
    RulerPlacement,
    count_placements,
    edge_named,
    placements_along,
    settled_sides,
)
from chorograph_core.rulers.shapes import Stretch, stretches_of
from chorograph_core.rulers.simulated import simulated

__all__ = [
    "STARTING_RULERS",
    "Edge",
    "Laid",
    "Reach",
    "Ruler",
    "RulerPlacement",
    "Stretch",
    "Wish",
    "count_placements",
    "edge_named",
    "edges_for",
    "laid_with",
    "nearest_edge",
    "nearest_spacings",
    "off_by",
    "placements_along",
    "reach_of",
    "settled_sides",
    "simulated",
    "straight_ruler",
    "stretches_of",
    "to_buy",
]
