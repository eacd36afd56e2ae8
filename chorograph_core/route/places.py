"""What the work of one place costs at least in travel and cuts, by the doors it is come to and left by."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from chorograph_core.route.bound import FEWEST, ROUNDS, path_bound
from chorograph_core.route.bundles import Bundle
from chorograph_core.route.ditch_prices import everywhere, over_ditches
from chorograph_core.route.fewest import Fewest
from chorograph_core.route.ground import Ground
from chorograph_core.route.network import Trail
from chorograph_core.route.remembered import Things, least_between, worth_it
from chorograph_core.route.straightest import BENT, LINKS, by_lines, by_links, by_stretches
from chorograph_core.route.subsets import few, least_sums, through_all, to_each_node
from chorograph_core.route.travel_costs import costs_by
from chorograph_core.route.walks import islands_of, odd_nodes

EXACT_SUMS = 250_000_000
"""Sums up to which all orders of many runs are gone through for what leads to each door."""
SUMS, ALL_SUMS = 500_000_000, 1_500_000_000
"""Sums that may be spent on many runs, of one place and of all together."""
IN_ALL = 900
"""Rounds for all places together that have too much in them for that."""
DIGITS = 5
"""To how many places of a minute the ways in two places must agree for them to be alike."""
NEARLY = 0.0005
"""Minutes by which the ways in alike places may differ in the mean to be reckoned together."""
SAME, ROUND = 1e-6, 6
"""Minutes by which a way through a place is no dearer than another; to how many places that is."""


@dataclass(frozen=True)
class Place:
    """A place as one thing to do: *nodes* (k,) by which it may be entered and left, and *prices* (k, k),
    what all that is to be done there costs at least from one to the other; infinite where another pair,
    and the way to it, is never dearer. Of one that may be entered and left anywhere at one price,
    *prices* is (1, 1)."""

    nodes: np.ndarray
    prices: np.ndarray

    @property
    def least(self) -> float:
        return float(self.prices.min())


@dataclass
class _Alike:
    """Places made of the same runs that differ by what lies round them: the least *table* of prices between
    their nodes, and what that makes of going through them."""

    table: np.ndarray
    prices: np.ndarray | None = None


@dataclass(frozen=True)
class _Runs:
    """The *trails* of a *bundle* and their *nodes*, in an order that alike places have in common; the *ways*
    of each by the numbers of its nodes, what it *needs* done before it, as bits, and which it is *like*."""

    bundle: Bundle
    trails: list[Trail]
    nodes: list[int]
    ways: tuple[tuple[tuple[int, int], ...], ...]
    needs: tuple[int, ...]
    table: np.ndarray
    like: _Alike


class Places:
    """The least prices of places, found once for all of *places* (bundle, ground) that are alike. Where many
    have too much in them to go through all orders, less is gone through for each. What a *laying* of the
    ruler costs, and the *fewest* along ditches, are told for what `ruled` says."""

    def __init__(
        self, cut: float, places: Sequence[tuple[Bundle, Ground]] = (), laying: float = 0.0,
        fewest: Fewest | None = None,
    ) -> None:  # fmt: skip
        self.cut, self.laying, self.fewest = cut, laying, fewest
        self._known: dict[tuple, np.ndarray] = {}
        self._ruled: dict[tuple, tuple[str, np.ndarray | None]] = {}
        self._alike: dict[tuple, list[_Alike]] = {}
        self._open: dict[int, _Runs] = {}
        for bundle, ground in places:
            if not bundle.links:
                self._laid_open(bundle, ground)
        large = sum(len(known) for (ways, _), known in self._alike.items()
                    if not few(len(ways), sum(map(len, ways))))  # fmt: skip
        self.rounds = max(FEWEST, min(ROUNDS, IN_ALL // max(large, 1)))
        self.sums = min(SUMS, ALL_SUMS // max(large, 1))

    def of(self, bundle: Bundle, ground: Ground) -> Place:
        """Of a *bundle* whose ways lead over *ground*, whatever path is followed in it."""
        return self._of_ditches(bundle, ground) if bundle.links else self._of_runs(bundle, ground)

    def _of_ditches(self, bundle: Bundle, ground: Ground) -> Place:
        network, nodes = bundle.network, _nodes_of_ditches(bundle)
        place = {int(node): k for k, node in enumerate(nodes)}
        odd = sorted(place[node] for node in odd_nodes(network, bundle.links))
        islands = sorted(
            sorted(place[node] for node in each) for each in islands_of(network, bundle.links)
        )
        table = prices_within(nodes.tolist(), ground, self.cut)
        key = (tuple(odd), tuple(map(tuple, islands)), np.round(table, DIGITS).tobytes())
        if key not in self._known:
            self._known[key] = over_ditches(odd, islands, table, self.cut)
        return _place(nodes, self._known[key], table, rounded=len(nodes))

    def ruled(self, bundle: Bundle, ground: Ground, place: Place) -> Place:
        """The same *place*, with what layings of the ruler over the fewest cost besides: the straightest way
        over its ditches may be longer than the shortest one."""
        if not (self.fewest and self.laying and len(bundle.links) > 1) or bundle.trails:
            return place
        nodes = _nodes_of_ditches(bundle)
        table = prices_within(nodes.tolist(), ground, self.cut)
        shortest = self._everywhere(place, nodes, table)
        straightest = self._straightest(bundle, nodes, table, shortest)
        if straightest is None:
            return place
        straightest = straightest - _rounding(len(bundle.links))
        if len(place.prices) < len(place.nodes):
            return Place(place.nodes, np.maximum(place.prices, straightest.min()))
        return _place(nodes, np.maximum(shortest, straightest), table)

    def _everywhere(self, place: Place, nodes: np.ndarray, table: np.ndarray) -> np.ndarray:
        """What a *place* costs from each of its *nodes* to each other."""
        if len(place.prices) < len(place.nodes):
            return np.full(table.shape, place.least)
        at = {int(node): k for k, node in enumerate(nodes)}
        spots = [at[int(node)] for node in place.nodes]
        shortest = np.full(table.shape, np.inf)
        shortest[np.ix_(spots, spots)] = place.prices
        return everywhere(shortest, table)

    def _straightest(
        self, bundle: Bundle, nodes: np.ndarray, table: np.ndarray, shortest: np.ndarray
    ) -> np.ndarray | None:
        """What the ditches of a *bundle* cost from node to node (n, n) at least with the layings, where the
        *shortest* ways cost so much without; None where nothing is known."""
        assert self.fewest is not None
        network = bundle.network
        at = {int(node): k for k, node in enumerate(nodes)}
        # In an order that alike places have in common.
        links = sorted(
            bundle.links, key=lambda number: sorted(at[int(n)] for n in network.ends[number])
        )
        shape = tuple(tuple(sorted(at[int(n)] for n in network.ends[number])) for number in links)
        key = (shape, self.fewest.shape_of(links), np.round(table, DIGITS).tobytes())
        if key not in self._ruled:
            self._ruled[key] = self._known_straightest(links, at, table)
        which, to = self._ruled[key]
        if to is None:
            return None
        # A way is as good backwards.
        both = np.maximum(to[:, None], to[None, :])
        # Who breaks a line lays the ruler once more at least.
        return np.minimum(both, shortest + self.laying) if which == "lines" else both

    def _known_straightest(
        self, links: list[int], at: dict[int, int], table: np.ndarray
    ) -> tuple[str, np.ndarray | None]:
        assert self.fewest is not None
        if len(links) <= BENT and self.fewest.bends(links):
            return "", by_stretches(self.fewest, links, at, table, self.laying)
        if len(links) <= LINKS:
            return "", by_links(self.fewest, links, at, table, self.laying)
        return "lines", by_lines(self.fewest, links, at, table)

    def _laid_open(self, bundle: Bundle, ground: Ground) -> _Runs:
        """The runs of a *bundle*, among those that are alike."""
        network = bundle.network
        # Down and across.
        trails = [bundle.trail(bundle.trails[k]) for k in _in_reading_order(bundle.middles)]
        found = sorted({node for trail in trails for pair in trail.options() for node in pair})
        spots = network.spots[found] - bundle.station.middle
        nodes = [found[k] for k in _in_reading_order(spots)]
        place = {node: k for k, node in enumerate(nodes)}
        ways = tuple(
            tuple(sorted((place[a], place[b]) for a, b in trail.options())) for trail in trails
        )
        layers = [(trail.zone, trail.layer) for trail in trails]
        # Outer layers of a zone come before its inner ones.
        needs = tuple(sum(1 << j for j, (zone, layer) in enumerate(layers) if zone == mine and layer < own)
                      for mine, own in layers)  # fmt: skip
        table = prices_within(nodes, ground, self.cut)
        like = _joining(self._alike.setdefault((ways, needs), []), table)
        runs = _Runs(bundle, trails, nodes, ways, needs, table, like)
        self._open[id(bundle)] = runs
        return runs

    def _of_runs(self, bundle: Bundle, ground: Ground) -> Place:
        runs = self._open.get(id(bundle)) or self._laid_open(bundle, ground)
        like = runs.like
        if like.prices is None:
            like.prices = self._through(runs.ways, like.table, runs.needs)
            if like.prices is None:
                costs = costs_by(runs.nodes, like.table, self.cut)
                like.prices = np.array([[path_bound(runs.trails, costs, most=self.rounds)]])
        return _place(np.array(runs.nodes), like.prices, runs.table, rounded=len(runs.trails))

    def _through(self, ways, table: np.ndarray, needs: Sequence[int]) -> np.ndarray | None:
        """Prices from node to node: exact where all orders can be gone through, of more runs a bound on that,
        exact to each node from anywhere where that can be; None of too many."""
        many = sum(map(len, ways))
        if few(len(ways), many):
            return through_all(ways, table, needs)
        things = Things.of_ways(ways, table, needs)
        if not worth_it(things.ins, things.outs, self.sums):
            return None
        prices = least_between(things, self.sums)
        if 2 ** min(len(ways), 40) / 2 * len(table) * sum(map(len, things.ins)) <= EXACT_SUMS:
            prices = np.maximum(prices, to_each_node(ways, table, needs))
        one_way = any(needs) or any((b, a) not in pairs for pairs in ways for a, b in pairs)
        return prices if one_way else np.maximum(prices, prices.T)


def _joining(known: list[_Alike], table: np.ndarray) -> _Alike:
    """The one of those that are *known* whose ways are as long, nearly, as those of a *table*: prices by the
    least of both hold for all of them. A new one where there is none."""
    for each in known:
        both = np.minimum(each.table, table)
        if max((table - both).mean(), (each.table - both).mean()) <= NEARLY:
            if (both < each.table).any():
                each.table, each.prices = both, None
            return each
    known.append(_Alike(table))
    return known[-1]


def _place(nodes: np.ndarray, prices: np.ndarray, table: np.ndarray, rounded: int = 0) -> Place:
    """The place that may be entered and left by *nodes* (n,) at *prices* (n, n), or (1, 1) by any of them;
    what is of no use, by the *table* (n, n) of ways between them, is left out. *rounded* says of how many
    ways prices were rounded off: alike places may be cheaper by so much."""
    if len(prices) == len(nodes):
        prices = _useful(prices, table)
    prices = np.maximum(prices - _rounding(rounded), 0.0)
    if len(prices) < len(nodes):
        return Place(nodes, prices)
    used = np.flatnonzero(np.isfinite(prices).any(axis=0) | np.isfinite(prices).any(axis=1))
    return Place(nodes[used], prices[np.ix_(used, used)])


def _rounding(ways: int) -> float:
    """Minutes by which so many *ways* may be off, rounded to `DIGITS` and summed in single precision."""
    return ways * 2 * 10.0**-DIGITS


def _nodes_of_ditches(bundle: Bundle) -> np.ndarray:
    """The nodes of its ditches, in an order that alike places have in common."""
    network = bundle.network
    nodes = np.unique(network.ends[list(bundle.links)])
    return nodes[_in_reading_order(network.spots[nodes] - bundle.station.middle)]


def prices_within(nodes: Sequence[int], ground: Ground, cut: float) -> np.ndarray:
    """Prices (n, n) between nodes that lie near each other: no two are further apart than by way of the
    first, so that no more of the *ground* need be looked at."""
    most = 2 * float(ground.prices(nodes[:1], cut, nodes).max(initial=0.0))
    return np.minimum(ground.prices(nodes, min(cut, most + SAME)), cut)


def _in_reading_order(spots: np.ndarray) -> list[int]:
    """Places (n, 2) by rows, each from the left."""
    across, down = np.round(spots, 1).T + 0.0
    return np.lexsort((spots[:, 0], spots[:, 1], across, down)).tolist()


def _useful(prices: np.ndarray, table: np.ndarray) -> np.ndarray:
    """The prices (k, k), infinite where another pair, and the ways to and from it, is never dearer."""
    # Of pairs that are as good as each other the first one is left.
    rank = np.empty(prices.size)
    rank[np.argsort(prices, axis=None, kind="stable")] = np.arange(prices.size)
    told = np.round(prices, ROUND) + rank.reshape(prices.shape) * SAME / (10 * prices.size)
    ways = np.array(table, float)
    np.fill_diagonal(ways, np.inf)
    # From another door and to whichever, or from the same one and to another.
    best = np.minimum(least_sums(ways, least_sums(told, table)), least_sums(told, ways))
    return np.where(best < told, np.inf, prices)


def useful_pairs(prices: np.ndarray, table: np.ndarray, nearly: float) -> list[tuple[int, int]]:
    """The pairs (from, to) of *prices* (k, k), cheapest first, without those that are better than another
    pair and the ways to and from it, by *table* (k, k), by no more than *nearly* minutes."""
    rows, columns = np.nonzero(np.isfinite(prices))
    price = prices[rows, columns]
    rank = np.argsort(price, kind="stable")
    rows, columns, price = rows[rank], columns[rank], price[rank]
    alive = np.ones(len(price), bool)
    kept = []
    for k in range(len(price)):
        if alive[k]:
            a, b = int(rows[k]), int(columns[k])
            kept.append((a, b))
            alive &= price[k] + table[rows, a] + table[b, columns] > price + nearly
    return kept
