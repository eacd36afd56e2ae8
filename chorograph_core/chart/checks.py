"""Does a chart hold together: do its patches tile the outline, and if not, where, and mend it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import MultiPolygon, Polygon

from chorograph_core.chart.model import Chart

ALLOWED = 0.01
"""Inches. Gaps and overlaps thinner than this are no fault."""

NOTHING = 1e-9
"""Square inches that only rounding makes."""


@dataclass(frozen=True)
class Fault:
    """Where a chart breaks: ``"gap"`` or ``"overlap"``, the place, and the patches concerned."""

    kind: str
    shape: Polygon
    patches: tuple[str, ...]

    def sentence(self) -> str:
        """Say it to a quilter."""
        x, y = self.shape.representative_point().coords[0]
        where = f"{x:.1f}″ from the left, {y:.1f}″ from the top"
        names = " and ".join(self.patches)
        if self.kind == "gap":
            return f"A gap of {self.shape.area:.2f} sq in, {where}."
        return f"{names} overlap by {self.shape.area:.2f} sq in, {where}."


def faults(chart: Chart, allowed: float = ALLOWED) -> list[Fault]:
    """List the gaps and overlaps wider than *allowed* inches."""
    found = []
    shapes = np.array([patch.polygon for patch in chart.patches], object)
    if len(shapes):
        one, other = STRtree(shapes).query(shapes, predicate="intersects")
        one, other = one[one < other], other[one < other]
        shared = shapely.intersection(shapes[one], shapes[other])
        for k in np.flatnonzero(shapely.area(shared) > NOTHING):
            ids = (chart.patches[one[k]].id, chart.patches[other[k]].id)
            found += [Fault("overlap", part, ids) for part in _wide(shared[k], allowed)]
    bare = chart.outline.difference(shapely.union_all(shapes)) if len(shapes) else chart.outline
    found.extend(Fault("gap", part, ()) for part in _wide(bare, allowed))
    return found


def mend(chart: Chart) -> Chart:
    """Return a chart without overlaps, and with gaps given to the neighbour that borders them most.

    An overlap stays with the patch that comes first.
    """
    shapes = [patch.polygon for patch in chart.patches]
    for fault in faults(chart):
        if fault.kind == "overlap":
            ids = [patch.id for patch in chart.patches]
            a, b = ids.index(fault.patches[0]), ids.index(fault.patches[1])
            rest = _largest(shapes[b].difference(shapes[a]))
            if rest is not None:
                shapes[b] = rest
    bare = chart.outline.difference(shapely.union_all(shapes))
    for gap in _wide(bare, 0.0):
        shared = shapely.length(shapely.intersection(shapes, gap.buffer(ALLOWED)))
        best = int(np.argmax(shared))
        joined = shapely.union(shapes[best], gap.buffer(1e-6, join_style="mitre"))
        largest = _largest(joined)
        if largest is not None:
            shapes[best] = largest
    patches = tuple(
        replace(patch, polygon=shape) for patch, shape in zip(chart.patches, shapes, strict=True)
    )
    return Chart(chart.outline, patches, chart.fabrics)


def _wide(geometry: shapely.Geometry, allowed: float) -> list[Polygon]:
    """The polygon parts of *geometry* that are wider than *allowed*."""
    parts = [p for p in shapely.get_parts(geometry) if isinstance(p, Polygon) and p.area > NOTHING]
    if allowed <= 0:
        return parts
    return [p for p in parts if not p.buffer(-allowed / 2).is_empty]


def _largest(geometry: shapely.Geometry) -> Polygon | None:
    if isinstance(geometry, MultiPolygon):
        return max(geometry.geoms, key=lambda part: part.area)
    return geometry if isinstance(geometry, Polygon) and not geometry.is_empty else None
