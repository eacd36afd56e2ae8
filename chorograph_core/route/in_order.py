"""What it costs to do things in a known order, begun with any of them, from each door to each other."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from chorograph_core.route.subsets import least_sums
from chorograph_core.route.tours import Item


def begun_anywhere(items: Sequence[Item], order: Sequence[int]) -> Iterator[tuple[int, ...]]:
    """The *order*, begun with each of its *items* in turn, where none comes before what must precede it."""
    for start in range(len(order)):
        turned = (*order[start:], *order[:start])
        place = {number: at for at, number in enumerate(turned)}
        if all(place[other] < at for number, at in place.items() for other in items[number].after):
            yield turned


def through_in_order(
    items: Sequence[Item], table: np.ndarray, order: Sequence[int]
) -> tuple[np.ndarray, np.ndarray]:
    """The least price (n, n) from node to node of doing *items* in this *order*, begun with whichever may
    come first; and the place (n, n) in the order of that one, -1 where there is no way. *table* (n, n) holds
    the prices between nodes."""
    some = [items[number] for number in order]
    own = [_through(item) for item in some]
    ins = [np.unique(item.entries) for item in some]
    outs = [np.unique(item.exits) for item in some]
    count = len(some)
    # From the way in of each to the way out of the last, and from that of the first to that of each.
    ahead, back = [own[-1]], [own[0]]
    for k in range(count - 2, -1, -1):
        step = least_sums(own[k], table[np.ix_(outs[k], ins[k + 1])])
        ahead.append(least_sums(step, ahead[-1]))
    for k in range(1, count):
        step = least_sums(back[-1], table[np.ix_(outs[k - 1], ins[k])])
        back.append(least_sums(step, own[k]))
    ahead.reverse()
    prices = np.full(table.shape, np.inf)
    first = np.full(table.shape, -1)
    round_again = table[np.ix_(outs[-1], ins[0])]
    allowed = {turned[0] for turned in begun_anywhere(items, order)}
    for k in range(count):
        if order[k] not in allowed:
            continue
        whole = ahead[k]
        if k:
            whole = least_sums(least_sums(whole, round_again), back[k - 1])
        spot = np.ix_(ins[k], outs[k - 1])
        less = whole < prices[spot]
        prices[spot] = np.where(less, whole, prices[spot])
        first[spot] = np.where(less, k, first[spot])
    return prices, first


def _through(item: Item) -> np.ndarray:
    """Prices of an item from each of its ways in to each of its ways out."""
    ins, rows = np.unique(item.entries, return_inverse=True)
    outs, columns = np.unique(item.exits, return_inverse=True)
    found = np.full((len(ins), len(outs)), np.inf)
    np.minimum.at(found, (rows, columns), item.prices)
    return found
