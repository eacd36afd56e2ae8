"""The order of trails within a stage: which follows which, entered from which end.

Every trail has two ends (numbered 2k and 2k + 1); joining two costs the cheapest way between their
nodes, or a cut if that is cheaper. Greedy joining of nearest ends, then 2-opt and or-opt over
neighbour lists, then kicks; at last the best doorway of each closed trail by dynamic programming.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from chorograph_core.route.network import Network, Trail

NEIGHBOURS = 10
CHUNK = 256
FULL_REACH = 900
"""Nodes up to which ways as dear as a cut are looked for; beyond, only ways of a third of it."""


@dataclass(frozen=True)
class Ways:
    """Cheapest ways between the trails of a stage.

    *nodes*: price by (node, node). *ends*: price by end and end, the minimum over their nodes.
    *near*: for each end the cheapest others, cheapest first. *cut*: price of a cut; *reach*: ways
    dearer than this were not looked for.
    """

    nodes: dict[int, dict[int, float]]
    ends: list[dict[int, float]]
    near: list[list[tuple[float, int]]]
    cut: float
    reach: float


def find_ways(network: Network, matrix: csr_array, trails: Sequence[Trail], cut: float) -> Ways:
    """Look for the ways between all ends of *trails*, up to the price of a cut."""
    owners: dict[int, list[int]] = {}
    for k, trail in enumerate(trails):
        for side, group in enumerate((trail.heads, trail.tails)):
            for node in group:
                owners.setdefault(node, []).append(2 * k + side)
    nodes = sorted(owners)
    reach = cut if len(nodes) <= FULL_REACH else cut * 0.34
    columns = np.array(nodes)
    by_node: dict[int, dict[int, float]] = {}
    ends: list[dict[int, float]] = [{} for _ in range(2 * len(trails))]
    for start in range(0, len(nodes), CHUNK):
        batch = columns[start : start + CHUNK]
        table = dijkstra(matrix, directed=False, indices=batch, limit=reach)[:, columns]
        for row, node in enumerate(batch.tolist()):
            hit = np.flatnonzero(table[row] < reach)
            prices = table[row, hit]
            found = dict(zip(columns[hit].tolist(), prices.tolist(), strict=True))
            by_node[node] = found
            for end in owners[node]:
                mine = ends[end]
                for other, price in found.items():
                    for beyond in owners[other]:
                        if beyond >> 1 != end >> 1 and price < mine.get(beyond, cut):
                            mine[beyond] = price
    near = [sorted((p, e) for e, p in found.items())[:NEIGHBOURS] for found in ends]
    return Ways(by_node, ends, near, cut, reach)


def best_order(ways: Ways, count: int, kicks: int, seed: int = 0) -> list[int]:
    """Entry ends of all *count* trails in a good order. Deterministic for a seed."""
    if count <= 1:
        return [0] * count
    order = _improve(_greedy(ways, count), ways)
    best_cost = total(order, ways)
    rng = np.random.default_rng(seed)
    for _ in range(kicks if count >= 8 else 0):
        tried = _kick(order, rng)
        tried = _improve(tried, ways, rounds=2, only=None)
        cost = total(tried, ways)
        if cost < best_cost - 1e-9:
            order, best_cost = tried, cost
    return order


def total(order: Sequence[int], ways: Ways) -> float:
    """Price of all joins of an order, not counting the first start."""
    cut = ways.cut
    return sum(
        ways.ends[a ^ 1].get(b, cut) for a, b in zip(order[:-1], order[1:], strict=True)
    )


def _greedy(ways: Ways, count: int) -> list[int]:
    """Join the nearest free ends first until only cuts are left."""
    links = sorted(
        (price, a, b)
        for a, found in enumerate(ways.near)
        for price, b in found
        if price < ways.cut
    )
    partner: dict[int, int] = {}
    group = list(range(count))

    def find(k: int) -> int:
        while group[k] != k:
            group[k] = group[group[k]]
            k = group[k]
        return k

    for _, a, b in links:
        if a in partner or b in partner:
            continue
        one, two = find(a >> 1), find(b >> 1)
        if one != two:
            partner[a], partner[b] = b, a
            group[two] = one
    order: list[int] = []
    seen = [False] * count
    for k in range(count):
        if seen[k]:
            continue
        # Walk back to the free end of this chain, then forwards.
        entry = 2 * k
        while entry in partner:
            entry = partner[entry] ^ 1
            if entry >> 1 == k:
                break
        while True:
            order.append(entry)
            seen[entry >> 1] = True
            leave = entry ^ 1
            if leave not in partner:
                break
            entry = partner[leave]
    return order


def _improve(order: list[int], ways: Ways, rounds: int = 12, only=None) -> list[int]:
    """2-opt and or-opt until nothing gets cheaper, forwards and backwards in turn."""
    for _ in range(rounds):
        before = total(order, ways)
        order = _pass(order, ways)
        order = [end ^ 1 for end in reversed(order)]
        order = _pass(order, ways)
        order = [end ^ 1 for end in reversed(order)]
        if total(order, ways) > before - 1e-9:
            break
    return order


def _pass(order: list[int], ways: Ways) -> list[int]:
    n, cut = len(order), ways.cut
    ends = ways.ends
    place = [0] * n
    for i, end in enumerate(order):
        place[end >> 1] = i

    def price(a: int, b: int) -> float:
        return ends[a].get(b, cut)

    i = 0
    while i < n:
        leave = order[i] ^ 1
        after = order[i + 1] if i + 1 < n else -1
        now = price(leave, after) if after >= 0 else 0.0
        # At the end of the order a join adds a price but may save a cut elsewhere.
        moved = False
        for cost, end in ways.near[leave]:
            if after >= 0 and cost >= now:
                break
            k = place[end >> 1]
            if k == i:
                continue
            if order[k] == end:
                moved = _move(order, place, ways, i, k, cost, now, forward=True)
            elif k > i:
                beyond = order[k + 1] if k + 1 < n else -1
                gain = now - cost
                if beyond >= 0:
                    gain += price(end, beyond) - (price(after, beyond) if after >= 0 else 0.0)
                if gain > 1e-9:
                    part = [e ^ 1 for e in reversed(order[i + 1 : k + 1])]
                    order[i + 1 : k + 1] = part
                    for m in range(i + 1, k + 1):
                        place[order[m] >> 1] = m
                    moved = True
            if not moved and order[k] != end:
                moved = _move(order, place, ways, i, k, cost, now, forward=False)
            if moved:
                break
        if not moved:
            i += 1
    return order


def _move(order, place, ways: Ways, i: int, k: int, cost: float, now: float, forward: bool) -> bool:
    """Or-opt: take one to three trails at *k* and put them behind the trail at *i*."""
    n, cut, ends = len(order), ways.cut, ways.ends

    def price(a: int, b: int) -> float:
        return ends[a].get(b, cut)

    for size in (1, 2, 3):
        first, last = (k, k + size - 1) if forward else (k - size + 1, k)
        if first < 0 or last >= n or first <= i <= last or first == i + 1:
            continue
        tail = order[last] ^ 1 if forward else order[first]
        after = order[i + 1] if i + 1 < n else -1
        gain = now - cost - (price(tail, after) if after >= 0 else 0.0)
        before_end = order[first - 1] ^ 1 if first else -1
        beyond = order[last + 1] if last + 1 < n else -1
        if before_end >= 0:
            gain += price(before_end, order[first])
        if beyond >= 0:
            gain += price(order[last] ^ 1, beyond)
        if before_end >= 0 and beyond >= 0:
            gain -= price(before_end, beyond)
        if gain > 1e-9:
            block = order[first : last + 1]
            if not forward:
                block = [e ^ 1 for e in reversed(block)]
            anchor = order[i]
            del order[first : last + 1]
            at = order.index(anchor) + 1
            order[at:at] = block
            low, high = min(first, at), max(last, at + size)
            for m in range(max(0, low - size), min(n, high + size + 1)):
                place[order[m] >> 1] = m
            return True
    return False


def _kick(order: list[int], rng: np.random.Generator) -> list[int]:
    """Double bridge over a short stretch: a change that 2-opt cannot undo at once."""
    n = len(order)
    span = min(n, 40)
    start = int(rng.integers(0, n - span + 1))
    a, b, c = sorted(rng.choice(np.arange(1, span), 3, replace=False)) if span > 4 else (1, 2, 3)
    a, b, c = start + int(a), start + int(b), start + int(c)
    return order[:a] + order[b:c] + order[a:b] + order[c:]


def choose_doors(order: Sequence[int], trails: Sequence[Trail], ways: Ways) -> list[tuple]:
    """The (entry node, exit node) of each trail in *order* that makes the joins cheapest.

    Dynamic programming over the order: a closed trail is left where it was entered.
    """
    layers = []
    for end in order:
        trail = trails[end >> 1]
        if trail.closed:
            layers.append([(node, node) for node in trail.heads])
        elif end & 1 == 0:
            layers.append([(trail.heads[0], trail.tails[0])])
        else:
            layers.append([(trail.tails[0], trail.heads[0])])
    costs = [0.0] * len(layers[0])
    back: list[list[int]] = []
    for before, here in zip(layers[:-1], layers[1:], strict=True):
        rows, fresh = [], []
        for entry, _ in here:
            best, choice = np.inf, 0
            for k, (_, leave) in enumerate(before):
                joined = costs[k] + min(ways.nodes[leave].get(entry, ways.cut), ways.cut)
                if joined < best - 1e-12:
                    best, choice = joined, k
            fresh.append(best)
            rows.append(choice)
        costs, back = fresh, [*back, rows]
    k = int(np.argmin(costs))
    chosen = [layers[-1][k]]
    for rows, layer in zip(reversed(back), reversed(layers[:-1]), strict=True):
        k = rows[k]
        chosen.append(layer[k])
    return chosen[::-1]
