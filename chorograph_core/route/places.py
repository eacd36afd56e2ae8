"""What the work of one place costs at least in travel and cuts, by the doors it is come to and left by."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from chorograph_core.route.bound import FEWEST, ROUNDS, path_bound
from chorograph_core.route.bundles import Bundle
from chorograph_core.route.fewest import Fewest
from chorograph_core.route.ground import Ground
from chorograph_core.route.network import Trail
from chorograph_core.route.pairing import between_islands, paired
from chorograph_core.route.subsets import few, least_sums, through_all, to_each
from chorograph_core.route.travel_costs import costs_by
from chorograph_core.route.walks import far_end, islands_of, odd_nodes

ODD = 22
"""Odd ends of the ditches of a place up to which each pair of them is tried as beginning and end."""
SUMS, ALL_SUMS = 150_000_000, 600_000_000
"""Sums up to which all orders of many runs are gone through, for one place and for all together."""
IN_ALL = 900
"""Rounds for all places together that have too much in them."""
LINKS = 14
"""Links of ditches up to which all orders of them are gone through."""
DIGITS = 5
"""To how many places of a minute the ways in two places must agree for them to be alike."""
NEARLY = 0.01
"""Minutes by which the ways in alike places may differ in the mean to be reckoned together."""
SAME = 1e-6
"""Minutes by which a way through a place is no dearer than another."""


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
        self._alike: dict[tuple, list[_Alike]] = {}
        self._met: dict[int, _Runs] = {}
        for bundle, ground in places:
            if not bundle.links:
                self._meet(bundle, ground)
        large = sum(len(known) for (ways, _), known in self._alike.items()
                    if not few(len(ways), sum(map(len, ways))))  # fmt: skip
        self.rounds = max(FEWEST, min(ROUNDS, IN_ALL // max(large, 1)))
        self.sums = min(SUMS, ALL_SUMS // max(large, 1))

    def of(self, bundle: Bundle, ground: Ground) -> Place:
        """Of a *bundle* whose ways lead over *ground*, whatever path is followed in it."""
        return self._ditches(bundle, ground) if bundle.links else self._runs(bundle, ground)

    def _ditches(self, bundle: Bundle, ground: Ground) -> Place:
        network, nodes = bundle.network, self._nodes(bundle)
        place = {int(node): k for k, node in enumerate(nodes)}
        odd = [place[node] for node in odd_nodes(network, bundle.links)]
        islands = [[place[node] for node in each] for each in islands_of(network, bundle.links)]
        table = prices_within(nodes.tolist(), ground, self.cut)
        key = (tuple(sorted(odd)), tuple(sorted(map(tuple, map(sorted, islands)))),
               np.round(table, DIGITS).tobytes())  # fmt: skip
        if key not in self._known:
            prices = _over_ditches(sorted(odd), islands, table, self.cut)
            if prices is None:
                # Two of them may be the ends.
                least = max(between_islands(islands, table, self.cut),
                            paired(table[np.ix_(odd, odd)], self.cut, alone=2))  # fmt: skip
                prices = np.array([[least]])
            else:
                prices = _useful(prices, table)
            self._known[key] = prices
        return _lowered(nodes, self._known[key], len(nodes))

    @staticmethod
    def _nodes(bundle: Bundle) -> np.ndarray:
        """The nodes of its ditches, in an order that alike places have in common."""
        network = bundle.network
        nodes = np.unique(network.ends[list(bundle.links)])
        return nodes[_in_reading_order(network.spots[nodes] - bundle.station.middle)]

    def ruled(self, bundle: Bundle, ground: Ground, place: Place) -> Place:
        """The same *place*, with what layings of the ruler over the fewest cost besides: the straightest way
        over its ditches may be longer than the shortest one."""
        links: Sequence[int] = bundle.links
        if not (self.fewest and self.laying and 1 < len(links) <= LINKS) or bundle.trails:
            return place
        network = bundle.network
        nodes = self._nodes(bundle)
        at = {int(node): k for k, node in enumerate(nodes)}
        ends = {
            number: sorted(network.ends[number].tolist(), key=at.__getitem__) for number in links
        }
        # In an order that alike places have in common.
        links = sorted(links, key=lambda number: [at[node] for node in ends[number]])
        ways = [(number, start) for number in links for start in ends[number]]
        saved, alone = self.fewest.in_order(ways)
        pairs = [(at[start], at[far_end(network, number, start)]) for number, start in ways]
        entry, leave = np.array(pairs).T
        table = prices_within(nodes.tolist(), ground, self.cut)
        ahead = table[np.ix_(leave, entry)] - self.laying * saved
        key = (tuple(pairs), np.round(ahead, DIGITS).tobytes())
        if key not in self._known:
            doubled = [pairs[k : k + 2] for k in range(0, len(pairs), 2)]
            self._known[key] = to_each(doubled, table, [0] * len(links), ahead)
        over = self.laying * (alone - self.fewest.along(links))
        to = self._known[key] + over - len(links) * 2 * 10.0**-DIGITS
        if len(place.prices) < len(place.nodes):
            return Place(place.nodes, np.maximum(place.prices, to.min()))
        inner = np.full(table.shape, np.inf)
        spots = [at[int(node)] for node in place.nodes]
        inner[np.ix_(spots, spots)] = place.prices
        prices = least_sums(least_sums(table, inner), table)
        # A way is as good backwards.
        prices = np.maximum(prices, np.maximum(to[:, None], to[None, :]))
        prices = _useful(prices, table)
        used = np.flatnonzero(np.isfinite(prices).any(axis=0))
        return Place(nodes[used], prices[np.ix_(used, used)])

    def _meet(self, bundle: Bundle, ground: Ground) -> _Runs:
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
        met = _Runs(bundle, trails, nodes, ways, needs, table, like)
        self._met[id(bundle)] = met
        return met

    def _runs(self, bundle: Bundle, ground: Ground) -> Place:
        met = self._met.get(id(bundle)) or self._meet(bundle, ground)
        if met.like.prices is None:
            prices = self._through(met.ways, met.like.table, met.needs)
            if prices is None:
                costs = costs_by(met.nodes, met.like.table, self.cut)
                prices = np.array([[path_bound(met.trails, costs, most=self.rounds)]])
            met.like.prices = prices
        prices = met.like.prices
        if len(prices) == len(met.nodes):
            prices = _useful(prices, met.table)
        return _lowered(np.array(met.nodes), prices, len(met.trails))

    def _through(self, ways, table: np.ndarray, needs: Sequence[int]) -> np.ndarray | None:
        """Prices from node to node, where all orders can be gone through: exact, or of more runs no less
        than to either of the two from anywhere; None of too many."""
        many = sum(map(len, ways))
        if few(len(ways), many):
            return through_all(ways, table, needs)
        if 2 ** min(len(ways), 40) / 2 * many**2 > self.sums:
            return None
        to = to_each(ways, table, needs)
        one_way = any(needs) or any((b, a) not in pairs for pairs in ways for a, b in pairs)
        prices = np.tile(to, (len(to), 1))
        return prices if one_way else np.maximum(prices, to[:, None])


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


def _lowered(nodes: np.ndarray, prices: np.ndarray, many: int) -> Place:
    """The place that may be entered and left by *nodes*, of which those of no use are left out. Alike places
    may be cheaper by what was rounded off in every one of *many* ways, and summed in single precision."""
    prices = np.maximum(prices - many * 2 * 10.0**-DIGITS, 0.0)
    if len(prices) < len(nodes):
        return Place(nodes, prices)
    used = np.flatnonzero(np.isfinite(prices).any(axis=0) | np.isfinite(prices).any(axis=1))
    return Place(nodes[used], prices[np.ix_(used, used)])


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
    kept = np.full(prices.shape, np.inf)
    for a, b in useful_pairs(prices, table, SAME):
        kept[a, b] = prices[a, b]
    return kept


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


def _over_ditches(
    odd: Sequence[int], islands: Sequence[Sequence[int]], table: np.ndarray, cut: float
) -> np.ndarray | None:
    """What ditches cost at least from node to node: between *odd* ends the cheapest pairing of the others,
    from any node back to it that of all; who begins or ends elsewhere goes to one of those first. Where they
    are in *islands*, no less than the cheapest tree between those. None of too many odd ends."""
    if len(odd) > ODD:
        return None
    if not odd and len(islands) == 2:
        return _two_rings(list(islands[0]), list(islands[1]), table)
    prices = np.full(table.shape, np.inf)
    np.fill_diagonal(prices, paired(table[np.ix_(odd, odd)], cut))
    for i, one in enumerate(odd):
        for two in odd[:i]:
            rest = [node for node in odd if node not in (one, two)]
            price = paired(table[np.ix_(rest, rest)], cut)
            prices[one, two] = prices[two, one] = price
    if len(islands) > 1:
        # From wherever to wherever: none of them is less than the ways between the islands.
        prices = least_sums(least_sums(table, prices), table)
        prices = np.maximum(prices, between_islands(islands, table, cut))
    return prices


def _two_rings(one: list[int], two: list[int], table: np.ndarray) -> np.ndarray:
    """The least prices of going round two closed islands: from one to the other there is one way between
    them; who ends on the one she began on goes over there and back from wherever it is nearest, being on the
    way round, or by the way to where she ends."""
    prices = table.astype(float)
    there = float(table[np.ix_(one, two)].min())
    for mine, other in ((one, two), (two, one)):
        spot = np.ix_(mine, mine)
        by_way = least_sums(table[np.ix_(mine, other)], table[np.ix_(other, mine)])
        prices[spot] = np.minimum(table[spot] + 2 * there, by_way)
    return prices
