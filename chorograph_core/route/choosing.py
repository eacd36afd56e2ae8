"""Which way through each bundle, and in which order: few paths for many stations."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence

import numpy as np

from chorograph_core.route.bundles import sorted_alike
from chorograph_core.route.ground import Ground
from chorograph_core.route.model import RunOrder
from chorograph_core.route.paths import Option, PathClass, find_paths
from chorograph_core.route.tours import Item, best_tour
from chorograph_core.route.wishes import wished_order
from chorograph_core.route.works import Work

ROUNDS = 60
"""Rounds of search for the order of a pass, and as many for every five things in it."""
MOST_ROUNDS = 600
PATHS_KEPT = 2
"""Paths that one kind of station is given at most: more are not remembered."""
FOR_TWO = 6
"""Stations of a kind from which on a second path may be worth its reading."""

Leaving = Callable[[int], float]


def find_ways(works: list[Work], cut: float, effort: int, orders: Sequence[RunOrder] = ()) -> None:
    """Find the ways through every bundle of one kind of stage, in whatever pass, with at most two
    paths for a kind of station. *orders* are those a person asked for."""
    _let_go(works)
    places = [(work, k) for work in works for k in range(len(work.bundles))]
    bundles = [work.bundles[k] for work, k in places]
    for work in works:
        work.classes, work.ways = [0] * len(work.bundles), [[] for _ in work.bundles]
    made: list[PathClass] = []
    for number, members in enumerate(sorted_alike(bundles)):
        found = find_paths(
            [bundles[place] for place, _ in members], [how for _, how in members],
            [places[place][0].grounds[places[place][1]] for place, _ in members], cut, effort,
            wished_order([(bundles[place], how) for place, how in members], orders),
        )  # fmt: skip
        for (place, _), options in zip(members, found.options, strict=True):
            work, k = places[place]
            work.classes[k], work.ways[k] = number, options
        made.append(found)
    if any(not each.single and len({o.path for options in each.options for o in options}) > 1
           for each in made):  # fmt: skip
        _keep_few(works, made, cut, effort)


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


def _keep_few(works: list[Work], classes: list[PathClass], cut: float, effort: int) -> None:
    """Of the paths found for each class keep those most used in a first order of the stations."""
    used: dict[tuple[int, int], int] = defaultdict(int)
    at: int | None = None
    for work in works:
        order = toured(work, at, cut, rounds_for(len(work.bundles), effort) // 6)
        for k, way in order:
            used[work.classes[k], way.path] += 1
        at = order[-1][1].leave if order else at
    for work in works:
        for k, number in enumerate(work.classes):
            if classes[number].single:
                continue
            ranked = sorted({way.path for way in work.ways[k]},
                            key=lambda path: (-used[number, path], path))  # fmt: skip
            many = sum(count for (kind, _), count in used.items() if kind == number)
            kept = set(ranked[: PATHS_KEPT if many >= FOR_TWO else 1])
            work.ways[k] = [way for way in work.ways[k] if way.path in kept]


def rounds_for(count: int, effort: int) -> int:
    """Rounds of search for the order of *count* things."""
    return min(MOST_ROUNDS, ROUNDS + ROUNDS * count // 5) * effort


def toured(
    work: Work, at: int | None, cut: float, rounds: int, leaving: Leaving | None = None
) -> list[tuple[int, Option]]:
    """The bundles of a stage in the order they are gone through, each by one of its ways."""
    options = [[(way.entry, way.leave, way.price) for way in ways] for ways in work.ways]
    try:
        chosen = order_of(work.ground, options, at, cut, rounds, leaving, work.after())
    except ValueError:
        # Wishes that go in a circle are told with the route; it goes on without them.
        work.wished = []
        chosen = order_of(work.ground, options, at, cut, rounds, leaving, work.after())
    return [(k, work.ways[k][option]) for k, option in chosen]


def order_of(
    ground: Ground, options: Sequence[Sequence[tuple[int, int, float]]], at: int | None, cut: float,
    rounds: int, leaving: Leaving | None = None, after: Sequence[frozenset[int]] | None = None,
) -> list[tuple[int, int]]:  # fmt: skip
    """Order things that have *options* (entry, exit, price) each: (number, option) in the order done.

    *at* is the node one comes from; *leaving* says what it costs to end at a node; *after*, for each thing,
    what must be done before it.
    """
    if not options:
        return []
    nodes = sorted({node for pairs in options for a, b, _ in pairs for node in (a, b)}
                   | ({at} if at is not None else set()))  # fmt: skip
    place = {node: k for k, node in enumerate(nodes)}
    items = [
        Item(
            np.array([place[a] for a, _, _ in pairs]),
            np.array([place[b] for _, b, _ in pairs]),
            np.array([price for _, _, price in pairs]),
            after[k] if after else frozenset(),
        )
        for k, pairs in enumerate(options)
    ]
    table = ground.prices(nodes, cut)
    ends = None if leaving is None else np.array([leaving(node) for node in nodes])
    tour = best_tour(items, table, None if at is None else place[at], ends, rounds)
    return list(zip(tour.order, tour.options, strict=True))
