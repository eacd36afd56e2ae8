"""Which paths are learned: for a kind of station one, and a second where it saves more than its reading.

In an order of stations that is given, what each way through one of them costs more than the best is told for
all ways at once, by what leads to it and what it leads to. So of hundreds of paths, and pairs of them, those
few are known that may be worth following everywhere; these are priced exactly.
"""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from chorograph_core.route.tours import Item

TRIED = 8
"""Paths, and pairs of paths, that are priced exactly, at most."""
AT_FIRST = 2
"""As many for a first answer."""
PAIRED = 160
"""Paths, the best by themselves and at single stations, of which all pairs are looked at."""

Paths = frozenset[int]


ANY: Paths = frozenset()
"""No path in particular: any of them."""


@dataclass(frozen=True)
class _Doors:
    """The doors by which a station is entered and left, and the least prices (in, out) between them."""

    ins: np.ndarray
    outs: np.ndarray
    through: np.ndarray


class Stations:
    """The stations of a stage, in any order: the *classes* they are of, as *items* that may be done by
    options, the *paths* that those follow, and the *table* (n, n) of prices between doors."""

    def __init__(
        self, classes: Sequence[int], items: Sequence[Item], paths: Sequence[np.ndarray],
        table: np.ndarray,
    ) -> None:  # fmt: skip
        self.classes, self.items, self.paths, self.table = classes, items, paths, table
        self._doors: dict[tuple[int, Paths], _Doors] = {}
        self._by_path: dict[int, dict[int, list[int]]] = {}
        self._ahead: dict[tuple, np.ndarray] = {}

    def following(self, place: int, paths: Paths) -> np.ndarray:
        """The options of a station that follow any of some *paths*."""
        if not paths:
            return np.arange(len(self.paths[place]))
        if place not in self._by_path:
            by_path: dict[int, list[int]] = {}
            for option, path in enumerate(self.paths[place].tolist()):
                by_path.setdefault(path, []).append(option)
            self._by_path[place] = by_path
        known = self._by_path[place]
        return np.array(sorted(k for path in paths for k in known.get(path, ())), int)

    def doors(self, place: int, paths: Paths) -> _Doors:
        """The doors of a station by any of some *paths*."""
        if (place, paths) not in self._doors:
            item, some = self.items[place], self.following(place, paths)
            # By most paths a station is come to by a door or two: lists are quicker than arrays.
            entries, exits = item.entries[some].tolist(), item.exits[some].tolist()
            ins, outs = sorted(set(entries)), sorted(set(exits))
            row, column = ({door: k for k, door in enumerate(each)} for each in (ins, outs))
            through = [[math.inf] * len(outs) for _ in ins]
            for a, b, price in zip(entries, exits, item.prices[some].tolist(), strict=True):
                mine = through[row[a]]
                mine[column[b]] = min(mine[column[b]], price)
            self._doors[place, paths] = _Doors(np.array(ins, int), np.array(outs, int),
                                               np.array(through).reshape(len(ins), len(outs)))  # fmt: skip
        return self._doors[place, paths]

    def ahead(self, one: int, by: Paths, two: int, then: Paths) -> np.ndarray:
        """The prices (out, in) from one station to another."""
        key = (one, by, two, then)
        if key not in self._ahead:
            outs, ins = self.doors(one, by).outs, self.doors(two, then).ins
            self._ahead[key] = self.table[outs[:, None], ins]
        return self._ahead[key]


