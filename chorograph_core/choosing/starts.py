"""A start for the whole quilt: a design for each kind of place, what covers most first."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace

from chorograph_core.chart import alike
from chorograph_core.chart.model import HALF
from chorograph_core.choosing.hearing import heard, space_in
from chorograph_core.choosing.levels import Level
from chorograph_core.choosing.proposing import DITCH, Proposed, ranked
from chorograph_core.choosing.reasons import Reason, score
from chorograph_core.choosing.setting_out import Beside, Custom, Setting, setting_of
from chorograph_core.choosing.take_up import NARROW
from chorograph_core.designs.behind import whole_of_half
from chorograph_core.designs.legend import Entry, Layer, LayerLinework, main_layer, role_of
from chorograph_core.job import Job
from chorograph_core.measure import format_length
from chorograph_core.zones.places import BACKGROUND, Place, places_of, sides_together

SMALL = 1.0
"""Inches across a place up to which the ditch round it holds it where all else is closer than the work pays
for."""


def proposed_legend(
    core: Job,
    level: Level,
    drawn: Sequence[LayerLinework] = (),
    bare_only: bool = False,
    units: str = "in",
    custom: Custom | None = None,
    tell: Callable[[float], None] | None = None,
) -> tuple[tuple[Entry, ...], list[tuple[str, Proposed]]]:
    """A start for the whole quilt: an entry for each kind of place, and why. What the client forbids is left
    out; with *bare_only* what has a design keeps it.

    The places that cover most come first; those after them are chosen to differ from what lies beside them.
    The sides of a border are one place, whatever their lengths; what is cut off at the end of a row has the
    design of what it is cut from. *tell* is told the share that is done.
    """
    left_out, given = core.untouchable, core.entry_of()
    kept = list(core.legend) if bare_only else []
    working = core.with_legend(tuple(kept))
    lying: list[LayerLinework] = [one for one in drawn if bare_only]
    main = [entry.layers[main_layer(entry)] for entry in kept]
    used = Counter(layer.design for layer in main if role_of(layer) != "ditch")
    told: list[tuple[str, Proposed]] = []
    density: dict[str, float] = {}
    grounds: dict[str, tuple[Layer, ...]] = {}
    groups = sides_together(places_of(core.chart, core.zones))
    # What is cut off comes after all from which it may be cut.
    groups.sort(key=lambda group: any(_cut_off(core, place.zones) for place in group))
    flowing = {group[0].fabric for group in groups if group[0].name == BACKGROUND}
    groups = _grounds_together(groups, flowing)
    names = _names(core, groups, units)
    for number, places in enumerate(groups, 1):
        zones = [zone for place in places for zone in place.zones
                 if zone not in left_out and not (bare_only and zone in given)]  # fmt: skip
        if tell is not None:
            tell((number - 1) / len(groups))
        if not zones:
            given_here = _given(core, places[0].zones)
            if given_here and places[0].name == BACKGROUND:
                grounds.setdefault(places[0].fabric, given_here)
            continue
        here = setting_of(working, zones, lying, custom)
        here = replace(here, beside=_with_densities(here.beside, density))
        whole = _cut_from(working, zones)
        best = _as_the_whole(working, here, whole, units) if whole is not None else None
        if best is None:
            flows = places[0].is_ground and places[0].fabric in flowing
            ground = grounds.get(places[0].fabric, ()) if flows else None
            best = _best(working, here, level, units, used, ground)
            used.update([best.heard.design] if best.heard.design != DITCH.design else ())
        if places[0].name == BACKGROUND and best.heard.design != DITCH.design:
            layers = tuple(layer for layer in best.heard.layers if layer != DITCH)
            grounds.setdefault(places[0].fabric, layers)
        density |= dict.fromkeys(zones, best.heard.density)
        layers = (DITCH, *(layer for layer in best.heard.layers if layer != DITCH))
        if whole is not None and whole.layers == layers and whole not in core.legend:
            # It is no kind by itself, but belongs to what it is cut from.
            joined = replace(whole, zones=(*whole.zones, *zones))
            kept[kept.index(whole)] = joined
        else:
            kept.append(Entry(_id(kept, number), names[number - 1], tuple(zones), layers))
            told.append((kept[-1].name, best))
        working = working.with_legend(tuple(kept))
    return tuple(kept), told


def _grounds_together(groups: Sequence[list[Place]], cloths: Collection[str]) -> list[list[Place]]:
    """The kinds of place with all backgrounds of a cloth, of those *cloths*, where the first of them stands:
    what lies amid them is to differ from all."""

    def ground(group: list[Place]) -> str:
        return group[0].fabric if group[0].is_ground and group[0].fabric in cloths else ""

    first = {ground(group): number for number, group in reversed(list(enumerate(groups)))}
    order = [
        first[ground(group)] if ground(group) else number for number, group in enumerate(groups)
    ]
    return [groups[number] for number in sorted(range(len(groups)), key=lambda k: (order[k], k))]


def _given(core: Job, zones: Sequence[str]) -> tuple[Layer, ...]:
    """What *zones* have already besides the ditch, and others can have too: nothing where they have none, the
    ditch alone, or what lies over several of them or along a line of theirs."""
    entries, of = {entry.id: entry for entry in core.legend}, core.entry_of()
    entry = next((entries[of[zone]] for zone in zones if zone in of), None)
    layers = [layer for layer in (entry.layers if entry else ()) if role_of(layer) != "ditch"]
    return () if any(layer.over != "zone" or layer.guide for layer in layers) else tuple(layers)


def _best(
    core: Job,
    place: Setting,
    level: Level,
    units: str,
    used: Counter[str],
    ground: Sequence[Layer] | None = None,
) -> Proposed:
    """What suits a place best, or the ditch alone where it is that small; *ground* as in `ranked`."""
    wide = 2 * space_in(core, place).widest[1]
    told = format_length(wide, units)
    if wide <= NARROW:
        return _left_to_the_ditch(core, place, f"{told} across: the ditch round it holds it")
    best = ranked(core, place, level, units=units, used=used, ground=ground)[0]
    if wide <= SMALL and best.heard.density > level.high:
        why = (f"{told} across, and all else is closer than {level.name} work pays for: "
               "the ditch round it holds it")  # fmt: skip
        return _left_to_the_ditch(core, place, why)
    return best


def _left_to_the_ditch(core: Job, place: Setting, why: str) -> Proposed:
    # Ditches are reckoned with none of the others either.
    one = replace(heard(core, place, (DITCH,)), minutes=0.0, layings=0, thread=0.0)
    said = (Reason(0.3, why),)
    return Proposed(one, said, score(one, said))


def _cut_off(core: Job, zones: Sequence[str]) -> bool:
    """Whether all *zones* are what the end of a row leaves of a patch."""
    patches = [core.zone(zone).patches for zone in zones]
    return all(len(each) == 1 and core.chart.patch(each[0]).cell.endswith(HALF) for each in patches)


def _cut_from(core: Job, zones: Sequence[str]) -> Entry | None:
    """The entry of the patches that *zones* are cut from; None for what is whole."""
    if not _cut_off(core, zones):
        return None
    patch = core.chart.patch(core.zone(zones[0]).patches[0])
    entries = {entry.id: entry for entry in core.legend}
    of = {zone: entries[entry] for zone, entry in core.entry_of().items()}
    for zone in core.zones:
        if len(zone.patches) == 1 and zone.id in of:
            other = core.chart.patch(zone.patches[0])
            if (other.cell, other.fabric) == (patch.cell.removesuffix(HALF), patch.fabric):
                return of[zone.id]
    return None


def _as_the_whole(core: Job, place: Setting, whole: Entry, units: str) -> Proposed | None:
    """What is cut off with the design of the *whole*: half of the drawing where it is just half of it. Where
    nothing of it has room what is small is left to the ditch; None for what is not."""
    layers = [layer for layer in whole.layers if role_of(layer) != "ditch"]
    if any(layer.over != "zone" or layer.guide for layer in layers):
        return None
    shapes = [whole_of_half(place.pattern.polygon), core.zone(whole.zones[0]).polygon]
    one, other = alike(shapes).classes
    if one == other:
        layers = [replace(layer, over="whole") for layer in layers]
    made = heard(core, place, tuple(layers) or (DITCH,))
    if layers and made.density <= 0:
        wide = 2 * space_in(core, place).widest[1]
        why = f"{format_length(wide, units)} across: the ditch round it holds it"
        return _left_to_the_ditch(core, place, why) if wide <= SMALL else None
    said = (Reason(0.3, f"cut from one of {whole.name}: it has what they have"),)
    return Proposed(made, said, score(made, said))


def _names(core: Job, groups: Sequence[Sequence[Place]], units: str) -> list[str]:
    """What the entries are called: by the kind of place; by its cloth too, then by how narrow it is, then
    by its whole size, where several would be called alike; those that differ in their shape alone are
    counted."""

    def spelled(group: Sequence[Place], more: int) -> str:
        first = group[0]
        many = sum(len(place.zones) for place in group) > 1
        words = [(first.names if many else first.name).capitalize()]
        if more > 0:
            words.append(core.chart.fabric(first.fabric).name)
        if more > 1:
            sizes = sorted(first.size) if more > 2 else [min(first.size)]
            words.append(" × ".join(format_length(size, units) for size in sizes))
        return ", ".join(words)

    names = [spelled(group, 0) for group in groups]
    for more in (1, 2, 3):
        alike = {name for name, count in Counter(names).items() if count > 1}
        names = [spelled(group, more) if name in alike else name
                 for group, name in zip(groups, names, strict=True)]  # fmt: skip
    return [f"{name}, {names[: k + 1].count(name)}" if names.count(name) > 1 else name
            for k, name in enumerate(names)]  # fmt: skip


def _with_densities(beside: tuple[Beside, ...], density: Mapping[str, float]) -> tuple[Beside, ...]:
    """Neighbours as dense as what was just proposed for them, which nobody has drawn everywhere yet."""
    return tuple(replace(one, density=density.get(one.zone, one.density)) for one in beside)


def _id(kept: Sequence[Entry], number: int) -> str:
    taken = {entry.id for entry in kept}
    while f"e{number}" in taken:
        number += 1
    return f"e{number}"
