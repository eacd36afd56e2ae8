"""Pieces of work put one after another with as little between them as there can be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.linework import Run, Span, Unit
from chorograph_core.designs.linking import Edge, in_order

FAR = 1e6
REACH = 14.0
"""Inches beyond which nobody goes straight across a zone to the next piece."""


def chained(
    runs: Sequence[Run], polygon: Polygon, longest: float = 6.0, as_given: bool = False
) -> list[Run]:
    """*runs* as few: where the next begins within *longest* inches one goes there, straight where that
    stays inside *polygon*, else along its edge.

    Each run is a unit of what comes out. *as_given*: they stand in their order and direction already.
    """
    runs = [run for run in runs if len(run.points) > 1]
    if len(runs) < 2:
        return list(runs)
    edge = Edge(polygon)
    ends = np.array([run.points[k] for run in runs for k in (0, -1)])
    ways, along = _ways(ends, polygon, edge, as_given)
    order = list(range(0, 2 * len(runs), 2)) if as_given else in_order(ways, len(runs))
    made: list[Run] = []
    gathered: list[tuple[np.ndarray, str, str, str]] = []
    names: list[tuple[str, int]] = []

    def close() -> None:
        if gathered:
            made.append(_together(gathered, names, runs[0]))
        gathered.clear()
        names.clear()

    for place, entry in enumerate(order):
        run = runs[entry // 2] if entry % 2 == 0 else runs[entry // 2].reversed()
        if place:
            leave = order[place - 1] ^ 1
            if ways[leave, entry] > longest:
                close()
            elif ways[leave, entry] > 1e-6:
                way = _between(ends[leave], ends[entry], polygon, edge, along, leave, entry)
                gathered.append((way, "ditch", "link", ""))
        pieces = run._pieces()
        gathered += pieces
        names.append((f"part {place + 1}", len(gathered)))
    close()
    return made


def _ways(
    ends: np.ndarray, polygon: Polygon, edge: Edge, as_given: bool
) -> tuple[np.ndarray, list]:
    """Matrix (n, n) of the ways between *ends*, and where each lies on the edge; *as_given*: straight ones
    only from each run to the next."""
    straight = np.hypot(*(ends[:, None] - ends[None]).transpose(2, 0, 1))
    spots = shapely.points(ends)
    on_edge = shapely.distance(spots, polygon.boundary) < 5e-3
    along = [edge.locate(end) if near else None for end, near in zip(ends, on_edge, strict=True)]
    rings = np.array([spot[0] if spot else -1 - k for k, spot in enumerate(along)])
    at = np.array([spot[1] if spot else 0.0 for spot in along])
    total = np.array([edge.lengths[ring] if ring >= 0 else 1.0 for ring in rings])
    round_ = np.abs(at[:, None] - at[None])
    round_ = np.minimum(round_, total[:, None] - round_)
    round_ = np.where(rings[:, None] == rings[None], round_, FAR)
    room = polygon.buffer(1e-4)
    shapely.prepare(room)
    shorter = straight < np.minimum(round_, REACH) - 1e-6
    if as_given:
        following = np.arange(1, len(ends) - 1, 2)
        shorter = shorter & np.isin(np.arange(len(ends)), following)[:, None]
        shorter &= np.eye(len(ends), k=1, dtype=bool)
    near = np.argwhere(np.triu(shorter, 1))
    lines = shapely.linestrings(ends[near]) if len(near) else np.array([])
    fine = shapely.covers(room, lines) if len(near) else np.array([], bool)
    ways = round_.copy()
    for (i, j), good in zip(near.tolist(), fine.tolist(), strict=True):
        if good:
            ways[i, j] = ways[j, i] = straight[i, j]
    return ways, along


def _between(a, b, polygon, edge, along, leave, entry) -> np.ndarray:
    line = np.array([a, b])
    if polygon.buffer(1e-4).covers(shapely.linestrings(line)):
        return line
    way = edge.way(along[leave][0], along[leave][1], along[entry][1])
    return np.vstack([a, way[1:-1], b])


def _together(gathered, names, first: Run) -> Run:
    points: list[np.ndarray] = []
    spans: list[Span] = []
    stop, stops = 0, [0]
    for piece, technique, kind, position in gathered:
        joins = bool(points) and np.hypot(*(points[-1][-1] - piece[0])) < 1e-6
        points.append(piece[1:] if joins else piece)
        stop += len(points[-1]) - (0 if len(points) > 1 else 1)
        spans.append(Span(stop, technique, kind, position))
        stops.append(stop)
    joined = np.concatenate(points)
    units = tuple(Unit(name, stops[count]) for name, count in names)
    closed = bool(np.hypot(*(joined[0] - joined[-1])) < 1e-6)
    return replace(first, points=joined, spans=tuple(spans), units=units if len(units) > 1 else (),
                   closed=closed)  # fmt: skip
