"""What an order of places costs at least, each gone through in one go: travel and cuts between them and in
them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from chorograph_core.route.bound import doors_bound
from chorograph_core.route.doors import Doors
from chorograph_core.route.ground import Ground
from chorograph_core.route.places import Place
from chorograph_core.route.subsets import least_sums
from chorograph_core.route.walks import Pricing

EXACT = 14
"""Places up to which all orders are gone through."""
SUMS = 150_000_000
"""Sums that may take at most; where it would take more, the order is bounded by trees and shares."""
NEAREST = 32
"""Ways kept from each door for trees and shares."""


def order_bound(
    places: Sequence[Place], ground: Ground, cut: float,
    after: Sequence[frozenset[int]] | None = None, leaving: Pricing | None = None,
) -> float:  # fmt: skip
    """Lower bound in minutes on going through all *places* over *ground*, beginning and ending anywhere;
    *after* says which come before each, *leaving* what it costs to end at a node."""
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
    table, first = _table(places, ground, cut)
    sizes = np.diff([*first, len(table)])
    sums = 2 ** len(places) / 2 * (len(table) * sizes.sum() + (sizes**2).sum())
    if len(places) <= EXACT and sums <= SUMS:
        return _exact(places, table, first, after, np.concatenate(ends))
    least = min(float(each.min()) for each in ends)
    return doors_bound(_doors(places, table, first, cut), cut) + least


def _table(places: Sequence[Place], ground: Ground, cut: float) -> tuple[np.ndarray, np.ndarray]:
    """Prices (d, d) between the doors of all places, and where those of each begin (n,): a place that may be
    entered anywhere has one door, as near to another as the nearest of its nodes."""
    nodes = np.concatenate([place.nodes for place in places])
    unique, back = np.unique(nodes, return_inverse=True)
    table = ground.prices(unique.tolist(), cut)[np.ix_(back, back)]
    counts = [len(place.prices) for place in places]
    starts: list[int] = []
    at = 0
    for place, count in zip(places, counts, strict=True):
        starts += [at] if count < len(place.nodes) else range(at, at + len(place.nodes))
        at += len(place.nodes)
    table = np.minimum.reduceat(np.minimum.reduceat(table, starts, axis=0), starts, axis=1)
    return table, np.cumsum(counts) - counts


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


def _doors(places: Sequence[Place], table: np.ndarray, first: np.ndarray, cut: float) -> Doors:
    """The places as the bounds see them."""
    owner = np.repeat(np.arange(len(places)), np.diff([*first, len(table)]))
    apart = np.where(owner[:, None] == owner[None, :], np.inf, table)
    radius = np.full(len(table), cut)
    if len(table) > NEAREST + 1:
        last = np.partition(apart, NEAREST, axis=1)[:, NEAREST]
        radius = np.minimum(radius, last)
        apart[apart > last[:, None]] = np.inf
        apart = np.minimum(apart, apart.T)
    a, b = np.nonzero(np.triu(apart < cut))
    enter, leave, own, run = [], [], [], []
    for k, place in enumerate(places):
        # Of a way and the same back one is enough.
        both = np.minimum(place.prices, place.prices.T)
        rows, columns = np.nonzero(
            np.isfinite(np.triu(both + 1.0) - 1.0) & np.triu(np.ones_like(both, bool))
        )
        enter += (rows + first[k]).tolist()
        leave += (columns + first[k]).tolist()
        own += both[rows, columns].tolist()
        run += [k] * len(rows)
    begins = np.searchsorted(run, np.arange(len(places)))
    return Doors(owner, a, b, apart[a, b], radius, np.array(enter), np.array(leave), begins,
                 np.ones(len(places), bool), np.array(own))  # fmt: skip
