"""Curves that good hand work is made of: round circles joined by tangents, Béziers, even sampling."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Turn:
    """Going round a circle: *centre*, *radius* in inches, *sense* +1 or -1, *extra* full turns.

    Sense +1 turns from the x axis towards the y axis (clockwise as seen, since y points down).
    """

    centre: tuple[float, float]
    radius: float
    sense: int
    extra: int = 0


THINNED = 600
"""Points of a line that are thinned at once."""


def step_angle(radius: float, error: float = 0.003) -> float:
    """Angle in radians between points on a circle so that chords stay within *error* inches."""
    if radius <= error:
        return 0.8
    return min(0.5, 2 * math.acos(1 - error / radius))


def tangent_chain(turns: Sequence[Turn]) -> np.ndarray:
    """One smooth line round each circle in turn, joined by common tangents: points (n, 2).

    For travel direction d the point on a circle of signed radius ρ is c + ρ(d_y, -d_x); the tangent
    from circle 1 to circle 2, with centres *dist* apart at angle α, runs at α + asin((ρ₁-ρ₂)/dist).
    Circles that overlap too far for a tangent are joined as directly as they can be.
    """
    headings = []
    for one, two in itertools.pairwise(turns):
        dx, dy = two.centre[0] - one.centre[0], two.centre[1] - one.centre[1]
        dist = math.hypot(dx, dy)
        ratio = (one.sense * one.radius - two.sense * two.radius) / max(dist, 1e-9)
        headings.append(math.atan2(dy, dx) + math.asin(max(-1.0, min(1.0, ratio))))
    points: list[np.ndarray] = []
    for i, turn in enumerate(turns):
        cx, cy = turn.centre
        arrive = headings[i - 1] if i else headings[0]
        leave = headings[i] if i < len(headings) else headings[-1]
        if turn.radius < 1e-6:
            points.append(np.array([[cx, cy]]))
            continue
        first = _place(arrive, turn.sense)
        sweep = (turn.sense * (_place(leave, turn.sense) - first)) % (2 * math.pi)
        if sweep > 2 * math.pi - 1e-6:
            sweep = 0.0
        sweep += 2 * math.pi * turn.extra
        count = max(1, math.ceil(sweep / step_angle(turn.radius)))
        angles = first + turn.sense * np.linspace(0, sweep, count + 1)
        points.append(
            np.column_stack([cx + turn.radius * np.cos(angles), cy + turn.radius * np.sin(angles)])
        )
    return tidy(np.concatenate(points))


def _place(heading: float, sense: int) -> float:
    """Angle of the point on a circle at which one travels along *heading*."""
    return heading - sense * math.pi / 2


def bezier(p0: np.ndarray, p1: np.ndarray, p2: np.ndarray, p3: np.ndarray, count: int = 16):
    """Points (count + 1, 2) on a cubic Bézier curve."""
    t = np.linspace(0, 1, count + 1)[:, None]
    u = 1 - t
    return u**3 * p0 + 3 * u * u * t * p1 + 3 * u * t * t * p2 + t**3 * p3


def tidy(points: np.ndarray, closer: float = 1e-6) -> np.ndarray:
    """Leave out points that repeat the one before."""
    if len(points) < 2:
        return points
    step = np.hypot(*np.diff(points, axis=0).T)
    return points[np.concatenate([[True], step > closer])]


def resample(points: np.ndarray, spacing: float, closed: bool = False) -> np.ndarray:
    """Points at even distances of about *spacing* along a polyline; both ends are kept.

    For a closed line (first point = last point) the last point is left out.
    """
    step = np.hypot(*np.diff(points, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(step)])
    count = max(8 if closed else 1, round(along[-1] / spacing))
    at = np.linspace(0, along[-1], count + 1)
    if closed:
        at = at[:-1]
    return np.column_stack([np.interp(at, along, points[:, 0]), np.interp(at, along, points[:, 1])])


def smooth(points: np.ndarray, pieces: int = 3, closed: bool = False) -> np.ndarray:
    """A Catmull–Rom curve through *points* (n, 2), *pieces* points for each stretch.

    For a closed line the last point repeats the first, before and after.
    """
    if len(points) < 4:
        return points
    if closed:
        knots = np.vstack([points[-2], points, points[1]])
    else:
        knots = np.vstack([2 * points[0] - points[1], points, 2 * points[-1] - points[-2]])
    a, b, c, d = knots[:-3], knots[1:-2], knots[2:-1], knots[3:]
    made = [
        b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)))
        for t in np.arange(pieces) / pieces
    ]
    return np.vstack([np.stack(made, axis=1).reshape(-1, 2), points[-1:]])


def thin(points: np.ndarray, error: float = 0.003) -> np.ndarray:
    """Drop points that lie within *error* inches of the line without them (Douglas–Peucker)."""
    import shapely

    if len(points) < 3:
        return points
    if np.hypot(*(points[0] - points[-1])) < 1e-9:
        # A ring is thinned in two halves so that the far point stays.
        far = int(np.argmax(np.hypot(*(points - points[0]).T)))
        if 0 < far < len(points) - 1:
            return np.concatenate([thin(points[: far + 1], error)[:-1], thin(points[far:], error)])
    if len(points) <= 2 * THINNED:
        return shapely.get_coordinates(
            shapely.simplify(shapely.linestrings(points), error, preserve_topology=False)
        )
    # A long line is thinned in stretches, each of which keeps its ends: all at once takes far longer.
    cuts = np.arange(0, len(points) - 1, THINNED)
    stretches = [points[k : k + THINNED + 1] for k in cuts]
    thinned = [shapely.get_coordinates(each) for each in
               shapely.simplify([shapely.linestrings(each) for each in stretches], error,
                                preserve_topology=False)]  # fmt: skip
    return np.concatenate([thinned[0], *(each[1:] for each in thinned[1:])])
