"""A run as it is laid and stitched, and where in it a bobbin is changed: at the end of a unit, where a hand
can stop and nobody sees it."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence

import numpy as np

from chorograph_core.designs.laying import Stretch, edge_of, position_in
from chorograph_core.designs.linework import RULED, Run
from chorograph_core.rulers import Reach

WORTH = 0.06
"""Share of a full bobbin from which what is left on it is stitched up within the next line."""


def as_laid(run: Run, reach: Reach) -> tuple[int, str, str, list[Stretch], list[Sequence[int]]]:
    """How often a ruler is laid for a *run*, by which edge and where, its pieces with their inches, and at
    which points of each of them one can stop."""
    layings = run.count_placements(reach)
    # The line is measured once: of hundreds of pieces each by itself would be measured for longer than it is
    # looked at in all that follows.
    legs = np.hypot(*np.diff(run.points, axis=0).T)
    pieces, start = [], 0
    for points, technique, kind in run.pieces():
        stop = start + len(points) - 1
        if len(points) > 1:
            pieces.append((points, technique, kind, float(legs[start:stop].sum())))
        start = stop
    edge = edge_of(pieces, reach) if layings else ""
    return layings, edge, position_in(run), pieces, stops_of(run)


def stops_of(run: Run) -> list[Sequence[int]]:
    """For each piece of a *run* that has a length the points at which its units end, the last left out."""
    ends = sorted(unit.stop for unit in run.stops())
    found: list[Sequence[int]] = []
    start = 0
    for points, technique, _ in run.pieces():
        last = start + len(points) - 1
        if len(points) > 1:
            # What wanders can be left and taken up anywhere.
            anywhere = not run.units and technique not in RULED
            inner = ends[bisect_right(ends, start) : bisect_left(ends, last)]
            found.append(range(1, last - start) if anywhere else [end - start for end in inner])
        start = last
    return found


def stops_within(stops: Sequence[int], first: int, legs: int, turned: bool = False) -> list[int]:
    """Those of *stops* that lie within so many *legs* from the point *first* on, counted from there; of a
    line that is stitched *turned* round from its other end.

    >>> stops_within([2, 5, 7], 3, 4), stops_within([2, 5, 7], 3, 8, turned=True)
    ([2], [4, 6])
    """
    inner = (stop - first for stop in stops if first < stop < first + legs)
    return sorted(legs - stop for stop in inner) if turned else list(inner)


def last_stop(points: np.ndarray, stops: Sequence[int], inches: float) -> int | None:
    """The last of *stops* that is come to within so many *inches* of *points* (n, 2); None where none is.

    >>> last_stop(np.array([[0.0, 0], [2, 0], [4, 0], [6, 0]]), [1, 2], 4.5)
    2
    """
    if not len(stops):
        return None
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    return max((stop for stop in stops if along[stop] <= inches), default=None)
