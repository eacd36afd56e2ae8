"""The legend: which zones get which layers of design, thread and stitch length."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Literal

from msgspec import Meta

from chorograph_core.chart import Placement
from chorograph_core.designs.contract import Role
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.registry import designs
from chorograph_core.designs.space import Space
from chorograph_core.measure.limits import Colour, Key, Name, Positive

ZoneId = Annotated[str, Meta(max_length=160)]
Guide = Annotated[tuple[tuple[float, float], ...], Meta(max_length=400)]
MOST_GUIDES = 24
"""Guides of one layer, at most."""


@dataclass(frozen=True)
class Layer:
    """One design in a zone. *passes*: how often each line is stitched over; *version*: that of the
    design whose settings these are. *over* ``"zone"``: each zone has its own, sisters alike;
    ``"turned"``: those of a block are turned round its middle; ``"level"``: all lie the same way;
    ``"varied"``: each sister is drawn a little otherwise; ``"region"``: it is laid over all zones of its
    entry as one figure and comes back as pieces; ``"sides"``: as one figure over each side of a border;
    ``"whole"``: each zone is the half of a whole and has half
    of what would be drawn in that. *guide*: a line on the top, inches, that the design follows in the zone
    it lies in and, laid alike, in that one's sisters; *guide_width* inches wide along it, to the edge where
    0; *more_guides*: others, for zones that are no sisters of that one."""

    design: Key
    settings: Mapping[str, Any] = field(default_factory=dict)
    thread: Key = "main"
    spi: Annotated[float, Meta(ge=4, le=24)] = 11.0
    passes: Annotated[int, Meta(ge=1, le=6)] = 1
    seed: Annotated[int, Meta(ge=0, le=2**31 - 1)] = 0
    version: Annotated[int, Meta(ge=1, le=10_000)] = 1
    over: Literal["zone", "turned", "level", "varied", "region", "sides", "whole"] = "zone"
    guide: Guide = ()
    guide_width: Annotated[float, Meta(ge=0, le=48)] = 0.0
    more_guides: Annotated[tuple[Guide, ...], Meta(max_length=MOST_GUIDES - 1)] = ()

    @property
    def guides(self) -> tuple[Guide, ...]:
        """All of its guides."""
        return (self.guide, *self.more_guides) if self.guide else ()

    @property
    def as_one(self) -> bool:
        """Whether it is drawn over several zones at once."""
        return self.over in ("region", "sides")


@dataclass(frozen=True)
class Entry:
    """One line of the legend: a name, zones by id, and layers in stitching order."""

    id: Key
    name: Name
    zones: Annotated[tuple[ZoneId, ...], Meta(max_length=20_000)]
    layers: Annotated[tuple[Layer, ...], Meta(min_length=1, max_length=8)]


def main_layer(entry: Entry) -> int:
    """Which layer the entry is known by: a motif round which a ground is laid, or what follows a guide at a
    width of its own; else the last one."""
    for k, layer in enumerate(entry.layers[:-1]):
        if role_of(layer) == "motif" or (layer.guide and layer.guide_width > 0):
            return k
    return len(entry.layers) - 1


def spi_in(entry: Entry | None, run: str, seams: Sequence[str] = ()) -> float | None:
    """Stitches per inch of a stitched line: of the layer that its *run* is named after, or of the entry's
    ditches where it lies along *seams*. None where the legend does not say."""
    if entry is None:
        return None
    if seams:
        return next((layer.spi for layer in entry.layers if role_of(layer) == "ditch"), None)
    layer = run.rsplit("/", 2)[-2:-1]
    if not layer or not layer[0].isdecimal() or int(layer[0]) >= len(entry.layers):
        return None
    return entry.layers[int(layer[0])].spi


@dataclass(frozen=True)
class Thread:
    """A thread: key, name, colour ``#rrggbb``, weight (wt), and what one cone holds in yards."""

    key: Key
    name: Name
    colour: Colour
    weight: Positive = 40.0
    yards: Positive = 1500.0


@dataclass(frozen=True)
class Figure:
    """What is drawn over several *zones* as one: its *space* and all its linework. *key* is its name in a
    route, made of the name of its first zone."""

    key: str
    zones: tuple[str, ...]
    space: Space
    linework: Linework


@dataclass(frozen=True)
class LayerLinework:
    """The linework of one layer of one zone, with what the route must know about it.

    *pattern* and *placement* say where it was drawn first and how it was laid here, so that it can
    be drawn again from other doorways; None where it cannot. *fault* is a sentence where it could
    not be drawn, or not all of it. *figure* is the whole that the linework is a piece of.
    """

    zone: str
    entry: str
    layer: int
    design: str
    thread: str
    spi: float
    passes: int
    linework: Linework
    pattern: Space | None = None
    placement: Placement | None = None
    settings: Mapping[str, Any] = field(default_factory=dict)
    seed: int = 0
    role: Role = "fill"
    fault: str = ""
    figure: Figure | None = None

    def key(self, run: int) -> str:
        """Name of one run in the route: its zone, its layer, its figure. Never a place in a graph,
        so that a log and a second plan speak of the same thing."""
        figure = self.linework.runs[run].figure if run < len(self.linework.runs) else ""
        return f"{self.zone}/{self.layer}/{figure or run}"

    def unit_key(self, run: int, unit: int) -> str:
        """Name of one unit of a run: its run and its own name."""
        return f"{self.key(run)}/{self.linework.runs[run].stops()[unit].name}"


def settled_layer(layer: Layer) -> tuple[Layer, tuple[str, ...]]:
    """The layer with settings that its design can use, and a sentence for each that was changed.

    A design that is not known here stays as it is: it draws nothing, and the legend says so.
    """
    drawing = designs().get(layer.design)
    if drawing is None:
        return layer, (f"there is no design called “{layer.design}” here; choose another.",)
    settings, said = drawing.settled(layer.settings, layer.version)
    return replace(layer, settings=settings, version=drawing.version), said


def role_of(layer: Layer) -> Role:
    """What the layer's design is in a zone; an unknown one fills."""
    drawing = designs().get(layer.design)
    return "fill" if drawing is None else drawing.role
