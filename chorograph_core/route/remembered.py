"""What doing many things costs at least, where there are too many to go through all orders.

By walks that remember, of what was done, only what lies near where they are: who is far away may do a thing
again (Baldacci, Mingozzi and Roberti 2011). What is done more than once is made dearer, what is left out
cheaper, until hardly any walk gains by it (Held and Karp 1971). Every walk that does all things once is among
them, so whatever the prices, the cheapest walk costs no more than the best order.
"""

from __future__ import annotations

from collections.abc import Sequence, Sized
from dataclasses import dataclass
from functools import cached_property

import numpy as np

STAGES = ((4, 15, 0.8), (6, 8, 0.4), (7, 4, 0.3))
"""How many things are remembered, the last one among them; rounds; and how long steps are at first."""
MEMORY, PATIENCE, SHORTER = 0.3, 3, 0.7
"""How much of the last direction goes on in the next; rounds without gain after which steps are made
shorter, and by how much."""
LIFT, PLUS = 1.5, 0.1
"""What is hoped for beside what there is: so many times as much, and so many minutes more."""
BETWEEN, GROUPS = 6, 16
"""How many things are remembered where it matters what was begun with; groups of doors to begin by, the
most."""
FEWEST = 8
"""Rounds without which little is gained."""
NEAREST = 40
"""Things, the nearest to each, from which one comes to it by this door or that; from others by the best of
all, and what was done is forgotten on the way."""
ROUNDED = 5e-6
"""Minutes that a step may be off, summed in single precision."""
STARTS = 6
"""Things that a first order is begun with."""


