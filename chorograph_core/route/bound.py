"""The floor of a stage: no order of its runs can lose less in travel and cuts.

Two bounds, the better of which counts: `one_trees` are strong for lines with two ends, `shares` for closed
ones with many doors. Both are made as great as can be in a given number of rounds by subgradients with
some memory of the last ones (Camerini, Fratta and Maffioli 1975). Whatever the round, each value is a
bound.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from chorograph_core.route.doors import Doors, doors_of
from chorograph_core.route.network import Trail
from chorograph_core.route.one_trees import OneTrees
from chorograph_core.route.shares import Shares
from chorograph_core.route.travel_costs import TravelCosts

MEMORY = 0.85
"""How much of the last direction goes on in the next."""
PATIENCE = 9
"""Rounds without gain after which steps are made shorter."""
ROUNDS, FEWEST, WORK = 120, 20, 6_000_000
"""Rounds for each bound: the most; the least; and so many ways looked at in all, in between."""
MORE = 4
"""How many times more for places, of which there are few."""


def path_bound(
    trails: Sequence[Trail], costs: TravelCosts, quick: bool = False, most: int = ROUNDS,
    enough: float = np.inf,
) -> float:  # fmt: skip
    """Lower bound in minutes on the joins between *trails*, the first start left out, raised in *most*
    rounds, or until it is *enough*. A *quick* one is lower and takes a tenth of the time."""
    if len(trails) < 2:
        return 0.0
    doors = doors_of(trails, costs)
    upper = min((len(trails) - 1) * costs.cut, enough)
    rounds = FEWEST if quick else max(FEWEST, min(most, WORK // max(len(doors.a), 1)))
    best = _raised(OneTrees(doors).tree, np.zeros(len(doors.owner)), upper, rounds)
    if doors.joined.any() and not quick:
        shares = Shares(doors)
        best = max(best, _raised(shares.value, shares.begin(), upper, rounds))
    return max(0.0, min(best, upper))


def doors_bound(doors: Doors, cut: float, quick: bool = False) -> float:
    """The same for things that are entered and left by *doors*, what they cost themselves included. By
    trees alone: of things that have a price from door to door shares never told more."""
    least = float(np.minimum.reduceat(doors.own, doors.first).sum())
    upper = (doors.runs - 1) * cut + float(np.maximum.reduceat(doors.own, doors.first).sum())
    rounds = max(FEWEST, MORE * min(ROUNDS, WORK // max(len(doors.a), 1)))
    best = _raised(OneTrees(doors).tree, np.zeros(len(doors.owner)), upper,
                   FEWEST if quick else rounds)  # fmt: skip
    return max(least, min(best, upper))


def _raised(
    value_at: Callable[[np.ndarray], tuple[float, np.ndarray]], at: np.ndarray, upper: float,
    rounds: int,
) -> float:  # fmt: skip
    """The greatest value found from *at* on; no value lies above *upper*."""
    best, stale, pace = -np.inf, 0, 1.0
    going = np.zeros(len(at))
    for _ in range(rounds):
        value, grow = value_at(at)
        stale = 0 if value > best + 1e-5 else stale + 1
        best = max(best, value)
        if stale >= PATIENCE:
            pace, stale = pace * 0.7, 0
        if best >= upper - 1e-6 or float(grow @ grow) < 0.5:
            break
        # What can be hoped for: a tenth more than there is.
        goal = min(upper, max(best, 0.0) * 1.1 + 0.1)
        going = grow + MEMORY * going
        at = at + pace * max(goal - value, 1e-3) / max(float(going @ going), 1e-9) * going
    return float(best)
