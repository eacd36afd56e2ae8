"""Walks through ditches: odd ends paired, then read off so that a hand goes straight on.

Ends of links that lie opposite each other at a crossing belong together: at every node they are paired
by least turn, which leaves many pieces, closed ones mostly; those are joined at shared nodes where that
turns least. Same links, same travel as any Euler walk, about half the turns, and so fewer layings.
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from chorograph_core.route.ground import Ground
from chorograph_core.route.network import Network
from chorograph_core.route.pairing import pair_ends, pairs_within
from chorograph_core.route.straighter import exchanged

STRAIGHT = math.radians(6.0)
"""A turn up to which a hand goes straight on: as for a laying of the ruler."""
MOST_DOORS = 10
"""Places considered for entering a closed walk."""
BACK = 1.04
"""How much dearer a way over the ditches that are walked counts than another as long."""
BRUTE = 7
"""Ends at a node up to which all pairings are tried."""

Pricing = Callable[[int], float]
Half = tuple[int, int]
"""One end of one copy of a link: (copy, 0 at its a or 1 at its b)."""


@dataclass(frozen=True)
class Walk:
    """Links in the order they are gone, each as (link, node it is entered from)."""

    links: tuple[tuple[int, int], ...]
    start: int
    stop: int

    @property
    def closed(self) -> bool:
        return self.start == self.stop

    def begun_at(self, place: int) -> Walk:
        """A closed walk that begins with its link number *place*."""
        links = self.links[place:] + self.links[:place]
        return Walk(links, links[0][1], links[0][1])

    def reversed(self, network: Network) -> Walk:
        """The same walk the other way round."""
        links = tuple(
            (number, far_end(network, number, start)) for number, start in reversed(self.links)
        )
        return Walk(links, self.stop, self.start)


def far_end(network: Network, number: int, start: int) -> int:
    """The node at the other end of a link."""
    link = network.links[number]
    return link.b if start == link.a else link.a


def straight_walks(
    ground: Ground, required: Sequence[int], cut: float,
    coming: Pricing | None = None, leaving: Pricing | None = None, laying: float = 0.0,
    over: bool = False,
) -> list[Walk]:  # fmt: skip
    """Walks that go over every link in *required* once, and over others or again as travel.

    *coming* and *leaving* say what it costs to come to a node and to go on from it; a *laying* of the
    ruler has its price too: other pairs of ends may leave more lines whole. Who may go *over* does an
    island that is near on the way round another: there, and back to where she left it.
    """
    network = ground.network
    if not len(required):
        return []
    # Of two ways as long the one that does not go back over the ditches themselves leaves them straight.
    ground = ground.dearer(required, BACK)
    odd = odd_nodes(network, required)

    def over_all(copies: list[int]) -> list[Walk]:
        more = _there_and_back(ground, copies, cut) if over else []
        return _walks(network, required, [*copies, *more])

    if not odd:
        return over_all(list(required))
    pairs = pairs_within(ground, odd, cut)
    ends = [None if price is None else np.array([price(node) for node in odd])
            for price in (coming, leaving)]  # fmt: skip
    mates = pair_ends(pairs, len(odd), cut, network.spots[odd], True, *ends)

    def walked(mates: Sequence[tuple[int, int]]) -> list[Walk]:
        ways = [ground.way(odd[i], odd[j]) or () for i, j in mates]
        return over_all([*required, *(n for way in ways for n, _ in way)])

    if not laying:
        return walked(mates)

    def price(mates: Sequence[tuple[int, int]]) -> float:
        walks = walked(mates)
        layings = layings_of(network, required, walks)
        return laying * layings + cut * (len(walks) - 1) + sum(pairs[pair] for pair in mates)

    return walked(exchanged(mates, pairs, len(odd), ends, price, laying, len(required)))


def _there_and_back(ground: Ground, links: Sequence[int], cut: float) -> list[int]:
    """Links, each twice, that lead from island to island of *links* where that is cheaper than a *cut*: the
    cheapest tree."""
    islands = islands_of(ground.network, links)
    found: list[int] = []
    joined, left = set(islands[0]), [set(each) for each in islands[1:]]
    while left:
        mine = sorted(joined)
        prices = [ground.prices(mine, cut, sorted(each)) for each in left]
        nearest = min(range(len(left)), key=lambda k: float(prices[k].min()))
        if 2 * float(prices[nearest].min()) >= cut:
            break
        a, b = divmod(int(prices[nearest].argmin()), prices[nearest].shape[1])
        way = ground.way(mine[a], sorted(left[nearest])[b]) or []
        found += [number for number, _ in way] * 2
        joined |= left.pop(nearest)
    return found


def _walks(network: Network, required: Sequence[int], copies: Sequence[int]) -> list[Walk]:
    """The walks over all *copies*, of which those of *required* links come first: by which of two ways of
    pairing ends they have fewer layings."""
    needed = set(required)

    def made(fresh: int) -> list[Walk]:
        found = []
        for links in Tracing(network, copies, fresh=fresh).walks():
            links = _trimmed(links, needed)
            start, last = links[0][1], links[-1]
            found.append(Walk(tuple(links), start, far_end(network, *last)))
        return found

    # What is gone over twice is stitched the first time: which time that is, is only known in the end.
    ways = [made(len(copies)), *([made(len(required))] if len(copies) > len(required) else [])]
    return min(ways, key=lambda walks: (len(walks), layings_of(network, required, walks)))


def layings_of(network: Network, required: Sequence[int], walks: Sequence[Walk]) -> int:
    """Lines that are stitched in one go, without a turn and without going back over what is stitched."""
    needed, count = set(required), 0
    for walk in walks:
        going = None
        for link in walk.links:
            fresh = link[0] in needed
            needed.discard(link[0])
            if fresh and (going is None or turn_between(network, going, link) > STRAIGHT):
                count += 1
            going = link if fresh else None
    return count


def odd_nodes(network: Network, required: Sequence[int]) -> list[int]:
    """Nodes at which an odd number of *required* links end, sorted."""
    degree: dict[int, int] = defaultdict(int)
    for a, b in network.ends[np.asarray(required, int)].tolist():
        degree[a] += 1
        degree[b] += 1
    return sorted(node for node, count in degree.items() if count % 2)


def islands_of(network: Network, required: Sequence[int]) -> list[list[int]]:
    """The nodes of *required* links, in groups that hang together."""
    parent: dict[int, int] = {}

    def find(node: int) -> int:
        parent.setdefault(node, node)
        while parent[node] != node:
            parent[node] = parent[parent[node]]
            node = parent[node]
        return node

    for a, b in network.ends[np.asarray(required, int)].tolist():
        parent[find(a)] = find(b)
    groups: dict[int, list[int]] = defaultdict(list)
    for node in parent:
        groups[find(node)].append(node)
    return list(groups.values())


def doors_of_walk(network: Network, walk: Walk) -> list[int]:
    """Places in a closed walk's links where it is well entered: where it turns, spread along it."""
    turns = [
        k
        for k in range(len(walk.links))
        if turn_between(network, walk.links[k - 1], walk.links[k]) > STRAIGHT
    ] or list(range(len(walk.links)))
    step = max(1, math.ceil(len(turns) / MOST_DOORS))
    return turns[::step]


