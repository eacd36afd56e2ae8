"""Moves: what is done on the way through a bundle, and the same as it lies in an alike one."""

from __future__ import annotations

import heapq
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import shapely

from chorograph_core.route.bundles import Bundle, Likeness
from chorograph_core.route.ground import Ground
from chorograph_core.route.network import Network
from chorograph_core.route.walks import far_end

ON_WAY = 0.03
"""Inches within which a way in an alike station is the same way."""

Links = tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class RunMove:
    """Stitch a run, from one of its doors to another."""

    trail: int
    entry: int
    leave: int


@dataclass(frozen=True)
class LinkMove:
    """Go along links; those that are to be stitched and are not yet are stitched."""

    links: Links


@dataclass(frozen=True)
class CutMove:
    """Cut here, and start again at the next move."""


Move = RunMove | LinkMove | CutMove


@dataclass(frozen=True)
class Way:
    """A way through the first bundle of a class, from node *entry* to node *leave*, and the *price* of
    the travel and cuts in it, with layings of the ruler over the fewest; *more* is what that is *backwards*:
    what is gone over twice is stitched the first time. *path* is its number within the class; what is done on
    it is found when it is asked for."""

    path: int
    entry: int
    leave: int
    price: float
    find: Callable[[], tuple[Move, ...]] = field(compare=False)
    more: float = 0.0

    @cached_property
    def moves(self) -> tuple[Move, ...]:
        return self.find()


def laid_on(
    moves: Sequence[Move], likeness: Likeness, one: Bundle, other: Bundle, ground: Ground
) -> tuple[list[Move], bool]:
    """Moves as they lie in an alike bundle. Runs and inner ditches fall on their twins; what leads
    from one to the next runs as it does in the first bundle, where there are seams so."""
    same = True
    network = other.network
    made: list[Move] = []
    at: int | None = None
    line: list[np.ndarray] = []

    def come_to(node: int) -> None:
        nonlocal at, same
        if at is not None and at != node:
            drawn = (
                likeness.moved(np.concatenate(line), one.station, other.station) if line else None
            )
            way, followed = _along(network, ground, drawn, at, node)
            same = same and followed
            made.append(CutMove() if way is None else LinkMove(tuple(way)))
        line.clear()
        at = node

    for move in moves:
        if isinstance(move, CutMove):
            made.append(move)
            at = None
        elif isinstance(move, RunMove):
            come_to(likeness.nodes[move.entry])
            at = likeness.nodes[move.leave]
            made.append(RunMove(likeness.trails[move.trail], likeness.nodes[move.entry], at))
        else:
            for number, start in move.links:
                if number not in likeness.links:
                    if at is None:
                        # A path that begins on the way to its first seam.
                        at = likeness.nodes.get(start)
                    line.append(network.links[number].way(start))
                    continue
                twin, entered = likeness.links[number], likeness.nodes[start]
                come_to(entered)
                made.append(LinkMove(((twin, entered),)))
                at = far_end(network, twin, entered)
    if line and (last := likeness.nodes.get(far_end(network, number, start))) is not None:
        come_to(last)
    return _run_together(made), same


def _run_together(moves: list[Move]) -> list[Move]:
    """Links that follow each other as one move."""
    made: list[Move] = []
    for move in moves:
        if isinstance(move, LinkMove) and made and isinstance(made[-1], LinkMove):
            made[-1] = LinkMove(made[-1].links + move.links)
        else:
            made.append(move)
    return made


def _along(network, ground: Ground, line: np.ndarray | None, start: int, stop: int):
    """The way from *start* to *stop* that runs along *line*, the cheapest where none does; and whether
    it does."""
    if line is not None and len(line) > 1 and len(ground.links):
        near = ground.links[shapely.dwithin(shapely.linestrings(line), ground.middles, ON_WAY)]
        found = _way_over(network, near.tolist(), start, stop)
        if found is not None:
            return found, True
    return ground.way(start, stop), False


def _way_over(
    network: Network, links: Sequence[int], start: int, stop: int
) -> list[tuple[int, int]] | None:
    """The cheapest way over a few links, as (link, node it is entered from) pairs; None where there is none
    (Dijkstra 1959). For so few it is found sooner than a ground is laid out."""
    beside: dict[int, list[tuple[float, int, int]]] = defaultdict(list)
    for number in links:
        (a, b), price = network.ends[number].tolist(), float(network.prices[number])
        beside[a].append((price, number, b))
        beside[b].append((price, number, a))
    came: dict[int, tuple[int, int]] = {}
    ahead: list[tuple[float, int, int, int]] = [(0.0, start, -1, -1)]
    while ahead:
        gone, node, number, before = heapq.heappop(ahead)
        if node in came:
            continue
        came[node] = (number, before)
        if node == stop:
            break
        for price, link, other in beside[node]:
            if other not in came:
                heapq.heappush(ahead, (gone + max(price, 1e-9), other, link, node))
    if stop not in came:
        return None
    way: list[tuple[int, int]] = []
    at = stop
    while at != start:
        number, before = came[at]
        way.append((number, before))
        at = before
    return way[::-1]


def backwards(network: Network, moves: Sequence[Move]) -> list[Move]:
    """The same moves from their end; none where a run in them cannot be stitched backwards."""
    made: list[Move] = []
    for move in reversed(moves):
        if isinstance(move, RunMove):
            if (move.leave, move.entry) not in network.trails[move.trail].options():
                return []
            made.append(RunMove(move.trail, move.leave, move.entry))
        elif isinstance(move, LinkMove):
            turned = tuple((n, far_end(network, n, s)) for n, s in reversed(move.links))
            made.append(LinkMove(turned))
        else:
            made.append(move)
    return made
