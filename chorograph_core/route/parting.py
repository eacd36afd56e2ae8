"""Parting: what no pass holds whole, drawn in parts or cut where a hand can stop and two passes overlap."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.in_parts import drawn_in_parts
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Run
from chorograph_core.route.passes import EDGE, Pass
from chorograph_core.route.seam_levels import Level

SWING, LENGTH = 0.5, 7.5
"""Inches that the line between two parts of a filling swings to either side at most, and of one swing:
a wave does not show between wandering lines as a straight line does."""
CLEAR = 0.3
"""Inches by which such a line stays within both passes."""
FINE = 0.5
"""Inches between the points of such a line."""


def parted(
    one: LayerLinework, passes: Sequence[Pass], cache: DrawingCache, through: bool = False,
    levels: Sequence[Level] = (),
) -> LayerLinework:  # fmt: skip
    """The same linework with every run in pieces that some pass holds; the pieces keep its name.

    What may be drawn in parts is; it begins and ends where another line would be cut again and again.
    Ditches are left whole: they are cut as links of the network are; so are all runs where the quilt is
    rolled under the needle (*through*). Lines are left at one of the *levels* of seams, if they can be.
    """
    if len(passes) < 2:
        return one
    if not _too_deep(one, passes):
        return one
    in_parts = drawn_in_parts(one, bands_of(one, passes), cache)
    if in_parts is not None and not _too_deep(in_parts, passes):
        return in_parts
    if through:
        return one
    runs: list[Run] = []
    for number, run in enumerate(one.linework.runs):
        whole = run.in_ditch or len(run.points) < 2
        pieces = [run] if whole else part_run(run, passes, levels)
        runs += [replace(piece, figure=run.figure or str(number)) for piece in pieces]
    if len(runs) == len(one.linework.runs):
        return one
    return replace(one, linework=replace(one.linework, runs=tuple(runs)), pattern=None)


def _too_deep(one: LayerLinework, passes: Sequence[Pass]) -> bool:
    """Whether no pass holds some run that is no ditch."""
    for run in one.linework.runs:
        if run.in_ditch or len(run.points) < 2:
            continue
        if not any(each.holds(*run.levels) for each in passes):
            return True
    return False


def bands_of(one: LayerLinework, passes: Sequence[Pass]) -> list[Polygon]:
    """What each of *passes* takes of a filling: bands across it that meet along waves where two overlap."""
    if one.pattern is not None and one.placement is not None:
        spots = one.placement.apply(shapely.get_coordinates(one.pattern.polygon))
    else:
        spots = np.concatenate([run.points for run in one.linework.runs])
    left, right = spots[:, 0].min() - LENGTH, spots[:, 0].max() + LENGTH
    xs = np.arange(left, right + FINE, FINE)
    # The wave begins with the zone: sisters beside each other are parted alike.
    waves = []
    for above, below in itertools.pairwise(passes):
        middle = (below.top + above.bottom) / 2
        swing = max(0.0, min(SWING, (above.bottom - below.top) / 2 - CLEAR))
        waves.append(
            np.column_stack([xs, middle + swing * np.sin((xs - left) * 2 * np.pi / LENGTH)])
        )
    top = np.array([[xs[0], passes[0].top - 1.0], [xs[-1], passes[0].top - 1.0]])
    bottom = np.array([[xs[0], passes[-1].bottom + 1.0], [xs[-1], passes[-1].bottom + 1.0]])
    return [
        Polygon(np.concatenate([upper, lower[::-1]]))
        for upper, lower in itertools.pairwise([top, *waves, bottom])
    ]


def part_run(run: Run, passes: Sequence[Pass], levels: Sequence[Level] = ()) -> list[Run]:
    """A run in pieces, none longer down the quilt than a pass, parted between two units if it can be, else at
    the first of the *levels* that two passes share. Ways along an edge that led on to what is now another
    piece are left out. What is closed begins where that makes fewest pieces of it."""
    if any(each.holds(*run.levels) for each in passes):
        return [run]
    pieces = _cut(run, passes, levels)
    if not run.closed or len(pieces) < 2:
        return pieces
    # Where it begins by chance the same pass may hold the end of it and the beginning.
    begun = _begun_at(run, pieces[-1].points[0], passes, levels)
    return min(pieces, _cut(begun, passes, levels), key=len)


def _begun_at(run: Run, spot: np.ndarray, passes: Sequence[Pass], levels: Sequence[Level]) -> Run:
    """A closed run that begins at a *spot* on it at which it was cut."""
    crossed, added = _with_crossings(run, passes, [level.height for level in levels])
    added[np.hypot(*(crossed.points - spot).T).argmin()] = False
    plain = _without(crossed, added)
    return plain.begun_at(int(np.hypot(*(plain.points - spot).T).argmin()))


def _cut(run: Run, passes: Sequence[Pass], levels: Sequence[Level]) -> list[Run]:
    shared = [(below.top, above.bottom) for above, below in itertools.pairwise(passes)]
    levels = [at for at in levels if any(low <= at.height <= high for low, high in shared)]
    run, added = _with_crossings(run, passes, [level.height for level in levels])
    stops = np.array(sorted({unit.stop for unit in run.stops()}), int)
    heights = run.points[:, 1]
    tops = np.array([each.top for each in passes])[:, None] - EDGE
    bottoms = np.array([each.bottom for each in passes])[:, None] + EDGE
    on_levels = [np.flatnonzero(level.holds(run.points)) for level in levels]
    pieces, rest, first = [], run, 0
    while True:
        lows = np.minimum.accumulate(heights[first:])
        highs = np.maximum.accumulate(heights[first:])
        beyond = ~((tops <= lows) & (highs <= bottoms)).any(axis=0)
        if not beyond.any():
            break
        last = first + int(beyond.argmax()) - 1
        unit = int(np.searchsorted(stops, last, side="right")) - 1
        between = (at[(at > first) & (at <= last)] for at in on_levels)
        stop = next((int(at[-1]) for at in between if len(at)), last)
        if unit >= 0 and stops[unit] > first:
            stop = int(stops[unit])
        if stop <= first:
            # A single leg that no pass holds: it was given a point at every edge of a pass.
            break
        piece, rest = rest.cut(stop - first)
        pieces.append(_without(piece, added[first : stop + 1]))
        first = stop
    pieces.append(_without(rest, added[first:]))
    ends = [each for piece in pieces if (each := _from_stitch_to_stitch(piece)) is not None]
    return ends or [run]


def _from_stitch_to_stitch(piece: Run) -> Run | None:
    """The piece without ways at either end, on which nothing is stitched that was asked for; None where there
    is nothing else."""
    stitched = [k for k, span in enumerate(piece.spans) if span.kind == "stitch"]
    if not piece.spans:
        return piece
    if not stitched:
        return None
    first = piece.spans[stitched[0] - 1].stop if stitched[0] else 0
    last = piece.spans[stitched[-1]].stop
    if last < len(piece.points) - 1:
        piece, _ = piece.cut(last)
    return piece.cut(first)[1] if first else piece


def _without(piece: Run, added: np.ndarray) -> Run:
    """A piece without the points that were *added* (n,) to part it and at which it was not: on an arc they
    would hide from a ruler that it is one."""
    kept = ~added
    kept[[0, -1]] = True
    place = np.cumsum(kept) - 1
    return replace(
        piece,
        points=piece.points[kept],
        spans=tuple(span.ending(int(place[span.stop])) for span in piece.spans),
        units=tuple(unit.ending(int(place[unit.stop])) for unit in piece.units),
    )


def _with_crossings(
    run: Run, passes: Sequence[Pass], levels: Sequence[float]
) -> tuple[Run, np.ndarray]:
    """The run with a point wherever it crosses the edge of a pass, or one of the *levels*; and which of its
    points (n,) are such."""
    edges = np.array(sorted({*levels, *(y for each in passes for y in (each.top, each.bottom))}))
    begins, ways = run.points[:-1], np.diff(run.points, axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        shares = (edges - begins[:, 1:]) / ways[:, 1:]
    crossed = (np.abs(ways[:, 1:]) > 1e-9) & (shares > 1e-6) & (shares < 1 - 1e-6)
    leg, edge = np.nonzero(crossed)
    share = shares[leg, edge]
    order = np.lexsort((share, leg))
    leg, share = leg[order], share[order]
    added = begins[leg] + share[:, None] * ways[leg]
    points = np.insert(run.points, leg + 1, added, axis=0)
    moved = np.arange(len(run.points)) + np.searchsorted(leg, np.arange(len(run.points)))
    new = np.ones(len(points), bool)
    new[moved] = False
    made = replace(
        run,
        points=points,
        spans=tuple(span.ending(int(moved[span.stop])) for span in run.spans),
        units=tuple(unit.ending(int(moved[unit.stop])) for unit in run.units),
    )
    return made, new
