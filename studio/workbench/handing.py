"""Part of a quilt on another machine: read, told in words, given over and taken back."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace
from typing import Any

from chorograph_core.designs.registry import designs
from chorograph_core.job import Job as CoreJob
from chorograph_core.reckon import Machine, Rates
from chorograph_core.route.handing_over import Handover
from chorograph_core.route.passes import OutOfReach, passes_of
from studio.accounts.models import Studio
from studio.asking import EditError
from studio.shelf.choices import ShelfChoices

Machines = Mapping[str, Callable[[Machine], Machine]]


def others_of(studio: Studio, core: CoreJob) -> list[tuple[str, str]]:
    """The machines, by key and name, that can take over part of a quilt: those it needs no frame for."""
    shelf = ShelfChoices(studio)
    made = {key: put(core.machine) for key, put in shelf.machines.items()}
    return [(key, name) for key, name in shelf.machine_names()
            if made[key].kind == "sit-down" and made[key] != core.machine]  # fmt: skip


def asked_handover(
    core: CoreJob, machines: Machines, people: Collection[str], values: Mapping[str, Any]
) -> Handover:
    """What was asked to go to another machine, what goes there already with it. Raises EditError."""
    who = str(values.get("who", ""))
    if who and who not in people:
        raise EditError("Choose somebody who works here, or the same hands.", "who")
    put = machines.get(str(values.get("machine", "")))
    if put is None:
        raise EditError("Choose one of the machines on the Shelf.", "machine")
    machine = replace(put(core.machine), rates=Rates())
    if machine.kind != "sit-down":
        raise EditError(
            f"The {machine.name} is a frame: a quilt is not loaded on a frame again for a part of it. "
            "Choose a sit-down machine.", "machine",
        )  # fmt: skip
    there = {zone.id for zone in core.zones}
    zones = [name for name in str(values.get("mine", "")).split(",") if name in there]
    if not zones:
        raise EditError("Touch the zones on the sheet first.")
    known = core.handover.zones if core.handover is not None else ()
    made = Handover(machine, tuple(dict.fromkeys((*known, *zones))), who)
    _refuse_other_foot(core, made)
    _refuse_half_figures(core, made)
    _refuse_too_large(core, made)
    return made


def _refuse_other_foot(core: CoreJob, handover: Handover) -> None:
    """Ruler layouts are fitted for one foot."""
    if abs(core.machine.foot_radius - handover.machine.foot_radius) < 1e-4:
        return
    ruled = {
        key for key, each in designs().items() if each.family == "ruler" and each.role != "ditch"
    }
    for entry in core.legend:
        by_ruler = any(layer.design in ruled for layer in entry.layers)
        if by_ruler and not set(entry.zones).isdisjoint(handover.zones):
            raise EditError(
                f"{entry.name or entry.id} is ruler work, laid out for the foot of the "
                f"{core.machine.name}; that of the {handover.machine.name} is another one. "
                "Hand over freehand work, or measure both feet on the Shelf.", "machine",
            )  # fmt: skip


def _refuse_half_figures(core: CoreJob, handover: Handover) -> None:
    """What lies over several zones as one is stitched in one go."""
    for entry in core.legend:
        whole = any(layer.as_one for layer in entry.layers)
        left = set(entry.zones) - set(handover.zones)
        if whole and left and len(left) < len(entry.zones):
            raise EditError(
                f"{entry.name or entry.id} lies over {len(entry.zones)} zones as one: all of them go to one "
                "machine.", "mine",
            )  # fmt: skip


def _refuse_too_large(core: CoreJob, handover: Handover) -> None:
    """A quilt that is kept must have a plan."""
    _, top, _, bottom = core.chart.outline.bounds
    machine = replace(core, handover=handover).loaded_handover
    try:
        if machine is not None:
            passes_of(machine.machine, top, bottom, ())
    except OutOfReach as error:
        raise EditError(str(error), "machine") from None


def with_handover(core: CoreJob, handover: Handover) -> CoreJob:
    """The job with part of it on another machine. That all of it is basted first follows; what was chosen for
    its days counts again when nothing is handed over any more."""
    return replace(core, handover=handover)


def taken_back(core: CoreJob, zones: Sequence[str]) -> CoreJob:
    """The job with *zones*, or with all where none are named, on its own machine again. Raises EditError."""
    if core.handover is None:
        raise EditError("Nothing of this quilt is on another machine.")
    gone = set(zones) or set(core.handover.zones)
    left = tuple(zone for zone in core.handover.zones if zone not in gone)
    if len(left) == len(core.handover.zones):
        raise EditError("None of these is on another machine.")
    if not left:
        return replace(core, handover=None)
    made = replace(core.handover, zones=left)
    _refuse_half_figures(core, made)
    return replace(core, handover=made)


def handover_in_words(core: CoreJob) -> str:
    """What is on another machine, and with whom; empty where nothing is."""
    if core.handover is None:
        return ""
    count = len(core.handover.zones)
    names = {zone.id: zone.label or zone.id for zone in core.zones}
    what = f"{count} zones" if count > 1 else names.get(core.handover.zones[0], "a zone")
    who = f" by {core.handover.who}" if core.handover.who else ""
    return f"{what} on the {core.handover.machine.name}{who}"
