"""One way: machines that shred the thread when they stitch a long line against the direction they like.

Such a line is stitched the other way: the machine returns empty to its far end. Short lines do no harm.
"""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Iterator, Sequence

import numpy as np

from chorograph_core.designs.linework import Run

WAYS = {"right": (1.0, 0.0), "left": (-1.0, 0.0), "down": (0.0, 1.0), "up": (0.0, -1.0)}
"""Directions on the quilt as it lies before her: down is towards her."""
LONG = 15.0
"""Inches of a straight line from which on it counts as long."""
WITHIN, STRAIGHT = math.radians(45), math.radians(10)
"""How near to the opposite of the good direction a line must run to be against it, and how far to either
side a straight one may turn."""


def is_against(ways: np.ndarray, directions: str) -> np.ndarray:
    """Which straight lines along *ways* (n, 2) are long and run against the good direction, (n,)."""
    inches = np.hypot(ways[:, 0], ways[:, 1])
    if directions not in WAYS:
        return np.zeros(len(ways), bool)
    good = np.array(WAYS[directions])
    return (inches >= LONG) & (ways @ good < -math.cos(WITHIN) * inches)


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
    inches = np.hypot(*ways.T)
    if float(inches.sum()) < LONG:
        return []
    # Legs that go nowhere have the heading of the one before.
    legs = np.flatnonzero(inches > 1e-9)
    headings = np.unwrap(np.arctan2(ways[legs, 1], ways[legs, 0]))
    opposite = math.atan2(*WAYS[directions][::-1]) + math.pi
    off = np.abs((headings - opposite + math.pi) % (2 * math.pi) - math.pi)
    # What is straight runs as each of its legs does, or nearly so: most lines have nothing that is long.
    may_be = off <= WITHIN + 2 * STRAIGHT + 1e-6
    found: list[tuple[int, int]] = []
    for begin, end in _stretches(may_be):
        if inches[legs[begin:end]].sum() > LONG - 1e-9:
            found += _long_ones(points, legs[begin:end], headings[begin:end], directions)
    return found


def _stretches(true: np.ndarray) -> list[tuple[int, int]]:
    """From where to where (first, stop) values (n,) are true."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], true, [False]]).astype(np.int8)))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


def _long_ones(
    points: np.ndarray, legs: np.ndarray, headings: np.ndarray, directions: str
) -> list[tuple[int, int]]:
    """Those among *legs* (n,) with their *headings*, the longest first found, in order."""
    found: list[tuple[int, int]] = []
    ahead = [(0, len(legs))]
    while ahead:
        begin, end = ahead.pop()
        even = np.array(list(_even(headings[begin:end].tolist())), dtype=int).reshape(-1, 2) + begin
        firsts, lasts = legs[even[:, 0]], legs[even[:, 1] - 1] + 1
        ways = points[lasts] - points[firsts]
        wrong = is_against(ways, directions)
        if wrong.any():
            longest = int(np.argmax(np.where(wrong, np.hypot(*ways.T), 0.0)))
            found.append((int(firsts[longest]), int(lasts[longest])))
            i, j = even[longest].tolist()
            ahead += [(begin, i), (j, end)]
    return sorted(found)


def _even(headings: Sequence[float]) -> Iterator[tuple[int, int]]:
    """Every longest stretch of legs from *i* up to *j* whose *headings* lie so near to each other that
    all count as straight on: no matter where one begins to look, a slow bend has the same ones."""
    high: deque[int] = deque()
    low: deque[int] = deque()
    first = 0
    for k, heading in enumerate(headings):
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
