"""What is to be done inside a place, as things to put in order: its runs, and the walks over its ditches."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

import numpy as np

from chorograph_core.route.bundles import Bundle, Likeness
from chorograph_core.route.ditch_paths import NEVER, NO_LAYING, Laying, again, walk_options, walked
from chorograph_core.route.ground import Ground
from chorograph_core.route.moves import CutMove, LinkMove, Move, RunMove, Way, backwards
from chorograph_core.route.network import Network
from chorograph_core.route.tours import THOROUGH, Item, Tour, best_tour, tour_in_order
from chorograph_core.route.walks import Walk, straight_walks


class Inside:
    """The runs and inner walks of a bundle as items of a tour."""

    def __init__(
        self, network: Network, bundle: Bundle, ground: Ground, cut: float,
        laying: Laying = NO_LAYING, over: bool = False,
    ) -> None:  # fmt: skip
        self.network, self.ground, self.cut, self.bundle = network, ground, cut, bundle
        self.laying = laying
        self.walks: list[Walk] = []
        if bundle.links:
            self.walks = straight_walks(ground, bundle.links, cut, laying=laying.price, over=over)
        self.again = sum(again(network, walk, bundle.links) for walk in self.walks)
        self.trails = list(bundle.trails)
        options: list[list[tuple[int, int]]] = []
        self.shifts: list[list[tuple[int, bool]]] = []
        for walk in self.walks:
            doors, how = walk_options(network, walk)
            options.append(doors)
            self.shifts.append(how)
        laid = [self._laid(walk, how) for walk, how in zip(self.walks, self.shifts, strict=True)]
        self.laid = sum(float(each.min()) for each in laid)
        prices = [each - each.min() for each in laid]
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
                prices[k] if k < len(prices) else np.zeros(len(pairs)),
                after[k],
            )
            for k, pairs in enumerate(options)
        ]
        self.options = options

    def _laid(self, walk: Walk, ways: Sequence[tuple[int, bool]]) -> np.ndarray:
        """What layings cost, by each of the *ways* in which a walk is gone."""
        if not self.laying.price:
            return np.zeros(len(ways))
        return np.array([self.laying.along(self.network, self.bundle.links,
                                           walked(self.network, walk, how)) for how in ways])  # fmt: skip

    def _along(self, moves: Sequence[Move]) -> float:
        """What layings along the ditches cost in all: what is come by on the way is stitched then."""
        if not self.walks or not self.laying.price:
            return 0.0
        ways = (move.links for move in moves if isinstance(move, LinkMove))
        return self.laying.along(self.network, self.bundle.links, *ways)

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

    def between(
        self, start: int, stop: int, rounds: int, order: Sequence[int] | None = None
    ) -> Tour:
        """The best tour that begins and ends just there; searched from this *order* on, if there is one."""
        size = len(self.table)
        table = np.full((size + 1, size + 1), NEVER)
        table[:size, :size] = self.table
        table[size, start] = 0.0
        leaving = np.full(size + 1, NEVER)
        leaving[stop] = 0.0
        first = None if order is None else tour_in_order(self.items, table, order, size, leaving)
        return best_tour(self.items, table, size, leaving, max(rounds, THOROUGH), first=first)

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
        made = tuple(moves)
        laid, back = self._along(made), self._along(backwards(self.network, made))
        return Way(path, entry, at if at is not None else -1,
                   float(price + self.again + laid - self.laid), lambda: made, back - laid)  # fmt: skip


def _corners(bundle: Bundle, ground: Ground) -> list[int]:
    """Nodes of the ground nearest to the corners of a station."""
    box = bundle.station.shape.minimum_rotated_rectangle
    if box.geom_type != "Polygon" or not len(ground.nodes):
        return []
    spots = bundle.network.spots[ground.nodes]
    corners = np.asarray(box.exterior.coords)[:4]
    near = np.hypot(*(corners[:, None] - spots[None]).transpose(2, 0, 1)).argmin(axis=1)
    return list(dict.fromkeys(int(ground.nodes[k]) for k in near))


def corner_pairs(work: Inside, turns: Sequence[Likeness]) -> Iterator[tuple[int, int]]:
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
