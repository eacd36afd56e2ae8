"""Where a design is to lie: the cloth, and what lies round it already."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from shapely import STRtree

from chorograph_core.chart.side_by_side import lying_beside
from chorograph_core.choosing.take_up import PLAIN_LOFT, side_of
from chorograph_core.designs import designs
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.estimating import fullness
from chorograph_core.job import Job
from chorograph_core.reckon import evenness
from chorograph_core.zones import Zone

TOUCHES = 0.4
"""Inches that two zones share before they are neighbours."""


@dataclass(frozen=True)
class Beside:
    """A neighbour: its zone, what it is called, the design in it (empty: none yet), its family,
    inches stitched a square inch, and how busy its cloth is."""

    zone: str
    name: str
    design: str
    family: str
    density: float
    busy: float


@dataclass(frozen=True)
class Custom:
    """What is known of the studio: yards of each thread *at_hand* by its key, in how many of its last
    *quilts* each design was *used*."""

    at_hand: Mapping[str, float] = field(default_factory=dict)
    used: Mapping[str, int] = field(default_factory=dict)
    quilts: int = 0


@dataclass(frozen=True)
class Setting:
    """A place: one *pattern* zone that stands for all of them, their ids, the cloth, who lies
    beside them, and how wide a gap the batting forgives (inches, 0: none chosen). *full*: the share by
    which a border here is fuller than the body; *loft* of the batting, inches; *custom* of the studio."""

    pattern: Zone
    zones: tuple[str, ...]
    fabric: str
    colour: str
    busy: float
    beside: tuple[Beside, ...]
    gap: float
    role: str = ""
    full: float = 0.0
    loft: float = PLAIN_LOFT
    custom: Custom = field(default_factory=Custom)

    @property
    def area(self) -> float:
        return self.pattern.polygon.area


def setting_of(
    core: Job, ids: Sequence[str], drawn: Sequence[LayerLinework], custom: Custom | None = None
) -> Setting:
    """The place of the zones called *ids* in a job whose linework is *drawn*.

    Raises KeyError for a zone that is not there.
    """
    members = [core.zone(zone) for zone in ids]
    pattern = max(members, key=lambda zone: zone.polygon.area)
    patch = core.chart.patch(pattern.patches[0]) if pattern.patches else None
    fabric = core.chart.fabric(patch.fabric) if patch is not None else None
    batting = core.intake.batting
    return Setting(
        pattern, tuple(ids), fabric.name if fabric else "", fabric.colour if fabric else "#e9dfc8",
        fabric.busy if fabric else 0.0, _beside(core, pattern, set(ids), drawn),
        batting.gap if batting else 0.0, str(patch.role) if patch is not None else "",
        _full(core, pattern) if patch is not None and patch.role == "border" else 0.0,
        batting.loft * batting.layers if batting else PLAIN_LOFT, custom or Custom(),
    )  # fmt: skip


def _full(core: Job, zone: Zone) -> float:
    side = side_of(core.chart.outline.bounds, zone)
    return next((each.share for each in fullness(core.intake.measures) if each.side == side), 0.0)


def _beside(
    core: Job, pattern: Zone, own: set[str], drawn: Sequence[LayerLinework]
) -> tuple[Beside, ...]:
    zones = [zone for zone in core.zones if zone.id not in own]
    if not zones:
        return ()
    near, shared = lying_beside(pattern.polygon, STRtree([zone.polygon for zone in zones]))
    found = [zones[k] for k in near[shared > TOUCHES]]
    names = {zone.id for zone in found}
    even = evenness(found, [one for one in drawn if one.zone in names]) if found else {}
    entry_of, entries = core.entry_of(), {entry.id: entry for entry in core.legend}
    made = []
    for zone in found:
        entry = entries.get(entry_of.get(zone.id, ""))
        layers = [la for la in entry.layers if la.design in designs()] if entry else []
        main = next((la for la in layers if designs()[la.design].role != "ditch"), None)
        drawing = designs().get(main.design) if main else None
        patch = core.chart.patch(zone.patches[0]) if zone.patches else None
        busy = core.chart.fabric(patch.fabric).busy if patch is not None else 0.0
        made.append(
            Beside(zone.id, (entry.name if entry else "") or zone.label or "its neighbour",
                   drawing.key if drawing else "", drawing.family if drawing else "",
                   even[zone.id].density if zone.id in even else 0.0, busy)
        )  # fmt: skip
    return tuple(made)
