"""Paths: how the work of a station is gone through, found once for all stations that are alike.

For each class of alike bundles the best path is looked for from each door to each other that is worth
telling from another: over all orders where there are few things to do, else in the order of good paths with
free ends and from corner to corner, begun with any of the things. Each lies in a station in as many ways as
the station can be turned and mirrored on itself, and can be gone backwards where its runs can.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np

from chorograph_core.route.bundles import Bundle, Likeness
from chorograph_core.route.ditch_paths import (
    NO_LAYING,
    Laying,
    walks_by_ends,
)
from chorograph_core.route.ground import Ground
from chorograph_core.route.in_order import through_in_order
from chorograph_core.route.inside import Inside, corner_pairs
from chorograph_core.route.moves import LinkMove, Move, RunMove, Way, backwards, laid_on
from chorograph_core.route.places import useful_pairs
from chorograph_core.route.subsets import few, through_all
from chorograph_core.route.tours import Tour, tour_in_order
from chorograph_core.route.walks import Walk

ROUNDS = 40
"""Rounds of search for a path, and as many for every thing it goes through."""
MOST_ROUNDS = 900
QUICKER = 8
"""How many times fewer for a first answer."""
MOST_PATHS = 5
NEARLY = 0.02
"""Minutes by which a way through a place must be better than others to be one of its own."""
MOST_PATHS_BY_DOORS, MOST_WITH_DITCHES = 400, 60
"""Paths from door to door that are looked at; and where there are ditches, so that each is gone through to
see what it costs backwards."""


@dataclass(frozen=True)
class Option:
    """A way as it may be gone through a bundle: laid on it by *likeness*, *backwards* or not."""

    way: Way
    entry: int
    leave: int
    first: Bundle
    bundle: Bundle
    ground: Ground
    likeness: Likeness | None = None
    backwards: bool = False

    @property
    def path(self) -> int:
        return self.way.path

    @property
    def price(self) -> float:
        return self.way.price + (self.way.more if self.backwards else 0.0)

    def laid(self) -> tuple[list[Move], bool]:
        """What is done, in the nodes, runs and links of its own bundle, and whether the ways between
        run as they do in the first one: where the seams round it are others, they cannot."""
        moves, same = list(self.way.moves), True
        if self.likeness is not None:
            moves, same = laid_on(moves, self.likeness, self.first, self.bundle, self.ground)
        return (backwards(self.bundle.network, moves) if self.backwards else moves), same


@dataclass
class PathClass:
    """Alike bundles with the ways found for them: *options* by place of the bundle in its class."""

    options: list[list[Option]] = field(default_factory=list)
    single: bool = False


def find_paths(
    bundles: Sequence[Bundle], lies: Sequence[list[Likeness]], grounds: Sequence[Ground],
    cut: float, effort: int, order: Sequence[int] | None = None, laying: Laying = NO_LAYING,
) -> PathClass:  # fmt: skip
    """Paths for a class of alike *bundles*; *lies* says how the first lies on each, *grounds* where one
    may go in each station. *order* is the one in which the runs of the first one are wanted, *laying* what a
    laying of the ruler costs."""
    first, ground = bundles[0], grounds[0]
    network = first.network
    made = PathClass()
    if len(first.trails) == 1 and not first.links:
        made.single = True
        for bundle, on in zip(bundles, grounds, strict=True):
            number = bundle.trails[0]
            made.options.append(
                [
                    Option(_run_way(number, a, b), a, b, bundle, bundle, on)
                    for a, b in network.trails[number].options()
                ]
            )
        return made
    if order is None:
        # The same bundle, gone through in the same pass at the same price, has the same ways.
        key = (first.trails, first.links, ground.links.tobytes(), cut, effort, laying)
        if key not in network.ways:
            network.ways[key] = _paths(network, first, ground, lies[0], cut, effort, laying)
        found = network.ways[key]
    else:
        found = [path_in_order(first, ground, cut, order)]
    # Where something comes after something else, backwards it would come before.
    either = len({(trail.zone, trail.layer) for trail in map(first.trail, first.trails)}) == len(
        {trail.zone for trail in map(first.trail, first.trails)}
    )
    either = either and all(
        (b, a) in options
        for options in (first.trail(n).options() for n in first.trails)
        for a, b in options
    )
    for bundle, on, how in zip(bundles, grounds, lies, strict=True):
        options: dict[tuple, Option] = {}
        for way in found:
            for likeness in how:
                same = likeness if bundle is not first or not _still(likeness) else None
                a, b = (_node_on(likeness, node, same) for node in (way.entry, way.leave))
                if a is None or b is None:
                    continue
                if (way.path, a, b) not in options:
                    options[way.path, a, b] = Option(way, a, b, first, bundle, on, same)
                if either and (way.path, b, a) not in options:
                    options[way.path, b, a] = Option(way, b, a, first, bundle, on, same, True)
        made.options.append(list(options.values()))
    return made


def _run_way(number: int, entry: int, leave: int) -> Way:
    return Way(0, entry, leave, 0.0, lambda: (RunMove(number, entry, leave),))


def _still(likeness: Likeness) -> bool:
    return np.array_equal(likeness.turn, np.eye(2))


def _node_on(likeness: Likeness, node: int, same: Likeness | None) -> int | None:
    return node if same is None else likeness.nodes.get(node)


def path_rounds(count: int, effort: int) -> int:
    """Rounds of search for a path through *count* things: a place that cannot be kept in mind anyway is
    not worth more of them."""
    rounds = min(MOST_ROUNDS, ROUNDS + 20 * count)
    return rounds * effort if effort else rounds // QUICKER


def path_in_order(bundle: Bundle, ground: Ground, cut: float, order: Sequence[int]) -> Way:
    """The best way through a bundle without inner ditches that does its runs in this *order*."""
    work = Inside(bundle.network, bundle, ground, cut)
    places = [work.trails.index(number) for number in order]
    return work.way(tour_in_order(work.items, work.table, places), 0)


def best_path(bundle: Bundle, ground: Ground, cut: float, effort: int) -> Way:
    """The best way through a bundle, wherever it begins and ends."""
    work = Inside(bundle.network, bundle, ground, cut)
    rounds = path_rounds(len(work.items), effort)
    return work.way(work.tour(None, None, rounds, None), 0)


def _paths(
    network, bundle: Bundle, ground: Ground, turns: list[Likeness], cut, effort, laying
) -> list[Way]:
    """From door to door where little is to be done; else the best way with free ends, then those from
    corner to corner that are not the same."""
    # A first answer does not ask for straighter ways.
    laying = laying if effort else NO_LAYING
    if (
        bundle.links
        and not bundle.trails
        and (walks := walks_by_ends(bundle, ground, turns, cut, laying))
    ):
        return [
            Way(k, walk.start, walk.stop, price, partial(_walk_moves, walk), back - price)
            for k, (price, back, walk) in enumerate(walks)
        ]
    works = [Inside(network, bundle, ground, cut, laying)]
    if len(works[0].walks) > 1:
        over = Inside(network, bundle, ground, cut, laying, over=True)
        works += [over] if len(over.walks) < len(works[0].walks) else []
    fewest = min(work.laid for work in works)
    found = [replace(way, price=way.price + work.laid - fewest)
             for work in works for way in _through(work, turns, effort)]  # fmt: skip
    found.sort(key=lambda way: way.price)
    return [replace(way, path=number) for number, way in enumerate(found)]


def _through(work: Inside, turns: list[Likeness], effort: int) -> list[Way]:
    """Ways through all *work* of a place: from door to door, or from wherever it is best and from corner to
    corner."""
    closed = all(walk.closed for walk in work.walks)
    if effort and closed and few(len(work.items), sum(map(len, work.options))):
        return list(_by_doors(work, turns, path_rounds(len(work.items), effort)))
    rounds = path_rounds(len(work.items), effort)
    free = work.tour(None, None, rounds, None)
    found: dict[tuple[int, int], Way] = {}
    tours = [free]
    way = work.way(free, 0)
    found[way.entry, way.leave] = way
    for a, b in corner_pairs(work, turns):
        tour = work.tour(a, b, rounds // 4 if effort else 0, free)
        way = work.way(tour, len(found))
        tours.append(tour)
        same = {(way.entry, way.leave), (way.leave, way.entry)} & set(found)
        if not same:
            found[way.entry, way.leave] = way
        if len(found) >= MOST_PATHS:
            break
    if effort:
        for way in _by_turns(work, turns, tours, rounds):
            ends = [(way.entry, way.leave), (way.leave, way.entry)]
            known = next((found[each] for each in ends if each in found), None)
            if known is None or way.price < known.price - NEARLY:
                found = {each: one for each, one in found.items() if each not in ends}
                found[ends[0]] = way
    return sorted(found.values(), key=lambda each: each.price)


def _by_turns(
    work: Inside, turns: list[Likeness], tours: Sequence[Tour], rounds: int
) -> Iterator[Way]:
    """From door to door, by things done in the order of one of *tours* but begun with any of them."""
    prices = np.full(work.table.shape, np.inf)
    orders: dict[tuple[int, int], tuple[int, ...]] = {}
    for order in dict.fromkeys(tour.order for tour in tours):
        found, first = through_in_order(work.items, work.table, order)
        for a, b in np.argwhere(found < prices).tolist():
            orders[a, b] = (*order[first[a, b] :], *order[: first[a, b]])
        prices = np.minimum(prices, found)

    def way(a: int, b: int) -> Way:
        return work.way(work.between(a, b, rounds // 4, orders[a, b]), 0)

    yield from _between_doors(work, turns, prices, way)


def _walk_moves(walk: Walk) -> tuple[Move, ...]:
    return (LinkMove(walk.links),)


def _by_doors(work: Inside, turns: list[Likeness], rounds: int) -> Iterator[Way]:
    """From door to door, each pair of doors that is not nearly as good as another; of those that fall on each
    other one."""
    ways = [
        list(zip(item.entries.tolist(), item.exits.tolist(), strict=True)) for item in work.items
    ]
    needs = [sum(1 << k for k in item.after) for item in work.items]
    prices = through_all(ways, work.table, needs, [item.prices for item in work.items])

    def way(a: int, b: int) -> Way:
        return work.way(work.between(a, b, rounds), 0)

    yield from _between_doors(work, turns, prices, way)


def _between_doors(
    work: Inside, turns: list[Likeness], prices: np.ndarray, through: Callable[[int, int], Way]
) -> Iterator[Way]:
    """Ways at *prices* (n, n), found by going *through* between each pair of doors that is not nearly as good
    as another; of pairs that fall on each other one."""
    seen: set[frozenset] = set()
    number = 0
    most = MOST_WITH_DITCHES if work.walks else MOST_PATHS_BY_DOORS
    for a, b in useful_pairs(prices, work.table, NEARLY):
        one, two = work.nodes[a], work.nodes[b]
        if frozenset((one, two)) in seen:
            continue
        seen.add(frozenset((one, two)))
        seen.update(frozenset((turn.nodes.get(one), turn.nodes.get(two))) for turn in turns)
        if work.walks:
            yield replace(through(a, b), path=number)
        else:
            yield Way(number, one, two, float(prices[a, b]), partial(_found, through, a, b))
        number += 1
        if number >= most:
            return


def _found(through: Callable[[int, int], Way], a: int, b: int) -> tuple[Move, ...]:
    return through(a, b).moves
