"""A floor by shares: each way's price is shared out between the runs at its two ends and a tree.

Every order gives each run, by one of its options, two ways to other runs, and all those ways hang
together. So with any shares it costs at least what each run pays for its own cheapest two by one option,
and the cheapest tree for the rest (Lagrangian decomposition, Guignard and Kim 1987). A tree alone lets a
closed run be entered by one door and left by another; here each run keeps to its doors. Shares move from
those who do not use a way to those who do.
"""

from __future__ import annotations

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import minimum_spanning_tree

from chorograph_core.route.doors import Doors, firsts, least_of

FOR_TREE = 0.34
"""Share of every way that the tree pays for at first."""


class Shares:
    """Ways between *doors*, and ends: a way that is not known, or a cut, is an end at each of its doors."""

    def __init__(self, doors: Doors) -> None:
        self.doors = doors
        count, ways, runs = len(doors.owner), len(doors.a), doors.runs
        # Each way as seen from either door, then two ends at every door.
        own = np.arange(count)
        door = np.concatenate([doors.a, doors.b, own, own])
        other = np.concatenate([doors.owner[doors.b], doors.owner[doors.a],
                                np.full(count, runs), np.full(count, runs + 1)])  # fmt: skip
        key = door * (runs + 2) + other
        self.rank = np.argsort(key, kind="stable")
        self.first_of_other = firsts(key[self.rank])
        self.first_of_door = firsts(key[self.rank][self.first_of_other] // (runs + 2))
        one, two = doors.owner[doors.a], doors.owner[doors.b]
        pairs = np.minimum(one, two) * (runs + 1) + np.maximum(one, two)
        self.by_pair = np.argsort(pairs, kind="stable")
        self.first_of_pair = firsts(pairs[self.by_pair])
        ends = np.arange(runs) * (runs + 1) + runs
        keys = np.concatenate([pairs[self.by_pair][self.first_of_pair], ends])
        self.by_key = np.argsort(keys)
        self.keys = keys[self.by_key]
        self.low, self.high = np.divmod(self.keys, runs + 1)
        self.stops = np.searchsorted(self.low, np.arange(runs + 2))
        self.shape = (ways, count)
        self.off = float(doors.radius.max(initial=0.0))

    def begin(self) -> np.ndarray:
        """Shares to begin with: of each way for its first and second door, of each end (2w + d,)."""
        half = self.doors.price * (1 - FOR_TREE) / 2
        return np.concatenate([half, half, self.doors.radius / 2 * (1 - FOR_TREE)])

    def value(self, shares: np.ndarray) -> tuple[float, np.ndarray]:
        """What any order costs at least by these *shares*, and where each should grow."""
        ways, _ = self.shape
        one, two, ends = shares[:ways], shares[ways : 2 * ways], shares[2 * ways :]
        mine, by_runs, ends_of_runs = self._runs(shares, ends)
        rest, by_tree, ends_of_tree = self._tree(
            self.doors.price - one - two, self.doors.radius / 2 - ends
        )
        grow = np.concatenate([by_runs[:ways] - by_tree, by_runs[ways:] - by_tree,
                               ends_of_runs - ends_of_tree])  # fmt: skip
        return mine + rest - self.off, grow

    def _runs(self, shares: np.ndarray, ends: np.ndarray):
        """What every run pays for its two cheapest ways to different others, by its best option."""
        doors, (ways, count) = self.doors, self.shape
        seen = np.concatenate([shares, ends])[self.rank]
        least, which = least_of(seen, self.first_of_other)
        best, place = least_of(least, self.first_of_door)
        others = least.copy()
        others[place] = np.inf
        second, next_place = least_of(others, self.first_of_door)
        same = doors.enter == doors.leave
        paid = best[doors.enter] + np.where(same, second[doors.leave], best[doors.leave])
        value, option = least_of(paid + doors.own, doors.first)
        first_way = self.rank[which[place]]
        second_way = self.rank[which[next_place]]
        enter, leave = doors.enter[option], doors.leave[option]
        used = np.zeros(2 * ways + 2 * count)
        np.add.at(used, first_way[enter], 1)
        np.add.at(used, np.where(same[option], second_way[leave], first_way[leave]), 1)
        at_ends = used[2 * ways : 2 * ways + count] + used[2 * ways + count :]
        return float(value.sum()), used[: 2 * ways], at_ends

    def _tree(self, prices: np.ndarray, ends: np.ndarray):
        """What joins all runs and a stand-in for the ends, with one way more than a tree has, since an
        order comes from the stand-in and goes back to it; ways that pay are taken."""
        doors, (ways, count) = self.doors, self.shape
        runs = doors.runs
        pair, way = least_of(prices[self.by_pair], self.first_of_pair)
        way = self.by_pair[way]
        end, end_door = least_of(ends, doors.first_of_run)
        weights = np.concatenate([pair, end])[self.by_key]
        shift = 1.0 - float(weights.min())
        found = minimum_spanning_tree(
            csr_array((weights + shift, self.high, self.stops), shape=(runs + 1, runs + 1))
        )
        rows = np.repeat(np.arange(runs + 1), np.diff(found.indptr))
        used = self.by_key[np.searchsorted(self.keys, rows * (runs + 1) + found.indices)]
        taken = np.zeros(len(pair) + runs, int)
        taken[used] = 1
        of_pairs, of_ends = taken[: len(pair)], taken[len(pair) :]
        of_pairs[pair < 0] = 1
        of_ends[end < 0] = 2
        if of_pairs.sum() + of_ends.sum() == runs:
            more = np.where(of_pairs > 0, np.inf, pair)
            if more.min(initial=np.inf) < end.min():
                of_pairs[int(more.argmin())] += 1
            else:
                of_ends[int(end.argmin())] += 1
        by_way, by_end = np.zeros(ways), np.zeros(count)
        by_way[way] = of_pairs
        by_end[end_door] = of_ends
        return float(pair @ of_pairs + end @ of_ends), by_way, by_end
