"""Paths: how the work of a station is gone through, found once for all stations that are alike.

For each class of alike bundles a handful of paths is looked for: the best with free ends, and the best
from corner to corner. Each lies in a station in as many ways as the station can be turned and mirrored
on itself, and can be gone backwards where its runs can.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, partial

import numpy as np

from chorograph_core.route.bundles import Bundle, Likeness
from chorograph_core.route.ditch_paths import NEVER, again, walk_options, walked, walks_by_ends
from chorograph_core.route.ground import Ground
from chorograph_core.route.moves import CutMove, LinkMove, Move, RunMove, backwards, laid_on
from chorograph_core.route.network import Network
from chorograph_core.route.places import useful_pairs
from chorograph_core.route.subsets import few, through_all
from chorograph_core.route.tours import THOROUGH, Item, Tour, best_tour, tour_in_order
from chorograph_core.route.walks import Walk, straight_walks

ROUNDS = 40
"""Rounds of search for a path, and as many for every thing it goes through."""
MOST_ROUNDS = 900
QUICKER = 8
"""How many times fewer for a first answer."""
MOST_PATHS = 5
NEARLY = 0.02
"""Minutes by which a way through a place must be better than others to be one of its own."""
MOST_PATHS_BY_DOORS = 32


@dataclass(frozen=True)
class Way:
    """A way through the first bundle of a class, from node *entry* to node *leave*, and the *price* of
    the travel and cuts in it. *path* is its number within the class; what is done on it is found when it
    is asked for."""

    path: int
    entry: int
    leave: int
    price: float
    find: Callable[[], tuple[Move, ...]] = field(compare=False)

    @cached_property
    def moves(self) -> tuple[Move, ...]:
        return self.find()


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
        return self.way.price

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
    cut: float, effort: int, order: Sequence[int] | None = None, laying: float = 0.0,
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
    return bool(np.allclose(likeness.turn, np.eye(2)))


def _node_on(likeness: Likeness, node: int, same: Likeness | None) -> int | None:
    return node if same is None else likeness.nodes.get(node)


def path_rounds(count: int, effort: int) -> int:
    """Rounds of search for a path through *count* things: a place that cannot be kept in mind anyway is
    not worth more of them."""
    rounds = min(MOST_ROUNDS, ROUNDS + 20 * count)
    return rounds * effort if effort else rounds // QUICKER


def path_in_order(bundle: Bundle, ground: Ground, cut: float, order: Sequence[int]) -> Way:
    """The best way through a bundle without inner ditches that does its runs in this *order*."""
    work = _Things(bundle.network, bundle, ground, cut)
    places = [work.trails.index(number) for number in order]
    return work.way(tour_in_order(work.items, work.table, places), 0)


def best_path(bundle: Bundle, ground: Ground, cut: float, effort: int) -> Way:
    """The best way through a bundle, wherever it begins and ends."""
    work = _Things(bundle.network, bundle, ground, cut)
    rounds = path_rounds(len(work.items), effort)
    return work.way(work.tour(None, None, rounds, None), 0)


def _paths(
    network, bundle: Bundle, ground: Ground, turns: list[Likeness], cut, effort, laying
) -> list[Way]:
    """From door to door where little is to be done; else the best way with free ends, then those from
    corner to corner that are not the same."""
    # A first answer does not ask for straighter ways.
    laying = laying if effort else 0.0
    if (
        bundle.links
        and not bundle.trails
        and (walks := walks_by_ends(bundle, ground, turns, cut, laying))
    ):
        return [
            Way(k, walk.start, walk.stop, price, partial(_walk_moves, walk))
            for k, (price, walk) in enumerate(walks)
        ]
    works = [_Things(network, bundle, ground, cut, laying)]
    if len(works[0].walks) > 1:
        over = _Things(network, bundle, ground, cut, laying, over=True)
        works += [over] if len(over.walks) < len(works[0].walks) else []
    found = [way for work in works for way in _through(work, turns, effort)]
    return [replace(way, path=number) for number, way in enumerate(found)]


def _through(work: _Things, turns: list[Likeness], effort: int) -> list[Way]:
    """Ways through all *work* of a place: from door to door, or from wherever it is best and from corner to
    corner."""
    closed = all(walk.closed for walk in work.walks)
    if effort and closed and few(len(work.items), sum(map(len, work.options))):
        return list(_by_doors(work, turns, path_rounds(len(work.items), effort)))
    rounds = path_rounds(len(work.items), effort)
    free = work.tour(None, None, rounds, None)
    found = {}
    way = work.way(free, 0)
    found[way.entry, way.leave] = way
    for a, b in _corner_pairs(work, turns):
        tour = work.tour(a, b, rounds // 4 if effort else 0, free)
        way = work.way(tour, len(found))
        same = {(way.entry, way.leave), (way.leave, way.entry)} & set(found)
        if not same:
            found[way.entry, way.leave] = way
        if len(found) >= MOST_PATHS:
            break
    return list(found.values())


def _walk_moves(walk: Walk) -> tuple[Move, ...]:
    return (LinkMove(walk.links),)


def _by_doors(work: _Things, turns: list[Likeness], rounds: int) -> Iterator[Way]:
    """From door to door, each pair of doors that is not nearly as good as another; of those that fall on each
    other one."""
    ways = [
        list(zip(item.entries.tolist(), item.exits.tolist(), strict=True)) for item in work.items
    ]
    needs = [sum(1 << k for k in item.after) for item in work.items]
    prices = through_all(ways, work.table, needs)
    seen: set[frozenset] = set()
    number = 0
    for a, b in useful_pairs(prices, work.table, NEARLY):
        one, two = work.nodes[a], work.nodes[b]
        if frozenset((one, two)) in seen:
            continue
        seen.add(frozenset((one, two)))
        seen.update(frozenset((turn.nodes.get(one), turn.nodes.get(two))) for turn in turns)

        def find(a: int = a, b: int = b) -> tuple[Move, ...]:
            return work.way(work.between(a, b, rounds), 0).moves

        yield Way(number, one, two, float(prices[a, b]) + work.again, find)
        number += 1
        if number >= MOST_PATHS_BY_DOORS:
            return


class _Things:
    """The runs and inner walks of a bundle as items of a tour."""

    def __init__(
        self, network: Network, bundle: Bundle, ground: Ground, cut: float, laying: float = 0.0,
        over: bool = False,
    ) -> None:  # fmt: skip
        self.network, self.ground, self.cut, self.bundle = network, ground, cut, bundle
        self.walks: list[Walk] = []
        if bundle.links:
            self.walks = straight_walks(ground, bundle.links, cut, laying=laying, over=over)
        self.again = sum(again(network, walk, bundle.links) for walk in self.walks)
        self.trails = list(bundle.trails)
        options: list[list[tuple[int, int]]] = []
        self.shifts: list[list[tuple[int, bool]]] = []
        for walk in self.walks:
            doors, how = walk_options(network, walk)
            options.append(doors)
            self.shifts.append(how)
        for number in self.trails:
            options.append(network.trails[number].options())
        corners = _corners(bundle, ground)
        self.nodes = sorted({n for pairs in options for pair in pairs for n in pair} | set(corners))
        self.place = {node: k for k, node in enumerate(self.nodes)}
        self.corners = [self.place[node] for node in corners]
        self.table = ground.prices(self.nodes, cut)
        after = self._after()
        self.items = [
            Item(
                np.array([self.place[a] for a, _ in pairs]),
                np.array([self.place[b] for _, b in pairs]),
                np.zeros(len(pairs)),
                after[k],
            )
            for k, pairs in enumerate(options)
        ]
        self.options = options

    def _after(self) -> list[frozenset[int]]:
        """Ditches before fillings, outer layers of a zone before its inner ones."""
        walks = frozenset(range(len(self.walks)))
        after: list[frozenset[int]] = [frozenset()] * len(self.walks)
        for number in self.trails:
            trail = self.network.trails[number]
            outer = {
                len(self.walks) + k
                for k, other in enumerate(self.trails)
                if self.network.trails[other].zone == trail.zone
                and self.network.trails[other].layer < trail.layer
            }
            after.append(walks | outer)
        return after

    def tour(self, start: int | None, stop: int | None, rounds: int, first: Tour | None) -> Tour:
        leaving = None if stop is None else self.table[:, stop]
        return best_tour(self.items, self.table, start, leaving, rounds, first=first)

    def between(self, start: int, stop: int, rounds: int) -> Tour:
        """The best tour that begins and ends just there."""
        size = len(self.table)
        table = np.full((size + 1, size + 1), NEVER)
        table[:size, :size] = self.table
        table[size, start] = 0.0
        leaving = np.full(size + 1, NEVER)
        leaving[stop] = 0.0
        return best_tour(self.items, table, size, leaving, max(rounds, THOROUGH))

    def way(self, tour: Tour, path: int) -> Way:
        moves: list[Move] = []
        price, at, entry = 0.0, None, -1
        for item, option in zip(tour.order, tour.options, strict=True):
            a, b = self.options[item][option]
            if at is None:
                entry = a
            elif at != a:
                cost = self.table[self.place[at], self.place[a]]
                price += cost
                links = self.ground.way(at, a) if cost < self.cut else None
                moves.append(CutMove() if links is None else LinkMove(tuple(links)))
            if item < len(self.walks):
                moves.append(LinkMove(walked(self.network, self.walks[item],
                                             self.shifts[item][option])))  # fmt: skip
            else:
                moves.append(RunMove(self.trails[item - len(self.walks)], a, b))
            at = b
        price += self.again
        made = tuple(moves)
        return Way(path, entry, at if at is not None else -1, float(price), lambda: made)


def _corners(bundle: Bundle, ground: Ground) -> list[int]:
    """Nodes of the ground nearest to the corners of a station."""
    box = bundle.station.shape.minimum_rotated_rectangle
    if box.geom_type != "Polygon" or not len(ground.nodes):
        return []
    spots = bundle.network.spots[ground.nodes]
    corners = np.asarray(box.exterior.coords)[:4]
    near = np.hypot(*(corners[:, None] - spots[None]).transpose(2, 0, 1)).argmin(axis=1)
    return list(dict.fromkeys(int(ground.nodes[k]) for k in near))


def _corner_pairs(work: _Things, turns: list[Likeness]):
    """Pairs of corners to go between, of those that fall on each other only one."""
    spots = work.network.spots[work.nodes]
    corners = work.corners
    if not corners:
        return
    middle = spots[corners].mean(axis=0)
    seen: set[frozenset[int]] = set()
    pairs = [*itertools.combinations(corners, 2), *((a, a) for a in corners)]
    for a, b in pairs:
        if frozenset((a, b)) in seen:
            continue
        for likeness in turns:
            moved = (spots[[a, b]] - middle) @ likeness.turn.T + middle
            near = np.hypot(*(moved[:, None] - spots[corners][None]).transpose(2, 0, 1))
            seen.add(frozenset(corners[k] for k in near.argmin(axis=1).tolist()))
        seen.add(frozenset((a, b)))
        yield a, b
