"""The order of trails within a stage: which follows which, entered from which end.

Every trail has two ends (numbered 2k and 2k + 1); joining two costs the cheapest way between their
nodes, or a cut if that is cheaper. Greedy joining of nearest ends, then 2-opt and or-opt over
neighbour lists, then kicks; at last the best doorway of each closed trail by dynamic programming.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from chorograph_core.route.network import Trail
from chorograph_core.route.travel_costs import NEIGHBOURS, TravelCosts, between_ends

WINDOW = 50
"""Trails in the stretch that a kick shakes up."""
WORTH = 0.03
"""Share of the price that a round of settling must save for another one to be tried."""
POLISH = 40
SMALL = 20
"""Tries in a small stage, and how many trails one has at most."""


def best_order(costs: TravelCosts, count: int) -> list[int]:
    """Entry ends of all *count* trails in a good order, each join by whichever doors are nearest."""
    if count <= 1:
        return [0] * count
    return _improve(_greedy(costs, count), costs)


def total(order: Sequence[int], costs: TravelCosts) -> float:
    """Price of all joins of an order, not counting the first start."""
    return sum(costs.price(a ^ 1, b) for a, b in itertools.pairwise(order))


def _greedy(costs: TravelCosts, count: int) -> list[int]:
    """Join the nearest free ends first until only cuts are left."""
    links = sorted(
        (price, a, b)
        for a, found in enumerate(costs.near)
        for price, b in found
        if price < costs.cut
    )
    partner: dict[int, int] = {}
    group = list(range(count))

    def find(k: int) -> int:
        while group[k] != k:
            group[k] = group[group[k]]
            k = group[k]
        return k

    for _, a, b in links:
        if a in partner or b in partner:
            continue
        one, two = find(a >> 1), find(b >> 1)
        if one != two:
            partner[a], partner[b] = b, a
            group[two] = one
    order: list[int] = []
    seen = [False] * count
    for k in range(count):
        if seen[k]:
            continue
        # Walk back to the free end of this chain, then forwards.
        entry = 2 * k
        while entry in partner:
            entry = partner[entry] ^ 1
            if entry >> 1 == k:
                break
        while True:
            order.append(entry)
            seen[entry >> 1] = True
            leave = entry ^ 1
            if leave not in partner:
                break
            entry = partner[leave]
    return order


def _improve(
    order: list[int], costs: TravelCosts, rounds: int = 12, ends_fixed: bool = False
) -> list[int]:
    """2-opt and or-opt until nothing gets cheaper, forwards and backwards in turn.

    *ends_fixed*: the first and last trail stay where they are.
    """
    now = total(order, costs)
    for _ in range(rounds):
        order = _pass(order, costs, ends_fixed)
        order = [end ^ 1 for end in reversed(order)]
        order = _pass(order, costs, ends_fixed)
        order = [end ^ 1 for end in reversed(order)]
        before, now = now, total(order, costs)
        if now > before - 1e-9:
            break
    return order


def _pass(order: list[int], costs: TravelCosts, ends_fixed: bool) -> list[int]:
    """Once along the order: after each trail the nearest others are tried as the next one."""
    n, table, near = len(order), costs.prices(), costs.near
    place = {end >> 1: i for i, end in enumerate(order)}
    last = n - 2 if ends_fixed else n - 1
    first = 1 if ends_fixed else 0
    i = 0
    while i < n - first:
        leave = order[i] ^ 1
        after = order[i + 1] if i + 1 < n else -1
        now = table[leave][after] if after >= 0 else 0.0
        moved = False
        for cost, end in near[leave]:
            if after >= 0 and cost >= now:
                break
            k = place.get(end >> 1, -1)
            if k < first or k > last or k == i:
                continue
            forward = order[k] == end
            if not forward and k > i:
                gain = now - cost
                if k + 1 < n:
                    beyond = order[k + 1]
                    gain += table[end][beyond]
                    gain -= table[after][beyond] if after >= 0 else 0.0
                if gain > 1e-9:
                    order[i + 1 : k + 1] = [e ^ 1 for e in reversed(order[i + 1 : k + 1])]
                    for m in range(i + 1, k + 1):
                        place[order[m] >> 1] = m
                    moved = True
                    break
            size = _block(order, table, i, k, now - cost, forward, first, last)
            if size:
                _move(order, place, i, k, size, forward)
                moved = True
                break
        if not moved:
            i += 1
    return order


def _block(order, table, i: int, k: int, saved: float, forward: bool, least: int, most: int) -> int:
    """Or-opt: how many trails at *k* are worth putting behind the one at *i*: one to three, or none.

    *saved* is what the joint behind *i* costs now less what it would cost.
    """
    n = len(order)
    follows = order[i + 1] if i + 1 < n else -1
    # The block begins at *k* and grows away from it; the joint on the side of *k* is the same for all.
    if forward:
        one = table[order[k - 1] ^ 1][order[k]] if k else 0.0
    else:
        one = table[order[k] ^ 1][order[k + 1]] if k + 1 < n else 0.0
    for size in (1, 2, 3):
        first, last = (k, k + size - 1) if forward else (k - size + 1, k)
        if first < least or last > most or first <= i <= last:
            return 0
        if first == i + 1:
            continue
        if forward:
            two = table[order[last] ^ 1][order[last + 1]] if last + 1 < n else 0.0
        else:
            two = table[order[first - 1] ^ 1][order[first]] if first else 0.0
        gain = saved + one + two
        if gain <= 1e-9:
            # What the new joins cost can only make it worse.
            continue
        if follows >= 0:
            gain -= table[order[last] ^ 1 if forward else order[first]][follows]
        if first and last + 1 < n:
            gain -= table[order[first - 1] ^ 1][order[last + 1]]
        if gain > 1e-9:
            return size
    return 0


def _move(
    order: list[int], place: dict[int, int], i: int, k: int, size: int, forward: bool
) -> None:
    """Put *size* trails at *k* behind the trail at *i*, and say where everything is now."""
    first = k if forward else k - size + 1
    block = order[first : first + size]
    if not forward:
        block = [e ^ 1 for e in reversed(block)]
    del order[first : first + size]
    at = i + 1 if i < first else i + 1 - size
    order[at:at] = block
    for m in range(min(first, at), min(len(order), max(first, at) + size)):
        place[order[m] >> 1] = m


def _kick(order: list[int], rng: np.random.Generator) -> list[int]:
    """Double bridge: a change that 2-opt cannot undo at once."""
    a, b, c = sorted(rng.choice(np.arange(1, len(order) - 1), 3, replace=False).tolist())
    return order[:a] + order[b:c] + order[a:b] + order[c:]


def choose_doors(order: Sequence[int], trails: Sequence[Trail], costs: TravelCosts) -> list[tuple]:
    """The (entry node, exit node) of each trail in *order* that makes the joins cheapest.

    Dynamic programming over the order: a closed trail is left where it was entered, a free one by
    any other of its doors.
    """
    layers = []
    for end in order:
        trail = trails[end >> 1]
        if trail.closed or trail.free:
            layers.append(trail.options())
        else:
            layers.append([trail.options()[end & 1]])
    summed = [0.0] * len(layers[0])
    back: list[list[int]] = []
    for before, here in itertools.pairwise(layers):
        rows, fresh = [], []
        for entry, _ in here:
            best, choice = np.inf, 0
            for k, (_, leave) in enumerate(before):
                joined = summed[k] + costs.node_price(leave, entry)
                if joined < best - 1e-12:
                    best, choice = joined, k
            fresh.append(best)
            rows.append(choice)
        summed, back = fresh, [*back, rows]
    k = int(np.argmin(summed))
    chosen = [layers[-1][k]]
    for rows, layer in zip(reversed(back), reversed(layers[:-1]), strict=True):
        k = rows[k]
        chosen.append(layer[k])
    return chosen[::-1]


def settle(
    costs: TravelCosts, trails: Sequence[Trail], order: list[int], kicks: int, rounds: int = 5
):
    """Order and doorways together: with doors chosen, better the order; with the order, the doors.

    Returns the entry ends, the (entry, exit) nodes, and the price of all joins.
    """
    doors = choose_doors(order, trails, costs)
    best = (_price(doors, costs), order, doors)
    for k in range(rounds):
        order, doors = _reinsert(costs, trails, best[1], best[2])
        fixed = _with_doors(costs, order, doors)
        order = _regrouped(_improve(list(order), fixed), fixed, k)
        if kicks and k < 2:
            order = _shake(order, fixed, kicks, k)
        doors = choose_doors(order, trails, costs)
        price = _price(doors, costs)
        gained = best[0] - price
        if gained > 1e-9:
            best = (price, order, doors)
        if gained <= WORTH * best[0]:
            break
    price, order, doors = _polished(costs, trails, best)
    return order, doors, price


def _polished(costs: TravelCosts, trails: Sequence[Trail], best: tuple):
    """Small stages are cheap to try over and over: shaken, settled, and kept when better."""
    count = len(trails)
    rng = np.random.default_rng(count)
    for _ in range(POLISH if 5 <= count <= SMALL else 0):
        order = _kick(best[1], rng)
        doors = choose_doors(order, trails, costs)
        order, doors = _reinsert(costs, trails, order, doors)
        order = _improve(list(order), _with_doors(costs, order, doors), rounds=3)
        doors = choose_doors(order, trails, costs)
        price = _price(doors, costs)
        if price < best[0] - 1e-9:
            best = (price, order, doors)
    return best


def _regrouped(order: list[int], costs: TravelCosts, seed: int) -> list[int]:
    """Cut the order at its dearest joins and find a better order of the pieces.

    A piece is then an end to enter by and one to leave by, like a trail; what 2-opt on single trails
    leaves in the wrong corner of the top is moved here as a whole.
    """
    count = len(order)
    if count < 12:
        return order
    prices = [costs.price(a ^ 1, b) for a, b in itertools.pairwise(order)]
    dearest = np.argsort(-np.array(prices), kind="stable")[: int(np.clip(count // 5, 6, 70))]
    stops = [0, *sorted(int(k) + 1 for k in dearest), count]
    pieces = [order[a:b] for a, b in itertools.pairwise(stops)]
    ends = [end for piece in pieces for end in (piece[0], piece[-1] ^ 1)]
    table = [[costs.price(a, b) for b in ends] for a in ends]
    near = [
        sorted((price, b) for b, price in enumerate(row) if b >> 1 != a >> 1)[: 2 * NEIGHBOURS]
        for a, row in enumerate(table)
    ]
    whole = replace(costs, ends=None, joins=None, near=near, places=[], table=table)
    best = _improve(list(range(0, 2 * len(pieces), 2)), whole)
    best = _shake(best, whole, len(pieces) // 3, seed)
    made: list[int] = []
    for end in best:
        piece = pieces[end >> 1]
        made += piece if end & 1 == 0 else [e ^ 1 for e in reversed(piece)]
    return made if total(made, costs) < total(order, costs) - 1e-9 else order


def _price(doors: Sequence[tuple], costs: TravelCosts) -> float:
    return sum(costs.node_price(a[1], b[0]) for a, b in itertools.pairwise(doors))


def _with_doors(costs: TravelCosts, order, doors) -> TravelCosts:
    """The ways as they are once every trail has its doors."""
    groups: list[tuple[int, ...]] = [()] * (2 * len(order))
    for end, (entry, leave) in zip(order, doors, strict=True):
        groups[end], groups[end ^ 1] = (entry,), (leave,)
    return between_ends(costs, groups)


def _reinsert(costs: TravelCosts, trails: Sequence[Trail], order: list[int], doors: list[tuple]):
    """Take each trail that has a choice of doors out, and put it back where it costs least."""
    order, doors = list(order), list(doors)

    def price(a: int | None, b: int | None) -> float:
        return 0.0 if a is None or b is None else costs.node_price(a, b)

    def around(at: int) -> tuple[int | None, int | None]:
        """The nodes left before and entered after the joint in front of place *at*."""
        return doors[at - 1][1] if at else None, doors[at][0] if at < len(doors) else None

    def index() -> tuple[dict[int, int], dict[int, int], dict[int, int]]:
        return (
            {end >> 1: k for k, end in enumerate(order)},
            {entry: k for k, (entry, _) in enumerate(doors)},
            {leave: k + 1 for k, (_, leave) in enumerate(doors)},
        )

    place, entries, leaves = index()
    for trail in [end >> 1 for end in order]:
        if not (trails[trail].closed or trails[trail].free):
            continue
        i = place[trail]
        now = doors[i]
        # The joint that is there once the trail is taken out.
        a, b = around(i)[0], around(i + 1)[1]
        best = (price(a, now[0]) + price(now[1], b) - price(a, b) - 1e-7, i, now)
        found = {
            at
            for node in trails[trail].heads
            for other, way in costs.nodes[node].items()
            if way < best[0]
            for at in (leaves.get(other), entries.get(other))
            if at is not None
        }
        for at in sorted(found):
            u, v = (a, b) if at in (i, i + 1) else around(at)
            old = price(u, v)
            for option in trails[trail].options():
                added = price(u, option[0]) + price(option[1], v) - old
                if added < best[0]:
                    best = (added, at, option)
        if best[1:] != (i, now):
            at = best[1] - (1 if best[1] > i else 0)
            end = order.pop(i)
            doors.pop(i)
            order.insert(at, end)
            doors.insert(at, best[2])
            place, entries, leaves = index()
    return order, doors


def _shake(order: list[int], costs: TravelCosts, kicks: int, seed: int) -> list[int]:
    """Kick stretch after stretch; what does not get cheaper is put back."""
    count = len(order)
    rng = np.random.default_rng(seed)
    for _ in range(kicks if count >= 8 else 0):
        start = int(rng.integers(0, max(1, count - WINDOW + 1)))
        window = order[start : start + WINDOW]
        tried = _improve(_kick(window, rng), costs, rounds=2, ends_fixed=True)
        if total(tried, costs) < total(window, costs) - 1e-9:
            order[start : start + WINDOW] = tried
    return order
