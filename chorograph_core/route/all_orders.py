"""The best of all orders of a few things that each can be entered and left by several doors."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from chorograph_core.route.tours import Item

AT_ONCE = 1_000_000
"""Figures that a search holds at once."""


@lru_cache(maxsize=16)
def _sizes(count: int) -> np.ndarray:
    """How many things are in each set of *count*, without the empty and the full one."""
    return np.array([done.bit_count() for done in range(1, (1 << count) - 1)], int)


def best_of_all(
    items: Sequence[Item], grid: np.ndarray, nowhere: int
) -> tuple[list[int], list[int]]:
    """The *items* by number in the best order, and by which option each, by dynamic programming over subsets
    (Held and Karp 1962). In *grid* are the prices between nodes; its row *nowhere* says what it costs to
    begin at each of them, its column what to end there."""
    count = len(items)
    owner = np.concatenate([np.full(len(item.entries), k) for k, item in enumerate(items)])
    option = np.concatenate([np.arange(len(item.entries)) for item in items])
    entries, exits = (np.concatenate([getattr(item, side) for item in items])
                      for side in ("entries", "exits"))  # fmt: skip
    own = np.concatenate([item.prices for item in items])
    # By what is done, then by what was done before it.
    leading = grid[exits[None, :], entries[:, None]] + own[:, None]
    needs = np.array([sum(1 << other for other in items[k].after) for k in owner.tolist()])
    bits = 1 << owner
    full = (1 << count) - 1
    best = np.full((full + 1, len(owner)), np.inf)
    came = np.full((full + 1, len(owner)), -1)
    free = needs == 0
    best[bits[free], np.flatnonzero(free)] = grid[nowhere, entries[free]] + own[free]
    # All sets of one size at once: each leads to sets of the next size, by what is done next.
    sets, sizes = np.arange(1, full), _sizes(count)
    many = max(1, AT_ONCE // len(owner) ** 2)
    for size in range(1, count):
        there = sets[sizes == size]
        for first in range(0, len(there), many):
            done = there[first : first + many, None]
            joined = best[done[:, 0]][:, None, :] + leading
            source = joined.argmin(axis=2)
            price = np.take_along_axis(joined, source[:, :, None], axis=2)[:, :, 0]
            ready = (done & bits == 0) & (needs & ~done == 0) & np.isfinite(price)
            row, column = np.nonzero(ready)
            goal = (done | bits)[row, column]
            best[goal, column] = price[row, column]
            came[goal, column] = source[row, column]
    last = int(np.argmin(best[full] + grid[exits, nowhere]))
    order: list[int] = []
    chosen: list[int] = []
    done = full
    while last >= 0:
        order.append(int(owner[last]))
        chosen.append(int(option[last]))
        done, last = done & ~int(bits[last]), int(came[done, last])
    return order[::-1], chosen[::-1]
