"""Bundles: what is to be done at one station in one stage, and which bundles are alike.

Two bundles are alike when one can be turned or mirrored about the middle of its station so that all
its runs, their doors and its inner ditches fall on those of the other. Found by geometry alone.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from chorograph_core.route.network import Network, Trail
from chorograph_core.route.stations import Station

NEAR = 0.06
"""Inches within which places of alike bundles are the same: sewing itself is not more exact."""

TURNS = tuple(
    np.array(matrix, float)
    for matrix in (
        ((1, 0), (0, 1)), ((0, -1), (1, 0)), ((-1, 0), (0, -1)), ((0, 1), (-1, 0)),
        ((-1, 0), (0, 1)), ((1, 0), (0, -1)), ((0, 1), (1, 0)), ((0, -1), (-1, 0)),
    )
)  # fmt: skip
"""Quarter turns, and the same mirrored."""
_RANKS = {tuple(turn.ravel().tolist()): k for k, turn in enumerate(TURNS)}


@dataclass(frozen=True)
class Bundle:
    """Runs, by the number of their trail, and inner ditches, by link, at one *station*."""

    network: Network
    station: Station
    trails: tuple[int, ...]
    links: tuple[int, ...]

    @cached_property
    def middles(self) -> np.ndarray:
        """Middle of each run, from the station's middle: (n, 2)."""
        own = [_middle(self.trail(k)) for k in self.trails]
        return np.array(own).reshape(-1, 2) - self.station.middle

    @cached_property
    def kinds(self) -> list[tuple]:
        """What runs must have in common to be alike."""
        return [_kind(self.trail(k)) for k in self.trails]

    @cached_property
    def inches(self) -> np.ndarray:
        return np.array([trail.run.inches for trail in map(self.trail, self.trails) if trail.run])

    @cached_property
    def halfway(self) -> np.ndarray:
        """Middle of each inner ditch, from the station's middle: (n, 2)."""
        return self.network.middles[list(self.links)].reshape(-1, 2) - self.station.middle

    @cached_property
    def signature(self) -> tuple:
        """Equal for alike bundles, whatever else is."""
        return (len(self.links), tuple(sorted(self.kinds)))

    def trail(self, number: int) -> Trail:
        return self.network.trails[number]


@dataclass(frozen=True)
class Likeness:
    """How one bundle lies on another: the *turn* about the middles, and what falls on what."""

    turn: np.ndarray
    trails: dict[int, int]
    nodes: dict[int, int]
    links: dict[int, int]

    def moved(self, points: np.ndarray, one: Station, other: Station) -> np.ndarray:
        """Points (n, 2) at *one* station as they lie at the *other*."""
        return (points - one.middle) @ self.turn.T + other.middle

    def then(self, other: Likeness) -> Likeness:
        """How the first bundle lies on a third one, on which the second lies as the *other* says."""
        return Likeness(
            other.turn @ self.turn,
            {k: other.trails[n] for k, n in self.trails.items()},
            {k: other.nodes[n] for k, n in self.nodes.items()},
            {k: other.links[n] for k, n in self.links.items()},
        )


def likenesses(one: Bundle, other: Bundle) -> Iterator[Likeness]:
    """All ways in which *one* lies on *other*; none when they are not alike."""
    if one.signature != other.signature:
        return
    for turn in TURNS:
        found = _laid(one, other, turn)
        if found is not None:
            yield found


def _all_ways(one: Bundle, other: Bundle, own: Sequence[Likeness]) -> list[Likeness]:
    """All ways in which *one* lies on *other*, from its *own* on itself: each of those, and then the first
    that is found on the other."""
    first = next(likenesses(one, other), None)
    if first is None:
        return []
    return sorted((each.then(first) for each in own), key=lambda way: _rank(way.turn))


def _rank(turn: np.ndarray) -> int:
    """Which of the turns one is."""
    return _RANKS[tuple(turn.ravel().tolist())]


def sorted_alike(bundles: Sequence[Bundle]) -> list[list[tuple[int, list[Likeness]]]]:
    """Classes of alike *bundles*, each a list of (place in *bundles*, how its first one lies on it)."""
    networks = {id(each.network) for each in bundles}
    if len(networks) != 1:
        return _sorted(bundles)
    # A network is planned on again and again while ways of working are compared.
    known = bundles[0].network.alike
    key = tuple((each.station.key, each.trails, each.links) for each in bundles)
    if key not in known:
        known[key] = _sorted(bundles)
    return known[key]


def _sorted(bundles: Sequence[Bundle]) -> list[list[tuple[int, list[Likeness]]]]:
    classes: list[list[tuple[int, list[Likeness]]]] = []
    by_signature: dict[tuple, list[int]] = {}
    for place, bundle in enumerate(bundles):
        for number in by_signature.get(bundle.signature, ()):
            first, own = classes[number][0]
            ways = _all_ways(bundles[first], bundle, own)
            if ways:
                classes[number].append((place, ways))
                break
        else:
            by_signature.setdefault(bundle.signature, []).append(len(classes))
            classes.append([(place, list(likenesses(bundle, bundle)) or [_as_it_lies(bundle)])])
    return classes


def _as_it_lies(bundle: Bundle) -> Likeness:
    """A bundle on itself, whatever cannot be told apart in it."""
    trails = [bundle.trail(number) for number in bundle.trails]
    nodes = {node for trail in trails for node in (*trail.heads, *trail.tails)}
    nodes |= {int(node) for node in bundle.network.ends[list(bundle.links)].ravel()}
    return Likeness(TURNS[0], {k: k for k in bundle.trails}, {k: k for k in nodes},
                    {k: k for k in bundle.links})  # fmt: skip


