"""Appliqué from the sheet: stamped, drawn with the pen, lettered; and zones that run behind it."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from shapely.affinity import scale
from shapely.geometry import Polygon

from chorograph_core.chart import Chart, ChartError, Fabric
from chorograph_core.chart.applique import lay, taken_off
from chorograph_core.chart.shapes import STAMPS, Node, letters, pen_shape, placed
from chorograph_core.formats.apart import shapes_apart
from chorograph_core.formats.drawings import LARGEST as LARGEST_FILE
from chorograph_core.formats.drawings import DrawingError
from chorograph_core.job import Job as CoreJob
from chorograph_core.zones import ZoneError, follow, in_front, relabelled, run_behind, under_shapes
from studio.asking import EditError, colour_from, length_from
from studio.charting.following import rezoned
from studio.plain import plain
from studio.workbench.edits import chosen

LARGEST = 60.0
MOST_SHAPES = 200
NEW = "new"


def shapes_of(values: Mapping[str, Any], unit: str) -> tuple[list[Polygon], str]:
    """What is to be sewn on, its middle at the origin, and what to call it.

    Raises `EditError` naming the field.
    """
    what = values.get("what", "stamp")
    height = _height(values, unit)
    try:
        turn = float(str(values.get("turn") or 0).replace("°", ""))
    except ValueError:
        raise EditError("Turn by degrees, like 45.", "turn") from None
    if not -360 <= turn <= 360:
        raise EditError("Turn by up to 360 degrees.", "turn")
    try:
        if what == "letters":
            text = plain(values.get("text"), 24)
            made, name = letters(text, height), f"letters {text}"
        elif what in STAMPS:
            made, name = [STAMPS[what].shape(height)], STAMPS[what].name.lower()
        else:
            raise EditError("Choose a shape.", "what")
    except ChartError as error:
        raise EditError(str(error), error.field) from None
    return placed(made, 0, 0, turn, bool(values.get("mirror"))), name


def _height(values: Mapping[str, Any], unit: str) -> float:
    return length_from(values, "height", unit, 0.25, LARGEST, "A shape is 1/4″ to 60″ high.")


def sew_on(core: CoreJob, values: Mapping[str, Any], unit: str) -> CoreJob:
    """Sew shapes on where the sheet was touched, or the one that the pen drew."""
    if values.get("nodes"):
        try:
            shapes, name = [pen_shape(_nodes(values["nodes"]))], "drawn shape"
        except ChartError as error:
            raise EditError(str(error), "shape") from None
    else:
        made, name = shapes_of(values, unit)
        x, y = _nodes(f"{values.get('at', '')},c")[0][:2]
        shapes = placed(made, x, y)
    return _with(core, shapes, _fabric(core, values), name)


def _with(core: CoreJob, shapes: Sequence[Polygon], fabric: Fabric, name: str) -> CoreJob:
    try:
        chart = lay(core.chart, shapes, fabric, name)
    except ChartError as error:
        raise EditError(str(error), error.field) from None
    zones = under_shapes(core.zones, core.chart, chart)
    return rezoned(core, chart, zones)


def take_off(core: CoreJob, ids: Sequence[str]) -> CoreJob:
    """Take the chosen appliqué off the top."""
    names = [
        key
        for zone in chosen(core, ids)
        for key in zone.patches
        if core.chart.patch(key).role == "applique"
    ]
    if not names:
        raise EditError("Choose a shape that is sewn on.", "shape")
    try:
        chart = taken_off(core.chart, names)
    except ChartError as error:
        raise EditError(str(error), error.field) from None
    zones = list(follow(core.chart, core.zones, chart).zones)
    return rezoned(core, chart, zones)


def set_sewn(core: CoreJob, ids: Sequence[str], sewn: bool) -> CoreJob:
    """Say of the chosen zones that their patches are sewn on top, or that they are pieced in."""
    names = {key for zone in chosen(core, ids) for key in zone.patches}
    role = "applique" if sewn else "block"
    patches = tuple(
        replace(patch, role=role)
        if patch.id in names and (patch.role == "applique") != sewn
        else patch
        for patch in core.chart.patches
    )
    chart = Chart(core.chart.outline, patches, core.chart.fabrics)
    zones = tuple(relabelled(zone, core.chart, chart) for zone in core.zones)
    return replace(core, chart=chart, zones=zones)


def run_zones_behind(core: CoreJob, ids: Sequence[str]) -> CoreJob:
    """Let the chosen zones run behind the chosen appliqué; or the first chosen behind the others;
    or, where no other was chosen, behind whatever fills its holes."""
    members = chosen(core, ids)
    sewn = {patch.id for patch in core.chart.patches if patch.role == "applique"}
    on_top = [zone for zone in members if sewn & set(zone.patches)]
    ground = [zone for zone in members if zone not in on_top]
    if not on_top and len(ground) > 1:
        ground, on_top = ground[:1], ground[1:]
    if not ground:
        raise EditError("Choose a zone that lies beneath, too.", "shape")
    try:
        made = [run_behind(zone, [each.polygon for each in on_top]) for zone in ground]
    except ZoneError as error:
        raise EditError(str(error), "shape") from None
    return _exchanged_in_place(core, made)


def bring_zones_front(core: CoreJob, ids: Sequence[str]) -> CoreJob:
    """Let zones that run behind something be what they look like again."""
    made = [in_front(zone) for zone in chosen(core, ids) if zone.whole is not None]
    if not made:
        raise EditError("None of these zones runs behind anything.", "shape")
    return _exchanged_in_place(core, made)


def _exchanged_in_place(core: CoreJob, made) -> CoreJob:
    fresh = {zone.id: zone for zone in made}
    return replace(core, zones=tuple(fresh.get(zone.id, zone) for zone in core.zones))


def sew_drawing(core: CoreJob, values: Mapping[str, Any], file, unit: str) -> CoreJob:
    """Sew on the closed shapes of an SVG or DXF drawing, in their own colours, later ones on top."""
    if file is None or file.size > LARGEST_FILE:
        raise EditError(
            f"Choose a drawing (SVG, DXF) of at most {LARGEST_FILE / 1e6:.0f} MB.", "file"
        )
    height = _height(values, unit)
    left, top = (length_from(values, name, unit) for name in ("left", "top"))
    try:
        drawn, (wide, tall) = shapes_apart(file.read(), file.name or "")
    except (DrawingError, ValueError) as error:
        raise EditError(str(error), "file") from None
    if tall <= 0:
        raise EditError("The drawing has no height.", "file")
    factor = height / tall
    shapes = [(scale(shape, factor, factor, origin=(0, 0)), colour) for shape, colour in drawn]
    if not 0 < len(shapes) <= MOST_SHAPES:
        raise EditError(f"The drawing has {len(shapes):,} closed shapes; up to {MOST_SHAPES} can be "
                        "sewn on at once.", "file")  # fmt: skip
    dx, dy = left - wide * factor / 2, top - height / 2
    for shape, colour in shapes:
        given = {**dict(values.items()), "colour": colour} if colour else values
        (laid,) = placed([shape], dx, dy)
        core = _with(core, [laid], _fabric(core, given), "from a drawing")
    return core


def _fabric(core: CoreJob, values: Mapping[str, Any]) -> Fabric:
    """The fabric of a shape: one of the top's, or a new one."""
    key = values.get("fabric", NEW)
    used = {patch.fabric for patch in core.chart.patches}
    if key != NEW:
        if key not in used:
            raise EditError("Choose a fabric of this top.", "fabric")
        return core.chart.fabric(key)
    colour = colour_from(values)
    for fabric in core.chart.fabrics:
        if fabric.key.startswith("sewn") and fabric.colour == colour:
            return fabric
    taken = {fabric.key for fabric in core.chart.fabrics} | used
    name = next(f"sewn{k}" for k in range(1, 10**6) if f"sewn{k}" not in taken)
    return Fabric(name, plain(values.get("fabric_name"), 60) or "appliqué", colour, 0.2)


def _nodes(text: str) -> list[Node]:
    """``x,y,s x,y,c …`` in inches: smooth and corner nodes, as the sheet sends them."""
    made: list[Node] = []
    for word in str(text).split()[:500]:
        found = re.fullmatch(r"(-?\d{1,4}(?:\.\d{1,9})?),(-?\d{1,4}(?:\.\d{1,9})?),([sc])", word)
        if found is None:
            raise EditError("The place on the sheet could not be read; touch it again.", "shape")
        made.append((float(found[1]), float(found[2]), found[3] == "s"))
    if not made:
        raise EditError("Touch the sheet where the shape shall lie.", "shape")
    return made