def turn_between(network: Network, one: tuple[int, int], two: tuple[int, int]) -> float:
    """Angle by which the way turns from one link to the next, 0 to π."""
    x, y = network.links[one[0]].heading(one[1], last=True)
    return _angle(x, y, *network.links[two[0]].heading(two[1]))


def _angle(x: float, y: float, u: float, v: float) -> float:
    """Between two directions, 0 to π."""
    return abs(math.atan2(x * v - y * u, x * u + y * v))


def _trimmed(links: list[tuple[int, int]], needed: set[int]) -> list[tuple[int, int]]:
    """Without travel at either end: nothing is gained by it."""
    seen: set[int] = set()
    fresh = []
    for number, _ in links:
        fresh.append(number in needed and number not in seen)
        seen.add(number)
    first, last = fresh.index(True), len(fresh) - 1 - fresh[::-1].index(True)
    return links[first : last + 1]


class Tracing:
    """Copies of links, paired end to end at every node."""

    def __init__(
        self, network: Network, copies: Sequence[int], joined: bool = True, fresh: int | None = None
    ) -> None:
        self.network, self.copies = network, copies
        self.fresh = len(set(copies)) if fresh is None else fresh
        self.at: dict[int, list[Half]] = defaultdict(list)
        for copy, number in enumerate(copies):
            link = network.links[number]
            self.at[link.a].append((copy, 0))
            self.at[link.b].append((copy, 1))
        self._away: dict[Half, tuple[float, float]] = {}
        self.mate: dict[Half, Half | None] = {}
        for halves in self.at.values():
            for one, two in self._paired(halves):
                self.mate[one] = two
                if two is not None:
                    self.mate[two] = one
        if joined:
            self._join()

    def _paired(self, halves: list[Half]) -> Iterator[tuple[Half, Half | None]]:
        """The ends at a node two by two. The same links meet there in every tracing: what is best for them is
        kept with the network."""
        copies, fresh = self.copies, self.fresh
        key = tuple([(copies[copy], side, copy >= fresh) for copy, side in halves])
        known = self.network.paired
        if key not in known:
            place = {half: k for k, half in enumerate(halves)}
            known[key] = [(place[one], None if two is None else place[two])
                          for one, two in _best_pairs(halves, self._cost)]  # fmt: skip
        for one, two in known[key]:
            yield halves[one], None if two is None else halves[two]

    def _direction(self, half: Half) -> tuple[float, float]:
        """Which way the link leads from this end of it."""
        if half not in self._away:
            first, last = self.network.links[self.copies[half[0]]].headings
            self._away[half] = first if half[1] == 0 else (-last[0], -last[1])
        return self._away[half]

    def _cost(self, one: Half | None, two: Half | None) -> float:
        """Of going on from one end to another: a laying for a turn, a little for its sharpness; half a laying
        where what is only travelled begins or ends."""
        if one is None or two is None:
            return 0.0
        x, y = self._direction(one)
        turn = _angle(-x, -y, *self._direction(two))
        twice = (one[0] >= self.fresh) + (two[0] >= self.fresh)
        if twice:
            return (0.5 if twice == 1 else 0.0) + 0.02 * turn
        return 0.0 if turn <= STRAIGHT else 1.0 + 0.2 * turn

    def _join(self) -> None:
        """Join pieces that share a node, first where it turns least."""
        piece, open_piece = self._pieces()
        parent = list(range(len(open_piece)))

        def find(k: int) -> int:
            while parent[k] != k:
                parent[k] = parent[parent[k]]
                k = parent[k]
            return k

        options = []
        for node, halves in self.at.items():
            joints = sorted({self._joint(half) for half in halves})
            for one, two in itertools.combinations(joints, 2):
                if find(piece[one[0][0]]) != find(piece[two[0][0]]):
                    options.append((self._swap(one, two)[0], node, one, two))
        options.sort()
        for _, _, one, two in options:
            a, b = find(piece[one[0][0]]), find(piece[two[0][0]])
            if a == b or (open_piece[a] and open_piece[b]):
                continue
            # Both may have been joined to others here meanwhile.
            now_one, now_two = self._joint(one[0]), self._joint(two[0])
            if now_one == now_two:
                continue
            for x, y in self._swap(now_one, now_two)[1]:
                self.mate[x] = y
                if y is not None:
                    self.mate[y] = x
            parent[b] = a
            open_piece[a] = open_piece[a] or open_piece[b]

    def _joint(self, half: Half) -> tuple[Half, ...]:
        mate = self.mate[half]
        return (half,) if mate is None else (min(half, mate), max(half, mate))

    def _swap(self, one: tuple[Half, ...], two: tuple[Half, ...]):
        """The cheapest way to go from one joint over into the other, and what it costs more."""
        now = sum(
            self._cost(*(joint if len(joint) == 2 else (joint[0], None))) for joint in (one, two)
        )
        p, q = one if len(one) == 2 else (one[0], None)
        r, s = two if len(two) == 2 else (two[0], None)
        best = None
        for first, second in (((p, r), (q, s)), ((p, s), (q, r))):
            if first[0] is None or second == (None, None):
                continue
            pairs = [tuple(sorted(pair, key=lambda h: h is None)) for pair in (first, second)]
            cost = sum(self._cost(*pair) for pair in pairs) - now
            if best is None or cost < best[0]:
                best = (cost, pairs)
        return best

    def _pieces(self) -> tuple[dict[int, int], list[bool]]:
        """Which piece each copy is in, and which pieces are open."""
        piece: dict[int, int] = {}
        is_open: list[bool] = []
        for first in range(len(self.copies)):
            if first in piece:
                continue
            number, ended = len(is_open), False
            for side in (0, 1):
                half: Half | None = (first, side)
                while half is not None:
                    piece[half[0]] = number
                    half = self.mate[half]
                    if half is None:
                        ended = True
                        break
                    piece[half[0]] = number
                    half = (half[0], 1 - half[1])
                    if half[0] == first:
                        break
            is_open.append(ended)
        return piece, is_open

    def walks(self) -> Iterator[list[tuple[int, int]]]:
        """The pieces as (link, node it is entered from) lists; open ones first."""
        used: set[int] = set()
        ends = sorted(half for half, mate in self.mate.items() if mate is None)
        for start in [*ends, *((copy, 0) for copy in range(len(self.copies)))]:
            if start[0] in used:
                continue
            links: list[tuple[int, int]] = []
            half: Half | None = start
            while half is not None and half[0] not in used:
                used.add(half[0])
                link = self.network.links[self.copies[half[0]]]
                links.append((self.copies[half[0]], link.a if half[1] == 0 else link.b))
                half = self.mate[(half[0], 1 - half[1])]
            yield links


