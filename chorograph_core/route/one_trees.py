"""A floor by trees: every order is a path through all runs, and a path is a tree.

Held–Karp bound (Held and Karp 1971): whatever multipliers stand at the doors, a path costs at least the
cheapest 1-tree; they are raised where the tree comes too often and lowered where it comes too seldom.
A door counts twice where its run is gone by it, so that a tree which enters by one door and leaves by
another is made dear at both. Ways that were not looked for count as cheap as they could possibly be.
"""

from __future__ import annotations

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import minimum_spanning_tree

from chorograph_core.route.doors import Doors, firsts, least_of

FORCED = 1e-6
"""Weight of an edge that must be in the tree."""


class OneTrees:
    """The trees over *doors*: a closed run is one place, the two ends of an open one are two that the
    run itself joins."""

    def __init__(self, doors: Doors) -> None:
        self.doors = doors
        begins = ~doors.joined[doors.owner]
        begins[doors.first_of_run] = True
        self.place = np.cumsum(begins) - 1
        self.size = size = int(self.place[-1]) + 1
        self.first_of_place = firsts(self.place)
        one, two = self.place[doors.a], self.place[doors.b]
        key = np.minimum(one, two) * size + np.maximum(one, two)
        self.rank = np.argsort(key, kind="stable")
        self.first_of_pair = firsts(key[self.rank])
        kinds = key[self.rank][self.first_of_pair]
        split = doors.first_of_run[~doors.joined]
        low = self.place[split]
        self.forced = low * size + low + 1
        self.keys = kinds

    def tree(self, extra: np.ndarray) -> tuple[float, np.ndarray]:
        """Cheapest tree over all places and the two ends of the path, the multipliers *extra* (d,)
        taken off again; and how often each door is used more than the run asks for."""
        doors, size = self.doors, self.size
        known = (doors.price + extra[doors.a] + extra[doors.b])[self.rank]
        pair, way = least_of(known, self.first_of_pair)
        # A way that was not kept costs at least half the radius of one end and half that of the other,
        # so any of them may be swapped for one to the place where that is least: a star stands for all.
        missing, door = least_of(doors.radius / 2 + extra, self.first_of_place)
        star = int(np.argmin(missing))
        others = np.delete(np.arange(size), star)
        spokes = missing[star] + missing[others]
        shift = 1.0 - min(pair.min(initial=np.inf), spokes.min(initial=np.inf))
        keys = np.concatenate([self.keys, np.minimum(others, star) * size + np.maximum(others, star),
                               self.forced])  # fmt: skip
        weights = np.concatenate([pair + shift, spokes + shift, np.full(len(self.forced), FORCED)])
        rank = np.lexsort((weights, keys))
        kept = rank[firsts(keys[rank])]
        low, high = np.divmod(keys[kept], size)
        stops = np.searchsorted(low, np.arange(size + 1))
        found = minimum_spanning_tree(csr_array((weights[kept], high, stops), shape=(size, size)))
        rows = np.repeat(np.arange(size), np.diff(found.indptr))
        used = kept[np.searchsorted(keys[kept], rows * size + found.indices)]
        count = np.zeros(len(extra))
        ways = way[used[used < len(pair)]]
        value = float(pair[used[used < len(pair)]].sum())
        np.add.at(count, doors.a[self.rank[ways]], 1)
        np.add.at(count, doors.b[self.rank[ways]], 1)
        swapped = used[(used >= len(pair)) & (used < len(pair) + len(spokes))] - len(pair)
        value += float(spokes[swapped].sum())
        np.add.at(count, door[others[swapped]], 1)
        count[door[star]] += len(swapped)
        # The path's two free ends are at the two cheapest places.
        cheap, cheap_door = least_of(extra, self.first_of_place)
        ends = np.argsort(cheap, kind="stable")[:2]
        value += float(cheap[ends].sum())
        np.add.at(count, cheap_door[ends], 1)
        gone, option = least_of(doors.own - extra[doors.enter] - extra[doors.leave], doors.first)
        np.add.at(count, doors.enter[option], -1)
        np.add.at(count, doors.leave[option], -1)
        return value + float(gone.sum()), count
