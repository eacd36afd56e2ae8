"""Ditches as they are stitched: once, for the first layer that asks, whoever else asks again."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely import STRtree

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Linework, length

SAME = 0.015
"""Inches. Ditches closer than this are one seam."""


def stitched_once(drawn: Sequence[LayerLinework]) -> list[LayerLinework]:
    """The same linework, with every ditch left to the first of *drawn* that asks for it.

    Two zones that share a seam both ask for it; it is stitched, and the ruler laid along it, once.
    What a layer keeps is joined end to end and its ruler is laid anew. Order and number of *drawn*
    are kept; a layer whose ditches all belong to others keeps none.
    """
    lines, owners = [], []
    for number, one in enumerate(drawn):
        for run in one.linework.runs:
            if run.in_ditch:
                lines.append(shapely.linestrings(run.points))
                owners.append(number)
    if not lines:
        return list(drawn)
    pieces = shapely.get_parts(shapely.union_all(lines, grid_size=1e-4))
    middles = shapely.line_interpolate_point(pieces, 0.5, normalized=True)
    hit, line = STRtree(lines).query(middles, predicate="dwithin", distance=SAME)
    first = np.full(len(pieces), len(drawn))
    np.minimum.at(first, hit, np.array(owners)[line])
    kept: dict[int, list] = defaultdict(list)
    for piece, owner in zip(pieces, first.tolist(), strict=True):
        kept[owner].append(piece)
    asking = set(owners)
    return [
        replace(one, linework=_left(one.linework, kept.get(number, [])))
        if number in asking
        else one
        for number, one in enumerate(drawn)
    ]


def stitched_inches(drawn: Sequence[LayerLinework]) -> float:
    """Inches of line that a route stitches: what several share once, a design's ways from line to line and
    back over its own line left out."""
    return sum(
        length(points)
        for one in stitched_once(drawn)
        for run in one.linework.runs
        for points, _, kind in run.pieces()
        if kind == "stitch"
    )


def _left(linework: Linework, pieces: list) -> Linework:
    """*linework* with *pieces* for ditches, joined where they meet, and the ruler laid along them."""
    like = next(run for run in linework.runs if run.in_ditch)
    merged = shapely.line_merge(shapely.multilinestrings(pieces)) if pieces else None
    ways = [shapely.get_coordinates(part) for part in shapely.get_parts(merged)] if pieces else []
    runs = tuple(replace(like, points=way, spans=(), units=(), closed=False) for way in ways)
    others = tuple(run for run in linework.runs if not run.in_ditch)
    return replace(linework, runs=others + runs)
