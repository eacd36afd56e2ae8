"""Rolling while one stitches: a line that no pass holds, gone along without cutting, the quilt rolled on and
back under the needle."""

from __future__ import annotations

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
    pieces, k = [points[:1]], 1
    while k < len(points):
        ahead = _first_out(points[:, 1], k, passes[reach])
        if ahead > k:
            pieces.append(points[k:ahead])
            k = ahead
            continue
        at, two = points[k - 1], points[k]
        while not _in(passes[reach], two[1]):
            down = two[1] > at[1]
            after = reach + (1 if down else -1)
            if after not in passes:
                break
            level = passes[reach].bottom if down else passes[reach].top
            share = (level - at[1]) / (two[1] - at[1])
            at = at + min(max(share, 0.0), 1.0) * (two - at)
            if np.hypot(*(at - pieces[-1][-1])) > LEAST:
                pieces.append(at[None])
            part = np.concatenate(pieces)
            if len(part) > 1:
                yield reach, part
            pieces, reach = [at[None]], after
        pieces.append(two[None])
        k += 1
    part = np.concatenate(pieces)
    if len(points) < 2 or len(part) > 2 or np.hypot(*(part[-1] - part[0])) > LEAST:
        yield reach, part


def _first_out(levels: np.ndarray, begin: int, each: Pass) -> int:
    """The first place of *levels* (n,) from *begin* on that a pass does not reach; n where it reaches all."""
    wide = 64
    while begin < len(levels):
        some = levels[begin : begin + wide]
        out = np.flatnonzero((some < each.top - EDGE) | (some > each.bottom + EDGE))
        if len(out):
            return begin + int(out[0])
        begin, wide = begin + wide, 2 * wide
    return len(levels)


def rolls_on(points: np.ndarray, passes: Mapping[int, Pass], reach: int) -> int:
    """How often the quilt is rolled under the needle on a line (n, 2); never with no *passes* to roll to."""
    return sum(1 for _ in parts_in_reach(points, passes, reach)) - 1 if passes else 0


def _in(each: Pass, level: float) -> bool:
    return each.top - EDGE <= level <= each.bottom + EDGE


def _nearest(passes: Mapping[int, Pass], reach: int, level: float) -> int:
    """The pass nearest to *reach* that reaches a *level* down the quilt."""
    there = [number for number, each in passes.items() if _in(each, level)]
    return min(there or [reach], key=lambda number: (abs(number - reach), number))
