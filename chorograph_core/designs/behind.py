"""Linework that runs behind what lies on a zone: cut where it is covered, and carried on beyond.

A design is drawn in the whole zone, as if nothing lay on it. Where a line comes to the edge of a
shape it follows that edge to where the line comes out again, and goes on: one run as long as that
way is short, else two.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import sides_of_outline
from chorograph_core.designs.engine.guides import in_seam
from chorograph_core.designs.keeping import stretches
from chorograph_core.designs.linework import Linework, Run, Span, Unit, length
from chorograph_core.designs.linking import LONGEST_LINK, Edge
from chorograph_core.designs.space import Space

SHORTEST = 0.06
"""Inches of line under which a piece between two shapes is not worth a stitch."""
TOUCH = 1e-4
CLOSE_BY = 0.5
"""Inches from a shape within which a guide counts as leading through it: designs keep a little off its edge,
and the guide would be cut there."""

Piece = tuple[np.ndarray, str, str, str]
"""Points (n, 2), technique, kind, and the unit of a stretch of a run."""


def covered(linework: Linework, visible: Polygon) -> Linework:
    """What of *linework* shows in *visible*, with links along its edge where a line is covered."""
    if not linework.runs or shapely.covers(visible.buffer(TOUCH), _all(linework.runs)):
        return linework
    edge = Edge(visible)
    reach = visible.buffer(1e-6)
    shapely.prepare(reach)
    runs = tuple(made for run in linework.runs for made in _shown(run, reach, visible, edge))
    marks = tuple(
        replace(mark, points=part)
        for mark in linework.marks
        for part in stretches(mark.points, reach)
    )  # fmt: skip
    return Linework(runs, marks, linework.notes)


def as_if_open(space: Space) -> Space:
    """The space without the shapes on it through which its guide leads, or close by: what follows the guide
    goes on behind them. The space itself where there are none."""
    if space.guide is None or not space.polygon.interiors:
        return space
    line = shapely.linestrings(space.guide)
    ends = [] if line.is_closed else [shapely.points(space.guide[k]) for k in (0, -1)]
    holes = [Polygon(ring) for ring in space.polygon.interiors]
    passed = [
        hole
        for hole in holes
        if line.distance(hole) < CLOSE_BY
        and not any(hole.covers(end) for end in ends)
        # What follows the seam of a shape lies beside it.
        and not in_seam(np.array(space.guide), hole.exterior)
    ]
    if not passed:
        return space
    rings = [hole.exterior for hole in holes if hole not in passed]
    return replace(space, polygon=Polygon(space.polygon.exterior, rings), _facts={})


def whole_of_half(half: Polygon) -> Polygon:
    """A zone with its reflection across its longest straight side: the block of which it is the half at
    the end of a row."""
    ring = sides_of_outline(half)
    legs = np.diff(ring, axis=0)
    inches = np.hypot(*legs.T)
    k = int(np.argmax(np.round(inches, 3)))
    foot, way = ring[k], legs[k] / max(float(inches[k]), 1e-9)

    def across(points: np.ndarray) -> np.ndarray:
        off = points - foot
        along = off @ way
        return foot + 2 * along[:, None] * way - off

    joined = shapely.union_all([half, shapely.transform(half, across)], grid_size=1e-5)
    parts = [part for part in shapely.get_parts(joined) if isinstance(part, Polygon)]
    return max(parts, key=lambda part: part.area)


def _all(runs: Sequence[Run]):
    return shapely.multilinestrings([shapely.linestrings(run.points) for run in runs])


def _shown(run: Run, reach, visible: Polygon, edge: Edge) -> list[Run]:
    """The runs that are left of one."""
    if shapely.covers(reach, shapely.linestrings(run.points)):
        return [run]
    chains: list[list[Piece]] = []
    for points, technique, kind, unit in _by_units(run):
        for part in stretches(points, reach):
            last = chains[-1][-1][0][-1] if chains else None
            if last is None or np.hypot(*(last - part[0])) > TOUCH:
                chains.append([])
            chains[-1].append((part, technique, kind, unit))
    if (
        run.closed
        and len(chains) > 1
        and np.hypot(*(chains[-1][-1][0][-1] - chains[0][0][0][0])) < TOUCH
    ):
        # The loop began in the open: its two ends are one stretch.
        chains = [[*chains[-1], *chains[0]], *chains[1:-1]]
    chains = [chain for chain in chains if sum(length(part) for part, *_ in chain) > SHORTEST]
    made: list[list[Piece]] = []
    for chain in chains:
        way = _along(made[-1][-1][0][-1], chain[0][0][0], visible, edge) if made else None
        if way is None:
            made.append(list(chain))
        else:
            made[-1] += [(way, "ditch", "link", ""), *chain] if len(way) > 1 else chain
    return [_joined(chain, run) for chain in made]


def _by_units(run: Run) -> list[Piece]:
    """The pieces of a run, parted where its units end, each with the name of the one it belongs to."""
    found: list[Piece] = []
    rest, gone, name = run, 0, ""
    for unit in run.units:
        name = unit.name
        if gone < unit.stop < len(run.points) - 1:
            part, rest = rest.cut(unit.stop - gone)
            gone = unit.stop
            found += [(*piece, name) for piece in part.pieces()]
    return [*found, *((*piece, name) for piece in rest.pieces())]


def _along(leave: np.ndarray, enter: np.ndarray, visible: Polygon, edge: Edge) -> np.ndarray | None:
    """The way along the edge from where a line is covered to where it shows again."""
    boundary = visible.boundary
    if any(boundary.distance(shapely.points(p)) > 1e-3 for p in (leave, enter)):
        return None
    (ring, start), (other, stop) = edge.locate(leave), edge.locate(enter)
    if ring != other:
        return None
    way = edge.way(ring, start, stop)
    return way if length(way) <= LONGEST_LINK else None


def _joined(chain: Sequence[Piece], run: Run) -> Run:
    """One open run of the stretches in order; a unit ends where the last of it shows."""
    points = [chain[0][0][:1]]
    spans: list[Span] = []
    units: dict[str, int] = {}
    stop = 0
    for part, technique, kind, unit in chain:
        rest = part[1:] if np.hypot(*(part[0] - points[-1][-1])) < TOUCH else part
        if not len(rest):
            continue
        points.append(rest)
        stop += len(rest)
        if spans and (spans[-1].technique, spans[-1].kind) == (technique, kind):
            spans[-1] = replace(spans[-1], stop=stop)
        else:
            spans.append(Span(stop, technique, kind))
        if unit:
            units[unit] = stop
    return Run(np.concatenate(points), run.technique, tuple(spans), run.in_ditch, run.reversible,
               units=_in_turn(units, stop))  # fmt: skip


def _in_turn(ends: Mapping[str, int], last: int) -> tuple[Unit, ...]:
    """Units by where they end; the last one ends with the run. Without any there are none."""
    units = [Unit(name, stop) for name, stop in sorted(ends.items(), key=lambda each: each[1])]
    if units:
        units[-1] = replace(units[-1], stop=last)
    return tuple(units)
