"""Pair up the odd ends of the ditches at least cost, with "cut" as one of the choices.

A walk that stitches every required ditch must go twice over (or travel) wherever an odd number of
them meet, unless it starts or ends there. Pairing the odd nodes is a minimum-weight matching; an odd
node left alone becomes the end of a trail and costs half a cut (Chinese postman with free ends,
Edmonds and Johnson 1973). All pairs count: a way past a third odd node may be part of the best
pairing where three joins meet.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np
import rustworkx as rx
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra, min_weight_full_bipartite_matching, minimum_spanning_tree

from chorograph_core.route.ground import CHUNK, Ground

NEAREST = 14
"""Others with which a node may be paired in a plan; bounds look at all."""
EXACT = 300
"""Odd nodes up to which the bound is that of an exact matching over all pairs."""
WINDOW = 700
"""Odd nodes that are paired in one matching; more are parted into windows of the top."""
KEPT = 60
"""Nodes up to which the prices between them are kept: no more are asked about again and again."""
_SCALE = 1e7

Pairs = dict[tuple[int, int], float]


def pairs_within(ground: Ground, nodes: Sequence[int], limit: float) -> Pairs:
    """Prices between *nodes*, by their places (i, j) with i < j, where they are under *limit*. Who looks for
    walks between all ends of a place asks again and again: what is found is kept with the ground."""
    if len(nodes) > KEPT:
        return _pairs_within(ground, nodes, limit)
    key = (tuple(nodes), limit)
    if key not in ground.pairs:
        ground.pairs[key] = _pairs_within(ground, nodes, limit)
    return ground.pairs[key]


def _pairs_within(ground: Ground, nodes: Sequence[int], limit: float) -> Pairs:
    where = ground.places(nodes)
    here = np.flatnonzero(where >= 0)
    found: Pairs = {}
    for start in range(0, len(here), CHUNK):
        batch = here[start : start + CHUNK]
        ways = dijkstra(ground.matrix, directed=False, indices=where[batch], limit=limit)
        ways = ways[:, where[here]]
        i, j = np.nonzero((ways < limit) & (batch[:, None] < here))
        found.update(zip(zip(batch[i].tolist(), here[j].tolist(), strict=True), ways[i, j].tolist(),
                         strict=True))  # fmt: skip
    return found


def pair_ends(
    pairs: Pairs, count: int, cut: float, spots: np.ndarray, two_free: bool = False,
    coming: np.ndarray | None = None, leaving: np.ndarray | None = None,
) -> list[tuple[int, int]]:  # fmt: skip
    """The pairs to join among *count* odd nodes lying at *spots* (n, 2).

    *two_free*: a walk has a beginning and an end anyhow, so two nodes may be left alone for nothing.
    *coming* and *leaving* (n,) say what it costs to come to each node, and to go on from it: a walk
    then rather begins and ends where that is cheap.
    """
    near = _nearest(pairs, count)
    if count <= WINDOW:
        return _match(range(count), near, cut, two_free, coming, leaving)
    mates: dict[int, int] = {}
    # In windows of the top, then in shifted ones across the first ones' edges.
    for shift in (0.0, 0.5, 0.25):
        for window in _windows(spots, shift):
            inside = set(window)
            free = [i for i in window if i not in mates or mates[i] in inside]
            for i in free:
                mates.pop(i, None)
            for i, j in _match(free, near, cut):
                mates[i], mates[j] = j, i
    return [(i, j) for i, j in mates.items() if i < j]


def pairing_bound(pairs: Pairs, count: int, cut: float) -> float:
    """Lower bound on travel and cuts, the first start left out, of any walks through ditches with
    *count* odd nodes; *pairs* are all that cost less than a *cut*."""
    if count <= 2:
        return 0.0
    if count <= EXACT:
        mates = _match(range(count), pairs, cut, two_free=True)
        alone = max(0, count - 2 * len(mates) - 2)
        return sum(pairs[pair] for pair in mates) + alone * cut / 2
    return max(0.0, _half_assignment(pairs, count, cut) - cut)


def pairing_bound_leaving(
    pairs: Pairs, count: int, cut: float, leaving: np.ndarray, anywhere: float
) -> float:
    """The same, with what it costs to go on from where the last walk ends: *leaving* (n,) from each of the
    odd nodes, *anywhere* from whichever node of the ditches costs least: a closed walk ends there."""
    if count > EXACT:
        return pairing_bound(pairs, count, cut) + anywhere
    alone = count * cut / 2
    weights = [(i, j, cut - price) for (i, j), price in pairs.items() if price < cut]
    closed = alone - _most(count, weights) + anywhere
    if count < 2:
        return max(0.0, closed)
    # One node is where it begins, for nothing, another where it ends: both of these are taken.
    sure = 10 * cut
    weights += [(k, count, cut / 2 + sure) for k in range(count)]
    weights += [(k, count + 1, cut / 2 - float(leaving[k]) + sure) for k in range(count)]
    return max(0.0, min(closed, alone - (_most(count + 2, weights) - 2 * sure)))


def _most(count: int, weights: Sequence[tuple[int, int, float]]) -> float:
    """The weight of the heaviest matching of *count* nodes by edges (one, other, weight)."""
    graph = rx.PyGraph(multigraph=False)
    graph.add_nodes_from(range(count))
    told = {(i, j): weight for i, j, weight in weights}
    graph.add_edges_from([(i, j, int(weight * _SCALE)) for (i, j), weight in told.items()])
    mates = rx.max_weight_matching(graph, weight_fn=int)
    return sum(told.get((a, b), told.get((b, a), 0.0)) for a, b in mates)


def paired(table: np.ndarray, cut: float, alone: int = 0) -> float:
    """The least sum of *table* (n, n) over pairs of all nodes, a *cut* at most for each; as many as
    *alone* of them are left out for nothing."""
    count = len(table)
    if count <= alone:
        return 0.0
    graph = rx.PyGraph(multigraph=False)
    graph.add_nodes_from(range(count + alone))
    low, high = np.triu_indices(count, 1)
    saved = (2 * cut - np.minimum(table[low, high], cut)) * _SCALE
    graph.add_edges_from(
        list(zip(low.tolist(), high.tolist(), saved.astype(int).tolist(), strict=True))
    )
    graph.add_edges_from([(k, count + free, int(2 * cut * _SCALE))
                          for k in range(count) for free in range(alone)])  # fmt: skip
    mates = rx.max_weight_matching(graph, max_cardinality=True, weight_fn=int)
    return sum(min(float(table[a, b]), cut) for a, b in mates if max(a, b) < count)


def islands_bound(ground: Ground, islands: Sequence[Sequence[int]], cut: float) -> float:
    """Lower bound on what leads from island to island of required ditches, given by their nodes.

    Whoever does them all goes from one to another not yet done at least once less than there are
    islands, and those ways connect all: they cost at least the cheapest tree between them.
    """
    if len(islands) < 2:
        return 0.0
    nodes = sorted({node for island in islands for node in island})
    owner = {node: k for k, island in enumerate(islands) for node in island}
    best: dict[tuple[int, int], float] = {}
    for (i, j), price in pairs_within(ground, nodes, cut).items():
        a, b = sorted((owner[nodes[i]], owner[nodes[j]]))
        if a != b:
            best[a, b] = min(best.get((a, b), cut), price)
    return _tree(len(islands), best, cut)


def between_islands(islands: Sequence[Sequence[int]], table: np.ndarray, cut: float) -> float:
    """The same by a *table* (n, n) of prices between their nodes."""
    best = {(i, j): float(table[np.ix_(islands[i], islands[j])].min())
            for i, j in itertools.combinations(range(len(islands)), 2)}  # fmt: skip
    return _tree(len(islands), best, cut)


def _tree(size: int, prices: Pairs, cut: float) -> float:
    """The cheapest tree between so many things, by *prices* of pairs and a *cut* where none is cheaper."""
    if size < 2:
        return 0.0
    cheapest = {(0, k): cut for k in range(1, size)}
    for pair, price in prices.items():
        cheapest[pair] = min(price, cheapest.get(pair, cut))
    rows, columns = np.array(list(cheapest)).T
    # What costs nothing is a way too.
    weights = np.array(list(cheapest.values())) + 1.0
    tree = minimum_spanning_tree(csr_array((weights, (rows, columns)), shape=(size, size)))
    return float(tree.sum()) - (size - 1)


def _nearest(pairs: Pairs, count: int) -> Pairs:
    """The pairs in which one is among the nearest of the other."""
    by_node: list[list[tuple[float, int]]] = [[] for _ in range(count)]
    for (i, j), price in pairs.items():
        by_node[i].append((price, j))
        by_node[j].append((price, i))
    kept: Pairs = {}
    for i, others in enumerate(by_node):
        for price, j in sorted(others)[:NEAREST]:
            kept[min(i, j), max(i, j)] = price
    return kept


def _match(
    members, pairs: Pairs, cut: float, two_free: bool = False,
    coming: np.ndarray | None = None, leaving: np.ndarray | None = None,
) -> list[tuple[int, int]]:  # fmt: skip
    """Exact matching that saves most against leaving every node alone at half a cut."""
    members = list(members)
    local = {node: k for k, node in enumerate(members)}
    graph = rx.PyGraph(multigraph=False)
    graph.add_nodes_from(members)
    graph.add_edges_from(
        [
            (local[i], local[j], int((cut - cost) * _SCALE))
            for (i, j), cost in pairs.items()
            if i in local and j in local and cost < cut
        ]
    )
    if two_free:
        free = graph.add_nodes_from([None, None])
        for node, price in zip(free, (coming, leaving), strict=True):
            saved = np.full(len(members), 0.0) if price is None else cut - np.minimum(price, cut)
            gains = ((cut / 2 + saved) * _SCALE).astype(int).tolist()
            graph.add_edges_from([(node, k, gain) for k, gain in enumerate(gains)])
    mates = rx.max_weight_matching(graph, weight_fn=int)
    return sorted(
        (min(members[a], members[b]), max(members[a], members[b]))
        for a, b in mates
        if max(a, b) < len(members)
    )


def _windows(spots: np.ndarray, shift: float) -> list[list[int]]:
    low, high = spots.min(axis=0), spots.max(axis=0)
    across = max(1, round(np.sqrt(len(spots) / WINDOW)))
    size = (high - low) / across + 1e-6
    cell = np.floor((spots - low) / size + shift).astype(int)
    keys = cell[:, 0] * 1000 + cell[:, 1]
    return [np.flatnonzero(keys == key).tolist() for key in np.unique(keys)]


def _half_assignment(pairs: Pairs, count: int, cut: float) -> float:
    """Half the cheapest assignment of nodes to nodes (fractional matching).

    Every matching, read both ways, is an assignment; nodes left alone are assigned to a stand-in
    of their own at half a cut from either side.
    """
    ends = np.array(list(pairs), int).reshape(-1, 2)
    cost = np.array(list(pairs.values()))
    own, other = np.arange(count), count + np.arange(count)
    rows = np.concatenate([ends[:, 0], ends[:, 1], own, other, other])
    columns = np.concatenate([ends[:, 1], ends[:, 0], other, own, other])
    half = np.full(count, cut / 2)
    prices = np.concatenate([cost, cost, half, half, np.zeros(count)])
    table = csr_array((prices + 1.0, (rows, columns)), shape=(2 * count, 2 * count))
    i, j = min_weight_full_bipartite_matching(table)
    return float(table[i, j].sum() - 2 * count) / 2
