"""Rings of a zone joined into one line: in on every ring, or in on one and out on the next.

Where a zone has corners the line turns in at one of them: the outer ring is closed, and from there on each
round ends where the first side of the next one, drawn on backwards, comes out of it. So all lines keep to
their sides and nothing slants. Where there is no such corner it slides from each ring to the next, over
nearly half a round where that is round. An arm that lies to the side is gone in and out of on alternate rings
(connected spirals: Zhao et al., Connected Fermat Spirals, 2016), so that nothing crosses a ring and nothing
is stitched twice.
"""

from __future__ import annotations

import itertools
import math
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.engine.rings import Ring

SHY = 0.015
"""Inches by which a round stops short of its own beginning: closed to the eye, and no crossing."""
SLIDE = 2.0
"""Spacings along which one slides from a ring to the next, at least."""
GENTLY = 0.45
"""Share of a round along which one slides where it bends all the way."""
PAST = 0.3
"""Spacings by which such a slide may leave the ring it comes from: more would lead past something else."""
ROUND = math.radians(45)
"""Turn from which a stretch without corners is round."""
SHARP = math.radians(30)
"""Turn at which a bend is a corner."""
SQUARE = (math.radians(40), math.radians(150))
"""Turns of the corners at which one may turn in."""
PLACES = 48
"""Places on a ring that are looked at for a way in."""
NEARLY = 0.15
"""Spacings by which one of them may be further from the ring outside than the nearest."""
FARTHEST = 2.5
"""Distances between two rings within which the one turned in to is come to."""


class Level:
    """The outer line of a ring as a closed way with places on it, from 0 to its length."""

    def __init__(self, polygon: Polygon) -> None:
        ring = polygon.exterior if polygon.exterior.is_ccw else polygon.exterior.reverse()
        self.points = shapely.get_coordinates(ring.simplify(1e-6))
        self.at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(self.points, axis=0).T))])
        self.line = shapely.linestrings(self.points)

    @property
    def length(self) -> float:
        return float(self.at[-1])

    def place(self, spot: np.ndarray) -> float:
        """The place nearest to *spot*."""
        return float(shapely.line_locate_point(self.line, shapely.points(spot)))

    def spot(self, at: float) -> np.ndarray:
        """The point at a place; places go on round."""
        at %= self.length
        return np.array([np.interp(at, self.at, self.points[:, k]) for k in (0, 1)])

    def way(self, start: float, inches: float) -> np.ndarray:
        """Points from *start* forward along *inches*, or back for a negative number."""
        if inches < 0:
            return self.way(start + inches, -inches)[::-1]
        start %= self.length
        stops = np.concatenate([self.at[:-1], self.at[:-1] + self.length])
        inner = stops[(stops > start + 1e-7) & (stops < start + inches - 1e-7)]
        return np.array([self.spot(at) for at in (start, *inner, start + inches)])

    @cached_property
    def turns(self) -> np.ndarray:
        """How far the line turns to the left at each of its points but the last, which is the first again."""
        way = np.diff(self.points, axis=0)
        heading = np.arctan2(way[:, 1], way[:, 0])
        return (heading - np.roll(heading, 1) + math.pi) % (2 * math.pi) - math.pi

    def corners(self, least: float, most: float = math.pi) -> np.ndarray:
        """Places where it turns to the left by so much at once."""
        return self.at[:-1][(self.turns >= least) & (self.turns <= most)]

    def turn_at(self, corner: float) -> float:
        """How far it turns to the left at a corner."""
        return float(self.turns[int(np.argmin(np.abs(self.at[:-1] - corner)))])

    def turned(self, start: float, inches: float) -> float:
        """How far it turns, left or right, within *inches* from *start*."""
        ahead = (self.at[:-1] - start) % self.length
        return float(np.abs(self.turns[ahead < inches]).sum())

    def leaving(self, corner: float) -> np.ndarray:
        """The way it goes on from a corner, one inch long."""
        k = int(np.argmin(np.abs(self.at[:-1] - corner)))
        way = self.points[k + 1] - self.points[k]
        return way / np.hypot(*way)

    def start(self) -> float:
        """The middle of its longest side: a start meets its end cleanly there."""
        sides = np.round(np.diff(self.at), 4)
        k = int(np.argmax(sides))
        return float(self.at[k] + sides[k] / 2)


def spiral(ring: Ring, spacing: float) -> np.ndarray:
    """The tree from *ring* inwards as one line, to the middle of its deepest arm. Holes are not gone round,
    but where the tree says so: see `chorograph_core.designs.engine.rings.holes_of` and `round_holes`."""
    chain = [ring]
    while inner := chain[-1].inner:
        # Only what lies round a hole all by itself is slid on to; else one goes in and out.
        deep = inner if len(inner) == 1 else [each for each in inner if not each.hole]
        if not deep:
            break
        chain.append(max(deep, key=lambda each: each.height))
    return _along(chain, spacing)


