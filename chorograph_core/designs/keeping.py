"""Keep freehand work inside its zone: what strays over the seam follows it instead."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.contract import SPILL
from chorograph_core.designs.curves import tidy
from chorograph_core.designs.linework import Linework, Run, Span
from chorograph_core.designs.linking import Edge

TOUCH = 1e-4
"""Inches within which two stretches of a line are one."""


def inside(points: np.ndarray, shape: BaseGeometry) -> bool:
    """Whether the polyline (n, 2) strays over *shape* by no more than `SPILL` inches."""
    return bool(shapely.covers(shape.buffer(SPILL), shapely.linestrings(points)))


def pushed_back(points: np.ndarray, polygon: Polygon) -> np.ndarray | None:
    """Where the line (n, 2) leaves *polygon*, let it follow the edge to where it comes back.

    None when nothing of the line lies inside.
    """
    line = shapely.linestrings(points)
    if shapely.covers(polygon, line):
        return points
    edge = Edge(polygon)
    made: list[np.ndarray] = []
    segments = shapely.linestrings(np.stack([points[:-1], points[1:]], axis=1))
    whole = shapely.covers(polygon.buffer(1e-6), segments)
    for k, ok in enumerate(whole):
        for piece in [points[k : k + 2]] if ok else parts_inside(segments[k], points[k], polygon):
            if made and np.hypot(*(made[-1][-1] - piece[0])) > 1e-5:
                leave, back = edge.locate(made[-1][-1]), edge.locate(piece[0])
                if leave[0] == back[0]:
                    made.append(edge.way(leave[0], leave[1], back[1]))
            made.append(piece)
    return tidy(np.concatenate(made), 1e-5) if made else None


def clipped(linework: Linework, shape: Polygon) -> Linework:
    """What of *linework* lies in *shape*, line by line: for the eye and for measures, since whoever
    stitches it goes on across the edge."""
    reach = shape.buffer(1e-6)
    shapely.prepare(reach)
    runs: list[Run] = []
    for run in linework.runs:
        if reach.covers(shapely.linestrings(run.points)):
            runs.append(run)
            continue
        for points, technique, kind in run.pieces():
            if kind != "stitch":
                continue
            runs += [
                Run(part, technique, reversible=run.reversible, position=run.position)
                for part in stretches(points, reach)
            ]
    marks = tuple(
        replace(mark, points=part)
        for mark in linework.marks
        if mark.kind == "line"
        for part in stretches(mark.points, reach)
    )
    dots = [(mark, mark.points[shapely.intersects_xy(reach, mark.points)])
            for mark in linework.marks if mark.kind != "line"]  # fmt: skip
    marks += tuple(replace(mark, points=points) for mark, points in dots if len(points))
    return Linework(tuple(runs), marks, linework.notes)


def stretches(points: np.ndarray, reach: BaseGeometry) -> list[np.ndarray]:
    """The stretches of a polyline (n, 2) inside *reach*, in its own direction; a single point that lies
    in it."""
    if len(points) < 2:
        return [points] if len(points) and reach.covers(shapely.points(points[0])) else []
    made: list[list[np.ndarray]] = []
    segments = shapely.linestrings(np.stack([points[:-1], points[1:]], axis=1))
    whole = shapely.covers(reach, segments)
    near = shapely.intersects(reach, segments)
    for k in np.flatnonzero(near).tolist():
        parts = [points[k : k + 2]] if whole[k] else parts_inside(segments[k], points[k], reach)
        for part in parts:
            if made and np.hypot(*(made[-1][-1] - part[0])) < TOUCH:
                made[-1] += list(part[1:])
            else:
                made.append(list(part))
    return [np.array(part) for part in made if len(part) > 1]


def broken_where_it_leaves(run: Run, shape: BaseGeometry) -> list[Run]:
    """The *run* in pieces that stay inside *shape*, parted at the spans that leave it.

    Of a span that leaves, only the way to its first point may be at fault; then the rest is kept.
    """
    if inside(run.points, shape):
        return [run]
    made: list[list[tuple[np.ndarray, str, str]]] = [[]]
    for points, technique, kind in run.pieces():
        for tried in (points, points[1:]):
            if len(tried) > 1 and inside(tried, shape):
                if len(tried) < len(points):
                    made.append([])
                made[-1].append((tried, technique, kind))
                break
        else:
            made.append([])
    return [_joined(run, pieces) for pieces in made if any(kind == "stitch" for *_, kind in pieces)]


def _joined(run: Run, pieces: list[tuple[np.ndarray, str, str]]) -> Run:
    points: list[np.ndarray] = [pieces[0][0][:1]]
    spans: list[Span] = []
    for piece, technique, kind in pieces:
        points.append(piece[1:])
        spans.append(Span((spans[-1].stop if spans else 0) + len(piece) - 1, technique, kind))
    return replace(run, points=np.concatenate(points), spans=tuple(spans), units=())


def parts_inside(segment, start: np.ndarray, polygon: BaseGeometry) -> list[np.ndarray]:
    """The parts of one straight *segment* inside *polygon*, in its own direction from *start*."""
    parts = [
        shapely.get_coordinates(part)
        for part in shapely.get_parts(shapely.intersection(segment, polygon))
        if part.geom_type == "LineString" and part.length > 1e-9
    ]
    parts = [
        p if np.hypot(*(p[0] - start)) <= np.hypot(*(p[-1] - start)) else p[::-1] for p in parts
    ]
    return sorted(parts, key=lambda p: float(np.hypot(*(p[0] - start))))
