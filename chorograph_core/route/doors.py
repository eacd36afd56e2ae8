"""The runs of a stage as the floor sees them: doors, the ways between them, and how each may be gone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from chorograph_core.route.network import Trail
from chorograph_core.route.travel_costs import TravelCosts


def firsts(keys: np.ndarray) -> np.ndarray:
    """Where each stretch of equal *keys* begins."""
    if not len(keys):
        return np.zeros(0, int)
    return np.flatnonzero(np.concatenate([[True], np.diff(keys) != 0]))


def least_of(values: np.ndarray, first: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The least of each stretch that begins at *first*, and where it stands."""
    if not len(first):
        return np.zeros(0), np.zeros(0, int)
    least = np.minimum.reduceat(values, first)
    sizes = np.diff(np.append(first, len(values)))
    places = np.where(values <= np.repeat(least, sizes), np.arange(len(values)), len(values))
    return least, np.minimum.reduceat(places, first)


@dataclass(frozen=True)
class Doors:
    """*owner* (d,): the run each door belongs to, in order. *a*, *b*, *price* (w,): the ways that are
    known between doors of different runs. *radius* (d,): what a way from a door that is not known costs
    at least. *enter*, *leave* (o,): the doors of each option of each run, *first* (n,) where those of a
    run begin, *own* (o,) what the option itself costs. *joined* (n,): whether a run is entered and left
    within one place of a tree (a closed one)."""

    owner: np.ndarray
    a: np.ndarray
    b: np.ndarray
    price: np.ndarray
    radius: np.ndarray
    enter: np.ndarray
    leave: np.ndarray
    first: np.ndarray
    joined: np.ndarray
    own: np.ndarray

    @property
    def runs(self) -> int:
        return len(self.joined)

    @cached_property
    def first_of_run(self) -> np.ndarray:
        """Where the doors of each run begin."""
        return firsts(self.owner)


def doors_of(trails: Sequence[Trail], costs: TravelCosts) -> Doors:
    """Doors of *trails*; *costs* are the ways between all of them."""
    owner: list[int] = []
    nodes: list[int] = []
    enter: list[int] = []
    leave: list[int] = []
    run: list[int] = []
    joined = []
    for k, trail in enumerate(trails):
        options = sorted({(min(pair), max(pair)) for pair in trail.options()})
        mine = sorted({node for pair in options for node in pair})
        place = {node: len(nodes) + i for i, node in enumerate(mine)}
        nodes += mine
        owner += [k] * len(mine)
        enter += [place[a] for a, _ in options]
        leave += [place[b] for _, b in options]
        run += [k] * len(options)
        joined.append(trail.closed or trail.free or len(mine) == 1)
    one, two, price = costs.known
    most = max(max(nodes), int(one.max(initial=0)), int(two.max(initial=0)))
    door = np.full(most + 1, -1)
    door[nodes] = np.arange(len(nodes))
    owners = np.array(owner)
    a, b = door[one], door[two]
    kept = (one < two) & (a >= 0) & (b >= 0) & (price < costs.cut)
    a, b, price = a[kept], b[kept], price[kept]
    apart = owners[a] != owners[b]
    radius = np.minimum([costs.radius[node] for node in nodes], costs.cut)
    return Doors(owners, a[apart], b[apart], price[apart], radius, np.array(enter),
                 np.array(leave), firsts(np.array(run)), np.array(joined),
                 np.zeros(len(enter)))  # fmt: skip
