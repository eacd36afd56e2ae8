"""Changes of the piecing from the sheet: blocks exchanged or turned in their place, fabrics recoloured."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from typing import Any

from shapely import STRtree, points

from chorograph_core.blocks import block_library
from chorograph_core.chart import Chart, ChartError, Fabric, Patch
from chorograph_core.job import Job as CoreJob
from chorograph_core.layouts import Exchange, OnPoint, OpenField, Placed, StraightSet
from chorograph_core.layouts.borders import around
from studio.asking import EditError, colour_from, length_from, points_from, spots_from, whole_from
from studio.charting.following import charted
from studio.workbench.edits import chosen

CROSSED = (StraightSet, OnPoint)
"""Layouts whose sashing may cross without a cornerstone in single places."""


def blocks_of(core: CoreJob, ids: Sequence[str]) -> list[tuple[int, int]]:
    """The places (row, column) of the blocks that the zones called *ids* lie in."""
    places = {
        core.chart.patch(patch).block
        for zone in chosen(core, ids)
        for patch in zone.patches
        if core.chart.patch(patch).block is not None
    }
    return sorted(place for place in places if place is not None)


def blocks_touched(core: CoreJob, text: str) -> list[tuple[int, int]]:
    """The places (row, column) of the blocks that the spots ``x,y x,y …`` lie in. Raises `EditError`."""
    spots = points(points_from(text, "block"))
    pieces = [patch for patch in core.chart.patches if patch.block is not None]
    tree = STRtree([patch.polygon for patch in pieces])
    _, found = tree.query(spots, predicate="intersects")
    return sorted({place for k in found if (place := pieces[k].block) is not None})


def fabrics_of(core: CoreJob, ids: Sequence[str]) -> list[Fabric]:
    """The fabrics of the zones called *ids*."""
    keys = {core.chart.patch(patch).fabric for zone in chosen(core, ids) for patch in zone.patches}
    return [core.chart.fabric(key) for key in sorted(keys)]


def exchange_blocks(
    core: CoreJob, ids: Sequence[str], values: Mapping[str, Any], own: Collection[str] = ()
) -> CoreJob:
    """Lay another block, or the same one turned or mirrored, in the places of the chosen zones.

    Where the sheet was touched (``at`` among *values*), the blocks there are meant instead. *own* are
    the keys of the studio's own blocks.
    """
    touched = values.get("at", "")
    places = blocks_touched(core, touched) if touched else blocks_of(core, ids)
    if core.survey is None:
        raise EditError(
            "This top was not charted from numbers: its blocks have no places.", "block"
        )
    if not places:
        raise EditError("No block lies there." if touched else "Choose a zone that lies in a block.",
                        "block")  # fmt: skip
    key = values.get("block", "")
    if key and key not in block_library() and key not in own:
        raise EditError("Choose a block.", "block")
    turn = whole_from(values, "turn", 0, what="Turn by quarters.") % 4
    mirror = bool(values.get("mirror"))
    kinds = {patch.block: patch.kind for patch in core.chart.patches if patch.block is not None}
    kept = [each for each in core.survey.exchanged if (each.row, each.column) not in places]
    fresh = [Exchange(r, c, key or kinds[r, c], turn, mirror) for r, c in places]
    try:
        return charted(core, replace(core.survey, exchanged=(*kept, *fresh)))
    except ChartError as error:
        raise EditError(str(error), "block") from None


def placed_block(values: Mapping[str, Any], unit: str, own: Collection[str] = ()) -> Placed:
    """The block that a form describes, its middle at the origin. Raises `EditError`.

    *own* are the keys of the studio's own blocks.
    """
    key = values.get("block", "")
    if key not in block_library() and key not in own:
        raise EditError("Choose a block.", "block")
    size = length_from(values, "size", unit, 1, 60, "A block measures 1″ to 60″.")
    turn = str(values.get("turn") or "0")
    if turn not in ("0", "1", "2", "3"):
        raise EditError("Turn by quarters.", "turn")
    return Placed(-size / 2, -size / 2, size, key, int(turn),
                  bool(values.get("mirror")))  # fmt: skip


def pieces_of(core: CoreJob, placed: Placed) -> list[Patch]:
    """The pieces of a placed block."""
    layout = core.survey or OpenField(1, 1)
    return layout.block_patches(placed.block, (-1, -1), placed.x, placed.y, placed.size, None,
                                placed.turn, placed.mirror)  # fmt: skip


def place_block(
    core: CoreJob, values: Mapping[str, Any], unit: str, own: Collection[str] = ()
) -> CoreJob:
    """Place a block on an open field, its middle where the sheet was touched, to the next 1/8″."""
    if not isinstance(core.survey, OpenField):
        raise EditError("Blocks are placed freely on an open field.", "block")
    made = placed_block(values, unit, own)
    where = "Touch the sheet where the block shall lie."
    ((x, y),) = spots_from(values.get("at", ""), 1, where, "at")
    if not (abs(x) < 1e4 and abs(y) < 1e4):
        raise EditError(where, "at")
    top, _, _, left = around(core.survey.borders)
    stretch = [
        side / parts for side, parts in zip(core.survey.size(), core.survey.parts(), strict=True)
    ]
    at = (
        round((x / stretch[0] - left + made.x) * 8) / 8,
        round((y / stretch[1] - top + made.y) * 8) / 8,
    )
    made = replace(made, x=at[0], y=at[1])
    try:
        return charted(core, replace(core.survey, placed=(*core.survey.placed, made)))
    except ChartError as error:
        raise EditError(str(error), "at") from None


def run_through(core: CoreJob, ids: Sequence[str]) -> CoreJob:
    """Let the sashing run through where the chosen cornerstones are."""
    if not isinstance(core.survey, CROSSED):
        raise EditError("This top has no crossings with cornerstones.", "block")
    stones = cornerstones_of(core, ids)
    if not stones:
        raise EditError("Choose a cornerstone.", "block")
    crossings = sorted({*core.survey.open_crossings, *stones})
    return charted(core, replace(core.survey, open_crossings=tuple(crossings)))


def cornerstones_of(core: CoreJob, ids: Sequence[str]) -> list[str]:
    """The crossings (``row.column``, on point a number) of the cornerstones among the zones called *ids*."""
    names = [patch for zone in chosen(core, ids) for patch in zone.patches]
    return [name[2:] for name in names if core.chart.patch(name).role == "cornerstone"
            and re.fullmatch(r"cs\d+(\.\d+)?", name)]  # fmt: skip


def recolour(core: CoreJob, values: Mapping[str, Any]) -> CoreJob:
    """Give a fabric another colour and say how busy its print is, wherever it lies on the top."""
    key = values.get("fabric", "")
    if key not in {patch.fabric for patch in core.chart.patches}:
        raise EditError("Choose a fabric of this top.", "fabric")
    colour = colour_from(values)
    try:
        busy = min(1.0, max(0.0, float(values.get("busy") or 0)))
    except ValueError:
        raise EditError("How busy goes from 0 to 1.", "busy") from None
    before = core.chart.fabric(key)
    after = replace(before, colour=colour, busy=busy, background=bool(values.get("background")))
    rest = [after if fabric.key == key else fabric for fabric in core.chart.fabrics]
    if all(fabric.key != key for fabric in core.chart.fabrics):
        rest.append(after)
    chart = Chart(core.chart.outline, core.chart.patches, tuple(rest))
    return replace(core, chart=chart)
