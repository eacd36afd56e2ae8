"""How far down a quilt seams lie across it: what no pass holds whole is best left and taken up again there,
where a way to the next line is hidden."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from chorograph_core.chart import Chart
from chorograph_core.reckon import Machine
from chorograph_core.route.passes import EDGE, Pass, depth_at

LEVEL = 0.02
"""Inches by which a seam across the quilt may rise or fall."""
ACROSS, SOME = 0.3, 0.02
"""Share of the quilt's width that seams at one level take up together for a pass to begin by it, and for it
to be told at all."""
ROOM = 0.125
"""Inches by which a level lies within both passes, for either to reach it with ease."""


@dataclass(frozen=True)
class Level:
    """Seams at one *height*, inches from the top down: their *ends* (n, 2) from left to right, in order."""

    height: float
    ends: np.ndarray

    @property
    def inches(self) -> float:
        return float((self.ends[:, 1] - self.ends[:, 0]).sum())

    def holds(self, points: np.ndarray) -> np.ndarray:
        """Which of *points* (n, 2) lie in one of its seams (n,)."""
        x, y = points.T
        seam = np.searchsorted(self.ends[:, 0], x + EDGE) - 1
        within = (seam >= 0) & (x <= self.ends[seam, 1] + EDGE)
        return within & (np.abs(y - self.height) < EDGE + LEVEL)


@dataclass(frozen=True)
class SeamLevels:
    """The *known* levels of a quilt *wide* inches across, from the top down."""

    known: tuple[Level, ...]
    wide: float

    @cached_property
    def heights(self) -> np.ndarray:
        """Of those by which a pass may begin (n,)."""
        return np.array([at.height for at in self.known if at.inches >= ACROSS * self.wide])

    def between(self, passes: Sequence[Pass]) -> list[Level]:
        """The levels that two passes which follow one another share, those with most seam first, of about as
        much the lowest."""
        shared = [
            level
            for above, below in itertools.pairwise(passes)
            for level in self.known
            if below.top <= level.height <= above.bottom
        ]
        return sorted(shared, key=lambda at: (-round(10 * at.inches / self.wide), -at.height))


def seam_levels(chart: Chart) -> SeamLevels:
    """The levels of the seams of a *chart* that lie across it."""
    rings = shapely.get_exterior_ring([patch.polygon for patch in chart.patches])
    points, ring = shapely.get_coordinates(rings, return_index=True)
    legs = np.flatnonzero(ring[1:] == ring[:-1])
    one, two = points[legs], points[legs + 1]
    flat = np.abs(two[:, 1] - one[:, 1]) <= LEVEL
    x0, y0, x1, y1 = chart.outline.bounds
    ends = np.sort(np.column_stack([one[flat, 0], two[flat, 0]]), axis=1)
    heights, which = np.unique(np.round((one[flat, 1] + two[flat, 1]) / 2, 2), return_inverse=True)
    found = [
        Level(float(height), _together(ends[which == k]))
        for k, height in enumerate(heights)
        if y0 + LEVEL < height < y1 - LEVEL
    ]
    return SeamLevels(tuple(at for at in found if at.inches >= SOME * (x1 - x0)), x1 - x0)


def _together(ends: np.ndarray) -> np.ndarray:
    """Stretches (n, 2) from left to right, those in one that meet or lie on each other."""
    made: list[list[float]] = []
    for left, right in sorted(ends.tolist()):
        if made and left <= made[-1][1] + LEVEL:
            made[-1][1] = max(made[-1][1], right)
        else:
            made.append([left, right])
    return np.array(made).reshape(-1, 2)


def moved_onto(passes: Sequence[Pass], machine: Machine, seams: SeamLevels) -> tuple[Pass, ...]:
    """The same *passes*, each begun so far up that it shares a level of *seams* with the one before, as far
    as the last one still reaches the end of the quilt."""
    top, bottom = passes[0].top, passes[-1].bottom
    tops = [each.top for each in passes]
    first = _begin_at_least(len(tops), machine, top, bottom)
    for k in range(1, len(tops)):
        reach = tops[k - 1] + depth_at(machine, tops[k - 1] - top)
        tops[k] = min(tops[k], reach)
        least = max(first[k], tops[k - 1]) + ROOM
        within = seams.heights[(seams.heights >= least) & (seams.heights <= reach - ROOM)]
        if len(within) and within[-1] < tops[k] + ROOM:
            tops[k] = max(first[k], float(within[-1]) - 2 * ROOM)
    reaches = [min(y + depth_at(machine, y - top), bottom) for y in tops]
    return tuple(
        Pass(k, y, reach) for k, (y, reach) in enumerate(zip(tops, reaches, strict=True), 1)
    )


def _begin_at_least(count: int, machine: Machine, top: float, bottom: float) -> list[float]:
    """How far down each of *count* passes begins at least, for those after it to reach the *bottom*."""
    made, goal = [], bottom
    for _ in range(count):
        at = goal
        for _ in range(8):
            # The roll beside it is as thick as what lies above it.
            at = max(top, goal - depth_at(machine, at - top))
        made.append(at)
        goal = at
    return made[::-1]
