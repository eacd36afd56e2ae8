"""How closely a zone is stitched, and the widest place that is not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import cKDTree

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.zones import Zone

SAMPLE = 0.2
"""Inches between sample points along lines, and across zones (finer in small zones)."""


@dataclass(frozen=True)
class Evenness:
    """Of one zone: stitched *inches*, *density* in inches per square inch, and *gap*: the diameter
    in inches of the largest circle inside the zone that holds no stitching."""

    inches: float
    density: float
    gap: float


def evenness(zones: Sequence[Zone], drawn: Sequence[LayerLinework]) -> dict[str, Evenness]:
    """Density and widest gap of every zone."""
    inches: dict[str, float] = {}
    lines = []
    for one in drawn:
        for run in one.linework.runs:
            lines.append(run.points)
            if not run.in_ditch:
                inches[one.zone] = inches.get(one.zone, 0.0) + run.inches / max(1, one.passes)
    tree = cKDTree(_along(lines)) if lines else None
    found = {}
    for zone in zones:
        own = inches.get(zone.id, 0.0)
        found[zone.id] = Evenness(own, own / zone.polygon.area, _gap(zone, tree))
    return found


def _along(lines: list[np.ndarray]) -> np.ndarray:
    """Points on all lines, no further apart than `SAMPLE`."""
    dense = shapely.segmentize(shapely.linestrings(np.concatenate(lines), indices=np.repeat(
        np.arange(len(lines)), [len(line) for line in lines])), SAMPLE)  # fmt: skip
    return shapely.get_coordinates(dense)


def _gap(zone: Zone, tree: cKDTree | None) -> float:
    x0, y0, x1, y1 = zone.polygon.bounds
    step = min(SAMPLE, max(x1 - x0, y1 - y0) / 12)
    step = max(step, np.sqrt((x1 - x0) * (y1 - y0) / 20_000))
    xs, ys = np.meshgrid(np.arange(x0 + step / 2, x1, step), np.arange(y0 + step / 2, y1, step))
    inside = shapely.contains_xy(zone.polygon, xs.ravel(), ys.ravel())
    spots = np.column_stack([xs.ravel()[inside], ys.ravel()[inside]])
    if not len(spots):
        spots = np.array(zone.polygon.representative_point().coords)
    reach = shapely.distance(zone.polygon.boundary, shapely.points(spots))
    if tree is not None:
        reach = np.minimum(reach, tree.query(spots)[0])
    # The true middle of the circle lies within half a step of the best sample.
    return float(2 * reach.max())
