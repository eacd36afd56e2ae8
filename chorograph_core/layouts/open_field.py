"""One large field with blocks placed on it: open modern tops."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar

import shapely
from shapely.geometry import Polygon, box

from chorograph_core.chart.model import ChartError, Fabric, Patch
from chorograph_core.layouts.base import PALETTE, Exchange, Layout, finite
from chorograph_core.layouts.borders import Border

MOST_PLACED = 400


@dataclass(frozen=True)
class Placed:
    """A block on the field: its top left corner, its size, turned by quarters, mirrored."""

    x: float
    y: float
    size: float
    block: str = "nine_patch"
    turn: int = 0
    mirror: bool = False


@dataclass(frozen=True)
class OpenField(Layout):
    """A field *width* × *height* with blocks let into it."""

    kind: ClassVar[str] = "open_field"
    name: ClassVar[str] = "Open field"

    width: float
    height: float
    placed: tuple[Placed, ...] = ()
    borders: tuple[Border, ...] = ()
    fabrics: tuple[Fabric, ...] = field(default=PALETTE)
    exchanged: tuple[Exchange, ...] = ()
    fitted: tuple[float, ...] = ()

    def check_body(self) -> None:
        """A field, and blocks that lie on it without covering one another."""
        finite(width=self.width, height=self.height)
        for name, size in (("width", self.width), ("height", self.height)):
            if not size >= 1:
                raise ChartError("The field is at least 1″ each way.", name)
        if len(self.placed) > MOST_PLACED:
            raise ChartError(f"There can be up to {MOST_PLACED} placed blocks.", "placed")
        squares = []
        for number, each in enumerate(self.placed, 1):
            finite(placed=each.x + each.y + each.size)
            if each.size < 1:
                raise ChartError(f"Block {number} must be at least 1″.", "placed")
            inside = (
                0 <= each.x <= self.width - each.size and 0 <= each.y <= self.height - each.size
            )
            if not inside:
                raise ChartError(f"Block {number} does not lie on the field.", "placed")
            squares.append(box(each.x, each.y, each.x + each.size, each.y + each.size))
        for number, square in enumerate(squares):
            for other in range(number):
                if square.intersection(squares[other]).area > 1e-6:
                    raise ChartError(f"Blocks {other + 1} and {number + 1} overlap.", "placed")

    def size_field(self) -> str:
        """The width is what one would change."""
        return "width"

    def body(self) -> tuple[float, float]:
        """The field."""
        return self.width, self.height

    def patches(self) -> list[Patch]:
        """The blocks, and the field in the pieces they leave."""
        made: list[Patch] = []
        squares = []
        for number, each in enumerate(self.placed):
            made += self.block_patches(each.block, (0, number), each.x, each.y, each.size, None,
                                       each.turn, each.mirror)  # fmt: skip
            squares.append(box(each.x, each.y, each.x + each.size, each.y + each.size))
        field_ = box(0, 0, self.width, self.height)
        rest = shapely.difference(field_, shapely.union_all(squares)) if squares else field_
        parts = [
            p for p in getattr(rest, "geoms", [rest]) if isinstance(p, Polygon) and p.area > 1e-6
        ]
        for number, part in enumerate(parts, 1):
            name = "field" if number == 1 else f"field{number}"
            made.append(Patch(name, part, "field", "a", None, "field"))
        return made
