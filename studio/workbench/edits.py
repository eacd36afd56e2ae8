"""Changes a person makes to a job, as functions from one core job to the next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from chorograph_core.designs import Design, SettingError, designs, of_role
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.drawing import fit_of
from chorograph_core.designs.legend import Entry, Layer, LayerLinework, main_layer, role_of
from chorograph_core.designs.sisters import guided
from chorograph_core.job import Job as CoreJob
from chorograph_core.job import Named, job_linework
from chorograph_core.zones import (
    Zone,
    ZoneError,
    bans_of,
    in_words,
    join,
    negative_space,
    touching,
    zones_from_patches,
)
from chorograph_core.zones.figures import secondary_figures
from studio.asking import EditError, whole_from
from studio.workbench.guides import guides_from
from studio.workbench.spi import spi_from
from studio.workbench.tray import WILL_DO, space_of

OVERS = ("zone", "turned", "level", "varied", "region", "sides", "whole")
"""Ways in which a design is laid in the zones of an entry."""
MOST_GROUPS = 200


def chosen(core: CoreJob, ids: Sequence[str]) -> list[Zone]:
    """The zones called *ids*; raises `EditError` if one is gone or none is chosen."""
    known = {zone.id: zone for zone in core.zones}
    if not ids:
        raise EditError("Choose at least one zone on the sheet first.")
    missing = [name for name in ids if name not in known]
    if missing:
        raise EditError("A chosen zone is no longer there; choose again.")
    return [known[name] for name in ids]


def join_zones(core: CoreJob, ids: Sequence[str]) -> CoreJob:
    """Make one zone of several that touch; where they lie in several places, as quarters of many circles do,
    one in each. What touches no other stays as it is."""
    members = chosen(core, ids)
    groups = [group for group in touching([zone.polygon for zone in members]) if len(group) > 1]
    for group in groups or [list(range(len(members)))]:
        some = [members[k] for k in group]
        try:
            made = join(some, fresh_id(core, "j"))
        except ZoneError as error:
            raise EditError(str(error)) from None
        core = exchanged(core, {zone.id for zone in some}, [made])
    return core


def flow_background(core: CoreJob) -> CoreJob:
    """Let background flow together across seams."""
    made = negative_space(core.chart, core.zones)
    kept = {zone.id for zone in made}
    gone = {zone.id for zone in core.zones} - kept
    if not gone:
        raise EditError("No two background patches lie side by side in different zones.")
    known = {zone.id for zone in core.zones}
    return exchanged(core, gone, [zone for zone in made if zone.id not in known])


def join_figures(core: CoreJob, number: int) -> CoreJob:
    """Make zones of the figures that appear between blocks: the *number*th kind offered."""
    offered = secondary_figures(core.chart, core.zones)
    if not 0 <= number < len(offered):
        raise EditError("These figures are no longer there; look again.")
    job = core
    for members in offered[number].members:
        job = join_zones(job, members)
    return job


def part_zones(core: CoreJob, ids: Sequence[str]) -> CoreJob:
    """Take joined zones apart into their patches."""
    members = [zone for zone in chosen(core, ids) if len(zone.patches) > 1]
    if not members:
        raise EditError("These zones are single patches already.")
    wanted = {patch for zone in members for patch in zone.patches}
    pieces = [z for z in zones_from_patches(core.chart) if z.patches[0] in wanted]
    return exchanged(core, {zone.id for zone in members}, pieces)


def ban_zones(core: CoreJob, ids: Sequence[str], forbidden: bool) -> CoreJob:
    """Set or lift the client's ban on stitching in some zones."""
    names = {zone.id for zone in chosen(core, ids)}
    zones = tuple(
        replace(zone, forbidden=forbidden) if zone.id in names else zone for zone in core.zones
    )
    return replace(core, zones=zones)


def _refuse_banned(core: CoreJob, members: Sequence[Zone], layers: Sequence[Layer]) -> None:
    """A ban is a hard fact: what would break it is not put in the legend."""
    bans = bans_of(members, core.chart, core.policy.applique)
    for ban in dict.fromkeys(bans.values()):
        if ban == "leave" or (ban == "outline" and any(role_of(la) != "ditch" for la in layers)):
            count = sum(each == ban for each in bans.values())
            where = "this zone" if len(members) == 1 else f"{count} of these {len(members)} zones"
            others = [zone.id for zone in members if bans.get(zone.id) not in ("leave", "outline")]
            raise EditError(f"{in_words(ban)}: that is {where}.", "design", others)


