"""Charting: the top as patches and seams, and which patches are alike."""

from chorograph_core.chart.alike import Alike, Placement, alike, turned_round, ways_onto_itself
from chorograph_core.chart.checks import faults, mend
from chorograph_core.chart.model import ROLES, Chart, ChartError, Fabric, Patch, Seam
from chorograph_core.chart.outlines import begun_at_corner, sides_of_outline
from chorograph_core.chart.seams import noded_edges, seams

__all__ = [
    "ROLES",
    "Alike",
    "Chart",
    "ChartError",
    "Fabric",
    "Patch",
    "Placement",
    "Seam",
    "alike",
    "begun_at_corner",
    "faults",
    "mend",
    "noded_edges",
    "seams",
    "sides_of_outline",
    "turned_round",
    "ways_onto_itself",
]
