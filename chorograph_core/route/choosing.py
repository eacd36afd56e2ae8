"""Which way through each bundle, and in which order: few paths for many stations."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from chorograph_core.reckon import Machine
from chorograph_core.route.bundles import sorted_alike
from chorograph_core.route.ditch_paths import Laying
from chorograph_core.route.few_paths import AT_FIRST, TRIED, Ordered, Paths, Stations, few_paths
from chorograph_core.route.ground import Ground, KnownPrices
from chorograph_core.route.model import RunOrder
from chorograph_core.route.paths import Option, PathClass, find_paths
from chorograph_core.route.tours import Item, best_tour
from chorograph_core.route.walks import Pricing
from chorograph_core.route.wishes import wished_order
from chorograph_core.route.works import Work

ROUNDS = 240
"""Rounds of search for the order of a pass, and as many for every five things in it."""
MOST_ROUNDS = 2400
MOST_AT_FIRST = 32, 64
"""Paths of a kind of station by which a first order is looked for: the cheapest; and where there are as many,
by more of them once more, since what is chosen for that order may be better."""
AT_HAND = 12
"""The same for a first answer, which is to be there at once: others are not looked at."""
CHOICES = 3
"""How often paths are chosen, each time for an order that the last choice led to."""
MOST_OF_ONE = 120
"""Ways through a station like no other that are left to choose from."""


def find_ways(
    works: list[Work], machine: Machine, effort: int, orders: Sequence[RunOrder] = ()
) -> None:
    """Find the ways through every bundle of one kind of stage, in whatever pass, with at most two paths
    for a kind of station. *orders* are those a person asked for."""
    cut = machine.cut_seconds / 60
    laying = Laying(machine.rates.ruler_move / 60, machine.rates.reach)
    _let_go(works)
    places = [(work, k) for work in works for k in range(len(work.bundles))]
    bundles = [work.bundles[k] for work, k in places]
    for work in works:
        work.classes, work.ways = [0] * len(work.bundles), [[] for _ in work.bundles]
    made: list[PathClass] = []
    for number, members in enumerate(sorted_alike(bundles)):
        grounds = [places[place][0].grounds[places[place][1]] for place, _ in members]
        if effort and len(members) == 1:
            # Who has no sisters that must do as it does may go beyond its own seams.
            grounds = [places[members[0][0]][0].ground]
        found = find_paths(
            [bundles[place] for place, _ in members], [how for _, how in members], grounds, cut, effort,
            wished_order([(bundles[place], how) for place, how in members], orders), laying,
        )  # fmt: skip
        for (place, _), options in zip(members, found.options, strict=True):
            work, k = places[place]
            work.classes[k], work.ways[k] = number, options
        made.append(found)
    if any(not each.single and len({o.path for options in each.options for o in options}) > 1
           for each in made):  # fmt: skip
        _keep_few(works, made, machine, effort)


def _let_go(works: list[Work]) -> None:
    """The ditches of clusters that are like no other are walked with the seams of their pass: there
    is nothing to be learned once and done again, and a walk over all of them turns less."""
    places = [(work, k) for work in works for k, one in enumerate(work.bundles)
              if one.station.cluster and not one.trails]  # fmt: skip
    bundles = [work.bundles[k] for work, k in places]
    gone: dict[int, set[int]] = defaultdict(set)
    for members in sorted_alike(bundles):
        if len(members) > 1:
            continue
        work, k = places[members[0][0]]
        work.seams += work.bundles[k].links
        gone[id(work)].add(k)
    for work in works:
        out = gone[id(work)]
        work.bundles = [one for k, one in enumerate(work.bundles) if k not in out]
        work.grounds = [one for k, one in enumerate(work.grounds) if k not in out]


def _keep_few(works: list[Work], classes: list[PathClass], machine: Machine, effort: int) -> None:
    """Of the paths found for each class keep the one by which an order of the stations loses least, and a
    second one where it saves more than the reading of it. Who is like no other may go by any of a few that
    suit the order."""
    choice = _Choice(works, classes, machine, effort)
    last = max((way.path for ways in choice.every for some in ways for way in some), default=0)
    few, more = MOST_AT_FIRST
    firsts = [few, more] if last >= more else [few]
    _, kept, orders = min((choice.made(first) for first in firsts), key=lambda made: made[0])
    choice.leave(kept, orders)


MOST_DOORS = 300
"""Doors of a stage up to which the prices between all of them are kept: more take too much room."""


class _Choice:
    """Paths to choose for the classes of *works*."""

    def __init__(
        self, works: list[Work], classes: list[PathClass], machine: Machine, effort: int
    ) -> None:
        self.cut, self.find = machine.cut_seconds / 60, machine.rates.find_place / 60
        self.reading = (machine.rates.read_path - machine.rates.place_path) / 60
        self.effort, self.tried = effort, TRIED if effort else AT_FIRST
        self.works = [work for work in works if work.bundles]
        if not effort:
            for work in self.works:
                work.ways = [[way for way in some if way.path < AT_HAND] for some in work.ways]
        self.every = [work.ways for work in self.works]
        self.stages = [_stations(work, self.cut) for work in self.works]
        self.single = {k for k, each in enumerate(classes) if each.single}

    def made(self, first: int) -> tuple[float, dict[int, Paths], list[Ordered]]:
        """What is chosen for an order by the so many cheapest paths of each kind, then for an order by those
        chosen, and again, as long as it is better: its price, the paths and the orders."""
        kept: dict[int, Paths] = {}
        best: tuple[float, dict[int, Paths], list[Ordered]] | None = None
        for turn in range(CHOICES + 1):
            price, orders = self._ordered(kept, first)
            if best is not None and price >= best[0]:
                break
            if turn:
                best = price, kept, orders
            again, kept = kept, few_paths(orders, self.single, self.reading, self.tried)
            if not self.effort:
                # A first answer goes by the first order.
                best = price, kept, orders
            if best is not None and (again == kept or not self.effort):
                break
        assert best is not None
        return best

    def _ordered(self, kept: dict[int, Paths], first: int) -> tuple[float, list[Ordered]]:
        """An order of the stations of each stage by the paths that are *kept*, or so many *first* ones."""
        price, at = self.reading * sum(map(len, kept.values())), None
        orders: list[Ordered] = []
        for work, ways, stations in zip(self.works, self.every, self.stages, strict=True):
            # Hundreds of ways through each would take long to search.
            work.ways = [
                [way for way in some if way.path in kept.get(number, range(first))]
                for some, number in zip(ways, work.classes, strict=True)
            ]
            rounds = rounds_for(len(work.bundles), self.effort) // 2
            tour = toured(work, at, self.cut, rounds, find=self.find)
            at, places = tour[-1][1].leave, [k for k, _ in tour]
            orders.append(Ordered(stations, places))
            apart = work.apart()[places[:-1], places[1:]]
            price += orders[-1].price(kept) + self.find * int(apart.sum())
        return price, orders

    def leave(self, kept: dict[int, Paths], orders: list[Ordered]) -> None:
        """Leave the ways that follow what is *kept*, of stations without sisters those that suit their
        order."""
        for work, ways, order in zip(self.works, self.every, orders, strict=True):
            suiting = order.suiting(kept, MOST_OF_ONE)
            work.ways = [[some[k] for k in suiting[place]] for place, some in enumerate(ways)]
            work.prices.forget(MOST_DOORS)


def _stations(work: Work, cut: float) -> Stations:
    doors = sorted({node for ways in work.ways for way in ways for node in (way.entry, way.leave)})
    place = dict(zip(doors, work.prices.places(doors, cut).tolist(), strict=True))
    # Whatever else is asked of the ground is asked of few of its nodes.
    work.ground.forget()
    items = [
        Item(
            np.array([place[way.entry] for way in ways]),
            np.array([place[way.leave] for way in ways]),
            np.array([way.price for way in ways]),
        )
        for ways in work.ways
    ]
    paths = [np.array([way.path for way in ways]) for ways in work.ways]
    return Stations(work.classes, items, paths, work.prices.table)


def rounds_for(count: int, effort: int) -> int:
    """Rounds of search for the order of *count* things."""
    return min(MOST_ROUNDS, ROUNDS + ROUNDS * count // 5) * effort


def toured(
    work: Work, at: int | None, cut: float, rounds: int, leaving: Pricing | None = None,
    find: float = 0.0, starts: int = 1,
) -> list[tuple[int, Option]]:  # fmt: skip
    """The bundles of a stage in the order they are gone through, each by one of its ways; the search begins
    so many times."""
    options = [[(way.entry, way.leave, way.price) for way in ways] for ways in work.ways]
    looking = find * work.apart()

    def chosen() -> list[tuple[int, int]]:
        return order_of(
            work.prices, options, at, cut, rounds, leaving, work.after(), looking, starts
        )

    try:
        found = chosen()
    except ValueError:
        # Wishes that go in a circle are told with the route; it goes on without them.
        work.wished = []
        found = chosen()
    return [(k, work.ways[k][option]) for k, option in found]


def order_of(
    ground: Ground | KnownPrices, options: Sequence[Sequence[tuple[int, int, float]]],
    at: int | None, cut: float, rounds: int, leaving: Pricing | None = None,
    after: Sequence[frozenset[int]] | None = None, looking: np.ndarray | None = None, starts: int = 1,
) -> list[tuple[int, int]]:  # fmt: skip
    """Order things that have *options* (entry, exit, price) each: (number, option) in the order done.

    *at* is the node one comes from; *leaving* says what it costs to end at a node; *after*, for each thing,
    what must be done before it; *looking* (n, n) what it costs besides to come from one thing to another.
    """
    if not options:
        return []
    items, table, nodes = items_of(ground, options, cut, after, looking, at)
    start = None if at is None else len(nodes) - 1
    ends = None if leaving is None else np.array([leaving(node) for node in nodes.tolist()])
    tour = best_tour(items, table, start, ends, rounds, starts=starts)
    return list(zip(tour.order, tour.options, strict=True))


def items_of(
    ground: Ground | KnownPrices, options: Sequence[Sequence[tuple[int, int, float]]], cut: float,
    after: Sequence[frozenset[int]] | None = None, looking: np.ndarray | None = None,
    at: int | None = None,
) -> tuple[list[Item], np.ndarray, np.ndarray]:  # fmt: skip
    """Things to order as items of a tour, the prices between their doors, and the node of each; the last is
    *at*, if there is one. Where coming from one thing to another has its price, each has doors of its own."""
    own = [sorted({node for a, b, _ in pairs for node in (a, b)}) for pairs in options]
    nodes, back = np.unique([node for each in own for node in each], return_inverse=True)
    owner = np.repeat(np.arange(len(own)), [len(each) for each in own])
    more = None if looking is None or not looking.any() else looking[np.ix_(owner, owner)]
    if more is not None:
        nodes, back = nodes[back], np.arange(len(back))
    table = ground.prices(nodes, cut)
    if more is not None:
        table += more
    if at is not None:
        came = ground.prices([at], cut, nodes)
        table = np.block([[table, came.T], [came, np.zeros((1, 1))]])
        nodes = np.append(nodes, at)
    items = []
    first = 0
    for k, (pairs, mine) in enumerate(zip(options, own, strict=True)):
        place = dict(zip(mine, back[first:].tolist(), strict=False))
        first += len(mine)
        items.append(
            Item(
                np.array([place[a] for a, _, _ in pairs]),
                np.array([place[b] for _, b, _ in pairs]),
                np.array([price for _, _, price in pairs]),
                after[k] if after else frozenset(),
            )
        )
    return items, table, nodes
