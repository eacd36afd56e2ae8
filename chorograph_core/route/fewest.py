"""How often a ruler is laid at least along the ditches, whatever way they are gone."""

from __future__ import annotations

import itertools
import math
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np

from chorograph_core.route.lines import between_corners
from chorograph_core.route.network import Network
from chorograph_core.route.passes import EDGE, Pass
from chorograph_core.route.walks import STRAIGHT, far_end, turn_between
from chorograph_core.rulers import Reach, count_placements
from chorograph_core.rulers.shapes import CURVE, LEG, SHORT

MOST_PARTED = 24
"""Links of a bent line up to which all ways to part it are tried."""
SAVED = 2
"""Layings that may be saved where one curve goes on into another: the piece before or after may go into it
too."""
HAIR = 1e-6
"""Radians that are no turn."""
DIGITS = 5
"""To how many places of an inch lines must agree to be the same."""


class Fewest:
    """The fewest layings along ditches of one *network*."""

    def __init__(self, network: Network, reach: Reach | float, passes: Sequence[Pass] = ()) -> None:
        self.network, self.passes = network, passes
        self.reach = Reach(reach) if isinstance(reach, int | float) else reach
        self._known: dict[tuple[int, ...], int] = {}
        self._alike: dict[tuple | None, int] = {}

    def along(self, required: Sequence[int]) -> int:
        """Times that a ruler must be laid along *required* links, however they are gone: each straight line
        once for every length of the ruler on it, and anew where no one of the passes holds what follows;
        each bent one, where it is parted into pieces as well as can be."""
        key = tuple(required)
        if key not in self._known:
            like = self._like(key)
            if like is None or like not in self._alike:
                goes_on, saved = _going_on(self.network, required)
                least = sum(map(self._chain, _chains(self.network, required, goes_on)))
                self._alike[like] = max(0, least - saved)
            self._known[key] = self._alike[like]
        return self._known[key]

    def _like(self, links: Sequence[int]) -> tuple | None:
        """Equal for *links* that lie to each other alike and hang together alike, if one pass holds them
        all: sisters then need as many layings. None for others."""
        lines = [self.network.links[number].points for number in links]
        if not lines:
            return None
        levels = np.concatenate(lines)[:, 1]
        low, high = float(levels.min()), float(levels.max())
        if len(self.passes) > 1 and not any(
            each.top <= low and high <= each.bottom for each in self.passes
        ):
            return None
        nodes: dict[int, int] = {}
        hang = tuple(nodes.setdefault(int(node), len(nodes))
                     for number in links for node in self.network.ends[number])  # fmt: skip
        return self.shape_of(links), tuple(map(len, lines)), hang

    def savings(self, ways: Sequence[tuple[int, int]]) -> np.ndarray:
        """For *ways* over links, as (link, node it is entered from), the layings that may be saved at most
        where one follows at once on another (w, w)."""
        saved = [
            [
                _saved(self.network, one, two)
                if far_end(self.network, *one) == two[1] and one[0] != two[0]
                else 0
                for two in ways
            ]
            for one in ways
        ]
        return np.array(saved)

    def one_by_one(self, links: Sequence[int]) -> int:
        """Layings along links with a stop after each."""
        return sum(_alone(self.network.links[number].points, self.reach) for number in links)

    def in_one_go(self, way: Sequence[tuple[int, int]]) -> int:
        """Layings along a *way* over links, stitched without a stop, whichever way round."""
        line = _line(self.network, way)
        return min(count_placements(line, self.reach), count_placements(line[::-1], self.reach))

    def bends(self, links: Sequence[int]) -> bool:
        """Whether any of the *links* is no straight line."""
        return any(_turning(self.network.links[number].points) > HAIR for number in links)

    def shape_of(self, links: Sequence[int]) -> bytes:
        """Equal for *links* that lie to each other alike."""
        first = self.network.links[links[0]].points[0]
        lines = [self.network.links[number].points - first for number in links]
        return np.round(np.concatenate(lines), DIGITS).tobytes()

    def unbroken(self, links: Sequence[int]) -> list[list[tuple[int, int]]] | None:
        """The *links* in pieces that are laid once more if they are broken: lines, parted where they may be
        broken for nothing. None where links are bent, or may go on into more than one other."""
        goes_on, saved = _going_on(self.network, links)
        if saved or self.bends(links):
            return None
        found: list[list[tuple[int, int]]] = []
        for line in _chains(self.network, links, goes_on):
            pieces = list(between_corners(self.network, line))
            if sum(map(self._chain, pieces)) != self._chain(line):
                return None
            for part in pieces:
                whole = self._chain(part)
                free = [k for k in range(1, len(part))
                        if self._chain(part[:k]) + self._chain(part[k:]) <= whole]  # fmt: skip
                found += [part[a:b] for a, b in itertools.pairwise([0, *free, len(part)])]
        return found

    def _chain(self, links: list[tuple[int, int]]) -> int:
        """Layings along links of which each goes on into the next."""
        line = _line(self.network, links)
        if not _bent(line):
            return _fewest_along(line, self.reach.straight, self.passes)
        if len(links) > MOST_PARTED:
            return self._long_chain(links)
        lines = [self.network.links[number].way(start) for number, start in links]
        shape = np.round(line - line[0], DIGITS).tobytes()
        sizes = tuple(map(len, lines))
        return _parted(_Chain(shape, sizes, _closes(self.network, links), self.reach, lines))

    def _long_chain(self, links: list[tuple[int, int]]) -> int:
        """The same for a chain that is parted at its sharp corners, and where a part of it is still too long,
        less what may be saved there."""
        closed = _closes(self.network, links)
        least = 0 if not closed or self._sharp(links[-1], links[0]) else -SAVED
        first = 0
        for stop in range(1, len(links) + 1):
            ends = stop == len(links) or self._sharp(links[stop - 1], links[stop])
            if ends or stop - first == MOST_PARTED:
                least += self._chain(links[first:stop]) - (0 if ends else SAVED)
                first = stop
        return least

    def _sharp(self, one: tuple[int, int], two: tuple[int, int]) -> bool:
        """Whether one link goes on into the next round a corner that no laying and no curve goes round."""
        last, first = (self.network.links[number].way(start) for number, start in (one, two))
        leg = min(math.dist(last[-2], last[-1]), math.dist(first[0], first[1]))
        return leg > LEG and turn_between(self.network, one, two) > CURVE + HAIR


