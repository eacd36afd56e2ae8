"""Changes of the piecing from the sheet: blocks exchanged or turned in their place, fabrics recoloured."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from typing import Any

from chorograph_core.chart import Chart, ChartError, Fabric, StraightSet, block_library
from chorograph_core.chart.layouts import Exchange
from chorograph_core.formats import Job as CoreJob
from studio.jobs.edits import EditError, charted, chosen

COLOUR = re.compile(r"#[0-9a-fA-F]{6}")


def blocks_of(core: CoreJob, ids: Sequence[str]) -> list[tuple[int, int]]:
    """The places (row, column) of the blocks that the zones called *ids* lie in."""
    places = {
        core.chart.patch(patch).block
        for zone in chosen(core, ids)
        for patch in zone.patches
        if core.chart.patch(patch).block is not None
    }
    return sorted(place for place in places if place is not None)


def fabrics_of(core: CoreJob, ids: Sequence[str]) -> list[Fabric]:
    """The fabrics of the zones called *ids*."""
    keys = {core.chart.patch(patch).fabric for zone in chosen(core, ids) for patch in zone.patches}
    return [core.chart.fabric(key) for key in sorted(keys)]


def exchange_blocks(
    core: CoreJob, ids: Sequence[str], values: Mapping[str, Any], own: Collection[str] = ()
) -> CoreJob:
    """Lay another block, or the same one turned or mirrored, in the places of the chosen zones.

    *own* are the keys of the studio's own blocks.
    """
    places = blocks_of(core, ids)
    if not isinstance(core.survey, StraightSet):
        raise EditError("Blocks are exchanged one by one in a straight set.", "block")
    if not places:
        raise EditError("Choose a zone that lies in a block.", "block")
    key = values.get("block", "")
    if key and key not in block_library() and key not in own:
        raise EditError("Choose a block.", "block")
    try:
        turn = int(values.get("turn") or 0) % 4
    except ValueError:
        raise EditError("Turn by quarters.", "turn") from None
    mirror = bool(values.get("mirror"))
    kinds = {patch.block: patch.kind for patch in core.chart.patches if patch.block is not None}
    kept = [each for each in core.survey.exchanged if (each.row, each.column) not in places]
    fresh = [Exchange(r, c, key or kinds[r, c], turn, mirror) for r, c in places]
    try:
        return charted(core, replace(core.survey, exchanged=(*kept, *fresh)))
    except ChartError as error:
        raise EditError(str(error), "block") from None


def recolour(core: CoreJob, values: Mapping[str, Any]) -> CoreJob:
    """Give a fabric another colour and say how busy its print is, wherever it lies on the top."""
    key, colour = values.get("fabric", ""), values.get("colour", "")
    if key not in {patch.fabric for patch in core.chart.patches}:
        raise EditError("Choose a fabric of this top.", "fabric")
    if not COLOUR.fullmatch(colour):
        raise EditError("A colour is written like #7f9cae.", "colour")
    try:
        busy = min(1.0, max(0.0, float(values.get("busy") or 0)))
    except ValueError:
        raise EditError("How busy goes from 0 to 1.", "busy") from None
    before = core.chart.fabric(key)
    after = replace(
        before, colour=colour.lower(), busy=busy, background=bool(values.get("background"))
    )
    rest = [after if fabric.key == key else fabric for fabric in core.chart.fabrics]
    if all(fabric.key != key for fabric in core.chart.fabrics):
        rest.append(after)
    chart = Chart(core.chart.outline, core.chart.patches, tuple(rest))
    return replace(core, chart=chart)
