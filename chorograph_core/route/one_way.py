"""One way: machines that shred the thread when they stitch a long line against the direction they like.

Such a line is stitched the other way: the machine returns empty to its far end. Short lines do no harm.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from chorograph_core.designs.linework import Run

WAYS = {"right": (1.0, 0.0), "left": (-1.0, 0.0), "down": (0.0, 1.0), "up": (0.0, -1.0)}
"""Directions on the quilt as it lies before her: down is towards her."""
LONG = 15.0
"""Inches of a straight line from which on it counts as long."""
WITHIN, STRAIGHT = math.radians(45), math.radians(10)
"""How near to the opposite of the good direction a line must run to be against it, and how far a straight
one may turn."""


def is_against(way: np.ndarray, directions: str) -> bool:
    """Whether a straight line along *way* (2,) is long and runs against the good direction."""
    inches = float(np.hypot(*way))
    if directions not in WAYS or inches < LONG:
        return False
    return float(way @ np.array(WAYS[directions])) < -math.cos(WITHIN) * inches


def parts_of(points: np.ndarray, directions: str) -> Iterator[tuple[np.ndarray, bool]]:
    """A polyline (n, 2) in parts, each with whether it is a long line against the good direction."""
    if directions not in WAYS:
        yield points, False
        return
    pending = 0
    for first, last in _stretches(points):
        if is_against(points[last] - points[first], directions):
            if first > pending:
                yield points[pending : first + 1], False
            yield points[first : last + 1], True
            pending = last
    if pending < len(points) - 1:
        yield points[pending:], False


def against(run: Run, directions: str) -> int:
    """How many long lines of a run are against the good direction as it is drawn."""
    return sum(
        wrong
        for points, _, kind in run.pieces()
        if kind == "stitch" and len(points) > 1
        for _, wrong in parts_of(points, directions)
    )


def _stretches(points: np.ndarray) -> Iterator[tuple[int, int]]:
    """Straight stretches of a polyline as (first, last) places of its points."""
    first = 0
    for k in range(1, len(points) - 1):
        if not _same(points[first + 1] - points[first], points[k + 1] - points[k]):
            yield first, k
            first = k
    yield first, len(points) - 1


def _same(one: np.ndarray, two: np.ndarray) -> bool:
    """Whether two ways run in the same direction, or one of them is none."""
    sizes = float(np.hypot(*one) * np.hypot(*two))
    return sizes < 1e-12 or float(one @ two) > math.cos(STRAIGHT) * sizes
