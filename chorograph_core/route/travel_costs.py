"""Prices between the trails of a stage: what it costs to go from an end of one to an end of another."""

from __future__ import annotations

import itertools
from array import array
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from chorograph_core.route.network import Network, Trail

NEIGHBOURS = 10
CHUNK = 256
KEPT = 32
"""TravelCosts kept for each node, the cheapest; what is not kept is at least as dear as the last kept."""
TABLED = 4000
"""Ends up to which all prices between them are kept in a table."""
FULL_REACH = 2500
"""Nodes up to which ways as dear as a cut are looked for and all kept; beyond, only ways of a third
of it, and what is further is guessed."""


@dataclass(frozen=True)
class TravelCosts:
    """Cheapest ways between the trails of a stage.

    *nodes*: price by (node, node). *known*: the same as three arrays (from, to, price). *near*: for
    each end the cheapest others, cheapest first. *cut*: price of a cut. *radius*: by node, what a way
    from there that is not in *nodes* costs at least. *spots* and *places*: where each node and each
    end lies; *rate*: minutes an inch of hidden travel. *joins*: prices between ends, the minimum over
    their nodes, as three arrays (end, end, price); all pairs in *table* while there are not too many,
    else in *ends*.
    """

    nodes: dict[int, dict[int, float]]
    known: tuple[np.ndarray, np.ndarray, np.ndarray]
    near: list[list[tuple[float, int]]]
    cut: float
    radius: dict[int, float]
    spots: dict[int, tuple[float, float]]
    places: list[tuple[float, float]]
    rate: float
    joins: tuple[np.ndarray, np.ndarray, np.ndarray] | None = None
    ends: list[dict[int, float]] | None = None
    table: Sequence[Sequence[float]] | None = None
    grid: np.ndarray | None = None
    place: dict[int, int] | None = None

    def price(self, a: int, b: int) -> float:
        """Price of joining end *a* to end *b*; where no way was kept, a guess round the corner.

        Seams mostly run square to each other, so a way is about as long as across plus down.
        """
        if self.table is not None:
            return self.table[a][b]
        assert self.ends is not None
        found = self.ends[a].get(b)
        if found is None:
            (x, y), (u, v) = self.places[a], self.places[b]
            found = (abs(x - u) + abs(y - v)) * self.rate
        return found if found < self.cut else self.cut

    def prices(self) -> Any:
        """The prices by two ends, ``prices[a][b]``: the table, or what reads like one."""
        return self.table if self.table is not None else _Lookup(self)

    def node_price(self, a: int, b: int) -> float:
        """Price of going from node *a* to node *b*, in the grid or guessed in the same way."""
        found = self.nodes[a].get(b)
        if found is None and self.grid is not None and self.place is not None:
            return float(self.grid[self.place[a], self.place[b]])
        if found is None:
            (x, y), (u, v) = self.spots[a], self.spots[b]
            found = (abs(x - u) + abs(y - v)) * self.rate
        return found if found < self.cut else self.cut

    def end_radius(self, groups: Sequence[Sequence[int]]) -> list[float]:
        """The least radius of each group of nodes."""
        return [min((self.radius[node] for node in group), default=self.cut) for group in groups]


class _Lookup:
    """Reads like the table where there are too many ends for one."""

    def __init__(self, costs: TravelCosts, end: int = -1) -> None:
        self.costs, self.end = costs, end

    def __getitem__(self, end: int):
        if self.end < 0:
            return _Lookup(self.costs, end)
        return self.costs.price(self.end, end)


