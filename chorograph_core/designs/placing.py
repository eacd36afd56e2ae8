"""Where the ruler lies while a line is stitched: beside it, one foot radius away."""

from __future__ import annotations

import itertools
import math

import numpy as np

from chorograph_core.designs.contract import RulerMove, length

AT_ONCE = 8.0
"""Inches stitched for each laying of the ruler; long rulers tip when used to their ends."""


def moves_along(line: np.ndarray, foot_radius: float, edge: str, align: str) -> list[RulerMove]:
    """Lay the ruler along each straight stretch of *line* (n, 2), at most `AT_ONCE` at a time.

    Stretches shorter than 1/4″ belong to the laying before them.
    """
    moves: list[RulerMove] = []
    corner = 0
    for i in range(1, len(line)):
        if i < len(line) - 1 and _straight(line[corner], line[i], line[i + 1]):
            continue
        a, b = line[corner], line[i]
        corner = i
        inches = length(np.array([a, b]))
        if inches < 0.25:
            continue
        normal = np.array([b[1] - a[1], a[0] - b[0]]) / inches * foot_radius
        count = math.ceil(inches / AT_ONCE - 1e-9)
        cuts = [a + (b - a) * k / count for k in range(count + 1)]
        for one, two in itertools.pairwise(cuts):
            moves.append(RulerMove(edge, np.array([one + normal, two + normal]), align))
    return moves


def count_moves(line: np.ndarray, curved: bool = False) -> int:
    """Number of layings for *line* without working out where each lies."""
    if curved:
        return max(1, math.ceil(length(line) / AT_ONCE))
    return len(moves_along(line, 0.25, "", ""))


def _straight(a: np.ndarray, b: np.ndarray, c: np.ndarray) -> bool:
    """Whether the way a-b-c bends by less than about 6 degrees."""
    one, two = b - a, c - b
    cross = abs(one[0] * two[1] - one[1] * two[0])
    return bool(np.dot(one, two) > 0 and cross < 0.1 * np.dot(one, two))
