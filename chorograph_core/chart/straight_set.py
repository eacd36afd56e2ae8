"""The straight set: blocks in rows and columns, with sashing, cornerstones and borders."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from shapely.geometry import Polygon, box

from chorograph_core.chart.blocks import block, polygon_of
from chorograph_core.chart.model import Chart, ChartError, Fabric, Patch

MOST_BLOCKS = 2_500
LARGEST_TOP = 160.0
"""Inches. No frame in a working studio takes a wider top."""
SMALLEST_PATCH = 0.25

PALETTE = (
    Fabric("a", "oat", "#f1e8d3", 0.05, True),
    Fabric("b", "slate", "#7f9cae", 0.1),
    Fabric("c", "sea glass", "#c3d3ca", 0.2),
    Fabric("d", "russet", "#b77f5c", 0.3),
    Fabric("sash", "linen", "#efe3c6", 0.05),
    Fabric("stone", "slate", "#7f9cae", 0.1),
    Fabric("border1", "spruce", "#86a29a", 0.1),
    Fabric("border2", "biscuit", "#e6d8b4", 0.1),
    Fabric("border3", "clay", "#c79a7a", 0.2),
    Fabric("border4", "ink", "#5d7186", 0.1),
)


@dataclass(frozen=True)
class Border:
    """One border: width in inches, corner ``"butted"`` or ``"mitred"``."""

    width: float
    corner: str = "butted"


@dataclass(frozen=True)
class StraightSet:
    """The numbers a straight set is made of, all finished sizes in inches.

    *blocks* are block keys: two alternate as a chequerboard, more follow one another row by row.
    """

    rows: int
    columns: int
    block_size: float
    blocks: Sequence[str] = ("nine_patch",)
    sashing: float = 0.0
    outer_sashing: bool = False
    cornerstones: bool = False
    borders: Sequence[Border] = ()
    fabrics: Sequence[Fabric] = field(default=PALETTE)

    def check(self) -> None:
        """Raise `ChartError`, naming the field, for numbers no top can have."""
        for name, count in (("rows", self.rows), ("columns", self.columns)):
            if count < 1:
                raise ChartError(f"A top needs at least one block: {name} is {count}.", name)
        if self.rows * self.columns > MOST_BLOCKS:
            raise ChartError(
                f"{self.rows} × {self.columns} is {self.rows * self.columns:,} blocks; "
                f"{MOST_BLOCKS:,} is the most that can be charted.",
                "rows",
            )
        sizes = [self.block_size, self.sashing, *(border.width for border in self.borders)]
        if not all(map(math.isfinite, sizes)):
            raise ChartError("A size is not a number.", "block_size")
        if not self.block_size >= 1:
            raise ChartError("A block must be at least 1 inch, finished.", "block_size")
        if not self.blocks:
            raise ChartError("Choose a block.", "blocks")
        if self.sashing < 0 or 0 < self.sashing < SMALLEST_PATCH:
            raise ChartError("Sashing is 0 or at least 1/4 inch.", "sashing")
        if self.sashing >= self.block_size:
            raise ChartError(
                "The sashing is as wide as the blocks or wider; is that the block size?", "sashing"
            )
        if len(self.borders) > 4:
            raise ChartError("There can be up to four borders.", "borders")
        for number, border in enumerate(self.borders, 1):
            if not border.width >= SMALLEST_PATCH:
                raise ChartError(f"Border {number} must be at least 1/4 inch.", f"border{number}")
            if border.corner not in ("butted", "mitred"):
                raise ChartError(f"Border {number} is butted or mitred.", f"border{number}")
        width, height = self.size()
        if max(width, height) > LARGEST_TOP:
            raise ChartError(
                f"The top comes to {width:g} × {height:g} inches; "
                f"{LARGEST_TOP:g} is the largest that can be charted.",
                "block_size",
            )

    def body(self) -> tuple[float, float]:
        """Width and height of blocks and sashing, without borders, in inches."""
        extra = 1 if self.outer_sashing else -1
        return (
            self.columns * self.block_size + (self.columns + extra) * self.sashing,
            self.rows * self.block_size + (self.rows + extra) * self.sashing,
        )

    def size(self) -> tuple[float, float]:
        """Finished width and height of the whole top in inches."""
        around = 2 * sum(border.width for border in self.borders)
        width, height = self.body()
        return width + around, height + around

    def chart(self) -> Chart:
        """Compute the chart. Raises `ChartError` as `check` does."""
        self.check()
        around = sum(border.width for border in self.borders)
        patches: list[Patch] = []
        self._blocks(patches, around)
        if self.sashing:
            self._sashing(patches, around)
        self._borders(patches, around)
        return Chart(box(0, 0, *self.size()), tuple(patches), tuple(self.fabrics))

    def _blocks(self, patches: list[Patch], around: float) -> None:
        step = self.block_size + self.sashing
        first = around + (self.sashing if self.outer_sashing else 0)
        ground = {fabric.key for fabric in self.fabrics if fabric.background}
        for r in range(self.rows):
            for c in range(self.columns):
                turn = r + c if len(self.blocks) == 2 else r * self.columns + c
                key = self.blocks[turn % len(self.blocks)]
                for piece in block(key).draft(self.block_size):
                    patches.append(
                        Patch(
                            f"b{r + 1}.{c + 1}.{piece.cell}",
                            polygon_of(piece, first + c * step, first + r * step),
                            "background" if piece.fabric in ground else "block",
                            piece.fabric,
                            (r, c),
                            f"{key}:{piece.cell}",
                            key,
                        )
                    )

    def _sashing(self, patches: list[Patch], around: float) -> None:
        size, sash, step = self.block_size, self.sashing, self.block_size + self.sashing
        outer = self.outer_sashing
        first = around + (sash if outer else 0)
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
            add(f"sh{r}", around, first + r * step - sash, width, sash)

    def _borders(self, patches: list[Patch], around: float) -> None:
        width, height = self.size()
        inset = around
        for number, border in enumerate(self.borders, 1):
            x0, y0, x1, y1 = inset, inset, width - inset, height - inset
            w = border.width
            if border.corner == "mitred":
                sides = {
                    "top": [(x0 - w, y0 - w), (x1 + w, y0 - w), (x1, y0), (x0, y0)],
                    "right": [(x1 + w, y0 - w), (x1 + w, y1 + w), (x1, y1), (x1, y0)],
                    "bottom": [(x1 + w, y1 + w), (x0 - w, y1 + w), (x0, y1), (x1, y1)],
                    "left": [(x0 - w, y1 + w), (x0 - w, y0 - w), (x0, y0), (x0, y1)],
                }
                shapes = {side: Polygon(points) for side, points in sides.items()}
            else:
                shapes = {
                    "left": box(x0 - w, y0, x0, y1),
                    "right": box(x1, y0, x1 + w, y1),
                    "top": box(x0 - w, y0 - w, x1 + w, y0),
                    "bottom": box(x0 - w, y1, x1 + w, y1 + w),
                }
            for side in ("top", "right", "bottom", "left"):
                patches.append(
                    Patch(
                        f"border{number}.{side}", shapes[side], "border", f"border{number}",
                        None, f"border{number}:{side}",
                    )
                )  # fmt: skip
            inset -= w