def _best_pairs(halves: list[Half], cost) -> list[tuple[Half, Half | None]]:
    """Ends at a node two by two, at least cost; of an odd number one is left alone."""
    if len(halves) <= BRUTE:
        costs: dict[tuple[Half, Half | None], float] = {(half, None): 0.0 for half in halves}
        costs |= {(one, two): cost(one, two) for one, two in itertools.permutations(halves, 2)}
        return min(_pairings(halves), key=lambda pairs: sum(costs[pair] for pair in pairs))
    left, made = list(halves), []
    options = sorted((cost(a, b), a, b) for a, b in itertools.combinations(halves, 2))
    for _, a, b in options:
        if a in left and b in left:
            left.remove(a)
            left.remove(b)
            made.append((a, b))
    return [*made, *((half, None) for half in left)]


def _pairings(halves: Sequence[Half]) -> Iterator[list[tuple[Half, Half | None]]]:
    """All ways to pair; with an odd number each is left alone in turn."""
    if not halves:
        yield []
        return
    if len(halves) % 2:
        for k, alone in enumerate(halves):
            for rest in _pairings([*halves[:k], *halves[k + 1 :]]):
                yield [(alone, None), *rest]
        return
    first, *others = halves
    for k, other in enumerate(others):
        for rest in _pairings([*others[:k], *others[k + 1 :]]):
            yield [(first, other), *rest]
