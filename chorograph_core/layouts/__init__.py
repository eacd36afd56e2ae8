"""Layouts: from the numbers a quilter knows to a chart, each in a file of its own."""

from chorograph_core.layouts.base import LARGEST_TOP, MOST_BLOCKS, PALETTE, Exchange, Layout
from chorograph_core.layouts.block_rows import BlockRow, BlockRows
from chorograph_core.layouts.borders import Border
from chorograph_core.layouts.medallion import Medallion
from chorograph_core.layouts.offset_rows import OffsetRows
from chorograph_core.layouts.on_point import OnPoint
from chorograph_core.layouts.open_field import OpenField, Placed
from chorograph_core.layouts.straight_set import StraightSet
from chorograph_core.layouts.strips import Strip, Strips

LAYOUTS: dict[str, type[Layout]] = {
    each.kind: each
    for each in (StraightSet, OnPoint, OffsetRows, BlockRows, Strips, Medallion, OpenField)
}
"""Every layout by its kind."""

__all__ = [
    "LARGEST_TOP",
    "LAYOUTS",
    "MOST_BLOCKS",
    "PALETTE",
    "BlockRow",
    "BlockRows",
    "Border",
    "Exchange",
    "Layout",
    "Medallion",
    "OffsetRows",
    "OnPoint",
    "OpenField",
    "Placed",
    "StraightSet",
    "Strip",
    "Strips",
]