@dataclass(frozen=True)
class Things:
    """Things to be done once each: the doors *ins* and *outs* of each, by their place in the *table* (k, k)
    of prices from out to in; *own* prices (in, out) of doing it; and what *needs* to be done before it."""

    ins: Sequence[Sequence[int]]
    outs: Sequence[Sequence[int]]
    own: Sequence[np.ndarray]
    table: np.ndarray
    needs: Sequence[frozenset[int]]

    @classmethod
    def of_ways(
        cls, ways: Sequence[Sequence[tuple[int, int]]], table: np.ndarray, needs: Sequence[int]
    ) -> Things:
        """Things that may be done by these (in, out) *ways* at no price of their own; *needs* as bits."""
        ins = [sorted({a for a, _ in pairs}) for pairs in ways]
        outs = [sorted({b for _, b in pairs}) for pairs in ways]
        own = []
        for mine, ours, pairs in zip(ins, outs, ways, strict=True):
            own.append(np.full((len(mine), len(ours)), np.inf))
            for a, b in pairs:
                own[-1][mine.index(a), ours.index(b)] = 0.0
        sets = [frozenset(k for k in range(len(ways)) if need >> k & 1) for need in needs]
        return cls(ins, outs, own, table, sets)

    @cached_property
    def apart(self) -> np.ndarray:
        """The least price (n, n) from each thing to each other."""
        table = self.table[np.ix_(np.concatenate(self.outs), np.concatenate(self.ins))]
        for axis, sides in ((0, self.outs), (1, self.ins)):
            first = np.cumsum([0, *map(len, sides)])[:-1]
            table = np.minimum.reduceat(table, first, axis=axis)
        np.fill_diagonal(table, np.inf)
        return table

    def one_order(self) -> float:
        """What one order costs that always goes on to what is cheapest next, from one of a few beginnings."""
        count = len(self.ins)
        thing = np.repeat(np.arange(count), [each.size for each in self.own])
        entry = np.concatenate(
            [np.repeat(a, len(b)) for a, b in zip(self.ins, self.outs, strict=True)]
        )
        leave = np.concatenate(
            [np.tile(b, len(a)) for a, b in zip(self.ins, self.outs, strict=True)]
        )
        price = np.concatenate([each.ravel() for each in self.own])
        needs = [sorted(each) for each in self.needs]
        found = np.inf
        for start in range(0, count, max(1, count // STARTS)):
            if needs[start]:
                continue
            here = int(np.argmin(np.where(thing == start, price, np.inf)))
            gone, done = float(price[here]), np.zeros(count, bool)
            done[start] = True
            for _ in range(count - 1):
                ready = ~done & [bool(done[each].all()) for each in needs]
                step = np.where(ready[thing], self.table[leave[here], entry] + price, np.inf)
                here = int(np.argmin(step))
                gone += float(step[here])
                done[thing[here]] = True
            found = min(found, gone)
        return found


def worth_it(ins: Sequence[Sized], outs: Sequence[Sized], sums: float) -> bool:
    """Whether so many *sums* go far enough for things with these doors in and out."""
    return len(ins) > 1 and _sums(ins, outs, STAGES[0][0]) * FEWEST <= sums


def least_to_each(things: Things, sums: float, ends: np.ndarray | float = 0.0) -> np.ndarray:
    """Lower bounds (k,), found by about so many *sums*, on doing all *things* in any order and leaving the
    last one by each door; infinite where none is left. *ends* (k,) says what it costs to end there, so
    that the least of both is raised."""
    return _raised(things, sums, ends)[0]


def least_between(things: Things, sums: float) -> np.ndarray:
    """Lower bounds (k, k) on doing all *things* in any order from one door (row) to another (column);
    infinite where no thing is begun by the one, or left by the other. Doors to begin by that lie near each
    other are told from others, not from each other."""
    least, prices = _raised(things, sums)
    nodes = sorted({node for nodes in things.ins for node in nodes})
    groups = int(min(GROUPS, len(nodes), sums // _sums(things.ins, things.outs, BETWEEN)))
    between = np.full(things.table.shape, np.inf)
    between[nodes] = 0.0
    if groups < 2:
        return np.maximum(between, least)
    walks = _Walks(things, BETWEEN)
    for group in _groups(nodes, things.table, groups):
        between[group] = walks.to_each(walks.gone(prices, group), prices)
    return np.maximum(between, least)


def _groups(nodes: list[int], table: np.ndarray, many: int) -> list[list[int]]:
    """The *nodes* in so *many* groups that lie near each other: by the nearest of so many far apart."""
    apart = np.maximum(table, table.T)[np.ix_(nodes, nodes)]
    chosen = [0]
    while len(chosen) < many:
        chosen.append(int(apart[chosen].min(axis=0).argmax()))
    nearest = apart[chosen].argmin(axis=0)
    groups = [np.array(nodes)[nearest == k].tolist() for k in range(len(chosen))]
    return [group for group in groups if group]


def _raised(
    things: Things, sums: float, ends: np.ndarray | float = 0.0
) -> tuple[np.ndarray, np.ndarray]:
    """The bounds that `least_to_each` tells, and the prices (n,) of things by which the least was most."""
    least = np.full(len(things.table), np.inf)
    least[np.concatenate(things.outs)] = 0.0
    dearest = things.one_order() + float(np.max(ends))
    count = len(things.ins)
    prices, best = np.zeros(count), -np.inf
    for memory, rounds, pace in STAGES:
        rounds = min(rounds, int(sums // _sums(things.ins, things.outs, memory)))
        if not rounds:
            break
        sums -= rounds * _sums(things.ins, things.outs, memory)
        walks = _Walks(things, memory)
        at, going, stale = prices, np.zeros(count), 0
        for _ in range(rounds):
            gone = walks.gone(at)
            each, more = walks.to_each(gone, at), walks.times(gone, ends) - 1.0
            least = np.maximum(least, each)
            value = float((each + ends).min())
            stale = 0 if value > best + 1e-5 else stale + 1
            if value > best:
                best, prices = value, at
            if best >= dearest - 1e-6 or not (more.any() or any(things.needs)):
                return least, prices
            if not more.any():
                # It does all once; what comes before what, who remembers more knows better.
                break
            if stale >= PATIENCE:
                pace, stale = pace * SHORTER, 0
            going = more + MEMORY * going
            # No more than an order that is known.
            hoped = min(dearest, LIFT * max(best, 0.0) + PLUS)
            at = at + pace * max(hoped - value, 1e-3) / max(float(going @ going), 1e-9) * going
    return least, prices


def _sums(ins: Sequence[Sized], outs: Sequence[Sized], memory: int) -> float:
    """Sums of a round."""
    count = len(ins)
    return (
        float(count * sum(map(len, ins)) * sum(map(len, outs)))
        * min(1.0, NEAREST / count)
        * 2 ** (memory - 1)
    )


def _pairs(own: np.ndarray) -> tuple[np.ndarray, ...]:
    """The doors (in, out) between which a thing can be done, by *own* prices, sorted by the one it is left
    by: by which it is entered, at what price (n, 1), what the outs are, and where those of each begin."""
    leaves, entries = np.nonzero(np.isfinite(own.T))
    at = np.flatnonzero(np.diff(leaves, prepend=-1) > 0)
    return entries, own[entries, leaves][:, None], leaves[at], at


class _Walks:
    """Walks of as many steps as there are things. Where one stands is the thing done last, which of those
    near it were done before, as bits, and the door it was left by: numbered in this order."""

    def __init__(self, things: Things, memory: int) -> None:
        self.things, self.count = things, len(things.ins)
        many = min(memory - 1, self.count - 1)
        self.sets = 1 << many
        self.doors = [len(nodes) for nodes in things.outs]
        self.first = np.cumsum([0, *(self.sets * doors for doors in self.doors)])
        self.leave = np.concatenate([np.tile(nodes, self.sets) for nodes in things.outs])
        self.own = [each.astype(np.float32) for each in things.own]
        self.pairs = [_pairs(each) for each in self.own]
        rank = np.argsort(np.minimum(things.apart, things.apart.T), axis=1, kind="stable")
        near = rank[:, :many]
        # All that is remembered: (things, sets, things).
        bits = np.arange(self.sets)[:, None] >> np.arange(many) & 1
        known = np.zeros((self.count, self.sets, self.count), bool)
        for k in range(self.count):
            known[k][:, near[k]] = bits
            known[k, :, k] = True
        close = rank[:, : min(NEAREST, self.count - 1)]
        self.far = np.where(np.eye(self.count, dtype=bool), np.inf, things.apart)
        for k in range(self.count):
            self.far[close[k], k] = np.inf
        self.steps = [self._steps_to(k, near[k], close[k], known) for k in range(self.count)]

    def _steps_to(self, k: int, near: np.ndarray, close: np.ndarray, known: np.ndarray):
        """From where one may go to do thing *k*, sorted by what is remembered then: where one stands, where
        the next such set begins, what the sets are, and prices (ins, n)."""
        # Who has done what comes after it does it no more.
        against = [k, *(other for other, need in enumerate(self.things.needs) if k in need)]
        weights = 1 << np.arange(len(near))
        standing, then = [], []
        for other in sorted(close.tolist()):
            free = np.flatnonzero(~known[other][:, against].any(axis=1))
            doors = np.arange(self.doors[other])
            standing.append((self.first[other] + free[:, None] * len(doors) + doors).ravel())
            then.append(np.repeat(known[other][free][:, near] @ weights, len(doors)))
        spots, sets = np.concatenate(standing), np.concatenate(then)
        rank = np.argsort(sets, kind="stable")
        spots, sets = spots[rank], sets[rank]
        begins = np.flatnonzero(np.diff(sets, prepend=-1) > 0)
        prices = self.things.table[np.ix_(self.leave[spots], self.things.ins[k])].T
        return spots, begins, sets[begins], np.ascontiguousarray(prices, np.float32)

    def gone(self, prices: np.ndarray, begun: Sequence[int] | None = None) -> list[np.ndarray]:
        """After every step what it costs at least to stand somewhere, where doing a thing costs its one of
        *prices* (n,) besides. The walks are *begun* by any of these doors, or by any at all."""
        now = np.full(self.first[-1], np.inf, np.float32)
        for k, doors in enumerate(self.doors):
            entries = np.isin(self.things.ins[k], self.things.ins[k] if begun is None else begun)
            if entries.any():
                first = self.own[k][entries].min(axis=0)
                now[self.first[k] : self.first[k] + doors] = first + prices[k]
        steps = [now]
        for _ in range(1, self.count):
            now = steps[-1]
            then = np.full(len(now), np.inf, np.float32)
            afar = (np.minimum.reduceat(now, self.first[:-1])[:, None] + self.far).min(axis=0)
            for k, (spots, begins, sets, ahead) in enumerate(self.steps):
                there = then[self.first[k] : self.first[k + 1]].reshape(self.sets, self.doors[k])
                if len(spots):
                    come = np.minimum.reduceat(now[spots] + ahead, begins, axis=1)
                    entries, price, leaves, at = self.pairs[k]
                    through = np.minimum.reduceat(come[entries] + price, at, axis=0) + prices[k]
                    there[sets[:, None], leaves] = through.T
                forgot = self.own[k].min(axis=0) + (afar[k] + prices[k])
                there[0] = np.minimum(there[0], forgot)
            steps.append(then)
        return steps

    def to_each(self, gone: list[np.ndarray], prices: np.ndarray) -> np.ndarray:
        """What the cheapest walk to each door costs, (k,), the *prices* taken off again: as much as they come
        to where each thing is done once."""
        least = np.full(len(self.things.table), np.inf)
        np.minimum.at(least, self.leave, gone[-1].astype(float))
        return least - prices.sum() - self.count * ROUNDED

    def times(self, gone: list[np.ndarray], ends: np.ndarray | float) -> np.ndarray:
        """How often each thing is done (n,) on the walk that is cheapest with what *ends* cost, read
        backwards from what all cost."""
        times = np.zeros(self.count)
        last = gone[-1] + (ends[self.leave] if isinstance(ends, np.ndarray) else ends)
        at = int(np.argmin(last))
        for before in (*gone[-2::-1], None):
            k = int(np.searchsorted(self.first, at, side="right")) - 1
            times[k] += 1
            if before is None:
                break
            at = self._came(before, k, *divmod(at - int(self.first[k]), self.doors[k]))
        return times

    def _came(self, before: np.ndarray, k: int, known: int, door: int) -> int:
        """Where one stood *before* thing *k* was done, left by its *door* with so much *known*."""
        spots, begins, sets, ahead = self.steps[k]
        best, at = np.inf, -1
        group = int(np.searchsorted(sets, known))
        if group < len(sets) and sets[group] == known:
            stop = int(begins[group + 1]) if group + 1 < len(begins) else len(spots)
            some = slice(int(begins[group]), stop)
            come = before[spots[some]] + ahead[:, some] + self.own[k][:, door, None]
            best, at = float(come.min()), int(spots[some][int(np.argmin(come)) % come.shape[1]])
        if known == 0:
            afar = np.minimum.reduceat(before, self.first[:-1]) + self.far[:, k]
            other = int(np.argmin(afar))
            if afar[other] + self.own[k][:, door].min() < best:
                there = before[self.first[other] : self.first[other + 1]]
                at = int(self.first[other]) + int(np.argmin(there))
        return at
