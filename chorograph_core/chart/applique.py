"""Appliqué: shapes that lie on top of patches and cut them beneath."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import shapely
from shapely.geometry import Polygon
from shapely.strtree import STRtree

from chorograph_core.chart.model import Chart, ChartError, Fabric, Patch
from chorograph_core.chart.shapes import SMALLEST
from chorograph_core.chart.side_by_side import met

ROLE = "applique"
HAIR = 1e-5
SLIVER = 0.004
"""Square inches of a patch left beside a shape that are given to the shape."""


def lay(chart: Chart, shapes: Sequence[Polygon], fabric: Fabric, name: str) -> Chart:
    """The chart with *shapes* sewn on; each is a patch of its own, called ``a:1`` and so on.

    What lies outside the top is cut off. A patch that a shape parts in two keeps its name for the
    larger piece; one that is covered is gone. Raises `ChartError` for shapes beside the top.
    """
    known = {patch.id for patch in chart.patches}
    fresh = (f"a:{k}" for k in range(1, 10**6) if f"a:{k}" not in known)
    patches = list(chart.patches)
    laid = 0
    for shape in shapes:
        visible = _whole(shape.intersection(chart.outline))
        if visible is None:
            continue
        laid += 1
        patches, visible = _beneath(patches, visible)
        patches.append(
            Patch(next(fresh), visible, "applique", fabric.key, None, name, f"{ROLE}:{name}")
        )
    if not laid:
        raise ChartError("The shape lies outside the top.", "shape")
    fabrics = tuple(f for f in chart.fabrics if f.key != fabric.key) + (fabric,)
    return Chart(chart.outline, tuple(patches), fabrics)


def relaid(old: Chart, new: Chart) -> Chart:
    """The chart *new* with the appliqué of *old* sewn on where it was, as far as it is on the top."""
    patches = list(new.patches)
    there = {patch.id for patch in patches}
    for patch in old.patches:
        if patch.role != ROLE or patch.id in there:
            continue
        visible = _whole(patch.polygon.intersection(new.outline))
        if visible is not None:
            patches, visible = _beneath(patches, visible)
            patches.append(replace(patch, polygon=visible))
    known = {fabric.key for fabric in new.fabrics}
    used = {patch.fabric for patch in patches}
    more = tuple(f for f in old.fabrics if f.key in used and f.key not in known)
    return Chart(new.outline, tuple(patches), tuple(new.fabrics) + more)


def taken_off(chart: Chart, names: Sequence[str]) -> Chart:
    """The chart without the shapes called *names*; each goes to the patch it has most edge with.

    What lay under a shape is not known any more; the one that surrounds it is the best guess.
    """
    patches = {patch.id: patch for patch in chart.patches}
    for name in dict.fromkeys(names):
        if name not in patches or patches[name].role != ROLE:
            continue
        # As it is by now: it may have taken in one that was taken off before it.
        shape = patches.pop(name)
        edge = {
            other.id: shape.polygon.boundary.intersection(other.polygon.buffer(1e-6)).length
            for other in patches.values()
            if other.polygon.distance(shape.polygon) < 1e-6
        }
        for key in sorted(sorted(edge), key=lambda key: -edge[key]):
            joined = _closed(patches[key].polygon, shape.polygon)
            if joined is not None:
                patches[key] = replace(patches[key], polygon=joined)
                break
        else:
            raise ChartError("The shape cannot be taken off here; undo it instead.", "shape")
    return Chart(chart.outline, tuple(patches.values()), chart.fabrics)


def _closed(one: Polygon, two: Polygon) -> Polygon | None:
    """Two shapes that lie side by side as one; None where they only touch."""
    # Out by a hair and in again, since edges that were cut apart may not meet to the last digit.
    grown = shapely.union_all([one, two]).buffer(HAIR, join_style="mitre")
    whole = grown.buffer(-HAIR, join_style="mitre")
    whole_again = isinstance(whole, Polygon) and abs(whole.area - one.area - two.area) < 1e-3
    return whole if whole_again else None


def _beneath(patches: Sequence[Patch], shape: Polygon) -> tuple[list[Patch], Polygon]:
    """What is left of *patches* beneath *shape*, and the shape: with the slivers that nobody would sew, which
    are given to it, and its edge on a seam where it runs along one."""
    shape = met(shape, [patch.polygon for patch in patches])
    near = set(STRtree([patch.polygon for patch in patches]).query(shape).tolist())
    names = {patch.id for patch in patches}
    made: list[Patch] = []
    slivers: list[Polygon] = []
    for k, patch in enumerate(patches):
        if k not in near or patch.polygon.intersection(shape).area < 1e-9:
            made.append(patch)
            continue
        rest = patch.polygon.difference(shape)
        parts = [p for p in getattr(rest, "geoms", [rest]) if isinstance(p, Polygon)]
        slivers += [p for p in parts if 0 < p.area <= SLIVER]
        pieces = sorted((p for p in parts if p.area > SLIVER), key=lambda p: -p.area)
        for number, piece in enumerate(pieces):
            name = patch.id if number == 0 else _free(f"{patch.id}~", names)
            names.add(name)
            made.append(replace(patch, id=name, polygon=piece))
    if slivers:
        # On a grid, so that edges that were cut apart close without a hair between them.
        whole = _whole(shapely.union_all([shape, *slivers], grid_size=1e-7))
        shape = whole if whole is not None else shape
    return made, shape


def _free(stem: str, names: set[str]) -> str:
    return next(f"{stem}{k}" for k in range(1, 10**6) if f"{stem}{k}" not in names)


def _whole(shape) -> Polygon | None:
    """The largest part of what is left of a shape, None for too little."""
    parts = [p for p in getattr(shape, "geoms", [shape]) if isinstance(p, Polygon)]
    found = max(parts, key=lambda p: p.area, default=None)
    return found if found is not None and found.area >= SMALLEST else None
