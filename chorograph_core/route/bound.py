"""The floor of a stage: no order of its trails can lose less in travel and cuts.

Held–Karp bound: every order is a path through all trails, so with any penalties on the ends it costs
at least the cheapest 1-tree; penalties are raised where the tree has too many branches and lowered
where it has too few (Held and Karp 1971). Ways that were not looked for count as cheap as they could
possibly be, which keeps the bound true.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import minimum_spanning_tree

from chorograph_core.route.network import Trail
from chorograph_core.route.travel_costs import TravelCosts

ROUNDS = 48
FORCED = 1e-6
"""Weight of an edge that must be in the tree."""


def path_bound(
    trails: Sequence[Trail], costs: TravelCosts, upper: float, rounds: int = ROUNDS
) -> float:
    """Lower bound in minutes on the joins between *trails*; *upper* is what our order costs."""
    n = len(trails)
    if n < 2 or upper <= 1e-9:
        return 0.0
    vertex, size = _vertices(trails)
    forced = np.array([(vertex[2 * k], vertex[2 * k + 1]) for k, t in enumerate(trails)
                       if not t.closed], int).reshape(-1, 2)  # fmt: skip
    a, b, price = _edges(costs, vertex)
    net = _Edges(size, a, b, price, forced)
    groups = [side for trail in trails for side in (trail.heads, trail.tails)]
    missing = np.full(size, costs.cut)
    np.minimum.at(missing, vertex, costs.end_radius(groups))
    missing /= 2
    penalty = np.zeros(size)
    best, stale, pace = 0.0, 0, 1.6
    for _ in range(rounds):
        value, degree = net.one_tree(missing, penalty)
        if value > best + 1e-9:
            best, stale = value, 0
        else:
            stale += 1
            if stale >= 5:
                pace, stale = pace * 0.6, 0
        off = degree - 2
        norm = float(off @ off)
        if norm < 0.5 or upper - value < 1e-6:
            break
        penalty = penalty + pace * max(upper - value, 1e-3) / norm * off
    return min(best, upper)


def _vertices(trails: Sequence[Trail]) -> tuple[list[int], int]:
    """Vertex of each end: an open trail has two, a closed one a single vertex."""
    vertex, size = [], 0
    for trail in trails:
        vertex += [size, size] if trail.closed else [size, size + 1]
        size += 1 if trail.closed else 2
    return vertex, size


def _edges(costs: TravelCosts, vertex: list[int]):
    """Of each two vertices the cheapest way that is known, as (low, high, price) arrays."""
    vertices = np.array(vertex)
    assert costs.joins is not None
    one, two, price = costs.joins
    a, b = vertices[one], vertices[two]
    size = int(vertices.max()) + 1
    key = np.minimum(a, b) * size + np.maximum(a, b)
    rank = np.lexsort((price, key))
    first = rank[np.concatenate([[True], np.diff(key[rank]) > 0])] if len(rank) else rank
    return np.minimum(a, b)[first], np.maximum(a, b)[first], price[first]


class _Edges:
    """The edges between vertices, sorted as a sparse matrix wants them, made once for all rounds."""

    def __init__(self, size: int, a, b, price, forced: np.ndarray) -> None:
        low, high = np.concatenate([a, forced[:, 0]]), np.concatenate([b, forced[:, 1]])
        rank = np.argsort(low, kind="stable")
        self.size = size
        self.low, self.high = low[rank], high[rank]
        self.price = np.concatenate([price, np.zeros(len(forced))])[rank]
        self.forced = rank >= len(a)
        self.stops = np.searchsorted(self.low, np.arange(size + 1))

    def one_tree(self, missing: np.ndarray, penalty: np.ndarray) -> tuple[float, np.ndarray]:
        """Cheapest spanning tree over the vertices plus two ends of the path; its cost and degrees.

        A way that was not kept costs at least *missing* of one end plus *missing* of the other, so
        any of them may be swapped for one to the vertex where that is least: a star stands for all.
        """
        star = int(np.argmin(missing + penalty))
        others = np.delete(np.arange(self.size), star)
        cost = self.price + penalty[self.low] + penalty[self.high]
        spokes = missing[star] + missing[others] + penalty[star] + penalty[others]
        # A forced edge must be in the tree: make it cheaper than anything else.
        shift = 1.0 - min(cost.min(initial=np.inf), spokes.min(initial=np.inf))
        weight = np.where(self.forced, FORCED, cost + shift)
        at = self.stops[star + 1]
        stops = self.stops.copy()
        stops[star + 1 :] += len(others)
        # Edges twice between two vertices do no harm: the tree takes the cheaper one.
        tree = minimum_spanning_tree(
            csr_array(
                (
                    np.concatenate([weight[:at], spokes + shift, weight[at:]]),
                    np.concatenate([self.high[:at], others, self.high[at:]]),
                    stops,
                ),
                shape=(self.size, self.size),
            )
        )
        degree = np.bincount(tree.indices, minlength=self.size) + np.diff(tree.indptr)
        chosen = tree.data.sum() - FORCED * self.forced.sum()
        chosen -= shift * (self.size - 1 - self.forced.sum())
        chosen += cost[self.forced].sum()
        # The path's two free ends: a stand-in joined at no cost to the two cheapest vertices.
        ends = np.argsort(penalty, kind="stable")[:2]
        degree[ends] += 1
        return float(chosen + penalty[ends].sum() - 2 * penalty.sum()), degree
