"""Make zones out of patches: one each, joined by hand, or background flowing together."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Sequence
from dataclasses import replace

import shapely
from shapely.geometry import MultiPolygon, Polygon

from chorograph_core.chart import Chart, begun_at_corner
from chorograph_core.chart.side_by_side import lying_side_by_side
from chorograph_core.zones.model import Kind, Zone, ZoneError
from chorograph_core.zones.places import shape_word

SHARED = 0.05
"""Inches of common edge that let two areas flow together; touching at a corner does not."""


def zones_from_patches(chart: Chart) -> list[Zone]:
    """One zone for each patch, with the patch's id after ``z:``."""
    return [
        Zone(f"z:{p.id}", p.polygon, (p.id,), "patch", label(chart, p.id)) for p in chart.patches
    ]


def label(chart: Chart, patch_id: str) -> str:
    """What a quilter would call the zone of one patch."""
    patch = chart.patch(patch_id)
    fabric = chart.fabric(patch.fabric).name
    if patch.block is not None:
        return f"block {patch.block[0] + 1}.{patch.block[1] + 1}, {fabric}"
    if patch.role == "applique":
        # Of a drawing the place is no word.
        named = patch.cell and ":" not in patch.cell
        return f"appliqué, {patch.cell if named else fabric}"
    if patch.role == "border":
        number, _, side = patch.cell.partition(":")
        return f"{number.replace('border', 'border ')}, {side}" if side else "border"
    if patch.role == "block":
        # Of a top that was drawn or traced it is not known which patches make up a block.
        return f"{shape_word(patch.polygon)}, {fabric}"
    return patch.role


def relabelled(zone: Zone, old: Chart, new: Chart) -> Zone:
    """A *zone* of one patch that is called as it was in the *old* chart, as it is called in the *new* one."""
    if zone.kind != "patch" or zone.label != label(old, zone.patches[0]):
        return zone
    return replace(zone, label=label(new, zone.patches[0]))


def join(zones: Sequence[Zone], zone_id: str, kind: Kind = "joined", label: str = "") -> Zone:
    """Join *zones* into one. Raises `ZoneError` if they do not hang together."""
    if len(zones) < 2:
        raise ZoneError("Choose at least two zones to join.")
    shape = _united([zone.polygon for zone in zones])
    if not isinstance(shape, Polygon):
        raise ZoneError("These zones do not touch along an edge, so they cannot be one zone.")
    patches = tuple(dict.fromkeys(p for zone in zones for p in zone.patches))
    name = label or f"{zones[0].label} and {len(zones) - 1} more"
    return Zone(zone_id, shape, patches, kind, name, any(zone.forbidden for zone in zones))


def negative_space(
    chart: Chart, zones: Sequence[Zone], fabrics: Collection[str] | None = None
) -> list[Zone]:
    """Let background zones that share an edge flow together, across seams and blocks.

    *fabrics* are the keys that count as background (default: the fabrics marked so). Zones made of
    anything else come back unchanged, and so does background that has no background neighbour.
    """
    ground = set(fabrics if fabrics is not None else (f.key for f in chart.fabrics if f.background))
    flowing = [
        i
        for i, zone in enumerate(zones)
        if zone.patches and all(chart.patch(p).fabric in ground for p in zone.patches)
    ]
    groups = touching([zones[i].polygon for i in flowing])
    made: list[Zone] = []
    used: set[int] = set()
    for group in groups:
        if len(group) < 2:
            continue
        members = [zones[flowing[k]] for k in group]
        used.update(flowing[k] for k in group)
        name = f"negative space, {len(members)} patches"
        made.append(join(members, f"n:{members[0].id.removeprefix('z:')}", "negative", name))
    return [zone for i, zone in enumerate(zones) if i not in used] + made


def touching(shapes: Sequence[Polygon]) -> list[list[int]]:
    """Groups of shapes connected through shared edges, each group and the list in order."""
    if not shapes:
        return []
    first, second, shared = lying_side_by_side(shapes)
    parent = list(range(len(shapes)))

    def find(i: int) -> int:
        while parent[i] != i:
            parent[i] = parent[parent[i]]
            i = parent[i]
        return i

    for a, b, length in zip(first, second, shared, strict=True):
        if length > SHARED:
            parent[find(int(b))] = find(int(a))
    groups: dict[int, list[int]] = defaultdict(list)
    for i in range(len(shapes)):
        groups[find(i)].append(i)
    return sorted(groups.values())


def _united(shapes: Iterable[Polygon]) -> Polygon | MultiPolygon:
    """Union that closes hairline cracks between neighbours without moving outer corners."""
    shape = shapely.union_all(list(shapes), grid_size=1e-5)
    if isinstance(shape, MultiPolygon):
        closed = shape.buffer(0.005, join_style="mitre").buffer(-0.005, join_style="mitre")
        if isinstance(closed, Polygon):
            shape = closed
    return begun_at_corner(shape) if isinstance(shape, Polygon) else shape
