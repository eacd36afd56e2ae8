"""Another design, chosen at the machine: for one place, or for all like it that are still to come."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from chorograph_core.designs import Design, SettingError, Settings, designs
from chorograph_core.designs.legend import Entry, Layer, main_layer
from chorograph_core.job import Job as CoreJob
from chorograph_core.job import job_linework
from chorograph_core.reckon import reckon
from chorograph_core.route import State
from chorograph_core.zones import Zone
from chorograph_core.zones.places import sisters_of
from studio.asking import EditError
from studio.stitching.following import Followed
from studio.workbench.edits import drawn_first, keep_entry, nothing_drawn
from studio.workbench.linework import DRAWINGS, path_of
from studio.workbench.tray import Tile, begun_with, space_of

MOST_TILES = 8
"""Designs that are shown to choose from: on a card at the machine nobody leafs through sixty."""
MARGIN = 0.04
"""Share of a zone's size that is left round it."""
FINE = 0.0006
"""Share of a zone's size by which its drawn lines may be off."""


@dataclass(frozen=True)
class Spot:
    """What can be changed from a leg: zones of its *entry* that lie *here*, and their *sisters*, nothing of
    which is stitched. *zone* is the one that is drawn."""

    entry: Entry
    here: tuple[str, ...]
    sisters: tuple[str, ...]
    zone: Zone

    def zones(self, whom: str) -> tuple[str, ...]:
        """Those that are meant: *here*, the *sisters* alone, or *all* of both."""
        return {"here": self.here, "sisters": self.sisters}.get(whom, (*self.here, *self.sisters))

    @property
    def main(self) -> Layer:
        """The layer that the entry is known by."""
        return self.entry.layers[main_layer(self.entry)]


@dataclass(frozen=True)
class Look:
    """A change as it would come out in the zone that is drawn: path data of its lines and the minutes of one
    such zone."""

    path: str
    minutes: float


def spot_of(core: CoreJob, now: Followed, number: int, state: State) -> Spot:
    """What can be changed from the leg *number*, when the plan began from *state*. Raises EditError."""
    leg = now.legs[number] if 0 <= number < len(now.legs) else None
    entry = next((e for e in core.legend if leg is not None and e.id == leg.entry), None)
    if leg is None or leg.kind != "fill" or entry is None:
        raise EditError("Only a filling has a design: go to the one you mean, then change it.")
    if entry.layers[main_layer(entry)].over == "region":
        raise EditError(
            f"{entry.name} runs over many zones as one figure: change it on the sheet, under Designs."
        )
    touched = {_zone(name) for name in (*state.done, *(begun.run for begun in state.begun))}
    there: set[str] = set()
    for each in now.legs:
        if each.kind == "fill" and each.entry == entry.id:
            zones = {_zone(run) for run in each.runs}
            if each.number in now.behind:
                touched |= zones
            there |= zones
    left = [name for name in entry.zones if name in there and name not in touched]
    mine = {_zone(run) for run in leg.runs}
    here = tuple(name for name in left if name in mine)
    alike = set(sisters_of(core.chart, core.zones, here or sorted(mine)))
    sisters = tuple(name for name in left if name in alike and name not in mine)
    if not here and not sisters:
        raise EditError(
            "All of it is begun already. Rip out what shall be otherwise, then change it."
        )
    shapes = {zone.id: zone for zone in core.zones}
    return Spot(entry, here, sisters, shapes[(here or sisters)[0]])


def _zone(run: str) -> str:
    return run.rsplit("/", 2)[0]


def chosen_design(
    core: CoreJob, spot: Spot, values: Mapping[str, Any], unit: str
) -> tuple[Design, Settings]:
    """The design and the settings that a card asks for: what is not asked stays. Raises EditError that names
    the field."""
    main = spot.main
    drawing = designs().get(values.get("design") or main.design)
    if drawing is None:
        raise EditError("Choose one of the designs that are shown.", "design")
    settings = begun_with(drawing, space_of(core, spot.zone), main)
    if values.get("of") != drawing.key:
        return drawing, settings
    given = {p.key: values[f"set_{p.key}"] for p in drawing.parameters
             if p.kind != "stroke" and str(values.get(f"set_{p.key}", "")).strip()}  # fmt: skip
    try:
        settings = drawing.clean({**vars(settings), **given}, unit)
        name, _, way = str(values.get("step", "")).partition(":")
        for p in drawing.parameters:
            if p.key == name and p.kind not in ("choice", "stroke"):
                value = getattr(settings, name) + (p.step or 1) * (-1 if way == "less" else 1)
                value = min(max(value, p.low), p.high)
                settings = drawing.clean({**vars(settings), name: value}, unit)
    except SettingError as error:
        raise EditError(str(error), f"set_{error.field}") from None
    return drawing, settings


