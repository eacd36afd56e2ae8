"""Whether one drawing fills a zone as another did."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Run, length

INCHES, GAP = 0.14, 1.05
"""A little stricter than the replay, whose lattice is another one: what just passes here passes there."""
LARGE = 300.0
MOST_SPOTS, MANY_SPOTS = 20_000, 120_000


def fills_alike(part: Polygon, first: Run, made: Run) -> bool:
    """Whether *made* fills *part* as *first* does: about as many inches, no wider gap."""
    return all_fills_alike(part, [first], [made])


def all_fills_alike(
    part: Polygon, first: Sequence[Run], made: Sequence[Run], wider: float = GAP
) -> bool:
    """The same for several runs together, with gaps at most so many times *wider*."""
    was, now = ([line for run in runs for line in _stitched(run)] for runs in (first, made))
    inches = [sum(length(points) for points in lines) for lines in (was, now)]
    if abs(inches[1] - inches[0]) > INCHES * inches[0]:
        return False
    # Of a large zone each place is looked at as closely as of a small one.
    spots = _lattice(part, MOST_SPOTS if part.area < LARGE else MANY_SPOTS)
    if not len(spots):
        return True
    edge = shapely.distance(part.boundary, shapely.points(spots))
    gaps = [float(np.minimum(edge, _reach(lines, spots)).max()) for lines in (was, now)]
    return gaps[1] <= wider * gaps[0]


def _stitched(run: Run) -> list[np.ndarray]:
    return [p for p, _, kind in run.pieces() if kind == "stitch" and len(p) > 1]


def _lattice(part: Polygon, most: int) -> np.ndarray:
    x0, y0, x1, y1 = part.bounds
    step = max(0.035, float(np.sqrt((x1 - x0) * (y1 - y0) / most)))
    xs, ys = np.meshgrid(np.arange(x0 + step / 2, x1, step), np.arange(y0 + step / 2, y1, step))
    inside = shapely.contains_xy(part, xs.ravel(), ys.ravel())
    return np.column_stack([xs.ravel()[inside], ys.ravel()[inside]])


def _reach(lines: Sequence[np.ndarray], spots: np.ndarray) -> np.ndarray:
    dense = shapely.segmentize([shapely.linestrings(line) for line in lines], 0.08)
    return cKDTree(shapely.get_coordinates(dense)).query(spots)[0]