def name_zones(core: CoreJob, ids: Sequence[str], name: str) -> CoreJob:
    """Give the chosen zones a name; a group of that name is exchanged for them."""
    members = chosen(core, ids)
    if not name:
        raise EditError("Write a name for these zones.", "name")
    if len(core.groups) >= MOST_GROUPS:
        raise EditError(f"{MOST_GROUPS} names are the most.", "name")
    rest = [group for group in core.groups if group.name != name]
    fresh = Named(name, tuple(dict.fromkeys(zone.id for zone in members)))
    return replace(core, groups=(*rest, fresh))


def unname_zones(core: CoreJob, name: str) -> CoreJob:
    """Take a name off its zones."""
    rest = tuple(group for group in core.groups if group.name != name)
    if len(rest) == len(core.groups):
        raise EditError("There is no such name any more.", "name")
    return replace(core, groups=rest)


def keep_entry(
    core: CoreJob, entry_id: str, name: str, zones: Sequence[str], layers: Sequence[Layer]
) -> CoreJob:
    """Put an entry in the legend, or change it. Zones leave the entries they were in."""
    members = chosen(core, zones)
    _refuse_banned(core, members, layers)
    names = tuple(dict.fromkeys(zone.id for zone in members))
    if entry_id and all(entry.id != entry_id for entry in core.legend):
        raise EditError(
            "This entry of the legend is no longer there; open the zones again.", "design"
        )
    entry_id = entry_id or _fresh_entry(core)
    taken = set(names)
    legend, found = [], False
    for entry in core.legend:
        if entry.id == entry_id:
            legend.append(Entry(entry_id, name, names, tuple(layers)))
            found = True
        else:
            legend.append(replace(entry, zones=tuple(z for z in entry.zones if z not in taken)))
    if not found:
        legend.append(Entry(entry_id, name, names, tuple(layers)))
    return core.with_legend(tuple(legend))


def drawn_first(core: CoreJob, entry_id: str, cache: DrawingCache) -> None:
    """What is kept is drawn first: raises `EditError` for an entry whose design draws nothing in any
    of its zones. Where it fails in some only, the legend says so beside it."""
    entry = next(each for each in core.legend if each.id == entry_id)
    main = main_layer(entry)
    drawn = [one for one in job_linework(core, cache, {entry_id}) if one.layer == main]
    if any(one.linework.runs for one in drawn):
        return
    raise nothing_drawn(core, entry, drawn)


def nothing_drawn(core: CoreJob, entry: Entry, drawn: Sequence[LayerLinework]) -> EditError:
    """Why the main layer of *entry* draws nothing in any of its zones, at the setting that is to blame."""
    layer = entry.layers[main_layer(entry)]
    drawing = designs()[layer.design]
    largest = max(
        (core.zone(z) for z in entry.zones),
        key=lambda zone: (guided(layer, zone.polygon), zone.polygon.area),
    )
    space = space_of(core, largest, layer)
    settings = drawing.clean(layer.settings)
    try:
        drawing.draw(space, settings, layer.seed)
    except SettingError as error:
        return EditError(str(error), f"set_{error.field}")
    except Exception:
        # Told, and logged, where it was drawn.
        return EditError(" ".join(_faults_in(drawn)[:2]), "design")
    faults = _faults_in(drawn)
    if not faults:
        bans = bans_of(core.zones, core.chart, core.policy.applique)
        faults = list(dict.fromkeys(f"{in_words(bans[z])}." for z in entry.zones if z in bans))
    if not faults:
        fit = fit_of(drawing, space, settings)
        faults = [
            f"{drawing.name} draws nothing here: {'; '.join(fit.reasons)}."
            if fit.score < WILL_DO
            else f"{drawing.name} finds no line in this shape with these settings; try others."
        ]
        if drawing.guided and space.guide is None:
            faults.append("It can follow a guide that you draw.")
    return EditError(" ".join(faults[:2]), "design")


def _faults_in(drawn: Sequence[LayerLinework]) -> list[str]:
    return list(dict.fromkeys(one.fault for one in drawn if one.fault))


def drop_entry(core: CoreJob, entry_id: str) -> CoreJob:
    """Take an entry out of the legend; its zones are unassigned again."""
    return core.with_legend(tuple(entry for entry in core.legend if entry.id != entry_id))


