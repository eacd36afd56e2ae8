"""Rolling while one stitches: a line that no pass holds, gone along without cutting, the quilt rolled on and
back under the needle."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping

import numpy as np

from chorograph_core.route.passes import EDGE, Pass

LEAST = 1e-6
"""Inches under which a part of a line is none."""


def parts_in_reach(
    points: np.ndarray, passes: Mapping[int, Pass], reach: int
) -> Iterator[tuple[int, np.ndarray]]:
    """A polyline (n, 2) as (number of the pass, part of it), begun with the quilt at pass *reach*.

    The quilt is rolled as late as can be: where the line leaves what is reached. Passes overlap, so that
    a line which sways about the end of one is not rolled for at every swing.
    """
    reach = _nearest(passes, reach, float(points[0][1]))
    part = [points[0]]
    for one, two in itertools.pairwise(points):
        at = one
        while not _in(passes[reach], two[1]):
            down = two[1] > at[1]
            after = reach + (1 if down else -1)
            if after not in passes:
                break
            level = passes[reach].bottom if down else passes[reach].top
            share = (level - at[1]) / (two[1] - at[1])
            at = at + min(max(share, 0.0), 1.0) * (two - at)
            if np.hypot(*(at - part[-1])) > LEAST:
                part.append(at)
            if len(part) > 1:
                yield reach, np.array(part)
            part, reach = [at], after
        part.append(two)
    if len(points) < 2 or len(part) > 2 or np.hypot(*(part[-1] - part[0])) > LEAST:
        yield reach, np.array(part)


def rolls_on(points: np.ndarray, passes: Mapping[int, Pass], reach: int) -> int:
    """How often the quilt is rolled under the needle on a line (n, 2); never with no *passes* to roll to."""
    return sum(1 for _ in parts_in_reach(points, passes, reach)) - 1 if passes else 0


def _in(each: Pass, level: float) -> bool:
    return each.top - EDGE <= level <= each.bottom + EDGE


def _nearest(passes: Mapping[int, Pass], reach: int, level: float) -> int:
    """The pass nearest to *reach* that reaches a *level* down the quilt."""
    there = [number for number, each in passes.items() if _in(each, level)]
    return min(there or [reach], key=lambda number: (abs(number - reach), number))
