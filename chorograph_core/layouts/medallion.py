"""The medallion: a centre, and rings of plain or pieced fabric round it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import ClassVar

from chorograph_core.blocks.library import block
from chorograph_core.chart.model import ChartError, Fabric, Patch
from chorograph_core.layouts.base import PALETTE, Exchange, Layout, finite
from chorograph_core.layouts.borders import Border, around, framed

MOST_RINGS = 12
COLOURS = ("c", "d", "b")


@dataclass(frozen=True)
class Medallion(Layout):
    """A centre block and *rings* from the inside out, each made like a border."""

    kind: ClassVar[str] = "medallion"
    name: ClassVar[str] = "Medallion"

    centre_size: float
    centre: str = "sawtooth_star"
    rings: tuple[Border, ...] = (Border(3, "block"),)
    borders: tuple[Border, ...] = ()
    fabrics: tuple[Fabric, ...] = field(default=PALETTE)
    exchanged: tuple[Exchange, ...] = ()
    fitted: tuple[float, ...] = ()

    def check_body(self) -> None:
        """A centre and rings that can be sewn."""
        finite(centre_size=self.centre_size)
        if not self.centre_size >= 1:
            raise ChartError("The centre is at least 1″, finished.", "centre_size")
        block(self.centre)
        if len(self.rings) > MOST_RINGS:
            raise ChartError(f"There can be up to {MOST_RINGS} rings.", "rings")
        for number, ring in enumerate(self.rings, 1):
            try:
                ring.check("rings", number)
            except ChartError as error:
                raise ChartError(str(error).replace("Border", "Ring"), "rings") from None

    def size_field(self) -> str:
        """The centre is what one would change."""
        return "centre_size"

    def body(self) -> tuple[float, float]:
        """The centre and the rings."""
        top, right, bottom, left = around(self.rings)
        return self.centre_size + left + right, self.centre_size + top + bottom

    def patches(self) -> list[Patch]:
        """The centre, then ring after ring."""
        centre = self.block_patches(self.centre, (0, 0), 0, 0, self.centre_size)
        made = framed(centre, self.centre_size, self.centre_size, self.rings, "ring")
        # Rings take the block's own colours in turn; what is ground or a cornerstone stays so.
        return [
            replace(p, fabric=COLOURS[(int(p.id[4:].split(".")[0]) - 1) % len(COLOURS)])
            if p.id.startswith("ring") and p.fabric not in ("a", "stone")
            else p
            for p in made
        ]
