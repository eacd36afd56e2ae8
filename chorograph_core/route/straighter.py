"""Pairs of odd ends exchanged where the walk then turns less: what is travelled more costs less than the
ruler laid anew.

The cheapest pairing joins the near ends of neighbouring lines, which often closes rings that have to be
joined with turns. Two pairs change partners, or one of a pair is left alone in place of another, as long
as that pays (Lin and Kernighan's exchange of two, 1973).
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence

import numpy as np

Mates = list[tuple[int, int]]
WORTH = 2.5
"""Layings that another pairing can be hoped to save at most: one that travels further is not tried."""
TRIES = 5_000
"""Links that are traced at most, in all tries together."""
FEWEST = 12
"""Tries at least."""
GAIN = 1e-6


def exchanged(
    mates: Mates, pairs: dict[tuple[int, int], float], count: int,
    ends: Sequence[np.ndarray | None], price: Callable[[Mates], float], laying: float, links: int,
) -> Mates:  # fmt: skip
    """Better *mates* among *count* odd ends: *pairs* are the ways between them, *ends* what it costs to
    begin and to stop at each, *price* what a pairing costs otherwise; *links* says how many are
    walked."""
    left = max(FEWEST, TRIES // max(links, 1))

    def whole(mates: Mates) -> float:
        return price(mates) + _free_ends(mates, count, ends)

    best = whole(mates)
    while left > 0:
        for other in _others(mates, pairs, count, laying):
            left -= 1
            cost = whole(other)
            if cost < best - GAIN:
                mates, best = other, cost
                break
            if left <= 0:
                break
        else:
            break
    return mates


def _free_ends(mates: Mates, count: int, ends: Sequence[np.ndarray | None]) -> float:
    """What it costs to come to one of two ends that are left alone, and to go on from the other."""
    paired = {k for pair in mates for k in pair}
    alone = [k for k in range(count) if k not in paired]
    coming, leaving = (np.zeros(count) if each is None else each for each in ends)
    if len(alone) != 2:
        return 0.0
    a, b = alone
    return float(min(coming[a] + leaving[b], coming[b] + leaving[a]))


def _others(
    mates: Mates, pairs: dict[tuple[int, int], float], count: int, laying: float
) -> Iterator[Mates]:
    """Pairings one exchange away that travel little more, the least first."""
    paired = {k for pair in mates for k in pair}
    found: list[tuple[float, tuple, tuple]] = []
    for one, two in itertools.combinations(mates, 2):
        now = pairs[one] + pairs[two]
        (a, b), (c, d) = one, two
        for new in (((a, c), (b, d)), ((a, d), (b, c))):
            found.append((_sum(pairs, new) - now, (one, two), new))
    for one in mates:
        for alone in (k for k in range(count) if k not in paired):
            for stays in one:
                mine = ((stays, alone),)
                found.append((_sum(pairs, mine) - pairs[one], (one,), mine))
    found.sort()
    for more, out, new in found:
        if more > WORTH * laying:
            return
        yield sorted({*mates} - {*out} | {(min(pair), max(pair)) for pair in new})


def _sum(pairs: dict[tuple[int, int], float], new: Sequence[tuple[int, int]]) -> float:
    return sum(pairs.get((min(pair), max(pair)), np.inf) for pair in new)
