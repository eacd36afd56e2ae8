"""Charting: the top as patches and seams, and which patches are alike."""

from chorograph_core.chart.alike import Alike, Placement, alike
from chorograph_core.chart.blocks import block_library
from chorograph_core.chart.borders import Border
from chorograph_core.chart.checks import faults, mend
from chorograph_core.chart.layouts import LAYOUTS, PALETTE, Layout, StraightSet
from chorograph_core.chart.model import ROLES, Chart, ChartError, Fabric, Patch, Seam
from chorograph_core.chart.seams import noded_edges, seams

__all__ = [
    "LAYOUTS",
    "PALETTE",
    "ROLES",
    "Alike",
    "Border",
    "Chart",
    "ChartError",
    "Fabric",
    "Layout",
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
