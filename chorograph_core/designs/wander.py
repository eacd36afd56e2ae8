"""A short way round many points: the ground of motifs that may wander."""

from __future__ import annotations

import math

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry import Polygon

ALL_PAIRS = 100
"""Points up to which every way is looked at, whether it would leave the zone."""
NEIGHBOURS = 8
"""Neighbours of a point that a short way may lead to."""


def open_way(points: np.ndarray, polygon: Polygon) -> list[int]:
    """A short way through all *points* from any one of them to any other, as `round_trip` finds one that
    comes back."""
    return _trip(points, polygon, None, True)


def round_trip(
    points: np.ndarray, polygon: Polygon, together: tuple[int, int] | None = None
) -> list[int]:
    """A short closed way through all *points*: greedy, then 2-opt with near neighbours.

    Ways that would leave *polygon* count four times their length. The two points *together* are
    neighbours on the way, so that leaving that way out gives an open path between them.
    """
    return _trip(points, polygon, together, False)


def _trip(
    points: np.ndarray, polygon: Polygon, together: tuple[int, int] | None, ends_anywhere: bool
) -> list[int]:
    n = len(points)
    if n < 4:
        return list(range(n))
    _, near = cKDTree(points).query(points, min(n, NEIGHBOURS + 1))
    near = np.array(
        [[k for k in row if k != i][:NEIGHBOURS] for i, row in enumerate(near.tolist())]
    )
    pairs = np.unique(np.sort(np.column_stack([np.repeat(np.arange(n), near.shape[1]),
                                               near.ravel()]), axis=1), axis=0)  # fmt: skip
    if n <= ALL_PAIRS:
        pairs = np.column_stack(np.triu_indices(n, 1))
    shapely.prepare(polygon)
    legs = shapely.linestrings(np.stack([points[pairs[:, 0]], points[pairs[:, 1]]], axis=1))
    astray = pairs[~shapely.covers(polygon, legs)]
    order, ways, close = _greedy(points), _Ways(points, astray, together), near.tolist()
    if not ends_anywhere:
        return _improve(order, ways, close, together)
    # Nowhere lies as near to one place as to another: what the way comes from and goes on to.
    found = _improve([*order, n], ways, [*close, list(range(n))], None)
    if n <= ALL_PAIRS:
        between = ways.between()
        while _moved(found, between):
            found = _improve(found, ways, [*close, list(range(n))], None)
    cut = found.index(n)
    return found[cut + 1 :] + found[:cut]


class _Ways:
    """What it costs to go from one point to another: inches, four times those of a way *astray*."""

    def __init__(self, points: np.ndarray, astray: np.ndarray, together) -> None:
        self._x, self._y = points[:, 0].tolist(), points[:, 1].tolist()
        self._astray = {pair for a, b in astray.tolist() for pair in ((a, b), (b, a))}
        self._points, self._pairs = points, astray
        self._together = set() if together is None else {together, together[::-1]}

    def __call__(self, a: int, b: int) -> float:
        if max(a, b) == len(self._x):
            return 0.0
        way = math.hypot(self._x[a] - self._x[b], self._y[a] - self._y[b])
        if (a, b) in self._astray:
            way *= 4
        return -1e4 if (a, b) in self._together else way

    def between(self) -> np.ndarray:
        """What all ways cost, those to nowhere last; of points that need not be *together*."""
        n = len(self._points)
        apart = np.zeros((n + 1, n + 1))
        apart[:n, :n] = np.hypot(*(self._points[:, None] - self._points[None]).transpose(2, 0, 1))
        a, b = self._pairs.T
        apart[a, b] *= 4
        apart[b, a] *= 4
        return apart


def _greedy(points: np.ndarray) -> list[int]:
    """From each point to the nearest that is left."""
    left = np.arange(len(points))
    order = [0]
    left = left[1:]
    at = points[0]
    while len(left):
        apart = points[left] - at
        best = int(np.argmin((apart * apart).sum(axis=1)))
        order.append(int(left[best]))
        at = points[order[-1]]
        left = np.delete(left, best)
    return order


def _moved(order: list[int], between: np.ndarray) -> bool:
    """Put one to three places that follow each other elsewhere, either way round, where that is shortest (Or
    1976); whether that helps. *between* is what each way costs (n, n)."""
    n = len(order)
    tour = np.array(order)
    best, move = 1e-9, None
    for count in (1, 2, 3):
        if n - 1 <= count:
            continue
        start = np.arange(n)
        first, last = tour, tour[(start + count - 1) % n]
        before, after = tour[start - 1], tour[(start + count) % n]
        gain = between[before, first] + between[last, after] - between[before, after]
        # Between which two that follow each other, as seen from where they are now.
        on = start[:, None] + np.arange(count, n - 1)
        one, two = tour[on % n], tour[(on + 1) % n]
        free = gain[:, None] + between[one, two]
        ways = np.stack([
            free - between[one, first[:, None]] - between[last[:, None], two],
            free - between[one, last[:, None]] - between[first[:, None], two],
        ], axis=-1)  # fmt: skip
        found = int(ways.argmax())
        if ways.flat[found] > best:
            best = float(ways.flat[found])
            move = (count, *(int(k) for k in np.unravel_index(found, ways.shape)))
    if move is None:
        return False
    count, i, k, back = move
    k += count
    some = [order[(i + j) % n] for j in range(count)]
    part = some[::-1] if back else some
    rest = [order[(i + count + j) % n] for j in range(n - count)]
    order[:] = [*rest[: k - count + 1], *part, *rest[k - count + 1 :]]
    return True


def _improve(order: list[int], ways: _Ways, near: list[list[int]], together) -> list[int]:
    """2-opt with neighbour lists until nothing shortens the tour."""
    n = len(order)
    if together is not None:
        a, b = together
        near[a], near[b] = [b, *near[a]], [a, *near[b]]
    place = [0] * n
    for i, v in enumerate(order):
        place[v] = i
    better, rounds = True, 0
    while better and rounds < 20:
        better, rounds = False, rounds + 1
        for v in range(n):
            i = place[v]
            after = order[(i + 1) % n]
            now = ways(v, after)
            for w in near[v]:
                there = ways(v, w)
                if there >= now:
                    break
                j = place[w]
                beyond = order[(j + 1) % n]
                gain = now + ways(w, beyond) - there - ways(after, beyond)
                if gain > 1e-9:
                    a, b = (i + 1, j) if i < j else (j + 1, i)
                    order[a : b + 1] = order[a : b + 1][::-1]
                    for k in range(a, b + 1):
                        place[order[k]] = k
                    better = True
                    break
    return order
