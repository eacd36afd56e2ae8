"""Whether one drawing fills a zone as another did."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

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
SQUARE = 5
"""Spots across a square that is judged by its middle."""


def fills_alike(
    part: Polygon, first: Run, made: Run, gap: Callable[[], float] | None = None
) -> bool:
    """Whether *made* fills *part* as *first* does: about as many inches, no wider gap. Where how widely it
    gapes with *first* is known, *gap* tells."""
    return all_fills_alike(part, [first], [made], gap=gap)


def all_fills_alike(
    part: Polygon, first: Sequence[Run], made: Sequence[Run], most: float | None = None,
    gap: Callable[[], float] | None = None,
) -> bool:  # fmt: skip
    """The same for several runs together, with no gap wider than *most* inches."""
    was, now = (
        sum(length(line) for run in runs for line in _stitched(run)) for runs in (first, made)
    )
    if abs(now - was) > INCHES * was:
        return False
    if most is None:
        most = GAP * (gap() if gap else widest_gap(part, first))
    return widest_gap(part, made) <= most


def widest_gap(part: Polygon, runs: Sequence[Run]) -> float:
    """Radius of the largest circle in *part* that touches neither its edge nor a stitch."""
    lines = [line for run in runs for line in _stitched(run)]
    # Of a large zone each place is looked at as closely as of a small one.
    lattice = _lattice(part, MOST_SPOTS if part.area < LARGE else MANY_SPOTS)
    if not len(lattice.spots):
        return 0.0
    dense = shapely.segmentize([shapely.linestrings(line) for line in lines], 0.08)
    stitched = cKDTree(shapely.get_coordinates(dense))
    # The widest place lies between spots: about those that are nearly as wide one looks more closely.
    spots, found = lattice.widest(stitched, CLOSELY)
    fine = np.linspace(-0.5, 0.5, FINER) * lattice.step
    around = (spots[:, None] + np.stack(np.meshgrid(fine, fine), -1).reshape(1, -1, 2)).reshape(
        -1, 2
    )
    around = around[shapely.contains_xy(part, *around.T)]
    room = np.minimum(_to_edge(part, around), stitched.query(around)[0])
    return float(max(found.max(), room.max(initial=0.0)))


def _stitched(run: Run) -> list[np.ndarray]:
    return [p for p, _, kind in run.pieces() if kind == "stitch" and len(p) > 1]


@dataclass(frozen=True)
class _Lattice:
    """Even *spots* (n, 2) in a zone, *step* inches apart, how far each is from its *edge*, and *squares* of
    `SQUARE` by `SQUARE` of them by their middles (m, 2), with the one that each lies in (*of*)."""

    spots: np.ndarray
    step: float
    edge: np.ndarray
    squares: np.ndarray
    of: np.ndarray

    def widest(self, stitched: cKDTree, count: int) -> tuple[np.ndarray, np.ndarray]:
        """The *count* spots with the most room about them, and how much that is.

        How far it is to the nearest stitch changes by no more than one moves: what the middle of a square
        leaves no chance is not looked at.
        """
        middle = stitched.query(self.squares)[0][self.of]
        reach = SQUARE / 2 * math.sqrt(2) * self.step
        least = np.minimum(self.edge, middle - reach)
        count = min(count, len(least))
        bar = np.partition(least, -count)[-count]
        chance = np.flatnonzero(np.minimum(self.edge, middle + reach) >= bar)
        room = np.minimum(self.edge[chance], stitched.query(self.spots[chance])[0])
        best = np.argsort(room, kind="stable")[::-1][:count]
        return self.spots[chance[best]], room[best]


@lru_cache(maxsize=4)
def _lattice(part: Polygon, most: int) -> _Lattice:
    """No more than about *most* spots in *part*. One zone is asked about again and again, for each pair of
    its doors."""
    x0, y0, x1, y1 = part.bounds
    step = max(0.035, float(np.sqrt((x1 - x0) * (y1 - y0) / most)))
    xs, ys = np.meshgrid(np.arange(x0 + step / 2, x1, step), np.arange(y0 + step / 2, y1, step))
    inside = shapely.contains_xy(part, xs.ravel(), ys.ravel())
    spots = np.column_stack([xs.ravel()[inside], ys.ravel()[inside]])
    column, row = np.floor((spots - (x0, y0)) / (SQUARE * step)).astype(int).T
    across = int(column.max(initial=0)) + 1
    squares, of = np.unique(row * across + column, return_inverse=True)
    middles = np.column_stack([squares % across, squares // across]) + 0.5
    return _Lattice(spots, step, _to_edge(part, spots), middles * SQUARE * step + (x0, y0), of)


def _to_edge(part: Polygon, spots: np.ndarray) -> np.ndarray:
    return shapely.distance(part.boundary, shapely.points(spots))
