"""Charting: the top as patches and seams, and which patches are alike."""

from chorograph_core.chart.alike import Alike, Placement, alike
from chorograph_core.chart.blocks import block_library
from chorograph_core.chart.checks import faults, mend
from chorograph_core.chart.model import ROLES, Chart, ChartError, Fabric, Patch, Seam
from chorograph_core.chart.seams import noded_edges, seams
from chorograph_core.chart.straight_set import PALETTE, Border, StraightSet

__all__ = [
    "PALETTE",
    "ROLES",
    "Alike",
    "Border",
    "Chart",
    "ChartError",
    "Fabric",
    "Patch",
    "Placement",
    "Seam",
    "StraightSet",
    "alike",
    "block_library",
    "faults",
    "mend",
    "noded_edges",
    "seams",
]
