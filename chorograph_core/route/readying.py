"""``python -m chorograph_core.route.readying`` compiles the loops of the search, so that nobody waits for it
with her first plan. What is compiled is kept for all processes of whoever runs it."""

from __future__ import annotations

import os

import numpy as np

from chorograph_core.route.tours import THOROUGH, Item, best_tour

THINGS = 12
"""More than are searched through altogether, and enough to be kicked."""


def ready() -> float:
    """Search for tours through a few things in a row, which calls all loops: what the longer one costs."""
    doors = np.arange(2.0 * THINGS)
    items = [Item(np.array([2 * k, 2 * k + 1]), np.array([2 * k + 1, 2 * k]), np.zeros(2))
             for k in range(THINGS)]  # fmt: skip
    table = np.abs(doors[:, None] - doors)
    best_tour(items[:3], table, rounds=1)
    return best_tour(items, table, rounds=2 * THOROUGH).price


if __name__ == "__main__":
    # Whoever is at work already goes first.
    os.nice(10)
    ready()
