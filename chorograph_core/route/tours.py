"""Tours: in which order to do things that each can be entered and left by several doors.

An item is done by one of its options (entry, exit, price); going from an exit to the next entry has a
price too, a cut at most. Found by ruin and recreate: a few items that are done near each other are
taken out and put back where, and by the doors by which, they cost least (Schrimpf et al. 2000;
Christiaens and Vanden Berghe 2020), between rounds of 2-opt; at last the doors are chosen exactly for
the order by dynamic programming (Noon and Bean's generalised tour with its order given).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

GAIN = 1e-7
"""Minutes that a change must save to be one."""
HEAT = 0.25
"""What share of a tour a worse one may be dearer by at first, over the root of how many things there are."""
MOST_OUT = 9
"""Items taken out at once, at most."""
EXACT, EXACT_OPTIONS = 8, 90
"""Items, and options of all of them, up to which the best tour is found by going through all subsets."""
THOROUGH, MORE_EXACT, MORE_OPTIONS = 150, 10, 160
"""The same where so many rounds of search are allowed."""
AT_ONCE = 1_000_000
"""Figures that such a search holds at once."""
KEPT = 1_500_000
"""Figures that a search keeps of what leads from item to item, and from each node into an item and out."""
CHOSEN = 30
"""Items up to which the doors are chosen anew in every round."""


@dataclass
class Item:
    """Something to do: its *options* as (entry, exit, price) rows, nodes by their place in the table
    of prices; *after* holds the places, in the list of items, of those that must be done before it."""

    entries: np.ndarray
    exits: np.ndarray
    prices: np.ndarray
    after: frozenset[int] = frozenset()
    reverse: np.ndarray = field(default_factory=lambda: np.empty(0, int))

    def __post_init__(self) -> None:
        if not len(self.reverse):
            places = {(int(a), int(b)): k for k, (a, b) in
                      enumerate(zip(self.entries, self.exits, strict=True))}  # fmt: skip
            self.reverse = np.array(
                [places.get((int(b), int(a)), -1)
                 for a, b in zip(self.entries, self.exits, strict=True)]
            )  # fmt: skip


@dataclass(frozen=True)
class Tour:
    """Items by number in the order they are done, the option each is done by, and what all costs."""

    order: tuple[int, ...]
    options: tuple[int, ...]
    price: float


def best_tour(
    items: Sequence[Item],
    table: np.ndarray,
    start: int | None = None,
    leaving: np.ndarray | None = None,
    rounds: int = 200,
    first: Tour | None = None,
    starts: int = 1,
) -> Tour:
    """Order *items*; *table* (n, n) holds the prices between nodes.

    *start* is the node one comes from, None where beginning is free; *leaving* (n,) what it costs to
    end at each node. *rounds* of ruin and recreate, from each of so many *starts*; the same arguments give
    the same tour. *first* is a tour to begin with. Raises ValueError where the order that is asked for goes
    in a circle.
    """
    if not items:
        return Tour((), (), 0.0)
    items = _in_order(items)
    search = _Search(items, table, start, leaving)
    size, options = len(items), sum(len(item.entries) for item in items)
    few = size <= EXACT and options <= EXACT_OPTIONS
    if few or (rounds >= THOROUGH and size <= MORE_EXACT and options <= MORE_OPTIONS):
        return search.exact()
    if first is None:
        search.construct()
        first = search.tour()
    found = []
    for seed in range(starts):
        search.take(first)
        search.improve(rounds, seed)
        found.append(search.tour())
    return min(found, key=lambda tour: tour.price)


def tour_in_order(
    items: Sequence[Item], table: np.ndarray, order: Sequence[int], start: int | None = None,
    leaving: np.ndarray | None = None,
) -> Tour:  # fmt: skip
    """The tour that does *items* in this *order*, each by the doors that make it cheapest."""
    search = _Search(list(items), table, start, leaving)
    search.order = list(order)
    search._choose()
    return search.tour()


@lru_cache(maxsize=16)
def _sizes(count: int) -> np.ndarray:
    """How many things are in each set of *count*, without the empty and the full one."""
    return np.array([done.bit_count() for done in range(1, (1 << count) - 1)], int)


def _in_order(items: Sequence[Item]) -> list[Item]:
    """The items, each with all that must be done before it, however many things lie between.

    Raises ValueError where something would have to be done before itself.
    """
    if not any(item.after for item in items):
        return list(items)
    whole: dict[int, frozenset[int]] = {k: frozenset() for k, i in enumerate(items) if not i.after}
    waiting = {k: item.after for k, item in enumerate(items) if item.after}
    while waiting:
        ready = [k for k, after in waiting.items() if after <= whole.keys()]
        if not ready:
            raise ValueError("What must be done before what goes in a circle.")
        for k in ready:
            after = waiting.pop(k)
            whole[k] = after.union(*(whole[other] for other in after))
    return [replace(item, after=whole[k]) for k, item in enumerate(items)]


class _Search:
    """A tour under way: *order* and *chosen* in step, their doors in *entered* and *left*."""

    def __init__(self, items, table, start, leaving) -> None:
        size = len(table)
        # Two stand-ins: row *size* is where one comes from, column *size* where one ends.
        grid = np.zeros((size + 1, size + 1))
        grid[:size, :size] = table
        if start is not None:
            grid[size, :size] = table[start]
        if leaving is not None:
            grid[:size, size] = leaving
        self.items, self.grid, self.nowhere = items, grid, size
        self.bound = any(item.after for item in items)
        self.before: list[set[int]] = [set() for _ in items]
        for k, item in enumerate(items):
            for other in item.after:
                self.before[other].add(k)
        self.rng = np.random.default_rng(0)
        self.order: list[int] = []
        self.chosen: list[int] = []
        self.own = [item.prices.tolist() for item in items]
        options = sum(len(item.entries) for item in items)
        self.keeps_pairs = options * options <= KEPT
        self.keeps_sides = 2 * options * (size + 1) <= KEPT
        self.pairs: dict[tuple[int, int], np.ndarray] = {}
        self.sides: dict[int, tuple[np.ndarray, np.ndarray]] = {}
        self.doors = [list(zip(i.entries.tolist(), i.exits.tolist(), strict=True)) for i in items]

    def take(self, tour: Tour) -> None:
        self.order, self.chosen = list(tour.order), list(tour.options)

    def construct(self) -> None:
        """Put in one after the other, those whose predecessors are in, where each costs least."""
        left = sorted(range(len(self.items)), key=lambda k: len(self.items[k].after))
        for item in left:
            self._insert(item)

    def exact(self) -> Tour:
        """The best tour, by dynamic programming over subsets (Held and Karp 1962)."""
        items, grid, count = self.items, self.grid, len(self.items)
        owner = np.concatenate([np.full(len(item.entries), k) for k, item in enumerate(items)])
        option = np.concatenate([np.arange(len(item.entries)) for item in items])
        entries, exits = (np.concatenate([getattr(item, side) for item in items])
                          for side in ("entries", "exits"))  # fmt: skip
        own = np.concatenate([item.prices for item in items])
        # By what is done, then by what was done before it.
        leading = grid[exits[None, :], entries[:, None]] + own[:, None]
        needs = np.array([sum(1 << other for other in items[k].after) for k in owner.tolist()])
        bits = 1 << owner
        full = (1 << count) - 1
        best = np.full((full + 1, len(owner)), np.inf)
        came = np.full((full + 1, len(owner)), -1)
        free = needs == 0
        best[bits[free], np.flatnonzero(free)] = grid[self.nowhere, entries[free]] + own[free]
        # All sets of one size at once: each leads to sets of the next size, by what is done next.
        sets, sizes = np.arange(1, full), _sizes(count)
        many = max(1, AT_ONCE // len(owner) ** 2)
        for size in range(1, count):
            there = sets[sizes == size]
            for first in range(0, len(there), many):
                done = there[first : first + many, None]
                joined = best[done[:, 0]][:, None, :] + leading
                source = joined.argmin(axis=2)
                price = np.take_along_axis(joined, source[:, :, None], axis=2)[:, :, 0]
                ready = (done & bits == 0) & (needs & ~done == 0) & np.isfinite(price)
                row, column = np.nonzero(ready)
                goal = (done | bits)[row, column]
                best[goal, column] = price[row, column]
                came[goal, column] = source[row, column]
        last = int(np.argmin(best[full] + grid[exits, self.nowhere]))
        done = full
        while last >= 0:
            self.order.insert(0, int(owner[last]))
            self.chosen.insert(0, int(option[last]))
            done, last = done & ~int(bits[last]), int(came[done, last])
        return self.tour()

    def _doors(self) -> tuple[np.ndarray, np.ndarray]:
        """What each place in the order comes from and leads to: (n + 1,) nodes each."""
        doors = self.doors
        pairs = [doors[k][o] for k, o in zip(self.order, self.chosen, strict=True)]
        entries, exits = zip(*pairs, strict=True) if pairs else ((), ())
        return np.array([self.nowhere, *exits]), np.array([*entries, self.nowhere])

    def _from_to(self, one: int, two: int) -> np.ndarray:
        """What it costs to go from each option of one item to each of another, and to do that."""
        found = self.pairs.get((one, two))
        if found is None:
            a, b = self.items[one], self.items[two]
            found = self.grid[a.exits[:, None], b.entries[None, :]] + b.prices
            if self.keeps_pairs:
                self.pairs[one, two] = found
        return found

    def _between(self, number: int, come: np.ndarray, go: np.ndarray) -> np.ndarray:
        """What it costs to come from each of *come* by each option of an item to its *go*: (n, options)."""
        item = self.items[number]
        if not self.keeps_sides:
            into = self.grid[come[:, None], item.entries[None, :]] + item.prices
            return into + self.grid[item.exits[:, None], go[None, :]].T
        kept = self.sides.get(number)
        if kept is None:
            kept = (self.grid[:, item.entries] + item.prices, self.grid[item.exits].T.copy())
            self.sides[number] = kept
        return kept[0][come] + kept[1][go]

    def _insert(self, number: int) -> None:
        item = self.items[number]
        come, go = self._doors()
        low, high = 0, len(self.order)
        if self.bound and (item.after or self.before[number]):
            for place, other in enumerate(self.order):
                if other in item.after:
                    low = place + 1
                elif other in self.before[number]:
                    high = min(high, place)
        come, go = come[low : high + 1], go[low : high + 1]
        added = self._between(number, come, go) - self.grid[come, go][:, None]
        place, option = divmod(int(np.argmin(added)), added.shape[1])
        self.order.insert(low + place, number)
        self.chosen.insert(low + place, option)

    def price(self) -> float:
        """Of the whole tour as it stands."""
        come, go = self._doors()
        own = self.own
        inner = sum(own[k][o] for k, o in zip(self.order, self.chosen, strict=True))
        return float(self.grid[come, go].sum() + inner)

    def improve(self, rounds: int, seed: int = 0) -> None:
        """Ruin and recreate; what is worse is kept less and less often."""
        self.rng = np.random.default_rng(seed)
        self._settle()
        count = len(self.items)
        if count == 1:
            return
        now = best = self.price()
        kept = (list(self.order), list(self.chosen))
        heat = HEAT * max(best, 0.05)
        for turn in range(rounds):
            before = (list(self.order), list(self.chosen))
            self._ruin(min(MOST_OUT, max(2, count // 2)))
            tried = self.price()
            if count <= CHOSEN and tried < now + heat:
                self._choose()
                tried = self.price()
            warm = heat * (1 - turn / rounds) ** 2 / math.sqrt(count)
            if tried < now + warm * -math.log(max(self.rng.random(), 1e-12)):
                now = tried
            else:
                self.order, self.chosen = before
            if now < best - GAIN:
                self._settle()
                now = best = self.price()
                kept = (list(self.order), list(self.chosen))
        self.order, self.chosen = kept

    def _ruin(self, most: int) -> None:
        """Take out a stretch of the order, or what lies near one item, and put it back."""
        count = len(self.order)
        many = int(self.rng.integers(1, most + 1))
        at = int(self.rng.integers(count))
        if self.rng.random() < 0.5:
            first = max(0, min(at - many // 2, count - many))
            out = self.order[first : first + many]
        else:
            come, go = self._doors()
            apart = self.grid[come[at + 1], go[:-1]] + self.grid[come[1:], go[at]]
            apart[at] = -1.0
            noise = self.rng.random(count) * 0.02
            out = [self.order[k] for k in np.argsort(apart + noise, kind="stable")[:many]]
        gone = set(out)
        pairs = [(k, o) for k, o in zip(self.order, self.chosen, strict=True) if k not in gone]
        self.order, self.chosen = [k for k, _ in pairs], [o for _, o in pairs]
        out = [out[k] for k in self.rng.permutation(len(out))]
        if self.bound:
            out.sort(key=lambda k: len(self.items[k].after))
        for number in out:
            self._insert(number)

    def _settle(self) -> None:
        """2-opt until nothing gets cheaper, and the best doors for the order."""
        for _ in range(30):
            self._choose()
            if self.bound or not self._turn():
                break
        self._choose()

    def _turn(self) -> bool:
        """Turn round the stretch that gains most by it; False where none does."""
        count = len(self.order)
        turned = np.array([int(self.items[k].reverse[o])
                           for k, o in zip(self.order, self.chosen, strict=True)])  # fmt: skip
        come, go = self._doors()
        if count < 2 or (turned < 0).all():
            return False
        entered, left = go[:-1], come[1:]
        back = np.where(turned >= 0, 0.0, np.inf)
        for k in np.flatnonzero(turned >= 0):
            item = self.items[self.order[k]]
            back[k] = item.prices[turned[k]] - item.prices[self.chosen[k]]
        summed = np.concatenate([[0.0], np.cumsum(np.where(np.isinf(back), 1e9, back))])
        # Turn items i to j: what came before i then leads to the exit of j, and so on.
        gain = (
            self.grid[come[:-1], entered][:, None]
            + self.grid[left, go[1:]][None, :]
            - self.grid[np.ix_(come[:-1], left)]
            - self.grid[np.ix_(entered, go[1:])]
            - (summed[None, 1:] - summed[:-1, None])
        )
        gain[np.tril_indices(count, -1)] = -np.inf
        best = int(np.argmax(gain))
        i, j = divmod(best, count)
        if gain[i, j] <= GAIN:
            return False
        self.order[i : j + 1] = self.order[i : j + 1][::-1]
        self.chosen[i : j + 1] = turned[i : j + 1][::-1].tolist()
        return True

    def _choose(self) -> None:
        """The best option of each item for this order, exactly."""
        first = self.items[self.order[0]]
        summed = self.grid[self.nowhere, first.entries] + first.prices
        back: list[np.ndarray] = []
        for before, here in itertools.pairwise(self.order):
            joined = summed[:, None] + self._from_to(before, here)
            back.append(joined.argmin(axis=0))
            summed = joined.min(axis=0)
        last = self.items[self.order[-1]]
        option = int(np.argmin(summed + self.grid[last.exits, self.nowhere]))
        chosen = [option]
        for came in reversed(back):
            option = int(came[option])
            chosen.append(option)
        self.chosen = chosen[::-1]

    def tour(self) -> Tour:
        return Tour(tuple(self.order), tuple(self.chosen), self.price())
