"""Strips side by side, plain or filled with blocks, of any widths."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar

from shapely.geometry import box

from chorograph_core.chart.model import ChartError, Fabric, Patch
from chorograph_core.layouts.base import PALETTE, Exchange, Layout, finite
from chorograph_core.layouts.borders import SMALLEST_PATCH, Border

MOST_STRIPS = 200


@dataclass(frozen=True)
class Strip:
    """One strip: its width, its fabric when plain, its *block* when it is a row of blocks."""

    width: float
    fabric: str = "a"
    block: str = ""


@dataclass(frozen=True)
class Strips(Layout):
    """Strips *length* long that run ``"down"`` or ``"across"``, in order from the left or the top."""

    kind: ClassVar[str] = "strips"
    name: ClassVar[str] = "Strips"

    length: float
    strips: tuple[Strip, ...] = (Strip(6),)
    direction: str = "down"
    borders: tuple[Border, ...] = ()
    fabrics: tuple[Fabric, ...] = field(default=PALETTE)
    exchanged: tuple[Exchange, ...] = ()
    fitted: tuple[float, ...] = ()

    def check_body(self) -> None:
        """A length, and strips wide enough to sew."""
        finite(length=self.length)
        if not self.length >= 1:
            raise ChartError("Strips are at least 1″ long.", "length")
        if self.direction not in ("down", "across"):
            raise ChartError("Strips run down or across.", "direction")
        if not 1 <= len(self.strips) <= MOST_STRIPS:
            raise ChartError(f"There are between one and {MOST_STRIPS} strips.", "strips")
        for number, strip in enumerate(self.strips, 1):
            finite(strips=strip.width)
            if strip.width < SMALLEST_PATCH:
                raise ChartError(f"Strip {number} must be at least 1/4″ wide.", "strips")
            if strip.block and strip.width < 1:
                raise ChartError(f"Strip {number} is too narrow for blocks.", "strips")

    def size_field(self) -> str:
        """The length is what one would change."""
        return "length"

    def body(self) -> tuple[float, float]:
        """The widths together, and the length."""
        across = sum(strip.width for strip in self.strips)
        return (across, self.length) if self.direction == "down" else (self.length, across)

    def patches(self) -> list[Patch]:
        """Strip by strip; blocks are as long as lets a whole number of them fill the strip."""
        made: list[Patch] = []
        at = 0.0
        down = self.direction == "down"
        for number, strip in enumerate(self.strips):
            w = strip.width
            if not strip.block:
                shape = box(at, 0, at + w, self.length) if down else box(0, at, self.length, at + w)
                made.append(Patch(f"strip{number + 1}", shape, "field", strip.fabric, None,
                                  f"strip:{w:g}"))  # fmt: skip
            else:
                count = max(1, round(self.length / w))
                long = self.length / count
                for k in range(count):
                    place = (k, number) if down else (number, k)
                    x, y = (at, k * long) if down else (k * long, at)
                    size = (w, long) if down else (long, w)
                    made += self.block_patches(strip.block, place, x, y, *size)
            at += w
        return made
