"""Circular arcs as polylines whose vertices agree wherever two patches share the arc."""

from __future__ import annotations

import math

import numpy as np

CHORD_ERROR = 0.004
"""Largest distance, in inches, between an arc and the chords that stand for it."""


def arc_steps(radius: float, angle: float, error: float = CHORD_ERROR) -> int:
    """Number of equal chords so that none strays more than *error* from the arc.

    The sagitta of a chord over the angle a is r(1 - cos(a/2)).
    """
    if radius <= error:
        return max(2, math.ceil(abs(angle) / 1.0))
    step = 2 * math.acos(1 - error / radius)
    return max(2, math.ceil(abs(angle) / step))


def arc(
    centre: tuple[float, float], radius: float, start: float, stop: float, steps: int | None = None
) -> np.ndarray:
    """Points, shape (n + 1, 2), on the arc from angle *start* to *stop* (radians, y down)."""
    n = steps or arc_steps(radius, stop - start)
    t = np.linspace(start, stop, n + 1)
    return np.column_stack([centre[0] + radius * np.cos(t), centre[1] + radius * np.sin(t)])


def shallow_arc(a: np.ndarray, b: np.ndarray, height: float, steps: int = 16) -> np.ndarray:
    """Arc from *a* to *b* that rises *height* to the left of the way (y down: to the right).

    Radius from chord c and height h: r = c²/(8h) + h/2.
    """
    a, b = np.asarray(a, float), np.asarray(b, float)
    chord = float(np.hypot(*(b - a)))
    if abs(height) < 1e-9 or chord < 1e-9:
        return np.array([a, b])
    radius = chord * chord / (8 * abs(height)) + abs(height) / 2
    along = (b - a) / chord
    normal = np.array([along[1], -along[0]]) * math.copysign(1, height)
    centre = (a + b) / 2 - normal * (radius - abs(height))
    first = math.atan2(*(a - centre)[::-1])
    last = math.atan2(*(b - centre)[::-1])
    sweep = (last - first + math.pi) % (2 * math.pi) - math.pi
    if abs(height) > chord / 2:
        sweep -= math.copysign(2 * math.pi, sweep)
    points = arc((centre[0], centre[1]), radius, first, first + sweep, steps)
    points[0], points[-1] = a, b
    return points
