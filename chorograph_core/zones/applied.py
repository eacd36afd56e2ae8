"""Zones when appliqué is sewn on: they keep what the shapes leave of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import Chart
from chorograph_core.zones.cutting import SMALLEST
from chorograph_core.zones.divide import zones_from_patches
from chorograph_core.zones.model import Zone


def under_shapes(zones: Sequence[Zone], before: Chart, after: Chart) -> list[Zone]:
    """The zones of the chart *before*, cut by the shapes that are new in *after*, and a zone for
    each of those.

    A zone that a shape parts keeps its name for the larger piece; a covered one is gone.
    """
    known = {patch.id for patch in before.patches}
    # A piece of what was sewn on before is none of the new shapes.
    sewn = [p for p in after.patches if p.role == "applique" and _root(p.id, known) not in known]
    cover = shapely.union_all([patch.polygon for patch in sewn])
    by_id = {patch.id: patch for patch in after.patches}
    fresh = {zone.patches[0]: zone for zone in zones_from_patches(after)}
    names = {zone.id for zone in zones}
    made: list[Zone] = []
    for zone in zones:
        if not zone.polygon.intersects(cover) or zone.polygon.intersection(cover).area < 1e-9:
            made.append(zone)
            continue
        if zone.kind == "patch":
            # Its pieces are patches already, cut once and for both.
            mine = sorted((key for key in by_id if _root(key, known) == zone.patches[0]),
                          key=lambda key: -by_id[key].polygon.area)  # fmt: skip
            for number, key in enumerate(mine):
                whole = fresh[key]
                name = zone.id if number == 0 else _free(whole.id, names)
                made.append(replace(whole, id=name, label=zone.label or whole.label,
                                    forbidden=zone.forbidden))  # fmt: skip
            continue
        rest = zone.polygon.difference(cover)
        pieces = sorted(
            (p for p in getattr(rest, "geoms", [rest])
             if isinstance(p, Polygon) and p.area > SMALLEST),
            key=lambda p: -p.area,
        )  # fmt: skip
        for number, piece in enumerate(pieces):
            under = tuple(_patches_of(zone, piece, known, by_id))
            name = zone.id if number == 0 else _free(zone.id, names)
            made.append(replace(zone, id=name, polygon=piece, patches=under))
    made += [replace(fresh[patch.id], id=_free(f"z:{patch.id}", names)) for patch in sewn]
    return made


def _root(key: str, known: set[str]) -> str:
    """The patch of the chart before that the patch *key* is, or is a piece of."""
    while key not in known and "~" in key:
        key = key.rpartition("~")[0]
    return key


def _free(stem: str, names: set[str]) -> str:
    """A name that is not taken: *stem* itself, or with a number behind it; taken from now on."""
    name = stem
    for number in range(1, 10**6):
        if name not in names:
            break
        name = f"{stem}~{number}"
    names.add(name)
    return name


def _patches_of(zone: Zone, piece: Polygon, known: set[str], by_id) -> list[str]:
    """Names of the patches, whole or cut, that *piece* of a zone lies on."""
    return [
        key
        for key in by_id
        if _root(key, known) in zone.patches and by_id[key].polygon.intersection(piece).area > 1e-6
    ]
