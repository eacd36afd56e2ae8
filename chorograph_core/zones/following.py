"""Zones after the chart has changed: they follow what they were made from, where that can be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import Chart, alike
from chorograph_core.zones.divide import join, relabelled, zones_from_patches
from chorograph_core.zones.model import Zone, ZoneError


@dataclass(frozen=True)
class Followed:
    """The zones of the new chart, and those of the old one, by id, that could not follow."""

    zones: tuple[Zone, ...]
    lost: tuple[str, ...]


def follow(old: Chart, zones: Sequence[Zone], new: Chart) -> Followed:
    """Carry *zones* of the chart *old* over to *new*.

    A patch is the same when its name, kind and place in the block are; then its zone takes the new
    shape. Joined zones are joined again. A part of a patch follows when the new patch is congruent
    with the old one; a zone that ignores the piecing stays where it is while it lies on the top.
    """
    before = {patch.id: patch for patch in old.patches}
    same = {
        patch.id: patch
        for patch in new.patches
        if patch.id in before
        and (before[patch.id].kind, before[patch.id].cell) == (patch.kind, patch.cell)
    }
    fresh = {zone.patches[0]: zone for zone in zones_from_patches(new)}
    made: list[Zone] = []
    lost: list[str] = []
    taken: set[str] = set()
    parts: dict[str, list[Zone]] = {}
    for zone in zones:
        if zone.kind == "free":
            if new.outline.buffer(1e-6).covers(zone.polygon):
                made.append(zone)
            else:
                lost.append(zone.id)
        elif zone.patches and all(patch in same for patch in zone.patches):
            if zone.kind == "patch":
                shape = same[zone.patches[0]].polygon
                # What ran behind something runs on only while nothing about it has changed.
                whole = zone.whole if shape.equals_exact(zone.polygon, 1e-6) else None
                made.append(replace(relabelled(zone, old, new), polygon=shape, whole=whole))
                taken.update(zone.patches)
            elif zone.kind == "part" and len(zone.patches) == 1:
                parts.setdefault(zone.patches[0], []).append(zone)
            else:
                _join_again(zone, fresh, made, lost, taken)
        else:
            lost.append(zone.id)
    for patch, members in parts.items():
        moved = _moved(before[patch].polygon, same[patch].polygon, members)
        if moved is None:
            lost += [zone.id for zone in members]
        else:
            made += moved
            taken.add(patch)
    free = [zone.polygon for zone in made if zone.kind == "free"]
    covered = shapely.union_all(free) if free else None
    for patch, zone in fresh.items():
        if patch not in taken and (covered is None or not covered.covers(zone.polygon)):
            made.append(zone)
    return Followed(tuple(made), tuple(lost))


def _join_again(zone: Zone, fresh, made: list[Zone], lost: list[str], taken: set[str]) -> None:
    try:
        again = join([fresh[patch] for patch in zone.patches], zone.id, zone.kind, zone.label)
    except ZoneError:
        lost.append(zone.id)
        return
    whole = zone.whole if again.polygon.equals(zone.polygon) else None
    made.append(replace(again, forbidden=zone.forbidden, whole=whole))
    taken.update(zone.patches)


def _moved(was: Polygon, now: Polygon, members: Sequence[Zone]) -> list[Zone] | None:
    """Parts of a patch laid on the new patch; None when the two are not congruent."""
    classes = alike([was, now])
    if len(set(classes.classes)) > 1:
        return None
    lay = classes.placements[1].apply
    return [
        replace(
            zone,
            polygon=shapely.transform(zone.polygon, lay),
            whole=None if zone.whole is None else shapely.transform(zone.whole, lay),
        )
        for zone in members
    ]
