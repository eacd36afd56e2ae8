"""Arcs as a ruler makes them: by chord and height, by radius, in a row, S-shaped."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from chorograph_core.rulers.fitting import radius_of

ERROR = 0.0015
"""Inches by which the polyline of an arc lies inside the arc at most."""
LONGEST_LEG = 0.9
"""Inches. Longer legs would pass for straight stretches where a ruler is laid."""


Spot = Sequence[float] | np.ndarray


def turned(centre: Spot, radius: float, begin: float, sweep: float) -> np.ndarray:
    """Points (n, 2) on a circle from the angle *begin* through *sweep*, both in radians."""
    step = 2 * math.acos(max(0.0, 1 - ERROR / max(radius, ERROR)))
    step = min(step, LONGEST_LEG / max(radius, 1e-9), math.radians(20))
    count = max(2, math.ceil(abs(sweep) / step))
    angles = begin + sweep * np.arange(count + 1) / count
    return np.column_stack(
        [centre[0] + radius * np.cos(angles), centre[1] + radius * np.sin(angles)]
    )


def arc(a: Spot, b: Spot, height: float) -> np.ndarray:
    """The arc (n, 2) from *a* to *b* that stands *height* inches out in its middle: to the left of the
    way for positive heights, to the right for negative ones; straight for none."""
    one, two = np.asarray(a, float), np.asarray(b, float)
    chord = float(np.hypot(*(two - one)))
    if chord < 1e-9 or abs(height) < 1e-6:
        return np.array([one, two])
    radius = radius_of(chord, abs(height))
    along = (two - one) / chord
    left = np.array([-along[1], along[0]]) * math.copysign(1.0, height)
    centre = (one + two) / 2 + left * (abs(height) - radius)
    begin = math.atan2(*(one - centre)[::-1])
    half = math.asin(min(1.0, chord / 2 / radius))
    sweep = 2 * half if abs(height) <= radius else 2 * (math.pi - half)
    made = turned(centre, radius, begin, -math.copysign(sweep, height))
    made[0], made[-1] = one, two
    return made


def chained_arcs(nodes: np.ndarray, heights: Sequence[float] | np.ndarray) -> np.ndarray:
    """Arcs from each of *nodes* (n, 2) to the next as one line, *heights* one for each."""
    made = [nodes[:1]]
    for a, b, height in zip(nodes[:-1], nodes[1:], heights, strict=True):
        made.append(arc(a, b, height)[1:])
    return np.concatenate(made)


def circle(centre: Spot, radius: float, begin: float = 0.0) -> np.ndarray:
    """A whole circle, first point last."""
    made = turned(centre, radius, begin, 2 * math.pi)
    made[-1] = made[0]
    return made
