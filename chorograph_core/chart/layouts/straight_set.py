"""The straight set: blocks in rows and columns, with sashing and cornerstones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import ClassVar

from shapely.geometry import box

from chorograph_core.chart.blocks import block
from chorograph_core.chart.borders import Border
from chorograph_core.chart.layouts.base import PALETTE, Layout, grid_fits
from chorograph_core.chart.model import ChartError, Fabric, Patch


@dataclass(frozen=True)
class Exchange:
    """A block that differs from its neighbours: where (from 0), which, turned, mirrored."""

    row: int
    column: int
    block: str
    turn: int = 0
    mirror: bool = False


@dataclass(frozen=True)
class StraightSet(Layout):
    """The numbers a straight set is made of, all finished sizes in inches.

    *blocks* are block keys: two alternate as a chequerboard, more follow one another row by row;
    *exchanged* blocks are laid in their places instead.
    """

    kind: ClassVar[str] = "straight_set"
    name: ClassVar[str] = "Straight set"

    rows: int
    columns: int
    block_size: float
    blocks: Sequence[str] = ("nine_patch",)
    sashing: float = 0.0
    outer_sashing: bool = False
    cornerstones: bool = False
    borders: Sequence[Border] = ()
    fabrics: Sequence[Fabric] = field(default=PALETTE)
    exchanged: Sequence[Exchange] = ()

    def check_body(self) -> None:
        """Rows, columns, block size, sashing."""
        grid_fits(self.rows, self.columns, self.block_size, self.blocks, self.sashing)
        for each in self.exchanged:
            block(each.block)
            if not (0 <= each.row < self.rows and 0 <= each.column < self.columns):
                raise ChartError(
                    f"There is no block in row {each.row + 1}, column {each.column + 1}.",
                    "exchanged",
                )

    def body(self) -> tuple[float, float]:
        """Width and height of blocks and sashing."""
        extra = 1 if self.outer_sashing else -1
        return (
            self.columns * self.block_size + (self.columns + extra) * self.sashing,
            self.rows * self.block_size + (self.rows + extra) * self.sashing,
        )

    def patches(self) -> list[Patch]:
        """Blocks row by row, then sashing and cornerstones."""
        made: list[Patch] = []
        step = self.block_size + self.sashing
        first = self.sashing if self.outer_sashing else 0.0
        special = {(each.row, each.column): each for each in self.exchanged}
        for r in range(self.rows):
            for c in range(self.columns):
                count = r + c if len(self.blocks) == 2 else r * self.columns + c
                each = special.get((r, c)) or Exchange(r, c, self.blocks[count % len(self.blocks)])
                made += self.block_patches(
                    each.block, (r, c), first + c * step, first + r * step, self.block_size,
                    None, each.turn, each.mirror,
                )  # fmt: skip
        if self.sashing:
            self._sashing(made)
        return made

    def _sashing(self, patches: list[Patch]) -> None:
        size, sash, step = self.block_size, self.sashing, self.block_size + self.sashing
        outer = self.outer_sashing
        first = sash if outer else 0.0
        lanes_across = range(0 if outer else 1, self.rows + (1 if outer else 0))
        lanes_down = range(0 if outer else 1, self.columns + (1 if outer else 0))

        def add(name: str, x: float, y: float, w: float, h: float, stone: bool = False) -> None:
            role, fabric = ("cornerstone", "stone") if stone else ("sashing", "sash")
            patches.append(Patch(name, box(x, y, x + w, y + h), role, fabric))

        for c in lanes_down:
            x = first + c * step - sash
            for r in range(self.rows):
                add(f"sv{r + 1}.{c}", x, first + r * step, sash, size)
        if self.cornerstones:
            for r in lanes_across:
                y = first + r * step - sash
                for c in range(self.columns):
                    add(f"sh{r}.{c + 1}", first + c * step, y, size, sash)
                for c in lanes_down:
                    add(f"cs{r}.{c}", first + c * step - sash, y, sash, sash, stone=True)
            return
        # Without cornerstones the lanes across run through the whole width.
        width = self.body()[0]
        for r in lanes_across:
            add(f"sh{r}", 0.0, first + r * step - sash, width, sash)
