"""Walks through all ditches that are to be stitched: pair odd ends, then read off Euler trails."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Sequence

from chorograph_core.route.network import Network, Trail
from chorograph_core.route.pairing import Pairing, pair_odd_ends

MOST_DOORS = 12


def ditch_trails(
    network: Network, required: Sequence[int], cut: float, name: str
) -> tuple[list[Trail], float]:
    """Trails that stitch every link in *required* once, and a lower bound in lost minutes.

    The bound counts travel and cuts, the first start among them. In a trail's walk a link may come
    a second time, or be one that is not required: that is travel.
    """
    if not required:
        return [], 0.0
    degree: dict[int, int] = defaultdict(int)
    for number in required:
        link = network.links[number]
        degree[link.a] += 1
        degree[link.b] += 1
    odd = [node for node, count in degree.items() if count % 2]
    pairing = pair_odd_ends(network, odd, cut) if odd else Pairing((), (), 0.0, 0.0)
    multi: dict[int, list[tuple[int, int]]] = defaultdict(list)
    count = 0

    def add(number: int) -> None:
        nonlocal count
        link = network.links[number]
        multi[link.a].append((count, number))
        multi[link.b].append((count, number))
        count += 1

    for number in required:
        add(number)
    for a, b in pairing.pairs:
        for number, _ in network.path(a, b) or ():
            add(number)
    walks = _euler(network, multi, count)
    needed = set(required)
    trails = [_trail(walk, f"{name}/{k}") for k, walk in enumerate(_trim(walks, needed))]
    return trails, max(cut, pairing.bound)


def _euler(network: Network, multi, count: int) -> list[list[tuple[int, int]]]:
    """Trails covering every entry of *multi* once, as (link, entered from) lists.

    Components with odd nodes give one trail for each two of them, others one closed trail.
    """
    used = [False] * count
    place = dict.fromkeys(multi, 0)

    def walk(start: int) -> list[tuple[int, int]]:
        # Hierholzer: go on until stuck, then splice in detours on the way back.
        stack, out = [(start, -1, -1)], []
        while stack:
            node, via, came = stack[-1]
            options = multi[node]
            while place[node] < len(options) and used[options[place[node]][0]]:
                place[node] += 1
            if place[node] == len(options):
                stack.pop()
                if via >= 0:
                    out.append((via, came))
                continue
            copy, number = options[place[node]]
            used[copy] = True
            link = network.links[number]
            stack.append((link.b if node == link.a else link.a, number, node))
        return out[::-1]

    walks = []
    odd = [node for node, options in multi.items() if len(options) % 2]
    for start in [*odd, *multi]:
        made = walk(start)
        if made:
            walks += _split(network, made)
    return walks


def _split(network: Network, walk: list[tuple[int, int]]) -> list[list[tuple[int, int]]]:
    """Cut a walk where it jumps: Hierholzer with more than two odd ends leaves such places."""
    pieces = [[walk[0]]]
    for (number, start), (following, onward) in itertools.pairwise(walk):
        link = network.links[number]
        end = link.b if start == link.a else link.a
        if end != onward:
            pieces.append([])
        pieces[-1].append((following, onward))
    return pieces


def _trim(walks, needed: set[int]):
    """Leave out travel at either end of a walk: nothing is gained by it."""
    seen: set[int] = set()
    for walk in walks:
        fresh = []
        for number, _ in walk:
            fresh.append(number in needed and number not in seen)
            seen.add(number)
        if any(fresh):
            first = fresh.index(True)
            last = len(fresh) - 1 - fresh[::-1].index(True)
            yield walk[first : last + 1]


def _trail(walk: list[tuple[int, int]], key: str) -> Trail:
    return Trail(key, (), (), False, walk=tuple(walk))


def with_ends(network: Network, trail: Trail) -> Trail:
    """Fill in a ditch trail's nodes: two ends, or for a closed one doors spread along it."""
    _number, start = trail.walk[0]
    last, entered = trail.walk[-1]
    link = network.links[last]
    stop = link.b if entered == link.a else link.a
    if start != stop:
        return Trail(trail.key, (start,), (stop,), False, walk=trail.walk)
    step = max(1, len(trail.walk) // MOST_DOORS)
    at = list(range(0, len(trail.walk), step))[:MOST_DOORS]
    nodes = tuple(trail.walk[k][1] for k in at)
    return Trail(trail.key, nodes, nodes, True, walk=trail.walk, doors=tuple(at))
