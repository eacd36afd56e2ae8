"""Long seams: lines of ditch that run straight through one place into the next.

A hand goes straight on at a crossing, so such a line is stitched from edge to edge, not bit by bit in
each block it runs through. Blocks of one kind are treated alike: where most of them have a line that
goes on, it counts as long in those at the edge of the top too, or their paths would differ.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence

from chorograph_core.route.lines import straight_lines
from chorograph_core.route.network import Network
from chorograph_core.route.stations import Station

NEAR = 16
"""Parts of an inch to which the places of alike lines in alike blocks agree."""


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
    votes: dict[tuple, list[int]] = defaultdict(lambda: [0, 0])
    where: dict[int, tuple] = {}
    for number in required:
        if number not in inner:
            continue
        station = stations[inner[number]]
        x, y = network.middles[number] - station.bounds[:2]
        where[number] = (kinds[inner[number]], round(x * NEAR), round(y * NEAR))
        votes[where[number]][number in found] += 1
    return {number for number, place in where.items() if votes[place][1] > votes[place][0]}
