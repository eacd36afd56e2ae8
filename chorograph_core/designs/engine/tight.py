"""Turns that are tighter than a hand makes them, made rounder where they are and nowhere else.

A needle that is moved does not turn on the spot. Where a stroke turns by more than a sixth of a round within
the arc that its least radius needs for that, it is eased there, again and again, until it is round enough: a
hairpin draws back from its point, a kink becomes a bend.
"""

from __future__ import annotations

import math

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d, maximum_filter1d
from shapely.geometry import Polygon

from chorograph_core.designs.curves import resample, thin, tidy
from chorograph_core.designs.engine.needles import rounder
from chorograph_core.designs.engine.patches import Patch, patched, with_what_fits
from chorograph_core.designs.linework import length

THINNING = 0.0012
"""Inches by which points may be left out: more would make a small round a polygon."""
LEAST, SHARE = 0.06, 1 / 8
"""Inches of the least radius of a turn, and the same against the way from line to line."""
FINE = 4
"""Stations along the arc of a sixth of a round."""
TURNED = (math.radians(58), math.radians(53))
"""Radians that a stroke turns at most along such an arc, hardly less than a sixth of a round; and where
points left out make it look tighter then."""
SEEN = math.radians(62)
"""The same from which on it shows."""
ROUNDS, TIMES = 60, 2
"""How often turns are eased until they are round, and how often that is begun after needles were blunted."""
ARM, SLIM = 24, 1.7
"""Stations from a turn at which a finger is measured, and how wide it is there, in radii, if it is to be made
round: a slimmer one would only grow shorter."""
ROOM = 1.05
"""How far from the edge one swings that goes round a corner of it, in radii."""
WIDE, SOFT = 6, 2.0
"""Stations on either side of a tight turn that are eased with it, and how far."""


def least_radius(spacing: float) -> float:
    """Inches of the tightest turn among lines so many inches apart."""
    return max(LEAST, SHARE * spacing)


def without_kinks(
    points: np.ndarray, radius: float, part: Polygon, over: float, closed: bool = False
) -> np.ndarray:
    """The line (n, 2) without turns tighter than *radius* inches; as it was at those of them where it would
    else leave *part* by more than *over* inches, or cross itself where it did not. A closed one has its first
    point last."""
    points = tidy(points, 1e-7)
    step = radius * math.pi / 3 / FINE
    whole = shapely.linestrings(points)
    if len(points) < 3 or whole.length < 6 * FINE * step:
        return points
    even = resample(points, step, closed)
    if closed:
        even = _from_a_calm_place(even, radius)
    room = part.buffer(over)
    shapely.prepare(room)
    made = points
    for turn in TURNED:
        line = _rounder(even, radius, room, bool(whole.is_simple), closed, turn)
        if closed:
            line = np.roll(line, -int(np.hypot(*(line - points[0]).T).argmin()), axis=0)
        made = thin(_whole(line, closed), THINNING)
        tight = tight_turns(made, radius, closed)
        if not tight:
            break
    return points if line is even and tight >= tight_turns(points, radius, closed) else made


def _rounder(
    even: np.ndarray, radius: float, room: shapely.Geometry, simple: bool, closed: bool, turn: float
) -> np.ndarray:
    """An evenly stationed line (n, 2) that turns by no more than *turn* radians along the arc of a sixth of a
    round of *radius* inches, as far as its *room* and itself, if it is *simple*, bear it."""
    step = radius * math.pi / 3 / FINE
    inner: list[shapely.Geometry] = []

    def fits(line: np.ndarray) -> bool:
        return not simple or bool(shapely.linestrings(_whole(line, closed)).is_simple)

    def inside(patch: Patch) -> bool:
        return len(patch.points) < 2 or bool(room.covers(shapely.linestrings(patch.points)))

    def bent(line: np.ndarray, patch: Patch) -> list[Patch]:
        if inside(patch):
            return [patch]
        inner[:] = inner or [room.buffer(-ROOM * radius)]
        return list(filter(inside, _swung_round(line, patch, inner[0], radius, turn)))

    line = even
    for _ in range(TIMES):
        line = with_what_fits(
            line, [bent(line, each) for each in _eased(line, radius, closed, turn)], fits
        )
        tips = [] if closed else _tips(line, radius)
        needles = [list(filter(inside, rounder(line, tip, radius, step))) for tip in tips]
        blunt = with_what_fits(line, needles, fits)
        if blunt is line:
            break
        line = resample(blunt, step)
        if not _tips(line, radius):
            break
    return line


def _whole(line: np.ndarray, closed: bool) -> np.ndarray:
    return np.vstack([line, line[:1]]) if closed else line