@dataclass(frozen=True)
class _Chain:
    """Links one after the other as *lines*, or any others of the same *shape* and *sizes*: whether they are
    *closed*, and what a ruler does at once."""

    shape: bytes
    sizes: tuple[int, ...]
    closed: bool
    reach: Reach
    lines: list[np.ndarray] = field(compare=False, repr=False)


@lru_cache(maxsize=2000)
def _parted(chain: _Chain) -> int:
    """The least sum of layings over all ways to part a chain into pieces that are gone in one go; one that is
    closed may be begun anywhere. Kept: the same curves come in many places, and in every plan."""
    many = len(chain.lines)
    pieces = {
        (first, size): _alone(
            _joined([chain.lines[k % many] for k in range(first, first + size)]), chain.reach
        )
        for first in range(many)
        for size in range(1, many + 1 if chain.closed else many + 1 - first)
    }
    return min(_least_parting(pieces, first, many) for first in range(many if chain.closed else 1))


def _closes(network: Network, links: Sequence[tuple[int, int]]) -> bool:
    return len(links) > 1 and links[0][1] == far_end(network, *links[-1])


def _least_parting(pieces: dict[tuple[int, int], int], first: int, many: int) -> int:
    """The least sum of *pieces*, by (first link, number of links), that make up *many* links from the
    *first* on."""
    least = [0]
    for stop in range(1, many + 1):
        least.append(min(least[at] + pieces[(first + at) % many, stop - at] for at in range(stop)))
    return least[-1]


def _going_on(network: Network, required: Sequence[int]) -> tuple[dict[tuple[int, int], int], int]:
    """For each end (link, node) of *required* links the link into which one goes on there, where that is
    one only; and how many layings may be saved at most at all other nodes."""
    at: dict[int, list[int]] = defaultdict(list)
    for number in required:
        link = network.links[number]
        at[link.a].append(number)
        at[link.b].append(number)
    goes_on: dict[tuple[int, int], int] = {}
    saved = 0
    for node, links in at.items():
        if len(links) == 2:
            pairs, more = [(links[0], links[1])], 0
        else:
            pairs, more = _straight_on(network, node, links)
        for one, two in pairs:
            goes_on[one, node], goes_on[two, node] = two, one
        saved += more
    return goes_on, saved


def _straight_on(
    network: Network, node: int, links: Sequence[int]
) -> tuple[list[tuple[int, int]], int]:
    """Of *links* that meet at a node those of which one goes on into the other, two by two, if each may do so
    into one only; else how many layings may be saved there at most."""
    may = {
        (one, two): gain
        for one, two in itertools.combinations(dict.fromkeys(links), 2)
        if (gain := _saved(network, (one, _start(network, one, node)), (two, node)))
    }
    ends = Counter(number for pair in may for number in pair)
    if max(ends.values(), default=0) > 1 or len(set(links)) < len(links):
        return [], len(links) // 2 * max(may.values(), default=0)
    return list(may), 0


def _start(network: Network, number: int, stop: int) -> int:
    """The node from which a link leads to *stop*."""
    link = network.links[number]
    return link.a if link.b == stop else link.b


def _chains(
    network: Network, required: Sequence[int], goes_on: Mapping[tuple[int, int], int]
) -> Iterator[list[tuple[int, int]]]:
    """The *required* links in chains, as (link, node it is entered from), open ones first."""
    left = set(required)

    def chain(number: int, start: int) -> list[tuple[int, int]]:
        links = []
        while number in left:
            left.discard(number)
            links.append((number, start))
            start = far_end(network, number, start)
            number = goes_on.get((number, start), -1)
        return links

    for number in required:
        link = network.links[number]
        for start in (link.a, link.b):
            if number in left and (number, start) not in goes_on:
                yield chain(number, start)
    for number in required:
        if number in left:
            yield chain(number, network.links[number].a)


