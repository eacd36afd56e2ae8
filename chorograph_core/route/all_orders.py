"""The best of all orders of a few things that each can be entered and left by several doors."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from chorograph_core.route.compiled import compiled

if TYPE_CHECKING:
    from chorograph_core.route.searching import Things


@compiled
def best_of_all(things: Things) -> np.ndarray:
    """The options, one of each of up to some ten *things*, in the best order, by dynamic programming over
    subsets (Held and Karp 1962): what it costs at least to have done a set of them, the last by an option."""
    grid, nowhere, first = things.grid, things.nowhere, things.first
    count, many = len(first) - 1, len(things.own)
    full = (1 << count) - 1
    best = np.full((full + 1, many), math.inf)
    came = np.full((full + 1, many), -1, np.int64)
    needs = np.zeros(count, np.int64)
    owner = np.empty(many, np.int64)
    for k in range(count):
        for other in range(count):
            if things.before[other, k]:
                needs[k] |= 1 << other
        for option in range(first[k], first[k + 1]):
            owner[option] = k
            if needs[k] == 0:
                best[1 << k, option] = grid[nowhere, things.entries[option]] + things.own[option]
    # A set is larger by number than all that it holds: what leads to it is known by then.
    for done in range(1, full):
        for last in range(many):
            paid = best[done, last]
            if paid == math.inf:
                continue
            leave = things.exits[last]
            for k in range(count):
                if done >> k & 1 or needs[k] & ~done:
                    continue
                goal = done | 1 << k
                for option in range(first[k], first[k + 1]):
                    price = paid + grid[leave, things.entries[option]] + things.own[option]
                    if price < best[goal, option]:
                        best[goal, option], came[goal, option] = price, last
    last, least = -1, math.inf
    for option in range(many):
        price = best[full, option] + grid[things.exits[option], nowhere]
        if price < least:
            last, least = option, price
    by = np.empty(count, np.int64)
    done = full
    for k in range(count - 1, -1, -1):
        by[k] = last
        before = came[done, last]
        done, last = done & ~(1 << owner[last]), before
    return by
