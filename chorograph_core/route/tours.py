"""Tours: in which order to do things that each can be entered and left by several doors.

An item is done by one of its options (entry, exit, price); going from an exit to the next entry has a
price too, a cut at most. Found by ruin and recreate: a few items that are done near each other are
taken out and put back where, and by the doors by which, they cost least (Schrimpf et al. 2000;
Christiaens and Vanden Berghe 2020), between rounds of 2-opt and or-opt, and by kicks; at last the doors
are chosen exactly for the order by dynamic programming (Noon and Bean's generalised tour with its order
given).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np

from chorograph_core.route.all_orders import best_of_all
from chorograph_core.route.exchanges import GAIN, NEVER, best_shift, best_turn, shifted

HEAT = 0.25
"""What share of a tour a worse one may be dearer by at first, over the root of how many things there are."""
MOST_OUT = 9
"""Items taken out at once, at most."""
EXACT, EXACT_OPTIONS = 8, 90
"""Items, and options of all of them, up to which the best tour is found by going through all subsets."""
THOROUGH, MORE_EXACT, MORE_OPTIONS = 150, 10, 160
"""The same where so many rounds of search are allowed."""
KEPT = 1_500_000
"""Figures that a search keeps of what leads from item to item, and from each node into an item and out."""
KICKED, NEXT_TO, EACH_KICK = range(8, 91), 9, 8
"""Things in a tour that is kicked: of more a kick takes long, and a hundred do not change it; up to how many
lie in a stretch that is exchanged with the next; and how many rounds of search there are for each kick."""
MOST_KICKED = 200_000
"""Pairs of things that are looked at in all kicks of a tour together."""
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


class _Known(NamedTuple):
    """An *order* for which options were chosen, and what it cost to have done each item of it."""

    order: list[int]
    onwards: list[np.ndarray]


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
        # All options one after the other, those of each item from its *first* on.
        counts = np.array([len(item.entries) for item in items])
        options = int(counts.sum())
        self.first = np.cumsum(counts) - counts
        self.entries = np.concatenate([item.entries for item in items])
        self.exits = np.concatenate([item.exits for item in items])
        self.own = np.concatenate([item.prices for item in items])
        self.turned = np.concatenate([item.reverse for item in items])
        self.keeps_pairs = options * options <= KEPT
        self.keeps_sides = 2 * options * (size + 1) <= KEPT
        self.pairs: dict[tuple[int, int], np.ndarray] = {}
        self.sides: dict[int, tuple[np.ndarray, np.ndarray]] = {}
        self.known = _Known([], [])

    def take(self, tour: Tour) -> None:
        self.order, self.chosen = list(tour.order), list(tour.options)

    def construct(self) -> None:
        """Put in one after the other, those whose predecessors are in, where each costs least."""
        self._insert(sorted(range(len(self.items)), key=lambda k: len(self.items[k].after)))

    def exact(self) -> Tour:
        """The best tour of all."""
        self.order, self.chosen = best_of_all(self.items, self.grid, self.nowhere)
        return self.tour()

    def _options(self) -> np.ndarray:
        """The options that are chosen, (n,) among those of all items."""
        return self.first[np.array(self.order, int)] + np.array(self.chosen, int)

    def _doors(self) -> tuple[np.ndarray, np.ndarray]:
        """What each place in the order comes from and leads to: (n + 1,) nodes each."""
        at = self._options()
        come, go = np.empty(len(at) + 1, int), np.empty(len(at) + 1, int)
        come[0] = go[-1] = self.nowhere
        come[1:], go[:-1] = self.exits[at], self.entries[at]
        return come, go

    def _from_to(self, one: int, two: int) -> np.ndarray:
        """What it costs to come to each option of one item from each of another, and to do it: (two, one)."""
        found = self.pairs.get((one, two))
        if found is None:
            a, b = self.items[one], self.items[two]
            found = self.grid[a.exits[None, :], b.entries[:, None]] + b.prices[:, None]
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

    def _insert(self, numbers: Sequence[int]) -> None:
        """Put items in, one after the other, where and by the option by which each costs least."""
        size = len(self.order) + 1
        come, go = np.empty((2, size + len(numbers)), int)
        come[:size], go[:size] = self._doors()
        for number in numbers:
            low, high = self._room(number)
            ways = slice(low, min(high, size - 1) + 1)
            joins = self.grid[come[ways], go[ways]]
            added = self._between(number, come[ways], go[ways]) - joins[:, None]
            place, option = divmod(int(added.argmin()), added.shape[1])
            place += low
            self.order.insert(place, number)
            self.chosen.insert(place, option)
            size += 1
            come[place + 2 : size] = come[place + 1 : size - 1]
            go[place + 1 : size] = go[place : size - 1]
            at = self.first[number] + option
            come[place + 1], go[place] = self.exits[at], self.entries[at]

    def _room(self, number: int) -> tuple[int, int]:
        """From which place in the order to which an item may be put in."""
        low, high = 0, len(self.order)
        item = self.items[number]
        if self.bound and (item.after or self.before[number]):
            for place, other in enumerate(self.order):
                if other in item.after:
                    low = place + 1
                elif other in self.before[number]:
                    high = min(high, place)
        return low, high

    def price(self) -> float:
        """Of the whole tour as it stands."""
        return float(self.grid[self._doors()].sum() + self.own[self._options()].sum())

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
            on = None
            if count <= CHOSEN and tried < now + heat:
                tried, on = self._onwards()
            warm = heat * (1 - turn / rounds) ** 2 / math.sqrt(count)
            if tried < now + warm * -math.log(max(self.rng.random(), 1e-12)):
                now = tried
                if on is not None:
                    self._choose(on)
            else:
                self.order, self.chosen = before
            if now < best - GAIN:
                self._settle()
                now = best = self.price()
                kept = (list(self.order), list(self.chosen))
        self.order, self.chosen = kept
        if rounds >= THOROUGH and count in KICKED and not self.bound:
            self._kick(min(rounds // EACH_KICK, MOST_KICKED // count**2))

    def _kick(self, kicks: int) -> None:
        """Exchange two stretches that lie next to each other and settle again, so many times; what is no
        cheaper is taken back (Martin, Otto and Felten 1991). Lines that are there in great number and differ
        in nothing but their place, ruin and recreate leaves in a poor order."""
        now, count = self.price(), len(self.order)
        for turn in range(kicks):
            kept = self.order, self.chosen
            if turn % 2:
                first = int(self.rng.integers(count - 2))
                middle, last = first + self.rng.integers(1, NEXT_TO, 2).cumsum()
            else:
                first, middle, last = np.sort(self.rng.choice(count - 1, 3, replace=False) + 1)
            self.order, self.chosen = (
                each[:first] + each[middle:last] + each[first:middle] + each[last:] for each in kept
            )
            self._settle()
            tried = self.price()
            if tried < now - GAIN:
                now = tried
            else:
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
        self._insert(out)

    def _settle(self) -> None:
        """2-opt and or-opt until nothing gets cheaper, and the best doors for the order."""
        self._choose()
        for _ in range(30):
            if self.bound or not (self._turn() or self._shift()):
                break
            self._choose()

    def _turn(self) -> bool:
        """Turn round the stretch that gains most by it; False where none does."""
        turned, back = self._backwards()
        found = best_turn(self.grid, *self._doors(), back)
        if found is None:
            return False
        i, j = found
        self.order[i : j + 1] = self.order[i : j + 1][::-1]
        self.chosen[i : j + 1] = turned[i : j + 1][::-1].tolist()
        return True

    def _shift(self) -> bool:
        """Put the few things that gain most by it in another place; False where none do."""
        turned, back = self._backwards()
        found = best_shift(self.grid, *self._doors(), back)
        if found is None:
            return False
        first, many, place, round_ = found
        before, order, after = shifted(self.order, first, many, place)
        one, chosen, two = shifted(self.chosen, first, many, place)
        if round_:
            order, chosen = order[::-1], turned[first : first + many][::-1].tolist()
        self.order, self.chosen = before + order + after, one + chosen + two
        return True

    def _backwards(self) -> tuple[np.ndarray, np.ndarray]:
        """By which option each is done the other way round, -1 where by none, and what that costs more."""
        at = self._options()
        turned = self.turned[at]
        other = at - np.array(self.chosen, int) + turned
        return turned, np.where(turned < 0, NEVER, self.own[other] - self.own[at])

    def _onwards(self) -> tuple[float, list[np.ndarray]]:
        """The price of this order by the best options; and what it costs to have done each item, by its
        options. What the order last chosen for begins with is known."""
        order, known = self.order, self.known
        same = 0
        for one, two in zip(order, known.order, strict=False):
            if one != two:
                break
            same += 1
        found = known.onwards[:same]
        if not same:
            first = self.items[order[0]]
            found = [self.grid[self.nowhere, first.entries] + first.prices]
        summed = found[-1]
        for before, here in itertools.pairwise(order[max(same, 1) - 1 :]):
            summed = np.minimum.reduce(self._from_to(before, here) + summed, axis=1)
            found.append(summed)
        last = self.items[order[-1]]
        return float((summed + self.grid[last.exits, self.nowhere]).min()), found

    def _choose(self, onwards: list[np.ndarray] | None = None) -> None:
        """The best option of each item for this order, exactly; *onwards* is known already, if given."""
        order, on = self.order, self._onwards()[1] if onwards is None else onwards
        last = self.items[order[-1]]
        option = int((on[-1] + self.grid[last.exits, self.nowhere]).argmin())
        chosen = [option]
        for k in range(len(order) - 2, -1, -1):
            option = int((self._from_to(order[k], order[k + 1])[option] + on[k]).argmin())
            chosen.append(option)
        self.chosen = chosen[::-1]
        self.known = _Known(list(order), on)

    def tour(self) -> Tour:
        return Tour(tuple(self.order), tuple(self.chosen), self.price())
