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
from chorograph_core.designs.linework import length

THINNING = 0.0012
"""Inches by which points may be left out: more would make a small round a polygon."""
LEAST, SHARE = 0.06, 1 / 8
"""Inches of the least radius of a turn, and the same against the way from line to line."""
FINE = 4
"""Stations along the arc of a sixth of a round."""
TURN = math.radians(58)
"""Radians that a stroke turns at most along such an arc: hardly less than a sixth of a round."""
SEEN = math.radians(62)
"""The same from which on it shows."""
ROUNDS = 60
ARM, SLIM = 24, 1.7
"""Stations from a turn at which a finger is measured, and how wide it is there, in radii, if it is to be made
round: a slimmer one would only grow shorter."""
NEEDLE, BLUNT = 3.0, 2.3
"""Inches that a needle may lose so that it ends round, and how wide it is there, in radii."""
WIDE, SOFT = 6, 2.0
"""Stations on either side of a tight turn that are eased with it, and how far."""


def least_radius(spacing: float) -> float:
    """Inches of the tightest turn among lines so many inches apart."""
    return max(LEAST, SHARE * spacing)


def without_kinks(
    points: np.ndarray, radius: float, part: Polygon, over: float, closed: bool = False
) -> np.ndarray:
    """The line (n, 2) without turns tighter than *radius* inches; as it was where it would else leave *part*
    by more than *over* inches, or cross itself where it did not. A closed one has its first point last."""
    points = tidy(points, 1e-7)
    step = radius * math.pi / 3 / FINE
    if len(points) < 3 or shapely.linestrings(points).length < 6 * FINE * step:
        return points
    mode = "wrap" if closed else "nearest"
    line = resample(points, step, closed)
    for _ in range(ROUNDS):
        tight = _tight(line, radius, closed)
        if not tight.any():
            break
        near = maximum_filter1d(tight.astype(float), 2 * WIDE + 1, mode=mode)
        share = gaussian_filter1d(near, SOFT, mode=mode)[:, None]
        if not closed:
            share[[0, -1]] = 0.0
        eased = gaussian_filter1d(line, SOFT, axis=0, mode=mode)
        line = line * (1 - share) + eased * share
        again = np.vstack([line, line[:1]]) if closed else line
        line = resample(again, step, closed)
    if not closed:
        line = _blunted(line, radius)
    made = thin(np.vstack([line, line[:1]]) if closed else line, THINNING)
    was, now = shapely.linestrings(points), shapely.linestrings(made)
    fits = part.buffer(over).covers(now) and (now.is_simple or not was.is_simple)
    return made if fits else points


def _blunted(line: np.ndarray, radius: float) -> np.ndarray:
    """An evenly stationed line (n, 2) whose needles end where they are wide enough for a round turn: easing
    would only make them shorter and shorter. One that is slim for longer than `NEEDLE` inches stays."""
    step = radius * math.pi / 3 / FINE
    quick = np.flatnonzero(_quick(line, False, SEEN))
    tips = [group[len(group) // 2] + FINE // 2 for group in
            np.split(quick, np.flatnonzero(np.diff(quick) > 2 * FINE) + 1) if len(group)]  # fmt: skip
    for tip in reversed(tips):
        far = min(tip, len(line) - 1 - tip, round(NEEDLE / step))
        apart = np.hypot(*(line[tip - far : tip + 1][::-1] - line[tip : tip + far + 1]).T)
        wide = np.flatnonzero(apart >= BLUNT * radius)
        if not len(wide) or wide[0] < FINE or wide[0] >= far:
            continue
        first, last = tip - int(wide[0]), tip + int(wide[0])
        on = line[first] - line[first - 1] + line[last] - line[last + 1]
        size = float(np.hypot(*on))
        if size < step:
            # Its sides do not run along with each other.
            continue
        half = (line[last] - line[first]) / 2
        angles = np.linspace(-math.pi / 2, math.pi / 2, 4 * FINE)[:, None]
        out = on / size * math.hypot(*half)
        turn = line[first] + half + np.sin(angles) * half + np.cos(angles) * out
        line = np.concatenate([line[:first], turn, line[last + 1 :]])
    return line


def tight_turns(points: np.ndarray, radius: float, closed: bool = False) -> int:
    """How much of a line (n, 2) turns clearly more quickly than on *radius* inches, in stations."""
    step = radius * math.pi / 3 / FINE
    points = tidy(points, 1e-7)
    if len(points) < 3 or length(points) < 2 * FINE * step:
        return 0
    return int(_quick(resample(points, step, closed), closed, SEEN).sum())


def _quick(line: np.ndarray, closed: bool, turn: float = TURN) -> np.ndarray:
    """For each arc of an evenly stationed line (n, 2) whether it turns by more than *turn* radians."""
    if closed:
        line = np.vstack([line, line[: FINE + 2]])
    legs = np.diff(line, axis=0)
    heading = np.unwrap(np.arctan2(legs[:, 1], legs[:, 0]))
    return np.abs(heading[FINE:] - heading[:-FINE]) > turn


def _tight(line: np.ndarray, radius: float, closed: bool) -> np.ndarray:
    """At which stations of an evenly stationed line (n, 2) it turns too quickly, where there is room for a
    turn of *radius* inches."""
    over = _quick(line, closed)
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
