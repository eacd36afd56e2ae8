"""Numbers on the map of a pass: where long seams are begun, and where one might go on otherwise."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
import shapely

from chorograph_core.formats.path_cards import Mark
from chorograph_core.formats.run_parts import Part

NEAR = 0.02
"""Inches within which seams meet."""
CORNER = math.radians(25)
MOST = 40
"""Numbers on one map at most: with more of them none can be read."""


def number_seams(part: Part) -> None:
    """The marks of a *part*, and the numbers beside its rows that say where the needle starts."""
    legs = [
        (leg, begun if k == 0 else None)
        for points, begun in part.seams
        for k, leg in enumerate(straight_on(points))
    ]
    for k in told([leg for leg, _ in legs])[:MOST]:
        points, begun = legs[k]
        ahead = points[1] - points[0]
        x, y, dx, dy = map(float, (*points[0], *(ahead / (float(np.hypot(*ahead)) or 1.0))))
        part.marks.append(Mark(len(part.marks) + 1, x, y, dx, dy))
        if begun is not None and not begun.detail:
            begun.detail = f"at {len(part.marks)} on the map"


def straight_on(points: np.ndarray) -> list[np.ndarray]:
    """A line (n, 2) parted at its corners.

    >>> [len(leg) for leg in straight_on(np.array([(0.0, 0), (4, 0), (8, 1), (8, 5)]))]
    [3, 2]
    """
    way = np.diff(points, axis=0)
    turn = np.abs(
        np.arctan2(
            way[:-1, 0] * way[1:, 1] - way[:-1, 1] * way[1:, 0], (way[:-1] * way[1:]).sum(axis=1)
        )
    )
    stops = [0, *(np.flatnonzero(turn > CORNER) + 1).tolist(), len(points) - 1]
    return [points[first : last + 1] for first, last in itertools.pairwise(stops)]


def told(lines: Sequence[np.ndarray]) -> list[int]:
    """Which of *lines* (n, 2), in the order in which they are stitched, are told by a number: those that do
    not begin where the last one ended, and those begun where more than these two meet. To the others there
    is one way.

    >>> ring = [np.array(leg, float) for leg in ([(0, 0), (4, 0)], [(4, 0), (4, 4)], [(4, 4), (0, 0)])]
    >>> told(ring), told([*ring, np.array([(4.0, 4.0), (9.0, 9.0)])])
    ([0], [0, 2, 3])
    """
    if not len(lines):
        return []
    drawn = [shapely.linestrings(line) for line in lines]
    begins = np.array([line[0] for line in lines])
    ends = np.array([line[-1] for line in lines])
    found = [0]
    for k in range(1, len(lines)):
        spot = begins[k]
        if np.hypot(*(ends[k - 1] - spot)) > NEAR:
            found.append(k)
            continue
        here = (np.hypot(*(begins - spot).T) <= NEAR).astype(int) + (
            np.hypot(*(ends - spot).T) <= NEAR
        )
        through = shapely.dwithin(drawn, shapely.points(spot), NEAR) & (here == 0)
        if here.sum() + 2 * through.sum() > 2:
            found.append(k)
    return found
