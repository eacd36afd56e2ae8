"""What makes an order of things cheaper: a stretch of it turned round, or put in another place.

An order is told by the node that each place in it comes from and the one it leads to, *come* and *go*
(n + 1,) each, and by what it costs more, *back* (n,), to do each thing the other way round; *grid* has the
prices between nodes.
"""

from __future__ import annotations

import numpy as np

from chorograph_core.route.compiled import compiled

GAIN = 1e-7
"""Minutes that a change must save to be one."""
NEVER = 1e9
"""Minutes of what cannot be."""
LONGEST = 3
"""Things that are put in another place together."""


@compiled
def best_turn(
    grid: np.ndarray, come: np.ndarray, go: np.ndarray, back: np.ndarray
) -> tuple[int, int]:
    """The first and the last thing of the stretch that gains most by being turned round (2-opt, Croes 1958);
    (-1, -1) where none does."""
    count = len(back)
    most, one, two = GAIN, -1, -1
    if count < 2:
        return one, two
    for i in range(count):
        dearer = 0.0
        before, head = come[i], go[i]
        into = grid[before, head]
        for j in range(i, count):
            # What cannot be turned round is turned in no stretch.
            if back[j] >= NEVER:
                break
            dearer += back[j]
            # What came before the first then leads to the exit of the last, and so on.
            tail, after = come[j + 1], go[j + 1]
            gain = into + grid[tail, after] - grid[before, tail] - grid[head, after] - dearer
            if gain > most:
                most, one, two = gain, i, j
    return one, two


@compiled
def best_shift(
    grid: np.ndarray, come: np.ndarray, go: np.ndarray, back: np.ndarray
) -> tuple[int, int, int, bool]:
    """The few things that gain most by being put in another place (Or 1976): the number of the first, how
    many, before which place, counted with them in the order, and whether turned round. None, and -1 for the
    first, where none do."""
    count = len(back)
    most, best, moved, goal, turned = GAIN, -1, 0, -1, False
    for many in range(1, min(LONGEST, count - 1) + 1):
        for first in range(count - many + 1):
            stop = first + many
            head, tail = go[first], come[stop]
            freed = grid[come[first], head] + grid[tail, go[stop]] - grid[come[first], go[stop]]
            dearer = 0.0
            for k in range(first, stop):
                dearer += back[k]
            for place in range(count + 1):
                if first <= place <= stop:
                    continue
                before, after = come[place], go[place]
                straight = grid[before, head] + grid[tail, after]
                round_ = grid[before, tail] + grid[head, after] + dearer
                gain = freed + grid[before, after] - min(straight, round_)
                if gain > most:
                    most, best, moved, goal = gain, first, many, place
                    turned = round_ < straight
    return best, moved, goal, turned


@compiled
def shift(things: np.ndarray, first: int, many: int, place: int, turned: bool) -> None:
    """Put *many* of *things* (n,) from the *first* on before *place*, counted with them, *turned* round or
    as they were."""
    stop = first + many
    if turned:
        turn(things, first, stop)
    if place < first:
        swap(things, place, first, stop)
    else:
        swap(things, first, stop, place)


@compiled
def turn(things: np.ndarray, first: int, stop: int) -> None:
    """Turn *things* (n,) from the *first* to before *stop* round."""
    for k in range((stop - first) // 2):
        one, two = things[first + k], things[stop - 1 - k]
        things[first + k], things[stop - 1 - k] = two, one


@compiled
def swap(things: np.ndarray, first: int, middle: int, stop: int) -> None:
    """Exchange *things* (n,) from the *first* to before the *middle* with those from there to before
    *stop*."""
    turn(things, first, middle)
    turn(things, middle, stop)
    turn(things, first, stop)
