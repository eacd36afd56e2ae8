"""The cutting tools of the work view: from what was typed or drawn to a tool of the core."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from shapely import union_all
from shapely.geometry import Polygon

from chorograph_core.designs.surroundings import Surroundings
from chorograph_core.job import Job as CoreJob
from chorograph_core.zones import ZoneError, cutting
from studio.asking import EditError, length_from, points_from
from studio.charting.sheet import zone_classes
from studio.workbench.edits import chosen, exchanged, fresh_id

TOOLS = [
    ("inset", "Inset frame", "its width", "1"),
    ("circle", "Circle in the middle", "diameter", "4"),
    ("corner", "Circle by a corner or a side", "diameter", "3"),
    ("band", "Band along the middle", "its width", "1 1/2"),
    ("crossband", "Band across the middle", "its width", "1 1/2"),
    ("beside", "Copy of a side, moved inwards", "by", "1"),
    ("edge", "Edge of the last chosen zone, moved", "by", "1/2"),
    ("centre", "Centre line, the long way", "", ""),
    ("across", "Centre line, across", "", ""),
    ("diagonal", "Diagonal", "", ""),
    ("other", "Other diagonal", "", ""),
    ("both", "Both diagonals", "", ""),
]
"""Key, name, what its measure is called, and a first value in inches; no measure for some."""
IN_CM = {"1/2": "1.2", "1": "2.5", "1 1/2": "4", "3": "8", "4": "10"}
"""What is about as much in centimetres."""
PLACES = {"corner": (*cutting.CORNERS, *cutting.AWAY), "beside": tuple(cutting.AWAY)}
"""Where some tools may be used, as one looks at the sheet."""
BESIDE = 0.01
"""Inches within which two zones lie side by side."""


def tools_in(unit: str) -> list[tuple[str, str, str, str]]:
    """`TOOLS`, with first values in the *unit* of a studio."""
    known = IN_CM if unit == "cm" else {}
    return [(key, name, measure, known.get(first, first)) for key, name, measure, first in TOOLS]


def cut_zones(core: CoreJob, ids: Sequence[str], values: Mapping[str, Any], unit: str) -> CoreJob:
    """Cut the zones called *ids* with the tool that *values* describe."""
    members = chosen(core, ids)
    key = values.get("tool", "")
    try:
        if key == "edge":
            return _cut_beside_another(core, members, values, unit)
        if key == "line":
            tool = cutting.along(points_from(values.get("line", ""), "measure"))
        else:
            place = values.get("place", "") or PLACES.get(key, ("",))[0]
            if place not in PLACES.get(key, (place,)):
                raise EditError("Choose a corner or a side.", "place")
            tool = _tool(key, values, unit, place)
        around = Surroundings(core.chart, core.zones)
        pieces = cutting.cut(members, tool, [around.middle_round(zone) for zone in members])
    except ZoneError as error:
        raise EditError(str(error), "measure") from None
    return exchanged(core, {zone.id for zone in members}, pieces)


def _cut_beside_another(core: CoreJob, members, values: Mapping[str, Any], unit: str) -> CoreJob:
    """Cut every zone along a copy of the edge of the last chosen one where it lies beside that; else
    along the edges of those sisters of it which lie beside the zone and are not cut themselves."""
    if len(members) < 2:
        raise EditError("Choose the zones to cut, and last the one whose edge is copied.", "tool")
    size = length_from(values, "measure", unit)
    *wanted, last = members
    classes = dict(zip([zone.id for zone in core.zones], zone_classes(core), strict=True))
    names, made = {zone.id for zone in wanted}, []
    sisters = [zone.polygon for zone in core.zones
               if classes[zone.id] == classes[last.id] and zone.id not in names]  # fmt: skip
    for zone in wanted:
        near = (
            [last.polygon]
            if last.polygon.distance(zone.polygon) < BESIDE
            else [sister for sister in sisters if sister.distance(zone.polygon) < BESIDE]
        )
        made += cutting.cut([zone], cutting.edge_of(union_all(near or [last.polygon]), size))
    return exchanged(core, names, made)


def let_in_shape(core: CoreJob, values: Mapping[str, Any]) -> CoreJob:
    """Let a drawn shape that ignores the piecing into the zones beneath it."""
    points = points_from(values.get("line", ""), "measure")
    if len(points) < 3:
        raise EditError("Draw a closed shape.", "measure")
    shape = Polygon(points)
    shape = shape if shape.is_valid else shape.buffer(0)
    if not isinstance(shape, Polygon):
        raise EditError("Draw one closed shape that does not cross itself.", "measure")
    try:
        made = cutting.let_in(
            core.zones, shape.simplify(0.02), fresh_id(core, "f"), "drawn by hand"
        )
    except ZoneError as error:
        raise EditError(str(error), "measure") from None
    before = {zone.id: zone for zone in core.zones}
    fresh = [zone for zone in made if before.get(zone.id) != zone]
    kept = {zone.id for zone in made if before.get(zone.id) == zone}
    return exchanged(core, set(before) - kept, fresh)


def _tool(key: str, values: Mapping[str, Any], unit: str, place: str) -> cutting.Tool:
    plain = {
        "centre": cutting.centre_line(), "across": cutting.centre_line(True),
        "diagonal": cutting.diagonal(), "other": cutting.diagonal(other=True),
        "both": cutting.diagonal(both=True),
    }  # fmt: skip
    if key in plain:
        return plain[key]
    if key not in {name for name, *_ in TOOLS}:
        raise EditError("Choose how to cut.", "tool")
    size = length_from(values, "measure", unit)
    inside = length_from(values, "inwards", unit) if values.get("inwards", "").strip() else 0.0
    made = {
        "inset": lambda: cutting.inset(size), "circle": lambda: cutting.circle(size),
        "corner": lambda: cutting.circle(size, place, inside), "band": lambda: cutting.band(size),
        "crossband": lambda: cutting.band(size, True), "beside": lambda: cutting.beside(place, size),
    }  # fmt: skip
    return made[key]()
