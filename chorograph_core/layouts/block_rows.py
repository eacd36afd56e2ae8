"""Rows of blocks of differing heights, one above the other."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar

from shapely.geometry import box

from chorograph_core.chart.model import ChartError, Fabric, Patch
from chorograph_core.layouts.base import PALETTE, Exchange, Layout, counted, finite
from chorograph_core.layouts.borders import SMALLEST_PATCH, Border

MOST_ROWS = 60


@dataclass(frozen=True)
class BlockRow:
    """One row: its height, its block, how many of them side by side fill the width."""

    height: float
    block: str = "nine_patch"
    count: int = 4


@dataclass(frozen=True)
class BlockRows(Layout):
    """Rows one above the other over one *width*; *sashing* lies between them."""

    kind: ClassVar[str] = "block_rows"
    name: ClassVar[str] = "Row by row"

    width: float
    rows: tuple[BlockRow, ...] = (BlockRow(12),)
    sashing: float = 0.0
    borders: tuple[Border, ...] = ()
    fabrics: tuple[Fabric, ...] = field(default=PALETTE)
    exchanged: tuple[Exchange, ...] = ()
    fitted: tuple[float, ...] = ()

    def check_body(self) -> None:
        """A width, rows that have height and blocks."""
        finite(width=self.width, sashing=self.sashing)
        if not self.width >= 1:
            raise ChartError("The rows must be at least 1″ wide.", "width")
        if not 1 <= len(self.rows) <= MOST_ROWS:
            raise ChartError(f"There are between one and {MOST_ROWS} rows.", "rows")
        if self.sashing < 0 or 0 < self.sashing < SMALLEST_PATCH:
            raise ChartError("Sashing is 0 or at least 1/4″.", "sashing")
        for number, row in enumerate(self.rows, 1):
            finite(rows=row.height)
            if not row.height >= 0.5:
                raise ChartError(f"Row {number} must be at least 1/2″ high.", "rows")
            counted(row.count, "rows", 200)
            if self.width / row.count < 0.5:
                raise ChartError(f"Row {number}: its blocks would be under 1/2″ wide.", "rows")

    def size_field(self) -> str:
        """The width is what one would change."""
        return "width"

    def body(self) -> tuple[float, float]:
        """The width, and the heights with the sashing between."""
        return self.width, sum(r.height for r in self.rows) + (len(self.rows) - 1) * self.sashing

    def patches(self) -> list[Patch]:
        """Row by row from the top."""
        made: list[Patch] = []
        y = 0.0
        for number, row in enumerate(self.rows):
            if number and self.sashing:
                made.append(Patch(f"sh{number}", box(0, y, self.width, y + self.sashing), "sashing",
                                  "sash", None, "lane"))  # fmt: skip
                y += self.sashing
            wide = self.width / row.count
            for column in range(row.count):
                made += self.block_patches(row.block, (number, column), column * wide, y, wide,
                                           row.height)  # fmt: skip
            y += row.height
        return made
