"""Whether one drawing fills a zone as another did."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry import Polygon

from chorograph_core.designs.linework import Run, length

INCHES, GAP = 0.14, 1.05
"""A little stricter than the replay, whose lattice is another one: what just passes here passes there."""
LARGE = 300.0
MOST_SPOTS, MANY_SPOTS = 20_000, 120_000
CLOSELY, FINER = 60, 7
"""Spots about which one looks more closely, and how many times across."""


def fills_alike(part: Polygon, first: Run, made: Run) -> bool:
    """Whether *made* fills *part* as *first* does: about as many inches, no wider gap."""
    return all_fills_alike(part, [first], [made])


def all_fills_alike(
    part: Polygon, first: Sequence[Run], made: Sequence[Run], most: float | None = None
) -> bool:
    """The same for several runs together, with no gap wider than *most* inches."""
    was, now = (
        sum(length(line) for run in runs for line in _stitched(run)) for runs in (first, made)
    )
    if abs(now - was) > INCHES * was:
        return False
    return widest_gap(part, made) <= (GAP * widest_gap(part, first) if most is None else most)


def widest_gap(part: Polygon, runs: Sequence[Run]) -> float:
    """Radius of the largest circle in *part* that touches neither its edge nor a stitch."""
    lines = [line for run in runs for line in _stitched(run)]
    # Of a large zone each place is looked at as closely as of a small one.
    spots, step = _lattice(part, MOST_SPOTS if part.area < LARGE else MANY_SPOTS)
    if not len(spots):
        return 0.0
    dense = shapely.segmentize([shapely.linestrings(line) for line in lines], 0.08)
    stitched = cKDTree(shapely.get_coordinates(dense))

    def room(spots: np.ndarray) -> np.ndarray:
        edge = shapely.distance(part.boundary, shapely.points(spots))
        return np.minimum(edge, stitched.query(spots)[0])

    # The widest place lies between spots: about those that are nearly as wide one looks more closely.
    found = room(spots)
    near = np.argsort(found)[::-1][:CLOSELY]
    fine = np.linspace(-0.5, 0.5, FINER) * step
    around = (
        spots[near][:, None] + np.stack(np.meshgrid(fine, fine), -1).reshape(1, -1, 2)
    ).reshape(-1, 2)
    around = around[shapely.contains_xy(part, *around.T)]
    return float(max(found.max(), room(around).max(initial=0.0)))


def _stitched(run: Run) -> list[np.ndarray]:
    return [p for p, _, kind in run.pieces() if kind == "stitch" and len(p) > 1]


def _lattice(part: Polygon, most: int) -> tuple[np.ndarray, float]:
    """Spots (n, 2) in *part* and how far apart they lie."""
    x0, y0, x1, y1 = part.bounds
    step = max(0.035, float(np.sqrt((x1 - x0) * (y1 - y0) / most)))
    xs, ys = np.meshgrid(np.arange(x0 + step / 2, x1, step), np.arange(y0 + step / 2, y1, step))
    inside = shapely.contains_xy(part, xs.ravel(), ys.ravel())
    return np.column_stack([xs.ravel()[inside], ys.ravel()[inside]]), step