class Ordered:
    """Stations in the order of their *places*."""

    def __init__(self, stations: Stations, places: Sequence[int]) -> None:
        self.stations, self.places = stations, places
        self.classes = [stations.classes[place] for place in places]

    def paths_of(self, number: int) -> list[np.ndarray]:
        """The paths that options of the stations of class *number* follow."""
        return [self.stations.paths[place] for place, mine in zip(self.places, self.classes, strict=True)
                if mine == number]  # fmt: skip

    def price(self, kept: Mapping[int, Paths]) -> float:
        """The least price of the order, of classes in *kept* only by those paths."""
        return float(self._onwards(kept)[-1].min())

    def regrets(self, kept: Mapping[int, Paths], number: int) -> list[np.ndarray]:
        """What each option of the stations of class *number* costs more, all others going by what is *kept*,
        than the best order of all."""
        best, found = self.price(kept), []
        for place, mine, come, go in self._around(kept):
            if mine == number:
                item, doors = self.stations.items[place], self.stations.doors(place, ANY)
                more = come[np.searchsorted(doors.ins, item.entries)] + item.prices - best
                found.append(more + go[np.searchsorted(doors.outs, item.exits)])
        return found

    def suiting(self, kept: Mapping[int, Paths], many: int) -> dict[int, list[int]]:
        """For each station, by its place, the numbers of so *many* of its options as cost least in this
        order, of those that are *kept*."""
        found = {}
        for place, mine, come, go in self._around(kept):
            item, doors = self.stations.items[place], self.stations.doors(place, ANY)
            some = self.stations.following(place, kept.get(mine, ANY))
            more = come[np.searchsorted(doors.ins, item.entries[some])] + item.prices[some]
            more = more + go[np.searchsorted(doors.outs, item.exits[some])]
            found[place] = np.sort(some[np.argsort(more, kind="stable")[:many]]).tolist()
        return found

    def _around(
        self, kept: Mapping[int, Paths]
    ) -> Iterator[tuple[int, int, np.ndarray, np.ndarray]]:
        """For each station its place and class, what it costs to come to each of all its doors, and to go on
        from each to the end."""
        there, back = self._onwards(kept), self._backwards(kept)
        by = [kept.get(mine, ANY) for mine in self.classes]
        for at, (place, mine) in enumerate(zip(self.places, self.classes, strict=True)):
            doors = self.stations.doors(place, ANY)
            come, go = np.zeros(len(doors.ins)), np.zeros(len(doors.outs))
            if at:
                ahead = self.stations.ahead(self.places[at - 1], by[at - 1], place, ANY)
                come = (there[at - 1][:, None] + ahead).min(axis=0)
            if at + 1 < len(self.places):
                ahead = self.stations.ahead(place, ANY, self.places[at + 1], by[at + 1])
                go = (ahead + back[at + 1]).min(axis=1)
            yield place, mine, come, go

    def _onwards(self, kept: Mapping[int, Paths]) -> list[np.ndarray]:
        """What it costs to have done each station, by the door it is left by."""
        found: list[np.ndarray] = []
        before: tuple[int, Paths] | None = None
        least = np.minimum.reduce
        for place, mine in zip(self.places, self.classes, strict=True):
            here = place, kept.get(mine, ANY)
            through = self.stations.doors(*here).through
            if before is not None:
                come = least(found[-1][:, None] + self.stations.ahead(*before, *here))
                through = come[:, None] + through
            found.append(least(through))
            before = here
        return found

    def _backwards(self, kept: Mapping[int, Paths]) -> list[np.ndarray]:
        """What it costs to do each station and all that come after it, by the door it is entered by."""
        found: list[np.ndarray] = []
        after: tuple[int, Paths] | None = None
        for place, mine in zip(self.places[::-1], self.classes[::-1], strict=True):
            here = place, kept.get(mine, ANY)
            through = self.stations.doors(*here).through
            if after is not None:
                through = through + (self.stations.ahead(*here, *after) + found[-1]).min(axis=1)
            found.append(through.min(axis=1))
            after = here
        return found[::-1]


def few_paths(
    orders: Sequence[Ordered], single: Iterable[int], reading: float, tried: int = TRIED
) -> dict[int, Paths]:
    """The paths kept for each class that has more than one station, those with most stations first; *single*
    classes have no path to learn. *reading* is what a second path must save; so many of each kind are
    *tried*."""
    count = Counter(number for order in orders for number in order.classes)
    kept: dict[int, Paths] = {}
    for number in sorted(count, key=lambda each: (-count[each], each)):
        if count[number] > 1 and number not in single:
            mine = [order for order in orders if number in order.classes]
            kept[number] = _of_class(mine, number, kept, reading, tried)
    return kept


def _of_class(
    orders: Sequence[Ordered], number: int, kept: Mapping[int, Paths], reading: float, most: int
) -> Paths:
    def price(paths: Paths) -> float:
        more = reading * (len(paths) - 1)
        return more + sum(each.price({**kept, number: paths}) for each in orders)

    regrets = _regrets(orders, number, kept)
    alone = np.argsort(regrets.sum(axis=1), kind="stable")[:most].tolist()
    tried = [frozenset({path}) for path in alone] + _pairs(regrets)[:most]
    return min(tried, key=price)


def _regrets(orders: Sequence[Ordered], number: int, kept: Mapping[int, Paths]) -> np.ndarray:
    """What it costs more to follow each path (p,) at each station (m,) of a class than to do the best that
    is there: (p, m), infinite where it cannot be followed."""
    there = [
        (paths, more)
        for order in orders
        for paths, more in zip(order.paths_of(number), order.regrets(kept, number), strict=True)
    ]
    found = np.full((1 + max(int(paths.max()) for paths, _ in there), len(there)), np.inf)
    for column, (paths, more) in zip(found.T, there, strict=True):
        np.minimum.at(column, paths, more)
    return found


def _pairs(regrets: np.ndarray) -> list[Paths]:
    """The pairs of paths by which all stations together lose least, each by the better one."""
    alone = regrets.sum(axis=1)
    some = np.unique([*np.argsort(alone, kind="stable")[:PAIRED], *regrets.argmin(axis=0)])
    pairs = np.array(list(itertools.combinations(some.tolist(), 2))).reshape(-1, 2)
    if not len(pairs):
        return []
    mine = regrets[some]
    sums = np.concatenate(
        [np.minimum(mine[k], mine[k + 1 :]).sum(axis=1) for k in range(len(some) - 1)]
    )
    best = np.argsort(sums, kind="stable")[:TRIED]
    return [frozenset(pair) for pair in pairs[best].tolist()]
