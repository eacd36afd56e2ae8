"""The search for a tour, as loops over numbers: ruin and recreate, exchanges, kicks.

A tour stands in two arrays: the things in their *order*, and by which of all options each is done (*by*).
All functions that say so change them in place.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from chorograph_core.route.all_orders import best_of_all as best_of_all
from chorograph_core.route.compiled import compiled
from chorograph_core.route.exchanges import GAIN, NEVER, best_shift, best_turn, shift, swap, turn

HEAT = 0.25
"""What share of a tour a worse one may be dearer by at first, over the root of how many things there are."""
MOST_OUT = 9
"""Things taken out at once, at most."""
NEXT_TO = 8
"""Up to how many things lie in a stretch that a kick exchanges with the next."""
CHOSEN = 30
"""Things up to which the doors are chosen anew in every round."""
NOISE = 0.02
"""Minutes by which things that lie near may be taken for nearer."""
SETTLED = 30
"""Exchanges after which a tour is left as it is."""


class Things(NamedTuple):
    """What is to be done, all options one after the other: those of thing *k* from *first*[k] to
    *first*[k + 1]. *entries* and *exits* are nodes, *own* prices, *turned* which option is the same the other
    way round (-1: none). *grid* has the prices between nodes; its last row and column, *nowhere*, what
    it costs to begin and to end at each. *before*[a, b]: a must be done before b; *needs*: how many
    before each; *bound*: any must."""

    grid: np.ndarray
    nowhere: int
    first: np.ndarray
    entries: np.ndarray
    exits: np.ndarray
    own: np.ndarray
    turned: np.ndarray
    before: np.ndarray
    needs: np.ndarray
    bound: bool


@compiled
def below(many: int) -> int:
    """Any number from none to less than so *many*."""
    return int(np.random.random() * many)


@compiled
def copy(what: np.ndarray, into: np.ndarray) -> None:
    """Write *what* (n,) *into* another array."""
    for k in range(len(what)):
        into[k] = what[k]


@compiled
def price_of(things: Things, by: np.ndarray) -> float:
    """What a tour costs."""
    at, total = things.nowhere, 0.0
    for option in by:
        total += things.grid[at, things.entries[option]] + things.own[option]
        at = things.exits[option]
    return total + things.grid[at, things.nowhere]


@compiled
def doors_of(things: Things, by: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """What each place in an order comes from and leads to: (n + 1,) nodes each."""
    count = len(by)
    come, go = np.empty(count + 1, np.int64), np.empty(count + 1, np.int64)
    come[0] = go[count] = things.nowhere
    for k in range(count):
        come[k + 1], go[k] = things.exits[by[k]], things.entries[by[k]]
    return come, go


@compiled
def put_in(
    things: Things, order: np.ndarray, by: np.ndarray, size: int, numbers: np.ndarray
) -> None:
    """Put things by their *numbers*, one after the other, where and by the option by which each costs least.
    The first *size* places of *order* and *by* are taken; both change."""
    grid = things.grid
    for number in numbers:
        low, high = 0, size
        if things.bound:
            for place in range(size):
                if things.before[order[place], number]:
                    low = place + 1
                elif things.before[number, order[place]]:
                    high = min(high, place)
        least, goal, best = math.inf, low, things.first[number]
        for place in range(low, high + 1):
            come = things.exits[by[place - 1]] if place else things.nowhere
            go = things.entries[by[place]] if place < size else things.nowhere
            join = grid[come, go]
            for option in range(things.first[number], things.first[number + 1]):
                added = grid[come, things.entries[option]] + things.own[option]
                added += grid[things.exits[option], go] - join
                if added < least:
                    least, goal, best = added, place, option
        for place in range(size, goal, -1):
            order[place], by[place] = order[place - 1], by[place - 1]
        order[goal], by[goal] = number, best
        size += 1


@compiled
def onwards(
    things: Things, order: np.ndarray, costs: np.ndarray, known: np.ndarray, paid: np.ndarray
) -> float:
    """The price of an *order* by the best options. *costs*, by option, becomes what it costs to have done
    each thing by it; *paid* is that for the order *known*, which may begin alike."""
    grid, first = things.grid, things.first
    same = True
    for k in range(len(order)):
        here = order[k]
        same = same and known[k] == here
        for option in range(first[here], first[here + 1]):
            if same:
                costs[option] = paid[option]
                continue
            entry = things.entries[option]
            if k:
                least = math.inf
                for before in range(first[order[k - 1]], first[order[k - 1] + 1]):
                    least = min(least, costs[before] + grid[things.exits[before], entry])
            else:
                least = grid[things.nowhere, entry]
            costs[option] = least + things.own[option]
    last = _last(things, order, costs)
    return costs[last] + grid[things.exits[last], things.nowhere]


@compiled
def _last(things: Things, order: np.ndarray, costs: np.ndarray) -> int:
    """The best option of the last thing of an order."""
    least, best = math.inf, -1
    for option in range(things.first[order[-1]], things.first[order[-1] + 1]):
        price = costs[option] + things.grid[things.exits[option], things.nowhere]
        if price < least:
            least, best = price, option
    return best


@compiled
def backwards(things: Things, order: np.ndarray, by: np.ndarray, costs: np.ndarray) -> None:
    """The best options for an *order*, exactly, into *by*, where *costs* is what it costs to have done each
    (the order of a generalised tour given, Noon and Bean 1991)."""
    by[-1] = _last(things, order, costs)
    for k in range(len(order) - 2, -1, -1):
        entry, least = things.entries[by[k + 1]], math.inf
        for option in range(things.first[order[k]], things.first[order[k] + 1]):
            price = costs[option] + things.grid[things.exits[option], entry]
            if price < least:
                least, by[k] = price, option


@compiled
def choose(things: Things, order: np.ndarray, by: np.ndarray) -> None:
    """The best option of each thing for this *order*, into *by*."""
    costs = np.empty(len(things.own))
    onwards(things, order, costs, np.full(len(order), -1), costs)
    backwards(things, order, by, costs)


@compiled
def settle(things: Things, order: np.ndarray, by: np.ndarray) -> None:
    """2-opt and or-opt until nothing gets cheaper, and the best doors for the order; both change."""
    choose(things, order, by)
    if things.bound:
        return
    for _ in range(SETTLED):
        come, go = doors_of(things, by)
        back = np.empty(len(by))
        for k in range(len(by)):
            other = things.turned[by[k]]
            back[k] = NEVER if other < 0 else things.own[other] - things.own[by[k]]
        first, last = best_turn(things.grid, come, go, back)
        if first >= 0:
            for k in range(first, last + 1):
                by[k] = things.turned[by[k]]
            turn(order, first, last + 1)
            turn(by, first, last + 1)
        else:
            first, many, place, turned = best_shift(things.grid, come, go, back)
            if first < 0:
                return
            if turned:
                for k in range(first, first + many):
                    by[k] = things.turned[by[k]]
            shift(order, first, many, place, turned)
            shift(by, first, many, place, turned)
        choose(things, order, by)


@compiled
def _ruin(things: Things, order: np.ndarray, by: np.ndarray, most: int) -> None:
    """Take out a stretch of the order, or what lies near one thing, and put it back (Schrimpf et al.
    2000)."""
    count, grid = len(order), things.grid
    many, at = 1 + below(most), below(count)
    out, places = np.empty(many, np.int64), np.empty(many, np.int64)
    if np.random.random() < 0.5:
        start = max(0, min(at - many // 2, count - many))
        for k in range(many):
            places[k] = start + k
    else:
        entry, leave = things.entries[by[at]], things.exits[by[at]]
        apart = np.empty(count)
        for k in range(count):
            apart[k] = np.random.random() * NOISE
            apart[k] += grid[leave, things.entries[by[k]]] + grid[things.exits[by[k]], entry]
        apart[at] = -1.0
        for k in range(many):
            places[k] = np.argmin(apart)
            apart[places[k]] = math.inf
    for k in range(many):
        out[k], order[places[k]] = order[places[k]], -1
    size = 0
    for k in range(count):
        if order[k] >= 0:
            order[size], by[size] = order[k], by[k]
            size += 1
    for k in range(many - 1, 0, -1):
        other = below(k + 1)
        out[k], out[other] = out[other], out[k]
    if things.bound:
        # Those that need more after those that need less, else as they are.
        for k in range(1, many):
            for j in range(k, 0, -1):
                if things.needs[out[j - 1]] <= things.needs[out[j]]:
                    break
                out[j - 1], out[j] = out[j], out[j - 1]
    put_in(things, order, by, size, out)


@compiled
def improve(
    things: Things, order: np.ndarray, by: np.ndarray, rounds: int, kicks: int, seed: int
) -> None:
    """Ruin and recreate for so many *rounds*, where what is worse is kept less and less often, then so many
    *kicks*. *order* and *by* become the best that was found."""
    np.random.seed(seed)
    settle(things, order, by)
    count = len(order)
    if count == 1:
        return
    now = best = price_of(things, by)
    kept, kept_by = order.copy(), by.copy()
    known, paid, costs = np.full(count, -1), np.empty(len(things.own)), np.empty(len(things.own))
    heat = HEAT * max(best, 0.05)
    for number in range(rounds):
        was, was_by = order.copy(), by.copy()
        _ruin(things, order, by, min(MOST_OUT, max(2, count // 2)))
        tried = price_of(things, by)
        chosen = count <= CHOSEN and tried < now + heat
        if chosen:
            tried = onwards(things, order, costs, known, paid)
        warm = heat * (1 - number / rounds) ** 2 / math.sqrt(count)
        if tried < now - warm * math.log(max(np.random.random(), 1e-12)):
            now = tried
            if chosen:
                backwards(things, order, by, costs)
                copy(order, known)
                copy(costs, paid)
        else:
            copy(was, order)
            copy(was_by, by)
        if now < best - GAIN:
            settle(things, order, by)
            now = best = price_of(things, by)
            copy(order, kept)
            copy(by, kept_by)
    copy(kept, order)
    copy(kept_by, by)
    _kick(things, order, by, kicks)


@compiled
def _kick(things: Things, order: np.ndarray, by: np.ndarray, kicks: int) -> None:
    """Exchange two stretches that lie next to each other and settle again, so many times; what is no
    cheaper is taken back (Martin, Otto and Felten 1991). Lines that are there in great number and differ
    in nothing but their place, ruin and recreate leaves in a poor order."""
    now, count = price_of(things, by), len(order)
    was, was_by = order.copy(), by.copy()
    for number in range(kicks):
        if number % 2:
            first = below(count - 2)
            middle = min(count - 1, first + 1 + below(NEXT_TO))
            stop = min(count, middle + 1 + below(NEXT_TO))
        else:
            first = below(count - 2)
            middle = first + 1 + below(count - 2 - first)
            stop = middle + 1 + below(count - middle)
        swap(order, first, middle, stop)
        swap(by, first, middle, stop)
        settle(things, order, by)
        tried = price_of(things, by)
        if tried < now - GAIN:
            now = tried
            copy(order, was)
            copy(by, was_by)
        else:
            copy(was, order)
            copy(was_by, by)
