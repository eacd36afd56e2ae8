"""Directions: no long line against the one in which the machine stitches well."""

from __future__ import annotations

import math

import numpy as np

GOOD = {"right": 0.0, "left": 180.0, "down": 90.0, "up": 270.0}
"""Degrees of the good direction, clockwise from the right, as the quilt lies."""
LONG = 15.1
"""Inches of straight line that count as long."""
TURN = 9.5
"""Degrees by which a straight line may turn from its first leg."""


def direction_faults(steps, good: str) -> list[str]:
    """Every long straight line runs within 135 degrees of the *good* direction; all may run any way where
    there is none."""
    if good not in GOOD:
        return []
    return [
        f"step {number}: {inches:.0f} inches are stitched the way that shreds the thread"
        for number, step in enumerate(steps, 1)
        if step.kind == "stitch"
        for inches, heading in _straight(np.asarray(step.points), GOOD[good])
        if inches >= LONG and abs((heading - GOOD[good] + 180) % 360 - 180) > 136
    ]


def _straight(points, good: float):
    """Inches and degrees of each straight stretch; none of a line that nowhere runs far against *good*."""
    legs = np.diff(points, axis=0)
    inches = np.hypot(*legs.T)
    legs, inches = legs[inches > 1e-9], inches[inches > 1e-9]
    degrees = np.degrees(np.arctan2(legs[:, 1], legs[:, 0]))
    # Every leg of a stretch that is wrong is so within twice what a straight one may turn.
    wrong = np.abs((degrees - good + 180) % 360 - 180) > 136 - 2 * TURN
    gone = np.concatenate([[0.0], np.cumsum(inches * wrong)])
    breaks = np.flatnonzero(~wrong)
    if np.diff(gone[np.concatenate([[0], breaks, [len(legs)]])]).max(initial=0.0) < LONG - 1e-6:
        return
    headings = degrees.tolist()
    sums = [(0.0, 0.0), *map(tuple, np.cumsum(legs, axis=0).tolist())]
    first = 0
    for k in range(1, len(legs) + 1):
        if k < len(legs) and abs((headings[k] - headings[first] + 180) % 360 - 180) < TURN:
            continue
        x, y = sums[k][0] - sums[first][0], sums[k][1] - sums[first][1]
        yield math.hypot(x, y), math.degrees(math.atan2(y, x))
        first = k