def _bent(line: np.ndarray) -> bool:
    """Whether a line turns more than a hand that goes straight on."""
    return _turning(line) > STRAIGHT


def _turning(line: np.ndarray) -> float:
    """The sum of all that a line turns, in radians."""
    if len(line) < 3:
        return 0.0
    headings = np.unwrap(np.arctan2(*np.diff(line, axis=0).T[::-1]))
    return float(np.abs(np.diff(headings)).sum())


def _alone(line: np.ndarray, reach: Reach) -> int:
    """Layings of one link. What turns little may be taken for straight together with what it goes on
    into, and from its other end a line may fall into fewer pieces."""
    if _turning(line) <= CURVE + HAIR:
        return _fewest_along(line, reach.straight, ())
    return min(count_placements(line, reach), count_placements(line[::-1], reach))


def _saved(network: Network, one: tuple[int, int], two: tuple[int, int]) -> int:
    """Layings that may be saved where one link goes on into the next: none at a corner, one on a straight
    line, `SAVED` where a curve goes on."""
    last, first = (network.links[number].way(start) for number, start in (one, two))
    leg = max(math.dist(last[-2], last[-1]), math.dist(first[0], first[1]))
    turn = turn_between(network, one, two) - HAIR
    if leg > LEG:
        # Whether a line goes straight on is told by where it began: one that bends a little may.
        bends = max(_turning(last), _turning(first)) > HAIR
        return int(turn <= (CURVE if bends else STRAIGHT))
    return SAVED * (turn <= CURVE)


def _fewest_along(line: np.ndarray, reach: float, passes: Sequence[Pass]) -> int:
    """Layings along one line: at a sharp corner there is a new one; between corners only the length
    counts, since how a bend is best parted depends on where one begins."""
    steps = np.diff(line, axis=0)
    legs = np.hypot(*steps.T)
    headings = np.arctan2(steps[:, 1], steps[:, 0])
    turns = np.abs((np.diff(headings) + np.pi) % (2 * np.pi) - np.pi)
    # Long legs draw no curve: where they turn at all there is a corner, if they do not bend besides.
    bends = ((turns > HAIR) & (turns <= STRAIGHT)).any()
    corner = (np.maximum(legs[:-1], legs[1:]) > LEG) & ~bends
    most = np.where(corner, STRAIGHT, CURVE)
    stops = [0, *(np.flatnonzero(turns > most + HAIR) + 1).tolist(), len(legs)]
    return sum(
        _fewest_between(line[first : stop + 1], legs[first:stop], reach, passes)
        for first, stop in itertools.pairwise(stops)
    )


def _fewest_between(
    part: np.ndarray, legs: np.ndarray, reach: float, passes: Sequence[Pass]
) -> int:
    """Layings along a part without corners, each as far as ruler and pass allow: none does with fewer,
    since whatever lies within a laying can be laid as well."""
    inches = float(legs.sum())
    if inches < SHORT:
        return 0
    if len(passes) < 2:
        return math.ceil(inches / reach - 1e-9)
    along = np.concatenate([[0.0], np.cumsum(legs)])
    within = [stretch for each in passes for stretch in _within(part[:, 1], along, each)]
    count, at = 0, 0.0
    while at <= inches - SHORT:
        ends = [stop for start, stop in within if start <= at + EDGE and stop > at + EDGE]
        # Beyond the end of a pass a stretch too short for a laying costs nothing.
        at = min(at + reach, max(ends, default=inches) + SHORT)
        count += 1
    return count


def _within(levels: np.ndarray, along: np.ndarray, each: Pass) -> list[tuple[float, float]]:
    """From where to where along a line with these *levels* down the quilt it lies in a pass."""
    found: list[tuple[float, float]] = []
    for k, (one, two) in enumerate(itertools.pairwise(levels.tolist())):
        low, high = 0.0, 1.0
        if abs(two - one) > 1e-9:
            low, high = sorted(((each.top - EDGE - one) / (two - one),
                                (each.bottom + EDGE - one) / (two - one)))  # fmt: skip
            low, high = max(low, 0.0), min(high, 1.0)
        elif not each.top - EDGE <= one <= each.bottom + EDGE:
            continue
        if low > high:
            continue
        start, stop = (float(along[k] + share * (along[k + 1] - along[k])) for share in (low, high))
        if found and start - found[-1][1] < 1e-6:
            found[-1] = (found[-1][0], stop)
        else:
            found.append((start, stop))
    return found


def _line(network: Network, links: Sequence[tuple[int, int]]) -> np.ndarray:
    return _joined([network.links[number].way(start) for number, start in links])


def _joined(lines: Sequence[np.ndarray]) -> np.ndarray:
    return np.concatenate([lines[0], *(line[1:] for line in lines[1:])])
