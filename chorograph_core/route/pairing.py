"""Pair up the odd ends of the ditches at least cost, with "cut" as one of the choices.

A walk that stitches every required ditch must go twice over (or travel) wherever an odd number of
them meet, unless it starts or ends there. Pairing the odd nodes is a minimum-weight matching; an odd
node left alone becomes the end of a trail and costs half a cut (Chinese postman with free ends).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import rustworkx as rx
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra, min_weight_full_bipartite_matching

from chorograph_core.route.network import Network

EXACT = 1_300
"""Odd ends up to which one exact matching is solved; more are solved window by window."""
WINDOW = 700
CHUNK = 256
_SCALE = 1e7


@dataclass(frozen=True)
class Pairing:
    """*pairs* of odd nodes joined by travel, the *alone* ones, and a lower *bound* in minutes on
    travel and cuts, the first start among them, for any walk through all the ditches."""

    pairs: tuple[tuple[int, int], ...]
    alone: tuple[int, ...]
    cost: float
    bound: float


def pair_odd_ends(network: Network, odd: Sequence[int], cut: float) -> Pairing:
    """Pair the nodes *odd*; *cut* is the price of one cut in minutes."""
    odd = sorted(odd)
    ways = _near_odd(network, odd, cut)
    if len(odd) <= EXACT:
        mates = _match(range(len(odd)), ways, cut, two_free=True)
        cost = _cost(mates, ways, len(odd), cut)
        bound = cost
    else:
        mates = _by_windows(network, odd, ways, cut)
        cost = _cost(mates, ways, len(odd), cut)
        bound = max(cut, _half_assignment(ways, len(odd), cut))
    paired = {i for pair in mates for i in pair}
    return Pairing(
        tuple((odd[i], odd[j]) for i, j in sorted(mates)),
        tuple(odd[i] for i in range(len(odd)) if i not in paired),
        cost,
        bound,
    )


def _near_odd(network: Network, odd: Sequence[int], cut: float) -> dict[tuple[int, int], float]:
    """Prices between odd nodes, only where the cheapest way passes no other odd node.

    Other pairs are never needed: a way u-w-v past an odd node w can be swapped for u-w and for
    what w was paired with going on to v, at no greater cost.
    """
    count, size = len(odd), len(network.nodes)
    number = np.full(size + count, -1)
    number[odd] = np.arange(count)
    links = [(link.a, link.b, link.price) for link in network.links if link.a != link.b]
    a, b, price = (np.array(side) for side in zip(*links, strict=True))
    tails, heads, prices = np.concatenate([a, b]), np.concatenate([b, a]), np.tile(price, 2)
    # No way goes on past an odd node: each begins at a stand-in of its own that nothing leads to.
    begins = number[tails] >= 0
    tails = np.where(begins, size + number[tails], tails)
    least = np.lexsort((prices, heads, tails))
    first = np.ones(len(least), bool)
    first[1:] = (np.diff(tails[least]) != 0) | (np.diff(heads[least]) != 0)
    kept = least[first]
    table = csr_array(
        (np.maximum(prices[kept], 1e-9), (tails[kept], heads[kept])),
        shape=(size + count, size + count),
    )
    found: dict[tuple[int, int], float] = {}
    for start in range(0, count, CHUNK):
        sources = np.arange(start, min(start + CHUNK, count))
        ways = dijkstra(table, directed=True, indices=size + sources, limit=cut)[:, odd]
        for i, j in zip(*np.nonzero(ways < cut), strict=True):
            if sources[i] != j:
                pair = (min(int(sources[i]), int(j)), max(int(sources[i]), int(j)))
                found[pair] = float(ways[i, j])
    return found


def _match(
    members, ways: dict[tuple[int, int], float], cut: float, two_free: bool = False
) -> list[tuple[int, int]]:
    """Exact matching that saves most against leaving every node alone at half a cut.

    *two_free*: every walk has a beginning and an end, so two nodes may be left alone for nothing but
    the first start, which must be paid anyway.
    """
    members = list(members)
    local = {node: k for k, node in enumerate(members)}
    graph = rx.PyGraph(multigraph=False)
    graph.add_nodes_from(members)
    graph.add_edges_from(
        [
            (local[i], local[j], int((cut - cost) * _SCALE))
            for (i, j), cost in ways.items()
            if i in local and j in local and cost < cut
        ]
    )
    if two_free:
        free = graph.add_nodes_from([None, None])
        gain = int(cut * _SCALE)
        graph.add_edges_from([(f, k, gain) for f in free for k in range(len(members))])
    mates = rx.max_weight_matching(graph, weight_fn=int)
    return [tuple(sorted((members[a], members[b]))) for a, b in mates if max(a, b) < len(members)]


def _cost(mates, ways, count: int, cut: float) -> float:
    return sum(ways[pair] for pair in mates) + (count - 2 * len(mates)) * cut / 2


def _by_windows(network: Network, odd, ways, cut: float) -> list[tuple[int, int]]:
    """Match in windows of the top, then again in shifted windows across the first ones' edges."""
    spots = np.array([network.nodes[node] for node in odd])
    mates: dict[int, int] = {}
    for shift in (0.0, 0.5, 0.25):
        for window in _windows(spots, shift):
            inside = set(window)
            free = [i for i in window if i not in mates or mates[i] in inside]
            for i in free:
                mates.pop(i, None)
            for i, j in _match(free, ways, cut):
                mates[i], mates[j] = j, i
    return [(i, j) for i, j in mates.items() if i < j]


def _windows(spots: np.ndarray, shift: float) -> list[list[int]]:
    low, high = spots.min(axis=0), spots.max(axis=0)
    across = max(1, round(np.sqrt(len(spots) / WINDOW)))
    size = (high - low) / across + 1e-6
    cell = np.floor((spots - low) / size + shift).astype(int)
    keys = cell[:, 0] * 1000 + cell[:, 1]
    return [np.flatnonzero(keys == key).tolist() for key in np.unique(keys)]


def _half_assignment(ways, count: int, cut: float) -> float:
    """Lower bound: half the cheapest assignment of nodes to nodes (fractional matching).

    Every matching, read both ways, is an assignment; nodes left alone are assigned to a stand-in
    of their own at half a cut from either side.
    """
    rows, columns, prices = [], [], []
    for (i, j), cost in ways.items():
        rows += [i, j]
        columns += [j, i]
        prices += [cost, cost]
    # Stand-ins: node i may take column count + i, and row count + i column i, or its own.
    for i in range(count):
        rows += [i, count + i, count + i]
        columns += [count + i, i, count + i]
        prices += [cut / 2, cut / 2, 0.0]
    table = csr_array(
        (np.array(prices) + 1.0, (np.array(rows), np.array(columns))), shape=(2 * count, 2 * count)
    )
    i, j = min_weight_full_bipartite_matching(table)
    total = float(table[i, j].sum() - 2 * count)
    return total / 2
