"""One way: machines that shred the thread when they stitch a long line against the direction they like.

Such a line is stitched the other way: the machine returns empty to its far end. Short lines do no harm.
"""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Iterator

import numpy as np

from chorograph_core.designs.linework import Run

WAYS = {"right": (1.0, 0.0), "left": (-1.0, 0.0), "down": (0.0, 1.0), "up": (0.0, -1.0)}
"""Directions on the quilt as it lies before her: down is towards her."""
LONG = 15.0
"""Inches of a straight line from which on it counts as long."""
WITHIN, STRAIGHT = math.radians(45), math.radians(10)
"""How near to the opposite of the good direction a line must run to be against it, and how far to either
side a straight one may turn."""


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
    for first, last in _all_against(points, directions):
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


def _all_against(points: np.ndarray, directions: str) -> list[tuple[int, int]]:
    """All long straight stretches against the good direction, as (first, last) places of points in order;
    none is left that lies beside or between them."""
    ways = np.diff(points, axis=0)
    gone = np.hypot(*ways.T) > 1e-9
    if float(np.hypot(*ways.T).sum()) < LONG:
        return []
    # Legs that go nowhere have the heading of the one before.
    legs = np.flatnonzero(gone)
    headings = np.unwrap(np.arctan2(ways[legs, 1], ways[legs, 0]))
    found: list[tuple[int, int]] = []
    ahead = [(0, len(legs))]
    while ahead:
        begin, end = ahead.pop()
        longest: tuple[float, int, int] | None = None
        for i, j in _even(headings[begin:end]):
            first, last = int(legs[begin + i]), int(legs[begin + j - 1]) + 1
            way = points[last] - points[first]
            if is_against(way, directions) and (
                longest is None or float(np.hypot(*way)) > longest[0]
            ):
                longest = (float(np.hypot(*way)), begin + i, begin + j)
        if longest is not None:
            _, i, j = longest
            found.append((int(legs[i]), int(legs[j - 1]) + 1))
            ahead += [(begin, i), (j, end)]
    return sorted(found)


def _even(headings: np.ndarray) -> Iterator[tuple[int, int]]:
    """Every longest stretch of legs from *i* up to *j* whose *headings* (n,) lie so near to each other that
    all count as straight on: no matter where one begins to look, a slow bend has the same ones."""
    high: deque[int] = deque()
    low: deque[int] = deque()
    first = 0
    for k, heading in enumerate(headings.tolist()):
        while high and headings[high[-1]] <= heading:
            high.pop()
        while low and headings[low[-1]] >= heading:
            low.pop()
        high.append(k)
        low.append(k)
        if headings[high[0]] - headings[low[0]] > 2 * STRAIGHT:
            yield first, k
            while headings[high[0]] - headings[low[0]] > 2 * STRAIGHT:
                first = min(high[0], low[0]) + 1
                while high[0] < first:
                    high.popleft()
                while low[0] < first:
                    low.popleft()
    if len(headings):
        yield first, len(headings)
