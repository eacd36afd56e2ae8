"""Tours: in which order to do things that each can be entered and left by several doors.

An item is done by one of its options (entry, exit, price); going from an exit to the next entry has a
price too, a cut at most. Found by ruin and recreate: a few items that are done near each other are
taken out and put back where, and by the doors by which, they cost least (Schrimpf et al. 2000;
Christiaens and Vanden Berghe 2020), between rounds of 2-opt and or-opt, and by kicks; at last the doors
are chosen exactly for the order by dynamic programming (Noon and Bean's generalised tour with its order
given). The loops are those of `searching`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from chorograph_core.route.searching import Things

EXACT, EXACT_OPTIONS = 8, 90
"""Items, and options of all of them, up to which the best tour is found by going through all subsets."""
THOROUGH, MORE_EXACT, MORE_OPTIONS = 150, 10, 160
"""The same where so many rounds of search are allowed."""
KICKED, EACH_KICK = range(8, 201), 8
"""Things in a tour that is kicked: of more a kick takes long, and a hundred do not change it; and how many
rounds of search there are for each kick."""
MOST_KICKED = 1_000_000
"""Pairs of things that are looked at in all kicks of a tour together."""


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
    in a circle, and where an item has no option.
    """
    if not items:
        return Tour((), (), 0.0)
    items = _in_order(items)
    search = Search(items, table, start, leaving)
    size, options = len(items), sum(len(item.entries) for item in items)
    few = size <= EXACT and options <= EXACT_OPTIONS
    if few or (rounds >= THOROUGH and size <= MORE_EXACT and options <= MORE_OPTIONS):
        return search.exact()
    first = first or search.constructed()
    return min((search.improved(first, rounds, seed) for seed in range(starts)),
               key=lambda tour: tour.price)  # fmt: skip


def tour_in_order(
    items: Sequence[Item], table: np.ndarray, order: Sequence[int], start: int | None = None,
    leaving: np.ndarray | None = None,
) -> Tour:  # fmt: skip
    """The tour that does *items* in this *order*, each by the doors that make it cheapest."""
    return Search(items, table, start, leaving).in_order(order)


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


class Search:
    """What `searching` is told of *items* and of the prices between their doors, and what it finds."""

    def __init__(
        self, items: Sequence[Item], table: np.ndarray, start: int | None = None,
        leaving: np.ndarray | None = None,
    ) -> None:  # fmt: skip
        # Not before something is to be searched: who plans nothing need not carry a compiler about.
        from chorograph_core.route import searching

        self.loops = searching
        size, count = len(table), len(items)
        # Loops look where they are told to look: nobody else asks whether there is something.
        if not all(len(item.entries) for item in items):
            raise ValueError("Something can be done in no way at all.")
        # Two stand-ins: row *size* is where one comes from, column *size* where one ends.
        grid = np.zeros((size + 1, size + 1))
        grid[:size, :size] = table
        if start is not None:
            grid[size, :size] = table[start]
        if leaving is not None:
            grid[:size, size] = leaving
        before = np.zeros((count, count), bool)
        for k, item in enumerate(items):
            before[list(item.after), k] = True
        first = np.concatenate([[0], np.cumsum([len(item.entries) for item in items])])
        turned = [np.where(item.reverse < 0, -1, item.reverse + at)
                  for item, at in zip(items, first, strict=False)]  # fmt: skip
        entries, exits, reverse = (
            np.concatenate(each).astype(np.int64)
            for each in ([i.entries for i in items], [i.exits for i in items], turned)
        )
        own = np.concatenate([item.prices for item in items]).astype(float)
        self.items = items
        self.things: Things = searching.Things(
            grid,
            size,
            first.astype(np.int64),
            entries,
            exits,
            own,
            reverse,
            before,
            before.sum(axis=0),
            bool(before.any()),
        )

    def constructed(self) -> Tour:
        """Things put in one after the other, those whose predecessors are in, where each costs least."""
        count = len(self.items)
        order, by = np.empty((2, count), np.int64)
        turn = np.argsort([len(item.after) for item in self.items], kind="stable")
        self.loops.put_in(self.things, order, by, 0, turn)
        return self._tour(order, by)

    def improved(self, first: Tour, rounds: int, seed: int = 0) -> Tour:
        """What so many *rounds* of search make of a *first* tour."""
        order = np.array(first.order, np.int64)
        by = self.things.first[order] + np.array(first.options, np.int64)
        count, kicks = len(order), 0
        if rounds >= THOROUGH and count in KICKED and not self.things.bound:
            kicks = min(rounds // EACH_KICK, MOST_KICKED // count**2)
        self.loops.improve(self.things, order, by, rounds, kicks, seed)
        return self._tour(order, by)

    def settled(self, order: Sequence[int]) -> Tour:
        """The tour in this *order*, and what is turned round or put elsewhere until nothing gets cheaper."""
        settled, by = np.array(order, np.int64), np.empty(len(order), np.int64)
        self.loops.settle(self.things, settled, by)
        return self._tour(settled, by)

    def in_order(self, order: Sequence[int]) -> Tour:
        """The tour in this *order*, each thing by the doors that make it cheapest."""
        by = np.empty(len(order), np.int64)
        self.loops.choose(self.things, np.array(order, np.int64), by)
        return self._tour(np.array(order, np.int64), by)

    def exact(self) -> Tour:
        """The best tour of all."""
        by = self.loops.best_of_all(self.things)
        return self._tour(np.searchsorted(self.things.first, by, side="right") - 1, by)

    def _tour(self, order: np.ndarray, by: np.ndarray) -> Tour:
        options = by - self.things.first[order]
        price = self.loops.price_of(self.things, by)
        return Tour(tuple(order.tolist()), tuple(options.tolist()), price)
