"""Paths over the ditches inside a place: from which end to which other, and what they lose."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.route.bundles import Bundle, Likeness
from chorograph_core.route.ground import Ground
from chorograph_core.route.network import Network
from chorograph_core.route.walks import (
    Walk,
    doors_of_walk,
    islands_of,
    odd_nodes,
    straight_walks,
)
from chorograph_core.rulers import Reach, count_placements

MOST_ENDS = 12
"""Odd ends of the ditches of a place up to which every pair of them is a beginning and an end."""
MOST_ISLANDS = 4
"""Parts of the ditches of a place that do not hang together, up to which that is tried."""
MOST_STRAIGHTER = 6
"""Pairs of ends between which other ways over the ditches are tried, so that more lines stay whole."""
NEVER = 1000.0
"""Minutes that stand for what is not to be."""


@dataclass(frozen=True)
class Laying:
    """What a laying of the ruler costs, in minutes, and how far one goes."""

    price: float
    reach: Reach

    def along(
        self, network: Network, asked: Sequence[int], *ways: Sequence[tuple[int, int]]
    ) -> float:
        """Minutes for what is laid along *ways* over links, as (link, node it is entered from), one after the
        other; those links that are *asked* for are stitched when they first come."""
        left, count = set(asked), 0
        for way in ways:
            for fresh, some in itertools.groupby(way, lambda each: _taken(left, each[0])):
                if fresh:
                    lines = [network.links[number].way(start) for number, start in some]
                    line = np.concatenate([lines[0], *(each[1:] for each in lines[1:])])
                    count += count_placements(line, self.reach)
        return self.price * count


def _taken(left: set[int], number: int) -> bool:
    """Whether a link was still *left*, which it is no more."""
    there = number in left
    left.discard(number)
    return there


NO_LAYING = Laying(0.0, Reach(1.0))
"""Where it is not asked how straight a way is."""


def walks_by_ends(
    bundle: Bundle, ground: Ground, turns: Sequence[Likeness], cut: float, laying: Laying
) -> list[tuple[float, float, Walk]]:
    """Over ditches from each odd end to each other one, those by which the place is come to first, with the
    price of what is travelled and of layings of the ruler beyond the fewest, and that price backwards, the
    cheapest first; of those that fall on each other by *turns* one. None where one walk does not go over all
    of them."""
    network = bundle.network
    odd = odd_nodes(network, bundle.links)
    if len(odd) > MOST_ENDS:
        free = straight_walks(ground, bundle.links, cut)
        best = {free[0].start, free[0].stop} if len(free) == 1 else set()
        odd = sorted({*_nearest_out(bundle, odd), *best})
    if len(odd) < 2 or len(islands_of(network, bundle.links)) > MOST_ISLANDS:
        return []
    found: list[tuple[float, float, int, int, Walk]] = []
    seen: set[frozenset] = set()

    def between(one: int, two: int, laying: float) -> Walk | None:
        walks = straight_walks(ground, bundle.links, cut, _only(one), _only(two), laying)
        return walks[0] if len(walks) == 1 else None

    def known(one: int, two: int, walk: Walk) -> tuple[float, float, int, int, Walk]:
        """A walk as it is cheaper: what is gone over twice is stitched the first time."""
        back = walk.reversed(network)
        first, second = (laid(each) for each in (walk, back))
        if second < first:
            walk, first, second = back, second, first
        travel = again(network, walk, bundle.links)
        return first + travel, second + travel, one, two, walk

    def laid(walk: Walk) -> float:
        return laying.along(network, bundle.links, walk.links) if laying.price else 0.0

    for one, two in itertools.combinations(odd, 2):
        if frozenset((one, two)) in seen:
            continue
        seen.update(frozenset((turn.nodes.get(one), turn.nodes.get(two))) for turn in turns)
        if (walk := between(one, two, 0.0)) is not None:
            found.append(known(one, two, walk))
    found.sort(key=lambda each: each[:4])
    # Ends change partners only on the ways that are best as it is: it takes long.
    for k, (_, _, one, two, _) in enumerate(found[: MOST_STRAIGHTER if laying.price else 0]):
        if (walk := between(one, two, laying.price)) is not None:
            found[k] = known(one, two, walk)
    found.sort(key=lambda each: each[:4])
    fewest = min((laid(walk) for *_, walk in found), default=0.0)
    return [(cost - fewest, back - fewest, walk) for cost, back, _, _, walk in found]


def _nearest_out(bundle: Bundle, odd: list[int]) -> list[int]:
    """Of the *odd* ends at most `MOST_ENDS`: those nearest to the edge of the place, and of those on it the
    ones farthest from its middle; of some that lie alike all or none, so that its own turns choose alike."""
    spots = bundle.network.spots[odd]
    deep = np.round(shapely.distance(shapely.points(spots), bundle.station.shape.boundary), 3)
    near = -np.round(np.hypot(*(spots - bundle.station.middle).T), 3)
    order = np.lexsort((near, deep)).tolist()
    first = order[MOST_ENDS]
    return sorted(
        odd[k] for k in order[:MOST_ENDS] if (deep[k], near[k]) < (deep[first], near[first])
    )


def _only(end: int) -> Callable[[int], float]:
    """For nothing at one node, and nowhere else."""
    return lambda node: 0.0 if node == end else NEVER


def again(network: Network, walk: Walk, asked: Sequence[int]) -> float:
    """Price of what a walk goes over beside the links that are *asked* for, or a second time."""
    left = set(asked)
    price = 0.0
    for number, _ in walk.links:
        if number not in left:
            price += network.links[number].price
        left.discard(number)
    return price


def walk_options(network: Network, walk: Walk) -> tuple[list[tuple[int, int]], list]:
    """The (entry, exit) pairs by which a walk is gone, and for each (where it begins, backwards)."""
    if not walk.closed:
        return [(walk.start, walk.stop), (walk.stop, walk.start)], [(0, False), (0, True)]
    places = doors_of_walk(network, walk)
    nodes = [walk.links[k][1] for k in places]
    unique = dict(zip(nodes, places, strict=True))
    return [(node, node) for node in unique], [(k, False) for k in unique.values()]


def walked(network: Network, walk: Walk, how: tuple[int, bool]) -> tuple[tuple[int, int], ...]:
    """The links of a walk, begun at a place or gone backwards."""
    place, backwards = how
    walk = walk.begun_at(place) if walk.closed and place else walk
    return walk.reversed(network).links if backwards else walk.links
