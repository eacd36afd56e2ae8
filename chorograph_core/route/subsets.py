"""The least price of doing a few things in whatever order, by dynamic programming over subsets (Held and Karp
1962)."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np

THINGS, FIGURES = 10, 6_000_000
"""Things up to which prices between all nodes are found, and figures for that: sets of things by ways
squared."""
AT_ONCE = 2048
"""Sets gone through at once."""
SUMS_AT_ONCE = 4_000_000
"""Sums that are held at once."""


def few(things: int, ways: int) -> bool:
    """Whether so many *things*, with so many *ways* of all of them, are few enough for `through_all`."""
    return things <= THINGS and 2**things * ways**2 <= FIGURES


def through_all(
    ways: Sequence[Sequence[tuple[int, int]]], table: np.ndarray, needs: Sequence[int],
    own: Sequence[np.ndarray] | None = None,
) -> np.ndarray:  # fmt: skip
    """The least price (k, k) of doing all things in any order from one node to another; *ways* are the
    (entry, exit) pairs of each, *table* (k, k) the prices between nodes, *needs* for each the set of
    those, as bits, that come before it, *own* what each of its ways costs by itself. By dynamic programming
    over subsets (Held and Karp 1962)."""
    entry, leave = np.array([pair for pairs in ways for pair in pairs]).T
    first = np.cumsum([0, *map(len, ways)])
    mine = [slice(*ends) for ends in itertools.pairwise(first.tolist())]
    each = np.zeros(len(entry)) if own is None else np.concatenate(own)
    ahead = (table[np.ix_(leave, entry)] + each).astype(np.float32)[:, :, None, None]
    many, full = len(entry), (1 << len(ways)) - 1
    # By the way done last, what is done, and the way one began by: all sets of one size at once.
    best = np.full((many, full + 1, many), np.inf, np.float32)
    for k, need in enumerate(needs):
        if not need:
            alone = np.arange(many)[mine[k]]
            best[alone, 1 << k, alone] = each[alone]
    sets = np.arange(1, full)
    sizes = np.array([each.bit_count() for each in range(1, full)], int)
    for size in range(1, len(ways)):
        there = sets[sizes == size]
        for k, need in enumerate(needs):
            ready = there[(there >> k & 1 == 0) & (need & ~there == 0)]
            for last in range(len(ways)):
                done = ready[ready >> last & 1 == 1]
                if len(done):
                    reached, goal = best[mine[last]][:, done], done | 1 << k
                    for way in range(first[k], first[k + 1]):
                        least = (reached + ahead[mine[last], way]).min(axis=0)
                        best[way, goal] = np.minimum(best[way, goal], least)
    prices = np.full(table.shape, np.inf)
    np.minimum.at(prices, (entry[:, None], leave[None, :]), best[:, full].T.astype(float))
    return prices


def to_each(
    ways: Sequence[Sequence[tuple[int, int]]], table: np.ndarray, needs: Sequence[int],
    ahead: np.ndarray | None = None,
) -> np.ndarray:  # fmt: skip
    """The least price (k,) of doing all things in any order, from wherever it is best to begin, to each node;
    arguments as for `through_all`. *ahead* (w, w) are the prices from way to way, where they are not those
    from node to node. All sets of one size are gone through at once."""
    entry, leave = np.array([pair for pairs in ways for pair in pairs]).T
    first = np.cumsum([0, *map(len, ways)])
    ahead = (table[np.ix_(leave, entry)] if ahead is None else ahead).astype(np.float32)
    full = (1 << len(ways)) - 1
    best = np.full((full + 1, len(entry)), np.inf, np.float32)
    for k, need in enumerate(needs):
        if not need:
            best[1 << k, first[k] : first[k + 1]] = 0.0
    sets = np.arange(1, full)
    sizes = np.array([each.bit_count() for each in range(1, full)], int)
    for size in range(1, len(ways)):
        there = sets[sizes == size]
        for k, need in enumerate(needs):
            mine = slice(first[k], first[k + 1])
            ready = there[(there >> k & 1 == 0) & (need & ~there == 0)]
            for at in range(0, len(ready), AT_ONCE):
                done = ready[at : at + AT_ONCE]
                best[done | 1 << k, mine] = least_sums(best[done], ahead[:, mine])
    prices = np.full(len(table), np.inf)
    np.minimum.at(prices, leave, best[full].astype(float))
    return prices


def to_each_node(
    ways: Sequence[Sequence[tuple[int, int]]], table: np.ndarray, needs: Sequence[int]
) -> np.ndarray:
    """The same as `to_each`, told by the node where one stands and not by the way one came: of things with
    many ways between few nodes in far fewer sums."""
    size, full = len(table), (1 << len(ways)) - 1
    ahead = table.astype(np.float32)
    things = []
    for pairs in ways:
        ins = sorted({a for a, _ in pairs})
        own = np.full((len(ins), size), np.inf, np.float32)
        for a, b in pairs:
            own[ins.index(a), b] = 0.0
        outs = np.flatnonzero(np.isfinite(own).any(axis=0))
        things.append((ins, outs, own[:, outs]))
    best = np.full((full + 1, size), np.inf, np.float32)
    for k, need in enumerate(needs):
        if not need:
            best[1 << k, things[k][1]] = 0.0
    sets = np.arange(1, full)
    sizes = np.array([each.bit_count() for each in range(1, full)], int)
    for many in range(1, len(ways)):
        there = sets[sizes == many]
        for k, need in enumerate(needs):
            ins, outs, own = things[k]
            ready = there[(there >> k & 1 == 0) & (need & ~there == 0)]
            for at in range(0, len(ready), AT_ONCE):
                done = ready[at : at + AT_ONCE]
                through = least_sums(least_sums(best[done], ahead[:, ins]), own)
                spot = np.ix_(done | 1 << k, outs)
                best[spot] = np.minimum(best[spot], through)
    return best[full].astype(float)


def least_sums(one: np.ndarray, two: np.ndarray) -> np.ndarray:
    """The least of one[i, k] + two[k, j] over k: (n, m) from (n, k) and (k, m)."""
    many = max(1, SUMS_AT_ONCE // max(two.size, 1))
    parts = [(one[k : k + many, :, None] + two[None]).min(axis=1) for k in range(0, len(one), many)]
    return np.concatenate(parts)
