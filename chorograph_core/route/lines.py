"""Seams in lines, as far as a hand goes straight on."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

from chorograph_core.route.network import Network
from chorograph_core.route.walks import STRAIGHT, Tracing, Walk, far_end, turn_between


def straight_lines(network: Network, links: Sequence[int]) -> Iterator[Walk]:
    """The *links* in lines, each as far as a hand goes straight on."""
    for way in Tracing(network, links, joined=False).walks():
        for line in between_corners(network, way):
            yield Walk(tuple(line), line[0][1], far_end(network, *line[-1]))


def between_corners(
    network: Network, chain: list[tuple[int, int]]
) -> Iterator[list[tuple[int, int]]]:
    """The parts between its corners of a *chain* of links, as (link, node it is entered from)."""
    turns = [turn_between(network, one, two) > STRAIGHT
             for one, two in itertools.pairwise([*chain[-1:], *chain])]  # fmt: skip
    if chain[0][1] == far_end(network, *chain[-1]) and any(turns):
        # A ring begins at a corner.
        first = turns.index(True)
        chain, turns = chain[first:] + chain[:first], turns[first:] + turns[:first]
    corners = [0, *(k for k in range(1, len(chain)) if turns[k]), len(chain)]
    for first, stop in itertools.pairwise(corners):
        yield chain[first:stop]
