"""What makes an order of things cheaper: a stretch of it turned round, or put in another place.

An order is told by the node that each place in it comes from and the one it leads to, *come* and *go*
(n + 1,) each, and by what it costs more, *back* (n,), to do each thing the other way round; *grid* has the
prices between nodes.
"""

from __future__ import annotations

import numpy as np

GAIN = 1e-7
"""Minutes that a change must save to be one."""
NEVER = 1e9
"""Minutes of what cannot be."""
LONGEST = 3
"""Things that are put in another place together."""


def best_turn(
    grid: np.ndarray, come: np.ndarray, go: np.ndarray, back: np.ndarray
) -> tuple[int, int] | None:
    """The first and the last thing of the stretch that gains most by being turned round (2-opt, Croes 1958);
    None where none does."""
    count = len(back)
    if count < 2 or (back >= NEVER).all():
        return None
    entered, left = go[:-1], come[1:]
    summed = np.concatenate([[0.0], np.cumsum(back)])
    # Turn things i to j: what came before i then leads to the exit of j, and so on.
    gain = (
        grid[come[:-1], entered][:, None]
        + grid[left, go[1:]][None, :]
        - grid[np.ix_(come[:-1], left)]
        - grid[np.ix_(entered, go[1:])]
        - (summed[None, 1:] - summed[:-1, None])
    )
    gain[np.tril_indices(count, -1)] = -np.inf
    i, j = divmod(int(np.argmax(gain)), count)
    return (i, j) if gain[i, j] > GAIN else None


def best_shift(
    grid: np.ndarray, come: np.ndarray, go: np.ndarray, back: np.ndarray
) -> tuple[int, int, int, bool] | None:
    """The few things that gain most by being put in another place (Or 1976): the number of the first, how
    many, before which place, counted with them in the order, and whether turned round. None where none do."""
    count = len(back)
    entered, left = go[:-1], come[1:]
    summed = np.concatenate([[0.0], np.cumsum(back)])
    joins = grid[come, go]
    places = np.arange(count + 1)[:, None]
    most, best = GAIN, None
    for many in range(1, min(LONGEST, count - 1) + 1):
        first = np.arange(count - many + 1)
        freed = joins[first] + joins[first + many] - grid[come[first], go[first + many]]
        heads, tails = entered[first], left[first + many - 1]
        inside = (places >= first) & (places <= first + many)
        for turned, one, two in ((False, heads, tails), (True, tails, heads)):
            price = grid[np.ix_(come, one)] + grid[np.ix_(two, go)].T - joins[:, None]
            if turned:
                price += summed[first + many] - summed[first]
            gain = np.where(inside, -np.inf, freed - price)
            place, segment = divmod(int(np.argmax(gain)), len(first))
            if gain[place, segment] > most:
                most, best = float(gain[place, segment]), (segment, many, place, turned)
    return best


def shifted(things: list, first: int, many: int, place: int) -> tuple[list, list, list]:
    """*things* without *many* from the *first* on, parted before *place*; and those between the two parts."""
    rest = things[:first] + things[first + many :]
    at = place - many if place > first else place
    return rest[:at], things[first : first + many], rest[at:]
