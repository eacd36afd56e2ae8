"""What the ditches of one place cost at least in travel and cuts from node to node, whatever way they are
gone over."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from chorograph_core.route.pairing import between_islands, paired
from chorograph_core.route.subsets import least_sums

ODD = 22
"""Odd ends up to which each pair of them is tried as beginning and end."""


def over_ditches(
    odd: Sequence[int], islands: Sequence[Sequence[int]], table: np.ndarray, cut: float
) -> np.ndarray:
    """Prices (n, n) of going over ditches with those *odd* ends, in *islands* that hang together, from each
    node to each other; *table* (n, n) are the ways between their nodes. Infinite where going to or from
    another node first is as good; (1, 1), from wherever to wherever, where the odd ends are too many.

    From odd end to odd end it is the cheapest pairing of the others, from any node back to it that of all
    (Edmonds and Johnson 1973); where there are islands, no less than the cheapest tree between them.
    """
    if len(odd) > ODD:
        # Two of them may be the ends.
        least = paired(table[np.ix_(odd, odd)], cut, alone=2)
        return np.array([[max(least, between_islands(islands, table, cut))]])
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
        prices = np.maximum(everywhere(prices, table), between_islands(islands, table, cut))
    return prices


def everywhere(prices: np.ndarray, table: np.ndarray) -> np.ndarray:
    """The *prices* (n, n) from all nodes to all others, by the ways of a *table* (n, n) to and from those
    that have one."""
    return least_sums(least_sums(table, prices), table)


def _two_rings(one: list[int], two: list[int], table: np.ndarray) -> np.ndarray:
    """Of two closed islands: from one to the other there is one way between them; who ends on the one she
    began on goes over there and back from wherever it is nearest, being on the way round, or by the way to
    where she ends."""
    prices = table.astype(float)
    there = float(table[np.ix_(one, two)].min())
    for mine, other in ((one, two), (two, one)):
        by_way = least_sums(table[np.ix_(mine, other)], table[np.ix_(other, mine)])
        spot = np.ix_(mine, mine)
        prices[spot] = np.minimum(table[spot] + 2 * there, by_way)
    return prices
