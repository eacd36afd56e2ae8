"""What is wrong with a chart and its zones before anything is designed, each with its place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.chart import Chart, faults, sides_of_outline
from chorograph_core.measure import format_inches
from chorograph_core.zones.model import Zone

NARROW = 0.25
"""Inches under which no line of stitching lies in a zone without lying on its seams."""
SMALL = 0.5
"""Square inches under which a zone is left alone: less than a 3/4″ square and its seams leave nothing
to stitch in, and a layout that leaves such a piece over is mostly wrong."""
MOST = 40


@dataclass(frozen=True)
class Check:
    """One thing to look at: what *kind*, a *sentence*, the *zones* concerned, the place in inches."""

    kind: str
    sentence: str
    zones: tuple[str, ...]
    x: float
    y: float


def checks(chart: Chart, zones: Sequence[Zone], keep: float) -> list[Check]:
    """Gaps and overlaps, zones no needle finds, points that the edge finish will cover.

    *keep* is how far from the raw edge designs stay, inches.
    """
    found = _tiling(chart, zones)
    found += _too_small(zones)
    found += _near_the_edge(chart, zones, keep)
    return found[:MOST]


def _tiling(chart: Chart, zones: Sequence[Zone]) -> list[Check]:
    made = []
    for fault in faults(chart):
        x, y = fault.shape.representative_point().coords[0]
        near = tuple(z.id for z in zones if set(z.patches) & set(fault.patches))
        made.append(Check(fault.kind, fault.sentence(), near, x, y))
    return made


def _too_small(zones: Sequence[Zone]) -> list[Check]:
    shapes = np.array([zone.polygon for zone in zones])
    if not len(shapes):
        return []
    area = shapely.area(shapes)
    # Narrow is what a line in its middle could not keep an eighth from both its sides.
    narrow = shapely.is_empty(shapely.buffer(shapes, -NARROW / 2))
    made: list[Check] = []
    for name, mask, what in (
        ("sliver", narrow & (area >= SMALL), f"narrower than {format_inches(NARROW)}"),
        ("small", area < SMALL, "too small for any stitching"),
    ):
        ids = [zones[k].id for k in np.flatnonzero(mask).tolist()]
        if ids:
            x, y = shapes[int(np.flatnonzero(mask)[0])].representative_point().coords[0]
            count = "One zone is" if len(ids) == 1 else f"{len(ids)} zones are"
            made.append(Check(name, f"{count} {what}: join or leave alone.", tuple(ids), x, y))
    return made


def _near_the_edge(chart: Chart, zones: Sequence[Zone], keep: float) -> list[Check]:
    """Corners of the piecing that point at the raw edge and lie nearer to it than *keep*."""
    edge = chart.outline.exterior
    shapely.prepare(edge)
    ids, spot = [], None
    for zone in zones:
        ring = sides_of_outline(zone.polygon)[:-1]
        away = shapely.distance(shapely.points(ring), edge)
        points = ring[(away > 0.02) & (away < keep - 1e-6)]
        if len(points):
            ids.append(zone.id)
            spot = points[0] if spot is None else spot
    if spot is None:
        return []
    count = "One zone has a point" if len(ids) == 1 else f"{len(ids)} zones have points"
    return [Check("edge", f"{count} nearer to the raw edge than {format_inches(keep)}: the finish of "
                  f"the edge will cut them off.", tuple(ids), float(spot[0]), float(spot[1]))]  # fmt: skip