def layers_from(values: Mapping[str, Any], core: CoreJob, unit: str = "in") -> list[Layer]:
    """Layers from a drawer's fields: a ditch, a breathing line, the design itself. *unit* is what
    bare numbers mean.

    Raises `EditError` naming the field that cannot be used.
    """
    threads = {thread.key for thread in core.threads}
    thread = values.get("thread") or core.threads[-1].key
    ditch_thread = values.get("ditch_thread") or thread
    if thread not in threads or ditch_thread not in threads:
        raise EditError("Choose a thread from the list.", "thread")
    key = values.get("design", "")
    if key not in designs():
        raise EditError("Choose a design.", "design")
    spi = spi_from(values, unit)
    passes = whole_from(values, "passes", 1, 1, 4, "Times over is 1, 2, 3 or 4.")
    seed = whole_from(values, "seed", 0, what="A variation is a whole number.")
    layers = []
    role = designs()[key].role
    if values.get("ditch") and role != "ditch":
        ditch = of_role("ditch")
        layers.append(Layer(ditch.key, {}, ditch_thread, 10, version=ditch.version))
    if values.get("breathing") and role != "frame":
        frame = of_role("frame")
        settings = {"first": values.get("breathing_first") or "1/4 in"}
        layers.append(
            Layer(
                frame.key,
                _clean(frame, settings, "breathing_", unit),
                thread,
                spi,
                version=frame.version,
            )
        )
    given = {
        p.key: values[f"set_{p.key}"]
        for p in designs()[key].parameters
        if str(values.get(f"set_{p.key}", "")).strip()
    }
    drawing = designs()[key]
    over: Any = values.get("over") if values.get("over") in OVERS else "zone"
    settings = _clean(drawing, given, "set_", unit)
    lines, wide = guides_from(values, drawing, core, unit)
    guide = lines[0] if lines else ()
    layers.append(
        Layer(
            key, settings, thread, spi, passes, seed, drawing.version, over, guide, wide, lines[1:]
        )
    )
    if values.get("ground") and (role == "motif" or drawing.grounded):
        if role != "motif" and not wide:
            raise EditError(
                "A ground lies beside what follows a guide at a width of its own: say how wide it is.",
                "guide_width" if guide else "ground",
            )
        layers.append(_ground(values, core, thread, spi))
    return layers


def _ground(values: Mapping[str, Any], core: CoreJob, thread: str, spi: float) -> Layer:
    """What is laid round a motif: as it was, where the entry had that ground already."""
    ground = designs().get(values["ground"])
    if ground is None or ground.role != "fill":
        raise EditError("Choose what is laid round it.", "ground")
    entry = next((e for e in core.legend if e.id == values.get("entry")), None)
    for layer in entry.layers[1:] if entry else ():
        if layer.design == ground.key:
            return layer
    return Layer(ground.key, {}, thread, spi, version=ground.version)


def _clean(drawing: Design, given: Mapping[str, Any], prefix: str, unit: str) -> dict[str, Any]:
    try:
        clean = drawing.clean(given, unit)
    except SettingError as error:
        raise EditError(str(error), prefix + error.field) from None
    return {name: getattr(clean, name) for name in given}


def _number(values, key: str, default: float, low: float, high: float, name: str) -> float:
    text = str(values.get(key, "")).strip()
    try:
        number = float(text) if text else float(default)
    except ValueError:
        raise EditError(f"{name}: “{text}” is not a number.", key) from None
    if not low <= number <= high:
        raise EditError(f"{name} goes from {low:g} to {high:g}.", key)
    return number


def exchanged(core: CoreJob, gone: set[str], made: Sequence[Zone]) -> CoreJob:
    """Exchange zones; an entry that held all of a new zone's parts keeps it."""
    entry_of = core.entry_of()
    by_patch = {patch: zone.id for zone in core.zones for patch in zone.patches}
    heirs: dict[str, list[str]] = {}
    for zone in made:
        owners = {entry_of.get(by_patch.get(patch, ""), "") for patch in zone.patches}
        if len(owners) == 1 and (owner := owners.pop()):
            heirs.setdefault(owner, []).append(zone.id)
    legend = tuple(
        replace(
            entry,
            zones=(*(z for z in entry.zones if z not in gone), *heirs.get(entry.id, ())),
        )
        for entry in core.legend
    )
    zones = tuple(zone for zone in core.zones if zone.id not in gone) + tuple(made)
    return replace(core, zones=zones).with_legend(legend)


def fresh_id(core: CoreJob, letter: str) -> str:
    """A zone's name that is not taken: *letter* and a number."""
    known = {zone.id for zone in core.zones}
    return next(f"{letter}:{k}" for k in range(1, 10**6) if f"{letter}:{k}" not in known)


def _fresh_entry(core: CoreJob) -> str:
    known = {entry.id for entry in core.legend}
    return next(f"e{k}" for k in range(1, 10**6) if f"e{k}" not in known)