def _kind(trail: Trail) -> tuple:
    assert trail.run is not None and trail.drawn is not None
    return (
        trail.drawn.design, trail.layer, trail.closed, trail.free, trail.reversible,
        len(trail.heads), len(trail.pairs), round(trail.drawn.spi, 1),
    )  # fmt: skip


def _middle(trail: Trail) -> np.ndarray:
    """The middle of a run's bounds: the same whichever way, and from wherever, it is drawn."""
    assert trail.run is not None
    left, top, right, bottom = trail.run.bounds
    return np.array([(left + right) / 2, (top + bottom) / 2])


def _laid(one: Bundle, other: Bundle, turn: np.ndarray) -> Likeness | None:
    links = _matched(one.halfway @ turn.T, other.halfway)
    if links is None:
        return None
    nodes: dict[int, int] = {}
    runs = _runs_matched(one, other, turn, nodes)
    if runs is None:
        return None
    if not _ends(one, other, one.links, [other.links[j] for j in links], turn, nodes):
        return None
    return Likeness(
        turn,
        {one.trails[i]: other.trails[j] for i, j in enumerate(runs)},
        nodes,
        {one.links[i]: other.links[j] for i, j in enumerate(links)},
    )


def _runs_matched(one: Bundle, other: Bundle, turn, nodes: dict[int, int]) -> list[int] | None:
    """For each run of *one* that of *other* it lies on, each once, their doors put into *nodes*; None if
    one has none."""
    if not one.trails:
        return []
    apart = np.hypot(*((one.middles @ turn.T)[:, None] - other.middles[None]).transpose(2, 0, 1))
    # Rings about one middle are told apart by their length and kind, lines that cross there by their ends.
    near = (apart < NEAR) & (np.abs(one.inches[:, None] - other.inches[None]) <= 0.1)
    free = np.ones(len(other.trails), bool)
    found: list[int] = []
    for i, mine in enumerate(one.trails):
        for j in np.flatnonzero(near[i] & free).tolist():
            doors: dict[int, int] = {}
            if one.kinds[i] == other.kinds[j] and _doors(
                one, other, mine, other.trails[j], turn, doors
            ):
                nodes |= doors
                free[j] = False
                found.append(j)
                break
        else:
            return None
    return found


def _matched(here: np.ndarray, there: np.ndarray) -> list[int] | None:
    """For each place of *here* the one of *there* that lies on it, each once; None if one has none."""
    if not len(here):
        return []
    apart = np.hypot(*(here[:, None] - there[None]).transpose(2, 0, 1))
    best = apart.argmin(axis=1)
    good = apart[np.arange(len(here)), best] < NEAR
    return best.tolist() if good.all() and len(set(best.tolist())) == len(best) else None


def _doors(one, other, mine: int, theirs: int, turn, nodes: dict[int, int]) -> bool:
    """Lay the doors of one run on those of another; whether each finds its own."""
    a, b = one.trail(mine), other.trail(theirs)
    spots = one.network.spots
    groups = [(a.heads, b.heads)] if a.closed else [((*a.heads, *a.tails), (*b.heads, *b.tails))]
    if a.free:
        groups = [
            (a.heads[: a.rings], b.heads[: b.rings]),
            (a.heads[a.rings :], b.heads[b.rings :]),
        ]
    for here, there in groups:
        if len(here) != len(there):
            return False
        if not here:
            continue
        moved = (spots[list(here)] - one.station.middle) @ turn.T + other.station.middle
        apart = np.hypot(*(moved[:, None] - spots[list(there)][None]).transpose(2, 0, 1))
        nearest = apart.argmin(axis=1).tolist()
        if len(set(nearest)) == len(here):
            if (apart.min(axis=1) > NEAR).any():
                return False
            nodes.update(zip(here, (there[k] for k in nearest), strict=True))
            continue
        for k, node in enumerate(here):
            # A ring that meets itself has two doors in one place: each is given once.
            best = int(apart[k].argmin())
            if apart[k, best] > NEAR:
                return False
            nodes[node] = there[best]
            apart[:, best] = np.inf
    if not a.closed and not a.free and not a.reversible and nodes[a.heads[0]] != b.heads[0]:
        return False
    if not a.free:
        return True
    return {(nodes[x], nodes[y]) for x, y in a.pairs} == set(b.pairs)


def _ends(one, other, mine: Sequence[int], theirs: Sequence[int], turn, nodes) -> bool:
    """Lay the ends of ditches on those of as many others; whether each finds its own."""
    if not mine:
        return True
    spots = one.network.spots
    here, there = one.network.ends[list(mine)], other.network.ends[list(theirs)]
    moved = (spots[here] - one.station.middle) @ turn.T + other.station.middle
    apart = np.hypot(*(moved[:, :, None] - spots[there][:, None]).transpose(3, 0, 1, 2))
    same, other_way = apart[:, (0, 1), (0, 1)], apart[:, (0, 1), (1, 0)]
    straight = (same.sum(axis=1) <= other_way.sum(axis=1))[:, None]
    if (np.where(straight, same, other_way) > NEAR).any():
        return False
    goals = np.where(straight, there, there[:, ::-1])
    return all(
        nodes.setdefault(a, b) == b
        for a, b in zip(here.ravel().tolist(), goals.ravel().tolist(), strict=True)
    )
