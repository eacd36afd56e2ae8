"""The straight set: blocks in rows and columns, with sashing and cornerstones."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import ClassVar

from shapely.geometry import box

from chorograph_core.chart.model import ChartError, Fabric, Patch, Role
from chorograph_core.layouts.base import PALETTE, Exchange, Layout, grid_fits
from chorograph_core.layouts.borders import Border


@dataclass(frozen=True)
class StraightSet(Layout):
    """The numbers a straight set is made of, all finished sizes in inches.

    *blocks* are block keys: two alternate as a chequerboard, more follow one another row by row;
    *exchanged* blocks are laid in their places instead. *open_crossings* are places ``row.column``
    of cornerstones, as their patches are called, at which there is none and the sashing across runs
    through.
    """

    kind: ClassVar[str] = "straight_set"
    name: ClassVar[str] = "Straight set"

    rows: int
    columns: int
    block_size: float
    blocks: tuple[str, ...] = ("nine_patch",)
    sashing: float = 0.0
    outer_sashing: bool = False
    cornerstones: bool = False
    borders: tuple[Border, ...] = ()
    fabrics: tuple[Fabric, ...] = field(default=PALETTE)
    exchanged: tuple[Exchange, ...] = ()
    fitted: tuple[float, ...] = ()
    open_crossings: tuple[str, ...] = ()

    def check_body(self) -> None:
        """Rows, columns, block size, sashing."""
        grid_fits(self.rows, self.columns, self.block_size, self.blocks, self.sashing)
        for each in self.exchanged:
            if not (0 <= each.row < self.rows and 0 <= each.column < self.columns):
                raise ChartError(
                    f"There is no block in row {each.row + 1}, column {each.column + 1}.",
                    "exchanged",
                )

        for place in self.open_crossings:
            if not re.fullmatch(r"\d{1,4}\.\d{1,4}", place):
                raise ChartError(f"“{place[:20]}” is no crossing: write 1.2, row and column.",
                                 "open_crossings")  # fmt: skip

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
        for r in range(self.rows):
            for c in range(self.columns):
                count = r + c if len(self.blocks) == 2 else r * self.columns + c
                made += self.block_patches(self.blocks[count % len(self.blocks)], (r, c),
                                           first + c * step, first + r * step, self.block_size)  # fmt: skip
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
            role: Role = "cornerstone" if stone else "sashing"
            fabric = "stone" if stone else "sash"
            patches.append(Patch(name, box(x, y, x + w, y + h), role, fabric))

        for c in lanes_down:
            x = first + c * step - sash
            for r in range(self.rows):
                add(f"sv{r + 1}.{c}", x, first + r * step, sash, size)
        if self.cornerstones:
            through = set(self.open_crossings)
            for r in lanes_across:
                y = first + r * step - sash
                for name, x, stop in self._across(r, first, lanes_down, through):
                    add(name, x, y, stop - x, sash)
                for c in lanes_down:
                    if f"{r}.{c}" not in through:
                        add(f"cs{r}.{c}", first + c * step - sash, y, sash, sash, stone=True)
            return
        # Without cornerstones the lanes across run through the whole width.
        width = self.body()[0]
        for r in lanes_across:
            add(f"sh{r}", 0.0, first + r * step - sash, width, sash)

    def _across(self, row: int, first: float, lanes, through: set[str]):
        """(name, beginning, end) of the strips in a lane across, long where they run through."""
        step = self.block_size + self.sashing
        start, name = None, ""
        for c in range(self.columns):
            x = first + c * step
            if start is None:
                open_before = c in lanes and f"{row}.{c}" in through
                start, name = x - (self.sashing if open_before else 0.0), f"sh{row}.{c + 1}"
            if c + 1 in lanes and f"{row}.{c + 1}" in through:
                if c == self.columns - 1:
                    yield name, start, x + step
                continue
            yield name, start, x + self.block_size
            start = None
