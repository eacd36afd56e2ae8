"""Ground: the part of the network on which one may go at a time, and the cheapest ways over it."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from functools import cached_property

import numpy as np
import shapely
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from chorograph_core.route.network import Network

CHUNK = 256
SMALL = 60
"""Nodes of a ground on which all ways are found at once: asking costs more than finding them."""
MOST_PRICES = 250_000
"""Prices of ways that are kept."""
LARGE, NEAR = 1000, (0.25, 1.0)
"""Nodes of a ground on which ways are first looked for that cost so many minutes at most, then so many: the
next thing to do is mostly close by, and what is farther is cut for."""
MOST_KEPT = 60
"""Nodes from which all ways are kept, for as long as there are no more of them."""


class Ground:
    """Some links of a *network*: those that a pass reaches, or that lie in a station.

    Nodes keep the numbers they have in the network. Of parallel links the cheapest is gone. Those that are
    *dearer*, by their number, cost so many times as much. *pairs* are prices between nodes that were asked
    for, by these and the most they may be.
    """

    def __init__(
        self, network: Network, links: Iterable[int], dearer: Iterable[int] = (), by: float = 1.0
    ) -> None:
        self.network = network
        self.links = np.fromiter(links, int)
        self._prices = network.prices[self.links]
        if by != 1.0:
            much = np.isin(self.links, np.fromiter(dearer, int))
            self._prices = np.where(much, self._prices * by, self._prices)
        self._keys = self._numbers = np.empty(0, int)
        self._from: dict[int, tuple[np.ndarray, np.ndarray]] = {}
        self._dearer: dict[tuple, Ground] = {}
        self.pairs: dict[tuple[tuple[int, ...], float], dict[tuple[int, int], float]] = {}
        self._close: tuple[int, dict[float, tuple[np.ndarray, np.ndarray]]] = -1, {}
        self._expected: dict[int, tuple[np.ndarray, np.ndarray]] = {}
        self._asked: tuple[float, dict[int, np.ndarray]] = -1.0, {}

    @cached_property
    def _laid(self) -> tuple[np.ndarray, csr_array]:
        """Its nodes, and the prices between them: most stations are gone through as their first sister is,
        and never ask."""
        ends = self.network.ends[self.links]
        proper = ends[:, 0] != ends[:, 1]
        ends, prices, numbers = ends[proper], self._prices[proper], self.links[proper]
        nodes, local = np.unique(ends, return_inverse=True)
        local = local.reshape(-1, 2)
        size = len(nodes)
        low, high = local.min(axis=1), local.max(axis=1)
        key = low * size + high
        rank = np.lexsort((numbers, prices, key))
        first = np.ones(len(rank), bool)
        first[1:] = np.diff(key[rank]) != 0
        kept = rank[first]
        self._keys, self._numbers = key[kept], numbers[kept]
        cost = np.maximum(prices[kept], 1e-9)
        matrix = csr_array(
            (np.tile(cost, 2), (np.concatenate([low[kept], high[kept]]),
                                np.concatenate([high[kept], low[kept]]))),
            shape=(size, size),
        )  # fmt: skip
        return nodes, matrix

    @property
    def nodes(self) -> np.ndarray:
        """Its nodes, sorted, by their numbers in the network."""
        return self._laid[0]

    @property
    def matrix(self) -> csr_array:
        """The prices (n, n) of its links."""
        return self._laid[1]

    def places(self, nodes: Sequence[int] | np.ndarray) -> np.ndarray:
        """Where (n,) each of some nodes of the network stands among its own; -1 for what is not on it."""
        mine = self.nodes
        if not len(mine):
            return np.full(len(nodes), -1)
        wanted = np.asarray(nodes, int)
        found = np.minimum(np.searchsorted(mine, wanted), len(mine) - 1)
        return np.where(mine[found] == wanted, found, -1)

    @cached_property
    def _by_number(self) -> tuple[dict[int, int], dict[int, int]] | None:
        """Where each node stands, and the links by the places of their ends, to be looked up at once; None
        for a ground on which that would take more room than it is worth."""
        mine = self.nodes
        if len(mine) > LARGE:
            return None
        return (
            dict(zip(mine.tolist(), range(len(mine)), strict=True)),
            dict(zip(self._keys.tolist(), self._numbers.tolist(), strict=True)),
        )

    def place(self, node: int) -> int:
        """The same of one node."""
        if self._by_number is not None:
            return self._by_number[0].get(node, -1)
        mine = self.nodes
        found = int(np.searchsorted(mine, node))
        return found if found < len(mine) and mine[found] == node else -1

    def __contains__(self, node: int | None) -> bool:
        return node is not None and self.place(node) >= 0

    def dearer(self, links: Sequence[int], by: float) -> Ground:
        """The same ground with those *links* so many times as dear."""
        key = (tuple(links), by)
        if key not in self._dearer:
            self._dearer = {key: Ground(self.network, self.links, links, by)}
        return self._dearer[key]

    @cached_property
    def middles(self) -> np.ndarray:
        """The middle of each of its links, as points (n,)."""
        return shapely.points(self.network.middles[self.links])

    def prices(
        self, nodes: Sequence[int] | np.ndarray, limit: float,
        goals: Sequence[int] | np.ndarray | None = None,
    ) -> np.ndarray:  # fmt: skip
        """Prices (n, m) from *nodes* to *goals*, which are the nodes themselves if none are given; *limit* at
        most. What is not on this ground is reached from nowhere else."""
        goals = nodes if goals is None else goals
        table = np.where(np.equal.outer(np.array(nodes, int), np.array(goals, int)), 0.0, limit)
        start, goal = self.places(nodes), self.places(goals)
        here, there = np.flatnonzero(start >= 0), np.flatnonzero(goal >= 0)
        if not len(here) or not len(there):
            return table
        starts, back = np.unique(start[here], return_inverse=True)
        for first in range(0, len(starts), CHUNK):
            found = self._within(starts[first : first + CHUNK], limit, goal[there])
            rows = np.flatnonzero((back >= first) & (back < first + CHUNK))
            table[np.ix_(here[rows], there)] = np.minimum(found[back[rows] - first], limit)
        return table

    def _within(self, starts: np.ndarray, limit: float, goals: np.ndarray) -> np.ndarray:
        """What it costs (n, m) to go from *starts* to *goals*, by their places, as far as *limit*. Doors
        of the same places are asked about again and again: what was found is kept while there is room."""
        kept, rows = self._asked
        if kept != limit:
            rows = {}
        fresh = np.array([k for k in starts.tolist() if k not in rows], int)
        if len(fresh):
            found = dijkstra(self.matrix, indices=fresh, limit=limit)
            if (len(rows) + len(fresh)) * len(self.nodes) > MOST_PRICES:
                rows = {}
                if len(fresh) < len(starts):
                    found = dijkstra(self.matrix, indices=starts, limit=limit)
                if found.size > MOST_PRICES:
                    return found[:, goals]
                fresh = starts
            rows |= zip(fresh.tolist(), found, strict=True)
            self._asked = limit, rows
        return np.array([rows[k][goals] for k in starts.tolist()])

    def forget(self) -> None:
        """Keep nothing of what was found from place to place."""
        self._asked = -1.0, {}

    def nearest(self, goals: Iterable[int], limit: float) -> dict[int, float]:
        """For every node the price of the cheapest way to any of *goals*, where it is under *limit*."""
        where = self.places(list(goals))
        where = where[where >= 0]
        if not len(where):
            return {}
        found = dijkstra(self.matrix, indices=where, limit=limit, min_only=True)
        near = np.flatnonzero(found < limit)
        return dict(zip(self.nodes[near].tolist(), found[near].tolist(), strict=True))

    def price(self, start: int, goal: int) -> float:
        """Price of the cheapest way; infinite where there is none."""
        if start == goal:
            return 0.0
        at = self.place(goal)
        if at < 0 or start not in self:
            return math.inf
        return float(self._ways(start, goal)[0][at])

    def way(self, start: int, goal: int) -> list[tuple[int, int]] | None:
        """The cheapest way as (link, node it is entered from) pairs; None where there is none."""
        if start == goal:
            return []
        first, at = self.place(start), self.place(goal)
        if first < 0 or at < 0:
            return None
        price, came = self._ways(start, goal)
        if not math.isfinite(price[at]):
            return None
        back = [at]
        while at != first:
            at = int(came[at])
            back.append(at)
        size = len(self.nodes)
        if self._by_number is not None:
            links, mine = self._by_number[1], self.nodes
            return [(links[min(one, two) * size + max(one, two)], int(mine[one]))
                    for two, one in itertools.pairwise(back)][::-1]  # fmt: skip
        along = np.array(back[::-1])
        one, two = along[:-1], along[1:]
        keys = np.minimum(one, two) * size + np.maximum(one, two)
        numbers = self._numbers[np.searchsorted(self._keys, keys)]
        return list(zip(numbers.tolist(), self.nodes[one].tolist(), strict=True))

    def expect(self, starts: Iterable[int | None]) -> None:
        """Find the close ways from nodes that will be gone from next, all at once: each by itself takes twice
        as long. Those expected before are let go."""
        self._expected = {}
        known = sorted(
            {node for node in starts if node is not None and node in self} - self._from.keys()
        )
        if len(self.nodes) <= LARGE or len(known) < 2:
            return
        for first in range(0, len(known), CHUNK):
            some = known[first : first + CHUNK]
            found, came = dijkstra(
                self.matrix, indices=self.places(some), return_predecessors=True, limit=NEAR[0]
            )
            self._expected |= zip(some, zip(found, came, strict=True), strict=True)

    def _ways(self, start: int, goal: int) -> tuple[np.ndarray, np.ndarray]:
        """The ways from *start* as far as the *goal*: what it costs to come to each node, and from which."""
        if len(self.nodes) > LARGE and start not in self._from:
            at = self.place(goal)
            if self._close[0] != start:
                self._close = start, {}
            kept = self._close[1]
            if start in self._expected:
                kept.setdefault(NEAR[0], self._expected[start])
            for limit in NEAR:
                if limit not in kept:
                    kept[limit] = dijkstra(
                        self.matrix,
                        indices=self.place(start),
                        return_predecessors=True,
                        limit=limit,
                    )
                if np.isfinite(kept[limit][0][at]):
                    return kept[limit]
        return self._sources(start)

    def _sources(self, start: int) -> tuple[np.ndarray, np.ndarray]:
        if start not in self._from:
            if len(self.nodes) <= SMALL:
                found, came = dijkstra(self.matrix, return_predecessors=True)
                self._from = dict(
                    zip(self.nodes.tolist(), zip(found, came, strict=True), strict=True)
                )
                return self._from[start]
            if len(self._from) > MOST_KEPT:
                self._from.clear()
            self._from[start] = dijkstra(
                self.matrix, indices=self.place(start), return_predecessors=True
            )
        return self._from[start]


class KnownPrices:
    """Prices between nodes of a *ground* that are asked for again and again, found once. A way costs as much
    back as there. Of hundreds of doors there are many: seven figures of each are enough."""

    def __init__(self, ground: Ground) -> None:
        self.ground = ground
        self.nodes = np.empty(0, int)
        self.table = np.empty((0, 0), np.float32)

    def forget(self, most: int = 0) -> None:
        """Know nothing any more, if it is of more than so many nodes."""
        if len(self.nodes) > most:
            self.nodes, self.table = np.empty(0, int), np.empty((0, 0), np.float32)

    def prices(
        self, nodes: Sequence[int] | np.ndarray, limit: float,
        goals: Sequence[int] | np.ndarray | None = None,
    ) -> np.ndarray:  # fmt: skip
        """Prices (n, n) between *nodes*; *limit*, at most, is always the same. Those (n, m) to *goals* are
        asked for once, and not kept."""
        if goals is not None:
            return self.ground.prices(nodes, limit, goals)
        at = self.places(nodes, limit)
        return self.table[np.ix_(at, at)].astype(float)

    def places(self, nodes: Sequence[int] | np.ndarray, limit: float) -> np.ndarray:
        """The places (n,) of *nodes* in the table, which has the prices between them from then on."""
        fresh = np.setdiff1d(nodes, self.nodes)
        if len(fresh):
            whole = np.concatenate([self.nodes, fresh])
            more = self.ground.prices(fresh, limit, whole).astype(np.float32)
            old = len(self.nodes)
            self.table = np.block([[self.table, more[:, :old].T], [more]]) if old else more
            self.nodes = whole
        rank = np.argsort(self.nodes)
        return rank[np.searchsorted(self.nodes, nodes, sorter=rank)]