def travel_costs(
    network: Network, matrix: csr_array, trails: Sequence[Trail], cut: float, rate: float
) -> TravelCosts:
    """Look for the ways between all ends of *trails*, up to the price of a cut.

    *rate* is what an inch of hidden travel costs, in minutes.
    """
    nodes = sorted({node for trail in trails for node in (*trail.heads, *trail.tails)})
    reach = cut if len(nodes) <= FULL_REACH else cut * 0.34
    columns = np.array(nodes)
    radius = np.full(len(nodes), min(reach, cut))
    rows, others, prices = [], [], []
    whole = len(nodes) <= FULL_REACH
    grid = np.empty((len(nodes), len(nodes)), np.float32) if whole else None
    between = _from_hubs(matrix, columns, reach)
    for start in range(0, len(nodes), CHUNK):
        batch = columns[start : start + CHUNK]
        table = between(start, start + CHUNK)
        if grid is not None:
            grid[start : start + len(batch)] = np.minimum(table, cut)
        table[table >= reach] = np.inf
        if len(nodes) > KEPT + 1:
            best = np.argpartition(table, KEPT, axis=1)[:, : KEPT + 1]
        else:
            best = np.broadcast_to(np.arange(len(nodes)), table.shape)
        found = np.take_along_axis(table, best, axis=1)
        full = np.isfinite(found).all(axis=1) & (found.shape[1] < len(nodes))
        stretch = slice(start, start + len(batch))
        radius[stretch] = np.where(full, np.minimum(radius[stretch], found.max(axis=1)),
                                   radius[stretch])  # fmt: skip
        row, column = np.nonzero(np.isfinite(found))
        rows.append(row + start)
        others.append(best[row, column])
        prices.append(found[row, column])
    known = _both_ways(
        np.concatenate(rows), np.concatenate(others), np.concatenate(prices), len(nodes)
    )
    by_node: dict[int, dict[int, float]] = {}
    stops = np.searchsorted(known[0], np.arange(len(nodes) + 1)).tolist()
    names, values = columns[known[1]].tolist(), known[2].tolist()
    for k, node in enumerate(nodes):
        a, b = stops[k], stops[k + 1]
        by_node[node] = dict(zip(names[a:b], values[a:b], strict=True))
    groups = [side for trail in trails for side in (trail.heads, trail.tails)]
    spots = {node: network.nodes[node] for node in nodes}
    known = (columns[known[0]], columns[known[1]], known[2])
    least = dict(zip(nodes, radius.tolist(), strict=True))
    place = {node: k for k, node in enumerate(nodes)}
    bare = TravelCosts(by_node, known, [], cut, least, spots, [], _guessing(known, spots, rate))
    return between_ends(replace(bare, grid=grid, place=place), groups)


def _from_hubs(matrix: csr_array, columns: np.ndarray, reach: float):
    """A function that gives rows of the prices between the nodes *columns*, inf beyond *reach*.

    A doorway mostly hangs on one seam by a link of its own. The ways between two such doorways are
    those between where they hang, and their own links: fewer starts, in a net without the doorways.
    """
    matrix = matrix.tocsr()
    degree = np.diff(matrix.indptr)
    hub, own = np.arange(len(degree)), np.zeros(len(degree))
    ends = np.flatnonzero(degree == 1)
    onto = matrix.indices[matrix.indptr[ends]]
    good = degree[onto] > 1
    hub[ends[good]], own[ends[good]] = onto[good], matrix.data[matrix.indptr[ends[good]]]
    inner = np.flatnonzero(hub == np.arange(len(degree)))
    place = np.full(len(degree), -1)
    place[inner] = np.arange(len(inner))
    starts, which = np.unique(hub[columns], return_inverse=True)
    net = matrix[inner][:, inner]
    goals = place[starts]
    links = own[columns]

    def rows(first: int, last: int) -> np.ndarray:
        # Found as they are asked for: all between all of a large top would not fit in the memory.
        mine = slice(first, last)
        used, back = np.unique(which[mine], return_inverse=True)
        found = dijkstra(net, directed=False, indices=goals[used], limit=reach)[:, goals]
        table = found[:, which][back] + links[mine, None] + links[None, :]
        table[np.arange(len(table)), np.arange(first, first + len(table))] = 0.0
        table[table > reach] = np.inf
        return table

    return rows


def _guessing(known, spots: dict[int, tuple[float, float]], rate: float) -> float:
    """The rate that makes a guess right in the middle: ways mostly are longer than across and down."""
    a, b, price = known
    if not len(price):
        return rate
    at = np.zeros((max(spots) + 1, 2))
    at[list(spots)] = list(spots.values())
    guess = np.abs(at[a] - at[b]).sum(axis=1) * rate
    far = price > np.median(price)
    ratio = price[far] / np.maximum(guess[far], 1e-9)
    return rate * float(np.clip(np.median(ratio), 1.0, 2.0)) if far.any() else rate


def _both_ways(rows: np.ndarray, columns: np.ndarray, prices: np.ndarray, size: int):
    """What was found from one side holds from the other: each pair once, sorted by row, then price."""
    a, b = np.concatenate([rows, columns]), np.concatenate([columns, rows])
    return _cheapest(a, b, np.tile(prices, 2), size)