def tiles_for(tiles: Sequence[Tile], chosen: str) -> list[Tile]:
    """The first designs of a tray that can be changed to at the machine, the *chosen* one among them."""
    able = [t for t in tiles if not t.stroke and t.design.role not in ("ditch", "frame")][
        :MOST_TILES
    ]
    if chosen in {tile.design.key for tile in able}:
        return able
    return [*able[: MOST_TILES - 1], *(tile for tile in tiles if tile.design.key == chosen)]


def view_of(zone: Zone) -> str:
    """The view box in which a zone is drawn alone."""
    x0, y0, x1, y1 = zone.polygon.bounds
    pad = MARGIN * max(x1 - x0, y1 - y0)
    return f"{x0 - pad:.2f} {y0 - pad:.2f} {x1 - x0 + 2 * pad:.2f} {y1 - y0 + 2 * pad:.2f}"


def changed(
    core: CoreJob, spot: Spot, drawing: Design, settings: Settings, whom: str
) -> tuple[CoreJob, str]:
    """The job with another design in the zones that are meant, and the entry that has it. Raises
    EditError."""
    zones = spot.zones(whom)
    if not zones:
        raise EditError("Choose where it goes.", "whom")
    at = main_layer(spot.entry)
    layer = replace(spot.main, design=drawing.key, settings=vars(settings), version=drawing.version)
    rest = spot.entry.layers[at + 1 :] if drawing.role == "motif" else ()
    before = spot.entry.layers[:at]
    if drawing.role in ("ditch", "frame"):
        before = tuple(each for each in before if designs()[each.design].role != drawing.role)
    if not drawing.guided:
        layer = replace(layer, guide=(), guide_width=0.0, more_guides=())
    same = drawing.key == spot.main.design
    whole = set(zones) == set(spot.entry.zones)
    name = spot.entry.name if same and whole else _free_name(core, spot, drawing.name)
    made = keep_entry(core, spot.entry.id if whole else "", name, zones, [*before, layer, *rest])
    owner = made.entry_of()[zones[0]]
    return made, owner


def _free_name(core: CoreJob, spot: Spot, name: str) -> str:
    """A name for the entry that tells it from the others."""
    taken = {entry.name for entry in core.legend if entry.id != spot.entry.id} | {spot.entry.name}
    names = [name, *(f"{name}, otherwise{'' if k == 1 else f' {k}'}" for k in range(1, 99))]
    return next((each for each in names if each not in taken), name)[:60]


def look_at(core: CoreJob, spot: Spot, drawing: Design, settings: Settings) -> Look:
    """How it would come out. Raises EditError where it draws nothing."""
    made, owner = changed(core, spot, drawing, settings, "here" if spot.here else "sisters")
    entry = next(each for each in made.legend if each.id == owner)
    drawn = [one for one in job_linework(made, DRAWINGS, {owner}) if one.zone == spot.zone.id]
    own = [one for one in drawn if one.layer == main_layer(entry)]
    if not any(one.linework.runs for one in own):
        raise nothing_drawn(made, entry, own)
    whole, _ = reckon([one for one in drawn if not any(r.in_ditch for r in one.linework.runs)],
                      made.loaded_machine)  # fmt: skip
    x0, y0, x1, y1 = spot.zone.polygon.bounds
    error = FINE * max(x1 - x0, y1 - y0)
    return Look(" ".join(path_of(one.linework, error) for one in drawn), whole.minutes)


def kept(core: CoreJob, spot: Spot, drawing: Design, settings: Settings, whom: str) -> CoreJob:
    """The job with the change, drawn before it is kept. Raises EditError."""
    made, owner = changed(core, spot, drawing, settings, whom)
    drawn_first(made, owner, DRAWINGS)
    return made
