"""What every layout promises: a check that names the field, a body of patches, borders round it."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import ClassVar

from shapely.affinity import scale
from shapely.geometry import Polygon, box

from chorograph_core.blocks.library import block
from chorograph_core.chart.model import HALF, Chart, ChartError, Fabric, Patch, Role
from chorograph_core.layouts.borders import (
    MOST_BORDERS,
    SMALLEST_PATCH,
    Border,
    around,
    border_notes,
    framed,
)
from chorograph_core.measure import format_inches

MOST_BLOCKS = 2_500
MOST_SPREAD = 0.06
"""Share of a side up to which seams and stretch explain what the tape says."""
LARGEST_TOP = 160.0
"""Inches. No frame in a working studio takes a wider top."""

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
LATER = (
    Fabric("border5", "moss", "#8d9a6e", 0.1),
    Fabric("border6", "wheat", "#dcc48f", 0.1),
    Fabric("setting", "chalk", "#ece2cd", 0.05, True),
)
"""Fabrics added to a chart only where they are used."""


@dataclass(frozen=True)
class Exchange:
    """A block that differs from what the layout would lay: where (from 0), which, turned, mirrored."""

    row: int
    column: int
    block: str
    turn: int = 0
    mirror: bool = False


class Layout(ABC):
    """A way to lay out a top. All sizes are finished sizes in inches.

    A layout is a frozen dataclass with *borders*, *exchanged* blocks and, where the sum of its parts
    was spread to what the tape says, that size as *fitted*; `patches` gives its body with the origin
    at the body's top left corner.
    """

    kind: ClassVar[str]
    name: ClassVar[str]
    borders: tuple[Border, ...]
    fabrics: tuple[Fabric, ...] = PALETTE
    exchanged: tuple[Exchange, ...] = ()
    fitted: tuple[float, ...] = ()

    @abstractmethod
    def check_body(self) -> None:
        """Raise `ChartError`, naming the field, for numbers that no body can have."""

    @abstractmethod
    def body(self) -> tuple[float, float]:
        """Width and height of the body, without borders."""

    @abstractmethod
    def patches(self) -> list[Patch]:
        """The patches of the body. Only after `check`."""

    def check(self) -> None:
        """Raise `ChartError`, naming the field, for numbers that no top can have."""
        self.check_body()
        if len(self.borders) > MOST_BORDERS:
            raise ChartError(f"There can be up to {MOST_BORDERS} borders.", "borders")
        for number, border in enumerate(self.borders, 1):
            border.check(f"border{number}", number)
        for each in self.exchanged:
            block(each.block)
        width, height = self.parts()
        self._check_fitted(width, height)
        if max(width, height) > LARGEST_TOP:
            raise ChartError(
                f"The top comes to {format_inches(width)} × {format_inches(height)}; "
                f"{format_inches(LARGEST_TOP)} is the largest that can be charted.",
                self.size_field(),
            )

    def size_field(self) -> str:
        """The field to name when the whole top is too large."""
        return "block_size"

    def _check_fitted(self, width: float, height: float) -> None:
        if not self.fitted:
            return
        if len(self.fitted) != 2 or not all(map(math.isfinite, self.fitted)):
            raise ChartError("The measured size is a width and a height.", "fitted")
        for wished, parts in zip(self.fitted, (width, height), strict=True):
            if abs(wished - parts) > MOST_SPREAD * parts:
                raise ChartError(
                    f"The tape and the parts differ by more than {MOST_SPREAD:.0%}: a number is "
                    "wrong. Correct it rather than spread it.",
                    "fitted",
                )

    def notes(self, units: str = "in") -> list[str]:
        """What a quilter should know of how the numbers came out, each a sentence."""
        return border_notes(self.borders, *self.body(), units)

    def size(self) -> tuple[float, float]:
        """Width and height of the whole top in inches: the sum of its parts, or what the tape says
        where that was spread over them."""
        if self.fitted:
            return self.fitted[0], self.fitted[1]
        return self.parts()

    def parts(self) -> tuple[float, float]:
        """The sum of the finished parts, width and height in inches."""
        top, right, bottom, left = around(self.borders)
        width, height = self.body()
        return width + left + right, height + top + bottom

    def chart(self) -> Chart:
        """Compute the chart. Raises `ChartError` as `check` does."""
        self.check()
        width, height = self.body()
        made = framed(self.patches(), width, height, self.borders)
        if self.fitted:
            made = self._spread(made)
        known = {fabric.key for fabric in self.fabrics}
        used = {patch.fabric for patch in made}
        more = tuple(f for f in LATER if f.key in used and f.key not in known)
        return Chart(box(0, 0, *self.size()), tuple(made), tuple(self.fabrics) + more)

    def _spread(self, patches: list[Patch]) -> list[Patch]:
        """All patches stretched by the same share, so that the parts come to what was measured."""
        parts, size = self.parts(), self.size()
        across, down = size[0] / parts[0], size[1] / parts[1]
        return [
            replace(patch, polygon=scale(patch.polygon, across, down, origin=(0, 0)))
            for patch in patches
        ]

    @cached_property
    def _special(self) -> dict[tuple[int, int], Exchange]:
        return {(each.row, each.column): each for each in self.exchanged}

    def block_patches(
        self, key: str, place: tuple[int, int], x: float, y: float, width: float,
        height: float | None = None, turn: int = 0, mirror: bool = False,
    ) -> list[Patch]:  # fmt: skip
        """The patches of a block at (*x*, *y*), *turn* quarter turns clockwise, mirrored or not; or
        of the one that was exchanged for it at this *place*."""
        height = width if height is None else height
        special = self._special.get(place)
        if special is not None:
            key, turn, mirror = special.block, special.turn, special.mirror
        ground = {fabric.key for fabric in self.fabrics if fabric.background}
        made = []
        for piece in block(key).draft(width, height):
            points = [laid(p, width, height, turn, mirror) for p in piece.points]
            shape = Polygon([(round(px + x, 9), round(py + y, 9)) for px, py in points])
            role: Role = "background" if piece.fabric in ground else "block"
            made.append(
                Patch(f"b{place[0] + 1}.{place[1] + 1}.{piece.cell}", shape, role, piece.fabric,
                      place, f"{key}:{piece.cell}", key)
            )  # fmt: skip
        return made


def laid(point, width: float, height: float, turn: int, mirror: bool) -> tuple[float, float]:
    """A point of a block after mirroring left to right and *turn* quarter turns clockwise.

    Turns are those of a square; a block that is not square is only turned by halves.
    """
    x, y = point
    if mirror:
        x = width - x
    for _ in range(turn % 4):
        x, y = height - y, x
    return x, y


def clipped(patches: Iterable[Patch], frame: Polygon) -> list[Patch]:
    """What of *patches* lies within *frame*; halves keep their names."""
    made = []
    for patch in patches:
        if frame.covers(patch.polygon):
            made.append(patch)
            continue
        part = patch.polygon.intersection(frame)
        for k, piece in enumerate(p for p in getattr(part, "geoms", [part]) if p.area > 1e-6):
            if isinstance(piece, Polygon):
                name = patch.id if k == 0 else f"{patch.id}~{k}"
                made.append(Patch(name, piece, patch.role, patch.fabric, patch.block,
                                  f"{patch.cell}{HALF}", patch.kind))  # fmt: skip
    return made


def counted(count: int, name: str, most: int = MOST_BLOCKS) -> None:
    """Refuse fewer than one, and more than can be charted."""
    if count < 1:
        raise ChartError(f"A top needs at least one block: {name} is {count}.", name)
    if count > most:
        raise ChartError(f"{count:,} are too many: {most:,} is the most.", name)


def block_count(rows: int, columns: int) -> None:
    """Refuse no blocks and too many blocks."""
    counted(rows, "rows")
    counted(columns, "columns")
    if rows * columns > MOST_BLOCKS:
        raise ChartError(
            f"{rows} × {columns} is {rows * columns:,} blocks; "
            f"{MOST_BLOCKS:,} is the most that can be charted.",
            "rows",
        )


def grid_fits(
    rows: int, columns: int, block_size: float, blocks: Sequence[str], sashing: float
) -> None:
    """Refuse counts, sizes and blocks that no grid of blocks can have."""
    block_count(rows, columns)
    finite(block_size=block_size, sashing=sashing)
    if not block_size >= 1:
        raise ChartError("A block must be at least 1″, finished.", "block_size")
    if not blocks:
        raise ChartError("Choose a block.", "blocks")
    for key in blocks:
        block(key)
    sashing_fits(sashing, block_size)


def finite(**sizes: float) -> None:
    """Refuse what is no number, naming the field."""
    for name, size in sizes.items():
        if not math.isfinite(size):
            raise ChartError("A size is not a number.", name)


def sashing_fits(sashing: float, block_size: float) -> None:
    """Refuse sashing too narrow to sew, or as wide as the blocks."""
    if sashing < 0 or 0 < sashing < SMALLEST_PATCH:
        raise ChartError("Sashing is 0 or at least 1/4″.", "sashing")
    if sashing >= block_size:
        raise ChartError(
            "The sashing is as wide as the blocks or wider; is that the block size?", "sashing"
        )
