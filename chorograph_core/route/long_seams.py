"""Long seams: lines of ditch that run straight through one place into the next.

A hand goes straight on at a crossing, so such a line is stitched from edge to edge, not bit by bit in
each block it runs through. Blocks of one kind are treated alike: where most of them have a line that
goes on, it counts as long in those at the edge of the top too, or their paths would differ.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence

import numpy as np

from chorograph_core.route.lines import straight_lines
from chorograph_core.route.network import Network
from chorograph_core.route.stations import Station

NEAR = 1 / 32
"""Inches within which the places of alike lines in alike blocks agree; other lines lie farther apart."""


def long_seams(
    network: Network, required: Sequence[int], inner: Mapping[int, int],
    stations: Sequence[Station], kinds: Mapping[int, str],
) -> set[int]:  # fmt: skip
    """Of the *required* links those that lie inside a station, as *inner* says, and belong to a line that
    leaves it; *kinds* says of what kind a station is."""
    found: set[int] = set()
    for walk in straight_lines(network, required):
        line = [number for number, _ in walk.links]
        if len({inner.get(number) for number in line}) > 1:
            found |= {number for number in line if number in inner}
    inside = [number for number in required if number in inner]
    corners = np.array([stations[inner[number]].bounds[:2] for number in inside]).reshape(-1, 2)
    x, y = (gathered(at) for at in (network.middles[inside] - corners).T)
    votes: dict[tuple[str, int, int], list[int]] = defaultdict(lambda: [0, 0])
    where = {
        number: (kinds[inner[number]], across, down)
        for number, across, down in zip(inside, x, y, strict=True)
    }
    for number, place in where.items():
        votes[place][number in found] += 1
    return {number for number, place in where.items() if votes[place][1] > votes[place][0]}


def gathered(values: np.ndarray) -> list[int]:
    """A number for each of *values* (n,), the same for those that lie within `NEAR` of one another, one by
    one: rounded, what lies on the border between two steps would fall to either side.

    >>> gathered(np.array([2.0, 0.5, 0.5 + 1e-9, 2.0 - 1e-9]))
    [1, 0, 0, 1]
    """
    order = np.argsort(values, kind="stable")
    groups = np.empty(len(values), int)
    groups[order] = np.cumsum(np.diff(values[order], prepend=values[order][:1]) > NEAR)
    return groups.tolist()
