"""The chart: a top as patches that tile an outline, in inches, x right and y down."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Literal, get_args

from msgspec import Meta
from shapely.geometry import LineString, Polygon

from chorograph_core.measure.limits import Colour, Key, Name, Share

Role = Literal[
    "block", "background", "sashing", "cornerstone", "border", "corner", "applique", "field"
]
"""What a patch is in the top."""
ROLES: tuple[str, ...] = get_args(Role)
LongKey = Annotated[str, Meta(max_length=120)]
HALF = "/half"
"""How the cell of a patch ends that is what the end of a row leaves of one."""


class ChartError(ValueError):
    """The chart cannot be made or read. *field* names what is wrong, the message says how."""

    def __init__(self, message: str, field: str = "") -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class Patch:
    """One piece of fabric.

    *block* is the (row, column) it belongs to, None outside blocks; *cell* names its place within
    the block, the same name for the same place in every block of a kind.
    """

    id: LongKey
    polygon: Polygon
    role: Role = "block"
    fabric: Key = "a"
    block: tuple[int, int] | None = None
    cell: LongKey = ""
    kind: Key = ""


@dataclass(frozen=True)
class Fabric:
    """A fabric as far as quilting needs it: a colour (``#rrggbb``), a name, how busy (0 to 1)."""

    key: Key
    name: Name
    colour: Colour
    busy: Share = 0.0
    background: bool = False


@dataclass(frozen=True)
class Seam:
    """A shared edge. *left* and *right* are patch ids as one walks along *line*; an edge of the
    top has an empty id on its outer side. *low* names the patch on the low side, if known."""

    id: str
    line: LineString
    left: str
    right: str
    low: str = ""

    @property
    def on_outline(self) -> bool:
        return not self.left or not self.right


@dataclass(frozen=True)
class Chart:
    """Outline, patches and fabrics. Seams are derived: see `chorograph_core.chart.seams`."""

    outline: Polygon
    patches: Annotated[tuple[Patch, ...], Meta(min_length=1, max_length=20_000)]
    fabrics: Annotated[tuple[Fabric, ...], Meta(max_length=200)] = ()

    @cached_property
    def _index(self) -> dict[str, Patch]:
        return {patch.id: patch for patch in self.patches}

    @property
    def width(self) -> float:
        """Widest extent in inches."""
        return self.outline.bounds[2] - self.outline.bounds[0]

    @property
    def height(self) -> float:
        """Tallest extent in inches."""
        return self.outline.bounds[3] - self.outline.bounds[1]

    def patch(self, patch_id: str) -> Patch:
        """Return the patch called *patch_id*; KeyError if there is none."""
        return self._index[patch_id]

    def fabric(self, key: str) -> Fabric:
        """Return the fabric called *key*, or a plain one."""
        for fabric in self.fabrics:
            if fabric.key == key:
                return fabric
        return Fabric(key, key, "#d9d2c3")
