"""Offset rows: every second row moves by half a block, with half blocks at its ends."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar

from shapely.geometry import box

from chorograph_core.chart.model import Fabric, Patch
from chorograph_core.layouts.base import PALETTE, Exchange, Layout, clipped, grid_fits
from chorograph_core.layouts.borders import Border
from chorograph_core.measure import format_length


@dataclass(frozen=True)
class OffsetRows(Layout):
    """*rows* rows of *columns* blocks; in every second one they begin with a half block."""

    kind: ClassVar[str] = "offset_rows"
    name: ClassVar[str] = "Offset rows"

    rows: int
    columns: int
    block_size: float
    blocks: tuple[str, ...] = ("nine_patch",)
    sashing: float = 0.0
    borders: tuple[Border, ...] = ()
    fabrics: tuple[Fabric, ...] = field(default=PALETTE)
    exchanged: tuple[Exchange, ...] = ()
    fitted: tuple[float, ...] = ()

    def check_body(self) -> None:
        """Counts and sizes."""
        grid_fits(self.rows, self.columns, self.block_size, self.blocks, self.sashing)

    def notes(self, units: str = "in") -> list[str]:
        """That the half blocks finish narrower than half a block where sashing stands between."""
        found = super().notes(units)
        if self.sashing and self.rows > 1:
            half, whole = (self.block_size - self.sashing) / 2, self.block_size
            shown = [format_length(x, units, 16) for x in (half, whole / 2, whole)]
            found.append(
                f"The pieces at the row ends finish {shown[0]} wide, not the {shown[1]} that half a "
                f"block of {shown[2]} has: a row that begins with one has a sash more. Cut them to "
                f"that, or leave the sashing out."
            )
        return found

    def body(self) -> tuple[float, float]:
        """Whole blocks and the sashing between them."""
        return (
            self.columns * self.block_size + (self.columns - 1) * self.sashing,
            self.rows * self.block_size + (self.rows - 1) * self.sashing,
        )

    def patches(self) -> list[Patch]:
        """Row by row, what reaches over the ends cut off."""
        size, sash = self.block_size, self.sashing
        step = size + sash
        width, height = self.body()
        frame = box(0, 0, width, height)
        made: list[Patch] = []
        for row in range(self.rows):
            odd = row % 2
            y = row * step
            for column in range(self.columns + odd):
                x = column * step - odd * step / 2
                key = self.blocks[(row + column) % len(self.blocks)]
                made += clipped(self.block_patches(key, (row, column), x, y, size), frame)
                if sash and column < self.columns + odd - 1:
                    lane = Patch(f"sv{row + 1}.{column + 1}", box(x + size, y, x + step, y + size),
                                 "sashing", "sash", None, "sash")  # fmt: skip
                    made += clipped([lane], frame)
            if sash and row < self.rows - 1:
                made.append(Patch(f"sh{row + 1}", box(0, y + size, width, y + step), "sashing",
                                  "sash", None, "lane"))  # fmt: skip
        return made
