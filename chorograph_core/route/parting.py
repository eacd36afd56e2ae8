"""Parting: runs that no pass holds whole, cut where a hand can stop and two passes overlap."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from chorograph_core.designs.contract import Run
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.route.passes import EDGE, Pass


def parted(one: LayerLinework, passes: Sequence[Pass]) -> LayerLinework:
    """The same linework with every run in pieces that some pass holds; the pieces keep its name.

    Ditches are left whole: they are cut as links of the network are.
    """
    if len(passes) < 2:
        return one
    runs: list[Run] = []
    changed = False
    for number, run in enumerate(one.linework.runs):
        whole = run.in_ditch or len(run.points) < 2
        pieces = [run] if whole else part_run(run, passes)
        changed = changed or len(pieces) > 1
        runs += [replace(piece, figure=run.figure or str(number)) for piece in pieces]
    if not changed:
        return one
    return replace(one, linework=replace(one.linework, runs=tuple(runs)), pattern=None)


def part_run(run: Run, passes: Sequence[Pass]) -> list[Run]:
    """A run in pieces, none longer down the quilt than a pass, parted between two units if it can be."""
    levels = run.points[:, 1]
    if any(each.holds(levels.min(), levels.max()) for each in passes):
        return [run]
    run = _with_crossings(run, passes)
    stops = {unit.stop for unit in run.stops()}
    levels = run.points[:, 1]
    tops = np.array([each.top for each in passes])
    bottoms = np.array([each.bottom for each in passes])
    pieces, rest, taken = [], run, 0
    low = high = float(levels[0])
    first, last_unit, k = 0, 0, 1
    while k < len(levels):
        tried = min(low, levels[k]), max(high, levels[k])
        if ((tops - EDGE <= tried[0]) & (tried[1] <= bottoms + EDGE)).any():
            low, high = tried
            if k in stops:
                last_unit = k
            k += 1
            continue
        stop = last_unit if last_unit > first else k - 1
        if stop <= first:
            # A single leg that no pass holds: it was given a point at every edge of a pass.
            break
        piece, rest = rest.cut(stop - taken)
        pieces.append(piece)
        taken = first = last_unit = stop
        low = high = float(levels[stop])
        k = stop + 1
    return [*pieces, rest]


def _with_crossings(run: Run, passes: Sequence[Pass]) -> Run:
    """The run with a point wherever it crosses the edge of a pass."""
    edges = sorted({y for each in passes for y in (each.top, each.bottom)})
    points, moved = [run.points[0]], [0]
    for k in range(1, len(run.points)):
        one, two = run.points[k - 1], run.points[k]
        rise = two[1] - one[1]
        shares = sorted((y - one[1]) / rise for y in edges if abs(rise) > 1e-9
                        and 1e-6 < (y - one[1]) / rise < 1 - 1e-6)  # fmt: skip
        points += [one + share * (two - one) for share in shares]
        points.append(two)
        moved.append(len(points) - 1)
    return replace(
        run,
        points=np.array(points),
        spans=tuple(replace(span, stop=moved[span.stop]) for span in run.spans),
        units=tuple(replace(unit, stop=moved[unit.stop]) for unit in run.units),
    )