def _along(chain: list[Ring], spacing: float) -> np.ndarray:
    """From the first ring of a *chain* to the last, in and out of all arms on the way. An arm that one would
    slide to past something else is one of those."""
    levels = [Level(each.polygon) for each in chain]
    steps = _steps_in(levels)
    anchors = _anchors(levels, steps)
    # It begins a hair further on, so that coming round again does not touch its own beginning.
    begun = (steps[0][0] if steps else anchors[0]) + SHY
    made = [levels[0].spot(begun)[None]]
    for k, (each, level) in enumerate(zip(chain, levels, strict=True)):
        inside = chain[k + 1] if k + 1 < len(chain) else None
        arms = [arm for arm in each.inner if arm is not inside]
        if inside is None:
            # After a slide the way in already lies beside the last stretch of the innermost ring.
            short = SHY if k == len(steps) else 0.5 * ((begun - anchors[k]) % level.length)
            made.append(_round_with(level, begun, level.length - short, arms, spacing)[1:])
            break
        leave = steps[k][0] if k < len(steps) else anchors[k]
        inches = (leave - begun) % level.length
        made.append(_round_with(level, begun, inches, arms, spacing)[1:])
        if k < len(steps):
            begun = steps[k][1]
            made.append(levels[k + 1].spot(begun)[None])
        else:
            line, begun = _slid(level, leave, levels[k + 1], spacing)
            slide = shapely.linestrings(np.vstack([level.spot(leave), line]))
            if len(each.inner) > 1 and not each.polygon.buffer(PAST * spacing).covers(slide):
                return _along(chain[: k + 1], spacing)
            made.append(line)
    return np.concatenate(made)


def _steps_in(levels: list[Level]) -> list[tuple[float, float]]:
    """Where each ring is left, and the corner at which the next one is come to, from the outer one inwards as
    far as they have corners to turn in at: by those corners that go furthest in, the squarest of them."""
    if len(levels) < 2:
        return []
    best: list[tuple[float, float]] = []
    corners = levels[0].corners(*SQUARE)
    for corner in sorted(corners, key=lambda at: abs(levels[0].turn_at(at) - math.pi / 2)):
        found: list[tuple[float, float]] = []
        at = float(corner)
        for outer, inner in itertools.pairwise(levels):
            step = _step(outer, at, inner)
            if step is None:
                break
            found.append(step)
            at = step[1]
        if len(found) > len(best):
            best = found
    return best


def _step(outer: Level, corner: float, inner: Level) -> tuple[float, float] | None:
    """From shortly before a *corner* of a ring straight to the like corner of the next: the side that leads
    on from there, drawn on backwards, meets the outer ring. None where it meets it somewhere else."""
    corners = inner.corners(*SQUARE)
    if not len(corners):
        return None
    spot = outer.spot(corner)
    spots = np.array([inner.spot(at) for at in corners])
    near = int(np.argmin(np.hypot(*(spots - spot).T)))
    apart = float(shapely.distance(shapely.points(spots[near]), outer.line))
    way = spots[near] - inner.leaving(corners[near]) * FARTHEST * apart
    met = shapely.intersection(shapely.linestrings([spots[near], way]), outer.line)
    if met.is_empty:
        return None
    ends = shapely.get_coordinates(met)
    leave = outer.place(ends[int(np.argmin(np.hypot(*(ends - spots[near]).T)))])
    before = (corner - leave) % outer.length
    if not 0.0 < before < min(FARTHEST * apart, outer.length / 4):
        return None
    return leave, float(corners[near])


def _anchors(levels: list[Level], steps: list[tuple[float, float]]) -> list[float]:
    """The places at which rings are left for the next by a slide."""
    if steps:
        anchors = [leave for leave, _ in steps] + [steps[-1][1] - SHY]
        for outer, inner in itertools.pairwise(levels[len(steps) :]):
            anchors.append(inner.place(outer.spot(anchors[-1])))
        return anchors
    # Found from the inside: where a ring lies square to the one inside it, one slides from it to that.
    anchors = [levels[-1].start()]
    for outer, inner in zip(levels[-2::-1], levels[:0:-1], strict=True):
        anchors.append(outer.place(inner.spot(anchors[-1])))
    return anchors[::-1]


