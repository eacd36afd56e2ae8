"""Directions: no long line against the one in which the machine stitches well."""

from __future__ import annotations

import numpy as np

GOOD = {"right": 0.0, "left": 180.0, "down": 90.0, "up": 270.0}
"""Degrees of the good direction, clockwise from the right, as the quilt lies."""
LONG = 15.1
"""Inches of straight line that count as long."""


def direction_faults(steps, good: str) -> list[str]:
    """Every long straight line runs within 135 degrees of the *good* direction; all may run any way where
    there is none."""
    if good not in GOOD:
        return []
    return [
        f"step {number}: {inches:.0f} inches are stitched the way that shreds the thread"
        for number, step in enumerate(steps, 1)
        if step.kind == "stitch"
        for inches, heading in _straight(np.asarray(step.points))
        if inches >= LONG and abs((heading - GOOD[good] + 180) % 360 - 180) > 136
    ]


def _straight(points):
    """Inches and degrees of each straight stretch."""
    legs = np.diff(points, axis=0)
    legs = legs[np.hypot(*legs.T) > 1e-9]
    first = 0
    for k in range(1, len(legs) + 1):
        if k < len(legs):
            turn = np.degrees(
                np.arctan2(
                    legs[first, 0] * legs[k, 1] - legs[first, 1] * legs[k, 0], legs[first] @ legs[k]
                )
            )
            if abs(turn) < 9.5:
                continue
        x, y = legs[first:k].sum(axis=0)
        yield float(np.hypot(x, y)), float(np.degrees(np.arctan2(y, x)))
        first = k
