"""Where the ruler lies while a line is stitched: beside it, one foot radius away."""

from __future__ import annotations

import itertools
import math

import numpy as np

from chorograph_core.designs.contract import RulerMove

AT_ONCE = 8.0
"""Inches stitched for each laying of the ruler; long rulers tip when used to their ends."""

SHORT = 0.25
"""Inches. A shorter stretch belongs to the laying before it."""


def moves_along(line: np.ndarray, foot_radius: float, edge: str, align: str) -> list[RulerMove]:
    """Lay the ruler along each straight stretch of *line* (n, 2), at most `AT_ONCE` at a time."""
    moves: list[RulerMove] = []
    for first, last, count in _stretches(line):
        a, b = line[first], line[last]
        normal = np.array([b[1] - a[1], a[0] - b[0]]) / np.hypot(*(b - a)) * foot_radius
        cuts = [a + (b - a) * k / count for k in range(count + 1)]
        for one, two in itertools.pairwise(cuts):
            moves.append(RulerMove(edge, np.array([one + normal, two + normal]), align))
    return moves


def count_moves(line: np.ndarray) -> int:
    """Number of layings for *line* without working out where each lies."""
    return sum(count for _, _, count in _stretches(line))


def _stretches(line: np.ndarray) -> list[tuple[int, int, int]]:
    """Straight stretches as (first point, last point, layings)."""
    points = line.tolist()
    found, corner = [], 0
    for i in range(1, len(points)):
        if i < len(points) - 1 and _straight(points[corner], points[i], points[i + 1]):
            continue
        inches = math.dist(points[corner], points[i])
        if inches >= SHORT:
            found.append((corner, i, math.ceil(inches / AT_ONCE - 1e-9)))
        corner = i
    return found


def _straight(a, b, c) -> bool:
    """Whether the way a-b-c bends by less than about 6 degrees."""
    ux, uy, vx, vy = b[0] - a[0], b[1] - a[1], c[0] - b[0], c[1] - b[1]
    ahead = ux * vx + uy * vy
    return ahead > 0 and abs(ux * vy - uy * vx) < 0.1 * ahead