def _slid(level: Level, at: float, below: Level, spacing: float) -> tuple[np.ndarray, float]:
    """From a place on a ring evenly to the ring below, and the place where one is on it then."""
    long = GENTLY * level.length
    if len(corners := level.corners(SHARP)):
        long = min(long, 0.9 * float(((corners - at) % level.length).min()))
    if level.turned(at, long) > ROUND:
        shares = np.linspace(0, 1, max(9, math.ceil(long / 0.2)))[1:]
        outer = np.array([level.spot(at + share * long) for share in shares])
        places = np.array([below.place(spot) for spot in outer])
        gone = np.diff(places) % below.length
        if gone.max() < below.length / 8:
            inner = np.array([below.spot(place) for place in places])
            return outer + (inner - outer) * shares[:, None], float(places[-1])
    short = min(SLIDE * spacing, level.length / 5, below.length / 4)
    shares, to = np.linspace(0, 1, 9)[1:], below.place(level.spot(at)) + short
    outer = np.array([level.spot(at + share * short) for share in shares])
    inner = np.array([below.spot(to - (1 - share) * short) for share in shares])
    return outer + (inner - outer) * shares[:, None], to


def _round_with(
    level: Level, start: float, inches: float, arms: list[Ring], spacing: float
) -> np.ndarray:
    """Along a ring, going in and out of each of *arms* on the way."""
    stops: list[tuple[float, _Arm]] = []
    for each in arms:
        arm = _Arm(each, level, spacing)
        at = (level.place(arm.spot) - start) % level.length
        stops.append((min(at, max(inches - 1e-3, 0.0)), arm))
    made, gone = [], 0.0
    for at, arm in sorted(stops, key=lambda each: each[0]):
        # One leaves before the arm is nearest and is back behind that: the two ways do not touch.
        lane = min(spacing, arm.levels[0].length / 6) / 2
        leave, back = max(gone + 1e-6, at - lane), min(at + lane, inches - 1e-6)
        if back <= leave:
            leave, back = gone + 1e-6, max(gone + 2e-6, back)
        made.append(level.way(start + gone, leave - gone))
        made.append(arm.in_and_out())
        gone = back
    made.append(level.way(start + gone, inches - gone))
    return np.concatenate(made)


class _Arm:
    """What lies to the side of a ring, *outside*: its rings up to where they fall into several, and the
    places on each at which one goes in and out, in a lane across a side that all of them have."""

    def __init__(self, arm: Ring, outside: Level, spacing: float) -> None:
        rings = [arm]
        while len(rings[-1].inner) == 1:
            rings.append(rings[-1].inner[0])
        self.inner, self.spacing = rings[-1].inner, spacing
        self.levels = [Level(each.polygon) for each in rings]
        # Found from the inside: what lies square to the innermost ring crosses a side of all others.
        self.begin = [_beside(self.levels[-1], outside, spacing)]
        for one, two in zip(self.levels[-2::-1], self.levels[:0:-1], strict=True):
            self.begin.insert(0, one.place(two.spot(self.begin[0])))

    @property
    def spot(self) -> np.ndarray:
        """Where the lane begins."""
        return self.levels[0].spot(self.begin[0])

    def in_and_out(self) -> np.ndarray:
        """In on every other ring and out on those between, beginning and ending on the outer one beside the
        lane."""
        # In on rings 0, 2, 4 …, out on 1, 3, 5 …; both leave the same narrow lane free.
        into = [self._round(k, -1) for k in range(0, len(self.levels), 2)]
        out = [self._round(k, 1) for k in range(1, len(self.levels), 2)]
        return np.concatenate([*into, *out[::-1]])

    def _round(self, k: int, sense: int) -> np.ndarray:
        """Round ring *k* from one side of the lane to the other, forward or back."""
        level = self.levels[k]
        lane = min(self.spacing, level.length / (6 if len(self.levels) > 1 else 8))
        first, inches = self.begin[k] + lane / 2, level.length - lane
        last = k + 1 == len(self.levels)
        way = (
            _round_with(level, first, inches, self.inner, self.spacing)
            if last and self.inner
            else level.way(first, inches)
        )
        return way[::sense]


def _beside(level: Level, outside: Level, spacing: float) -> float:
    """A place on a ring where it runs along one *outside* it, as far from its corners as can be."""
    places = np.arange(PLACES) * level.length / PLACES
    spots = np.array([level.spot(at) for at in places])
    away = shapely.distance(shapely.points(spots), outside.line)
    clear = -away
    if len(corners := level.corners(SHARP)):
        apart = np.abs(places[:, None] - corners[None]) % level.length
        clear = np.minimum(apart, level.length - apart).min(axis=1)
    near = away <= away.min() + NEARLY * spacing
    return float(places[int(np.argmax(np.where(near, clear, -np.inf)))])
