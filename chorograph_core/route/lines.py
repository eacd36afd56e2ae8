"""Seams in lines, as far as a hand goes straight on."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

from chorograph_core.route.network import Network
from chorograph_core.route.walks import STRAIGHT, Tracing, Walk, far_end, turn_between


def unbroken(network: Network, links: Sequence[int]) -> Iterator[Walk]:
    """The *links* in lines, each as far as a hand goes straight on."""
    for way in Tracing(network, links, joined=False).walks():
        turns = [k for k in range(1, len(way)) if _turns(network, way[k - 1], way[k])]
        round_again = way[0][1] == far_end(network, *way[-1]) and not _turns(
            network, way[-1], way[0]
        )
        if round_again and turns:
            # A ring begins at a corner.
            way = way[turns[0] :] + way[: turns[0]]
            turns = [k - turns[0] for k in turns[1:]]
        for first, stop in itertools.pairwise([0, *turns, len(way)]):
            line = tuple(way[first:stop])
            yield Walk(line, line[0][1], far_end(network, *line[-1]))


def _turns(network: Network, one: tuple[int, int], two: tuple[int, int]) -> bool:
    return turn_between(network, one, two) > STRAIGHT
