"""Prices between the trails of a stage: what it costs to go from an end of one to an end of another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from chorograph_core.route.network import Network, Trail

NEIGHBOURS = 10
CHUNK = 256
KEPT = 32
"""Ways kept for each node, the cheapest; what is not kept is at least as dear as the last kept."""
TABLED = 900
"""Ends up to which all prices between them are kept in a table."""
FULL_REACH = 900
"""Nodes up to which ways as dear as a cut are looked for; beyond, only ways of a third of it."""


@dataclass(frozen=True)
class Ways:
    """Cheapest ways between the trails of a stage.

    *nodes*: price by (node, node). *ends*: price by end and end, the minimum over their nodes.
    *near*: for each end the cheapest others, cheapest first. *cut*: price of a cut. *radius*: by node,
    what a way from there that is not in *nodes* costs at least. *spots* and *places*: where each node
    and each end lies; *rate*: minutes an inch of hidden travel.
    """

    nodes: dict[int, dict[int, float]]
    ends: list[dict[int, float]]
    near: list[list[tuple[float, int]]]
    cut: float
    radius: dict[int, float]
    spots: dict[int, tuple[float, float]]
    places: list[tuple[float, float]]
    rate: float
    table: list[list[float]] | None = None

    def price(self, a: int, b: int) -> float:
        """Price of joining end *a* to end *b*; where no way was kept, a guess round the corner.

        Seams mostly run square to each other, so a way is about as long as across plus down.
        """
        if self.table is not None:
            return self.table[a][b]
        found = self.ends[a].get(b)
        if found is None:
            (x, y), (u, v) = self.places[a], self.places[b]
            found = (abs(x - u) + abs(y - v)) * self.rate
        return found if found < self.cut else self.cut

    def node_price(self, a: int, b: int) -> float:
        """Price of going from node *a* to node *b*, guessed in the same way."""
        found = self.nodes[a].get(b)
        if found is None:
            (x, y), (u, v) = self.spots[a], self.spots[b]
            found = (abs(x - u) + abs(y - v)) * self.rate
        return found if found < self.cut else self.cut

    def end_radius(self, groups: Sequence[Sequence[int]]) -> list[float]:
        """The least radius of each group of nodes."""
        return [min((self.radius[node] for node in group), default=self.cut) for group in groups]


def find_ways(
    network: Network, matrix: csr_array, trails: Sequence[Trail], cut: float, rate: float
) -> Ways:
    """Look for the ways between all ends of *trails*, up to the price of a cut.

    *rate* is what an inch of hidden travel costs, in minutes.
    """
    nodes = sorted({node for trail in trails for node in (*trail.heads, *trail.tails)})
    reach = cut if len(nodes) <= FULL_REACH else cut * 0.34
    columns = np.array(nodes)
    by_node: dict[int, dict[int, float]] = {node: {} for node in nodes}
    radius: dict[int, float] = {}
    for start in range(0, len(nodes), CHUNK):
        batch = columns[start : start + CHUNK]
        table = dijkstra(matrix, directed=False, indices=batch, limit=reach)[:, columns]
        for row, node in enumerate(batch.tolist()):
            hit = np.flatnonzero(table[row] < reach)
            radius[node] = min(reach, cut)
            if len(hit) > KEPT:
                hit = hit[np.argpartition(table[row, hit], KEPT)[: KEPT + 1]]
                radius[node] = min(radius[node], float(table[row, hit].max()))
            for other, price in zip(columns[hit].tolist(), table[row, hit].tolist(), strict=True):
                by_node[node][other] = by_node[other][node] = price
    groups = [side for trail in trails for side in (trail.heads, trail.tails)]
    spots = {node: network.nodes[node] for node in nodes}
    bare = Ways(by_node, [], [], cut, radius, spots, [], rate)
    return between_ends(bare, groups)


def between_ends(ways: Ways, groups: Sequence[Sequence[int]]) -> Ways:
    """Ways between ends, each end being a group of nodes any of which will do."""
    nodes, cut = ways.nodes, ways.cut
    owners: dict[int, list[int]] = {}
    for end, group in enumerate(groups):
        for node in group:
            owners.setdefault(node, []).append(end)
    ends: list[dict[int, float]] = [{} for _ in groups]
    for end, group in enumerate(groups):
        mine = ends[end]
        for node in group:
            for other, price in nodes[node].items():
                for beyond in owners.get(other, ()):
                    if beyond >> 1 != end >> 1 and price < mine.get(beyond, cut):
                        mine[beyond] = price
    near = [sorted((p, e) for e, p in found.items())[:NEIGHBOURS] for found in ends]
    places = []
    for group in groups:
        xs, ys = zip(*(ways.spots[node] for node in group), strict=True)
        places.append((sum(xs) / len(xs), sum(ys) / len(ys)))
    made = replace(ways, ends=ends, near=near, places=places, table=None)
    return replace(made, table=_table(made)) if len(groups) <= TABLED else made


def _table(ways: Ways) -> list[list[float]]:
    """All prices between ends at once: quicker to read than to work out one by one."""
    at = np.array(ways.places).reshape(-1, 2)
    prices = np.abs(at[:, None] - at[None, :]).sum(axis=2) * ways.rate
    counts = [len(found) for found in ways.ends]
    rows = np.repeat(np.arange(len(counts)), counts)
    columns = np.fromiter((other for found in ways.ends for other in found), int, len(rows))
    values = (price for found in ways.ends for price in found.values())
    prices[rows, columns] = np.fromiter(values, float, len(rows))
    return np.minimum(prices, ways.cut).tolist()


def narrowed(ways: Ways, trails: Sequence[Trail]) -> Ways:
    """The same ways, for trails that have fewer doors than when the ways were looked for."""
    groups = [side for trail in trails for side in (trail.heads, trail.tails)]
    return between_ends(ways, groups)
