"""Even sites in a zone and a short way round them: the ground of motifs that may wander."""

from __future__ import annotations

import math

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry import Polygon

MOST_SITES = 900
"""Sites that are still gone round in a short way."""
MOST_SAMPLES = 120_000


def sites(
    polygon: Polygon, spacing: float, rng: np.random.Generator, rounds: int = 7,
    most: int = MOST_SITES,
) -> np.ndarray:  # fmt: skip
    """Points (n, 2) spread evenly in *polygon*, about *spacing* inches apart; wider apart where there
    would be more than *most*.

    A jittered triangular lattice relaxed by Lloyd's method on a cloud of sample points, so that
    every point ends in the middle of the area that is nearest to it.
    """
    x0, y0, x1, y1 = polygon.bounds
    wished = polygon.area / (spacing * spacing * math.sqrt(3) / 2)
    if wished > most:
        spacing *= math.sqrt(wished / most)
        wished = most
    count = max(1, round(wished))
    cloud = _cloud(polygon, max(400, min(24 * count, MOST_SAMPLES)), rng)
    if len(cloud) <= count:
        return cloud
    rows = np.arange(y0 + spacing / 3, y1, spacing * math.sqrt(3) / 2)
    lattice = [
        (x + (spacing / 2 if k % 2 else 0), y)
        for k, y in enumerate(rows)
        for x in np.arange(x0 + spacing / 3, x1, spacing)
    ]
    start = np.array(lattice) if lattice else np.empty((0, 2))
    if len(start):
        start = start + rng.normal(0, spacing * 0.18, start.shape)
        start = start[shapely.contains_xy(polygon, start[:, 0], start[:, 1])]
    if len(start) < count:
        more = cloud[rng.choice(len(cloud), count - len(start), replace=False)]
        start = np.vstack([start, more])
    points = start
    for _ in range(rounds):
        _, owner = cKDTree(points).query(cloud)
        weight = np.bincount(owner, minlength=len(points))
        kept = weight > 0
        middle = np.column_stack(
            [np.bincount(owner, cloud[:, k], minlength=len(points)) for k in (0, 1)]
        )
        points = middle[kept] / weight[kept, None]
    good = shapely.contains_xy(polygon, points[:, 0], points[:, 1])
    return points[good] if good.any() else cloud[:1]


def _cloud(polygon: Polygon, count: int, rng: np.random.Generator) -> np.ndarray:
    x0, y0, x1, y1 = polygon.bounds
    box = max((x1 - x0) * (y1 - y0), 1e-9)
    tries = int(count * box / max(polygon.area, box / 400)) + 16
    raw = rng.random((min(tries, 200_000), 2)) * (x1 - x0, y1 - y0) + (x0, y0)
    return raw[shapely.contains_xy(polygon, raw[:, 0], raw[:, 1])]


def round_trip(
    points: np.ndarray, polygon: Polygon, together: tuple[int, int] | None = None
) -> list[int]:
    """A short closed way through all *points*: greedy, then 2-opt and or-opt with near neighbours.

    Ways that would leave *polygon* count four times their length. The two points *together* are
    neighbours on the way, so that leaving that way out gives an open path between them.
    """
    n = len(points)
    if n < 4:
        return list(range(n))
    ways = np.hypot(*(points[:, None] - points[None, :]).transpose(2, 0, 1))
    near = np.argsort(ways, axis=1, kind="stable")[:, 1 : min(n, 9)]
    pairs = np.unique(np.sort(np.column_stack([np.repeat(np.arange(n), near.shape[1]),
                                               near.ravel()]), axis=1), axis=0)  # fmt: skip
    legs = shapely.linestrings(np.stack([points[pairs[:, 0]], points[pairs[:, 1]]], axis=1))
    astray = pairs[~shapely.covers(polygon, legs)]
    ways[astray[:, 0], astray[:, 1]] *= 4
    ways[astray[:, 1], astray[:, 0]] *= 4
    if together is not None:
        ways[together] = ways[together[::-1]] = -1e4
        near = np.argsort(ways, axis=1, kind="stable")[:, : min(n, 9)]
        near = np.array(
            [[k for k in row if k != i][: near.shape[1] - 1] for i, row in enumerate(near)]
        )
    order = _greedy(ways)
    return _improve(order, ways.tolist(), near.tolist())


def _greedy(ways: np.ndarray) -> list[int]:
    n = len(ways)
    free = np.ones(n, bool)
    order, free[0] = [0], False
    for _ in range(n - 1):
        following = int(np.argmin(np.where(free, ways[order[-1]], np.inf)))
        order.append(following)
        free[following] = False
    return order


def _improve(order: list[int], ways: list[list[float]], near: list[list[int]]) -> list[int]:
    """2-opt with neighbour lists until nothing shortens the tour."""
    n = len(order)
    place = [0] * n
    for i, v in enumerate(order):
        place[v] = i
    better, rounds = True, 0
    while better and rounds < 20:
        better, rounds = False, rounds + 1
        for v in range(n):
            i = place[v]
            after = order[(i + 1) % n]
            for w in near[v]:
                if ways[v][w] >= ways[v][after]:
                    break
                j = place[w]
                beyond = order[(j + 1) % n]
                gain = ways[v][after] + ways[w][beyond] - ways[v][w] - ways[after][beyond]
                if gain > 1e-9:
                    a, b = (i + 1, j) if i < j else (j + 1, i)
                    order[a : b + 1] = order[a : b + 1][::-1]
                    for k in range(a, b + 1):
                        place[order[k]] = k
                    better = True
                    break
    return order
