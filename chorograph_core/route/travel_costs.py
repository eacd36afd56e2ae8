"""Prices between runs, for the floor: what it costs to go from an end of one to an end of another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from chorograph_core.route.network import Network, Trail

ENTRIES = 1 << 19
"""Prices that are looked at at a time: in a large top the rows of few doors, for they are held several times
over."""
KEPT = 32
"""Ways kept from each node, the cheapest; what is not kept is at least as dear as the last kept."""
FULL_REACH, SHORTER = 2500, 0.34
"""Nodes up to which ways as dear as a cut are looked for; the share of it beyond."""


@dataclass(frozen=True)
class TravelCosts:
    """Cheapest ways between the runs of a stage.

    *known*: ways between nodes as three arrays (from, to, price), each both ways. *radius*: by node, what
    a way from there that is not known costs at least. *cut*: price of a cut.
    """

    known: tuple[np.ndarray, np.ndarray, np.ndarray]
    radius: dict[int, float]
    cut: float

    @cached_property
    def nodes(self) -> dict[int, dict[int, float]]:
        """The known ways by node, then by the other node."""
        found: dict[int, dict[int, float]] = {node: {} for node in self.radius}
        for a, b, price in zip(*(side.tolist() for side in self.known), strict=True):
            found[a][b] = price
        return found


def costs_by(nodes: Sequence[int], table: np.ndarray, cut: float) -> TravelCosts:
    """Ways between *nodes*, the nearest from each, by a *table* (n, n) of prices between them all, a *cut* at
    most."""
    where = np.array(nodes)
    apart = np.where(np.eye(len(nodes), dtype=bool), np.inf, table)
    radius = np.full(len(nodes), cut)
    if len(nodes) > KEPT + 1:
        last = np.partition(apart, KEPT - 1, axis=1)[:, KEPT - 1]
        radius = np.minimum(radius, last)
        near = apart <= last[:, None]
        apart[~(near | near.T)] = np.inf
    one, two = np.nonzero(np.isfinite(apart))
    least = dict(zip(nodes, radius.tolist(), strict=True))
    return TravelCosts((where[one], where[two], apart[one, two]), least, cut)


def travel_costs(
    network: Network, matrix: csr_array, trails: Sequence[Trail], cut: float
) -> TravelCosts:
    """Look for the ways between all ends of *trails*, up to the price of a *cut*."""
    nodes = sorted({node for trail in trails for node in (*trail.heads, *trail.tails)})
    reach = cut if len(nodes) <= FULL_REACH else cut * SHORTER
    columns = np.array(nodes)
    radius = np.full(len(nodes), min(reach, cut))
    rows, others, prices = [], [], []
    between = _from_hubs(matrix, columns, reach)
    chunk = max(8, ENTRIES // max(len(nodes), 1))
    for start in range(0, len(nodes), chunk):
        batch = columns[start : start + chunk]
        table = between(start, start + chunk)
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
    known = (columns[known[0]], columns[known[1]], known[2])
    least = dict(zip(nodes, radius.tolist(), strict=True))
    return TravelCosts(known, least, cut)


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


def _both_ways(rows: np.ndarray, columns: np.ndarray, prices: np.ndarray, size: int):
    """What was found from one side holds from the other: each pair once, sorted by row, then price."""
    a, b = np.concatenate([rows, columns]), np.concatenate([columns, rows])
    price = np.tile(prices, 2)
    key = a.astype(np.int64) * size + b
    rank = np.lexsort((price, key))
    key = key[rank]
    first = rank[np.concatenate([[True], np.diff(key) > 0])] if len(rank) else rank
    first = first[np.lexsort((price[first], a[first]))]
    return a[first], b[first], price[first]