def _cheapest(a: np.ndarray, b: np.ndarray, price: np.ndarray, size: int):
    """Of each pair (a, b) the cheapest, sorted by *a*, then by price."""
    key = a.astype(np.int64) * size + b
    rank = np.lexsort((price, key))
    key = key[rank]
    first = rank[np.concatenate([[True], np.diff(key) > 0])] if len(rank) else rank
    first = first[np.lexsort((price[first], a[first]))]
    return a[first], b[first], price[first]


def between_ends(costs: TravelCosts, groups: Sequence[Sequence[int]]) -> TravelCosts:
    """TravelCosts between ends, each end being a group of nodes any of which will do.

    Ends 2k and 2k + 1 belong to one trail and may share nodes; no two trails do.
    """
    most = max(costs.nodes, default=-1) + 1
    owner = np.full((2, most), -1)
    for end, group in enumerate(groups):
        owner[end & 1, list(group)] = end
    used: np.ndarray = np.asarray((owner >= 0).any(axis=0))
    one, two, price = costs.known
    good = used[one] & used[two] & (price < costs.cut)
    one, two, price = one[good], two[good], price[good]
    parts = []
    for mine in owner:
        for theirs in owner:
            a, b = mine[one], theirs[two]
            apart = (a >= 0) & (b >= 0) & (a >> 1 != b >> 1)
            parts.append((a[apart], b[apart], price[apart]))
    left, right, priced = (np.concatenate(side) for side in zip(*parts, strict=True))
    joins = (left, right, priced)
    points = np.array([costs.spots[node] for group in groups for node in group]).reshape(-1, 2)
    counts = np.array([len(group) for group in groups])
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]]).astype(int)
    places = np.add.reduceat(points, starts, axis=0) / counts[:, None] if len(points) else points
    made = replace(
        costs, near=[], places=list(map(tuple, places.tolist())), joins=joins, ends=None, table=None
    )
    if counts.max(initial=1) == 1:
        rank = np.lexsort((joins[2], joins[0]))
        a, b, price = (side[rank] for side in joins)
    else:
        a, b, price = _cheapest(left, right, priced, len(groups))
    stops = np.searchsorted(a, np.arange(len(groups) + 1)).tolist()
    others, prices = b.tolist(), price.astype(np.float32).tolist()
    near = []
    for first, last in itertools.pairwise(stops):
        last = min(last, first + NEIGHBOURS)
        near.append(list(zip(prices[first:last], others[first:last], strict=True)))
    if len(groups) <= TABLED:
        return replace(made, near=near, table=_tabled(made, groups, stops, b, price))
    ends = [
        dict(zip(others[first:last], prices[first:last], strict=True))
        for first, last in itertools.pairwise(stops)
    ]
    return replace(made, ends=ends, near=near)


def _tabled(
    costs: TravelCosts, groups: Sequence[Sequence[int]], stops, others, known
) -> list[array]:
    """Prices from each end to all others, guessed where no way is *known*; none above a cut.

    Rows of bare numbers: made far quicker than lists, read nearly as quickly, a sixth of the room.
    """
    if costs.grid is not None and costs.place is not None:
        members = [[costs.place[node] for node in group] for group in groups]
        if max(map(len, members)) == 1:
            at = [place for (place,) in members]
            grid = costs.grid[np.ix_(at, at)]
        else:
            grid = _least_of(_least_of(costs.grid, members).T, members).T
    else:
        x, y = np.array(costs.places, np.float32).reshape(-1, 2).T * np.float32(costs.rate)
    rows = []
    for end, (first, last) in enumerate(itertools.pairwise(stops)):
        row = (
            grid[end].copy() if costs.grid is not None else np.abs(x - x[end]) + np.abs(y - y[end])
        )
        np.minimum(row, costs.cut, out=row)
        row[others[first:last]] = known[first:last]
        rows.append(array("f", row.tobytes()))
    return rows


def _least_of(grid: np.ndarray, members: Sequence[Sequence[int]]) -> np.ndarray:
    """For each group of rows of *grid* the least in each column."""
    least = grid[[group[0] for group in members]]
    for k in range(1, max(map(len, members), default=0)):
        # A group with fewer members has its first looked at again.
        more = grid[[group[k] if k < len(group) else group[0] for group in members]]
        np.minimum(least, more, out=least)
    return np.ascontiguousarray(least)


def narrowed(costs: TravelCosts, trails: Sequence[Trail]) -> TravelCosts:
    """The same ways, for trails that have fewer doors than when the ways were looked for."""
    groups = [side for trail in trails for side in (trail.heads, trail.tails)]
    return between_ends(costs, groups)
