"""What an order of places costs at least, each gone through in one go: travel and cuts between them and in
them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from chorograph_core.route.bound import doors_bound
from chorograph_core.route.doors import Doors
from chorograph_core.route.ground import Ground
from chorograph_core.route.places import Place
from chorograph_core.route.remembered import Things, least_to_each, worth_it
from chorograph_core.route.subsets import least_sums
from chorograph_core.route.travel_costs import FULL_REACH, SHORTER
from chorograph_core.route.walks import Pricing

EXACT, AT_HAND = 14, 10
"""Places up to which all orders are gone through; the same where little time is to be taken."""
SUMS = 150_000_000
"""Sums that may take at most; where it would take more, the order is bounded by trees."""
NEAR_SUMS = 1_000_000_000
"""Sums that walks which remember what lies near may take, where it would take more."""
AT_ONCE = 16
"""Places whose ways to all others are looked at at once."""
NEAREST = 64
"""Ways kept from each door for trees."""


def order_bound(
    places: Sequence[Place], ground: Ground, cut: float,
    after: Sequence[frozenset[int]] | None = None, leaving: Pricing | None = None,
    looking: np.ndarray | None = None, quick: bool = False, sums: float = NEAR_SUMS,
) -> float:  # fmt: skip
    """Lower bound in minutes on going through all *places* over *ground*, beginning and ending anywhere;
    *after* says which come before each, *leaving* what it costs to end at a node, *looking* (n, n) what it
    costs besides to come from one place to another. A *quick* one is lower where there are many, and one of
    fewer *sums* may be."""
    if not places:
        return 0.0
    ends = [
        np.array([leaving(int(node)) if leaving else 0.0 for node in place.nodes])
        for place in places
    ]
    ends = [each if len(place.prices) == len(each) else each.min(keepdims=True)
            for place, each in zip(places, ends, strict=True)]  # fmt: skip
    if len(places) == 1:
        return float((places[0].prices + ends[0]).min())
    sizes = np.array([len(place.prices) for place in places])
    first = np.cumsum(sizes) - sizes
    every = 2.0 ** len(places) / 2 * (int(sizes.sum()) ** 2 + int((sizes**2).sum()))
    most = AT_HAND if quick else EXACT
    if len(places) <= most and every <= SUMS:
        table = _all_ways(places, ground, cut, looking)
        return _exact(places, table, first, after, np.concatenate(ends))
    least = min(float(each.min()) for each in ends)
    dearest = 0.0 if looking is None else float(looking.max())
    found = doors_bound(_doors(places, ground, first, cut, looking), cut + dearest, quick) + least
    doors = [range(at, at + size) for at, size in zip(first.tolist(), sizes.tolist(), strict=True)]
    if quick or not worth_it(doors, doors, sums):
        return found
    things = Things(
        doors, doors, [place.prices for place in places],
        _all_ways(places, ground, cut, looking), after or [frozenset()] * len(places),
    )  # fmt: skip
    ending = np.concatenate(ends)
    return max(found, float((least_to_each(things, sums, ending) + ending).min()))


def _all_ways(
    places: Sequence[Place], ground: Ground, cut: float, looking: np.ndarray | None
) -> np.ndarray:
    """Prices (d, d) between the doors of all *places*, with what *looking* costs."""
    table = _ways(places, places, ground, cut)
    if looking is not None:
        owner = np.repeat(np.arange(len(places)), [len(place.prices) for place in places])
        table += looking[np.ix_(owner, owner)]
    return table


def _ways(some: Sequence[Place], places: Sequence[Place], ground: Ground, cut: float) -> np.ndarray:
    """Prices (d, e) from the doors of *some* places to those of all: a place that may be entered anywhere has
    one door, as near to another as the nearest of its nodes."""
    nodes, starts = _doors_of(some)
    goals, ends = _doors_of(places)
    unique, back = np.unique(goals, return_inverse=True)
    table = ground.prices(nodes, cut, unique.tolist())
    table = np.minimum.reduceat(table, starts, axis=0)[:, back]
    return np.minimum.reduceat(table, ends, axis=1)


def _doors_of(places: Sequence[Place]) -> tuple[np.ndarray, list[int]]:
    """The nodes of some places, and where among them those of each door begin."""
    starts: list[int] = []
    at = 0
    for place in places:
        count = len(place.nodes)
        starts += [at] if len(place.prices) < count else range(at, at + count)
        at += count
    return np.concatenate([place.nodes for place in places]), starts


def _exact(places, table: np.ndarray, first: np.ndarray, after, ends: np.ndarray) -> float:
    """The least of all orders, by dynamic programming over subsets (Held and Karp 1962)."""
    count, size = len(places), len(table)
    needs = [sum(1 << j for j in each) for each in after] if after else [0] * count
    full = (1 << count) - 1
    best = np.full((full + 1, size), np.inf)
    for k, place in enumerate(places):
        if not needs[k]:
            spot = slice(first[k], first[k] + len(place.prices))
            best[1 << k, spot] = place.prices.min(axis=0)
    sets = np.arange(1, full)
    done_in = np.array([done.bit_count() for done in sets.tolist()])
    for so_far in range(1, count):
        here = sets[done_in == so_far]
        for k, place in enumerate(places):
            ready = here[(here >> k & 1 == 0) & (needs[k] & ~here == 0)]
            if not len(ready):
                continue
            spot = slice(first[k], first[k] + len(place.prices))
            entered = least_sums(best[ready], table[:, spot])
            best[ready | 1 << k, spot] = least_sums(entered, place.prices)
    return float((best[full] + ends).min())


def _doors(
    places: Sequence[Place],
    ground: Ground,
    first: np.ndarray,
    cut: float,
    looking: np.ndarray | None,
) -> Doors:
    """The places as the bounds see them, with the nearest ways from each door to other places."""
    owner = np.repeat(np.arange(len(places)), [len(place.prices) for place in places])
    reach = cut if len(owner) <= FULL_REACH else cut * SHORTER
    radius = np.full(len(owner), reach)
    found: list[np.ndarray] = []
    for at in range(0, len(places), AT_ONCE):
        # All between all of a large top would not fit in the memory.
        some = places[at : at + AT_ONCE]
        mine = np.flatnonzero((owner >= at) & (owner < at + AT_ONCE))
        ways = _ways(some, places, ground, reach)
        if looking is not None:
            ways += looking[np.ix_(owner[mine], owner)]
        ways[owner[mine][:, None] == owner[None, :]] = np.inf
        if len(owner) > NEAREST + 1:
            last = np.partition(ways, NEAREST, axis=1)[:, NEAREST]
            radius[mine] = np.minimum(reach, last)
            ways[ways > last[:, None]] = np.inf
        rows, others = np.nonzero(ways < reach)
        pair = np.sort([mine[rows], others], axis=0)
        found.append(np.vstack([pair, ways[rows, others]]))
    one, two, prices = np.concatenate(found, axis=1)
    # What is near from one side may be so from the other: each way once.
    _, once = np.unique(one * len(owner) + two, return_index=True)
    one, two, prices = one[once].astype(int), two[once].astype(int), prices[once]
    enter, leave, own, run = [], [], [], []
    for k, place in enumerate(places):
        # Of a way and the same back one is enough.
        both = np.minimum(place.prices, place.prices.T)
        rows, columns = np.nonzero(np.isfinite(both))
        some_of = rows <= columns
        rows, columns = rows[some_of], columns[some_of]
        enter += (rows + first[k]).tolist()
        leave += (columns + first[k]).tolist()
        own += both[rows, columns].tolist()
        run += [k] * len(rows)
    begins = np.searchsorted(run, np.arange(len(places)))
    return Doors(owner, one, two, prices, radius, np.array(enter), np.array(leave),
                 begins, np.ones(len(places), bool), np.array(own))  # fmt: skip