def _from_a_calm_place(line: np.ndarray, radius: float) -> np.ndarray:
    """A ring of stations (n, 2) that begins in the middle of its longest stretch without tight turns."""
    tight = np.flatnonzero(_tight(line, radius, True, TURNED[0]))
    if not len(tight):
        return line
    calm = np.diff(np.append(tight, tight[0] + len(line)))
    longest = int(calm.argmax())
    return np.roll(line, -int(tight[longest] + calm[longest] // 2), axis=0)


def _eased(even: np.ndarray, radius: float, closed: bool, turn: float) -> list[Patch]:
    """The stretches of an evenly stationed line (n, 2) in which it turns by more than *turn* radians along an
    arc, with those turns eased."""
    step, mode = radius * math.pi / 3 / FINE, "wrap" if closed else "nearest"
    # With each station goes the place on the line from which it came.
    line = np.column_stack([even, np.arange(len(even))])
    touched = np.zeros(len(even), bool)
    for _ in range(ROUNDS):
        tight = _tight(line[:, :2], radius, closed, turn)
        if not tight.any():
            break
        near = maximum_filter1d(tight.astype(float), 2 * WIDE + 1, mode=mode)
        share = gaussian_filter1d(near, SOFT, mode=mode)[:, None]
        if not closed:
            share[[0, -1]] = 0.0
        moved = (share[:, 0] > 0).astype(float)
        touched |= np.interp(np.arange(len(even)), line[:, 2], moved) > 0
        eased = gaussian_filter1d(line[:, :2], SOFT, axis=0, mode=mode)
        line[:, :2] = line[:, :2] * (1 - share) + eased * share
        line = _stationed(line, step, closed, len(even))
    return _stretches(line, touched, closed)


def _swung_round(
    line: np.ndarray, patch: Patch, inner: shapely.Geometry, radius: float, turn: float
) -> list[Patch]:
    """A stretch of an evenly stationed *line* (n, 2), and a little more, that keeps to *inner* where *patch*
    was eased: a turn round a corner of the zone that points inwards swings out. None where there is no
    room."""
    first, last = patch.first - ARM, patch.last + ARM
    if inner.is_empty or first < 0 or last >= len(line):
        return []
    way = line[first : last + 1]
    spots = shapely.points(way)
    onto = shapely.get_coordinates(shapely.shortest_line(inner, spots))[::2]
    share = np.minimum(1.0, np.minimum(np.arange(len(way)), np.arange(len(way))[::-1]) / ARM)[
        :, None
    ]
    share = share**2 * (3 - 2 * share)
    made = np.where(shapely.covers(inner, spots)[:, None], way, way * (1 - share) + onto * share)
    made = resample(made, radius * math.pi / 3 / FINE)
    return [Patch(first, last, patched(made, _eased(made, radius, False, turn)))]


def _stationed(line: np.ndarray, step: float, closed: bool, count: int) -> np.ndarray:
    """The *line* (n, 3) of stations and of the places, of *count*, from which they came, *step* inches
    apart."""
    if closed:
        line = np.vstack([line, (*line[0, :2], count)])
    gone = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line[:, :2], axis=0).T))])
    parts = max(8 if closed else 1, round(gone[-1] / step))
    at = np.linspace(0, gone[-1], parts + 1)[: parts if closed else None]
    return np.column_stack([np.interp(at, gone, line[:, k]) for k in range(3)])


def _stretches(line: np.ndarray, touched: np.ndarray, closed: bool) -> list[Patch]:
    """What of a *line* as `_stationed` came from each stretch of stations that was *touched*."""
    last = len(touched) - 1
    if closed and (touched[0] or touched[-1]):
        return [Patch(0, last, line[:, :2])]
    edges = np.flatnonzero(np.diff(np.concatenate([[0], touched.astype(np.int8), [0]])))
    found = []
    for begin, end in edges.reshape(-1, 2).tolist():
        some = (line[:, 2] >= begin - 1e-9) & (line[:, 2] <= end - 1 + 1e-9)
        found.append(Patch(begin, end - 1, line[some, :2]))
    return found


def _tips(line: np.ndarray, radius: float) -> list[int]:
    """Where an evenly stationed line (n, 2) still turns clearly too quickly."""
    quick = np.flatnonzero(_quick(line, False, SEEN))
    groups = np.split(quick, np.flatnonzero(np.diff(quick) > 2 * FINE) + 1)
    return [int(group[len(group) // 2]) + FINE // 2 for group in groups if len(group)]


def tight_turns(points: np.ndarray, radius: float, closed: bool = False) -> int:
    """How much of a line (n, 2) turns clearly more quickly than on *radius* inches, in stations."""
    step = radius * math.pi / 3 / FINE
    points = tidy(points, 1e-7)
    if len(points) < 3 or length(points) < 2 * FINE * step:
        return 0
    step = length(points) / (max(3, int(length(points) / step)) - 1)
    return int(_quick(resample(points, step, closed), closed, SEEN).sum())


def _quick(line: np.ndarray, closed: bool, turn: float) -> np.ndarray:
    """For each arc of an evenly stationed line (n, 2) whether it turns by more than *turn* radians."""
    if closed:
        line = np.vstack([line, line[: FINE + 2]])
    legs = np.diff(line, axis=0)
    heading = np.unwrap(np.arctan2(legs[:, 1], legs[:, 0]))
    return np.abs(heading[FINE:] - heading[:-FINE]) > turn


def _tight(line: np.ndarray, radius: float, closed: bool, turn: float) -> np.ndarray:
    """At which stations of an evenly stationed line (n, 2) it turns by more than *turn* radians along an arc,
    where there is room for a turn of *radius* inches."""
    over = _quick(line, closed, turn)
    if closed:
        line = np.vstack([line, line[: FINE + 2]])
    count = len(line) - (FINE + 2 if closed else 0)
    found = np.zeros(count, bool)
    at = (np.flatnonzero(over) + FINE // 2 + 1) % count
    stations = line[:count]
    fore, aft = at + ARM, at - ARM
    if not closed:
        fore, aft = fore.clip(max=count - 1), aft.clip(min=0)
    across = np.hypot(*(stations[fore % count] - stations[aft % count]).T)
    found[at[across > SLIM * radius]] = True
    return found
