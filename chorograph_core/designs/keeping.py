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
HAIR = 8e-6
"""Inches that a line along an edge may lie beyond it: zones that make up a region are joined to a
hundred-thousandth of an inch."""


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


class Clipping:
    """What of *linework* lies in one zone after another, line by line: for the eye and for measures, since
    whoever stitches it goes on across the edge. Of a figure over many zones most lies nowhere near any one
    of them: what each line reaches is found once."""

    def __init__(self, linework: Linework) -> None:
        self.linework = linework
        self._lines = [
            (run, points, technique)
            for run in linework.runs
            for points, technique, kind in run.pieces()
            if kind == "stitch"
        ]
        self._boxes = _boxes([points for _, points, _ in self._lines])
        self._drawn = [mark for mark in linework.marks if mark.kind == "line"]
        self._drawn_boxes = _boxes([mark.points for mark in self._drawn])

    def to(self, shape: Polygon) -> Linework:
        """What of it lies in *shape*."""
        reach = shape.buffer(HAIR)
        shapely.prepare(reach)
        runs: list[Run] = []
        whole: Run | None = None
        for run, points, technique in self._near(self._lines, self._boxes, reach):
            if run is whole:
                continue
            if reach.covers(shapely.linestrings(run.points)):
                whole = run
                runs.append(run)
                continue
            runs += [
                Run(part, technique, reversible=run.reversible, position=run.position)
                for part in stretches(points, reach)
            ]
        marks = tuple(
            replace(mark, points=part)
            for mark in self._near(self._drawn, self._drawn_boxes, reach)
            for part in stretches(mark.points, reach)
        )
        dots = [(mark, mark.points[shapely.intersects_xy(reach, mark.points)])
                for mark in self.linework.marks if mark.kind != "line"]  # fmt: skip
        marks += tuple(replace(mark, points=points) for mark, points in dots if len(points))
        return Linework(tuple(runs), marks, self.linework.notes)

    @staticmethod
    def _near(things: list, boxes: np.ndarray, reach: BaseGeometry) -> list:
        x0, y0, x1, y1 = reach.bounds
        near = (boxes[:, :2] <= (x1, y1)).all(axis=1) & (boxes[:, 2:] >= (x0, y0)).all(axis=1)
        return [things[k] for k in np.flatnonzero(near).tolist()]


def _boxes(lines: list[np.ndarray]) -> np.ndarray:
    """From where to where each of some lines reaches (n, 4)."""
    found = [np.concatenate([points.min(axis=0), points.max(axis=0)]) for points in lines]
    return np.array(found).reshape(-1, 4)


def stretches(points: np.ndarray, reach: BaseGeometry) -> list[np.ndarray]:
    """The stretches of a polyline (n, 2) inside *reach*, in its own direction; a single point that lies
    in it."""
    if len(points) < 2:
        return [points] if len(points) and reach.covers(shapely.points(points[0])) else []
    made: list[list[np.ndarray]] = []
    segments = shapely.linestrings(np.stack([points[:-1], points[1:]], axis=1))
    whole = shapely.covers(reach, segments)
    crossing = np.flatnonzero(shapely.intersects(reach, segments) & ~whole)
    cut = dict(zip(crossing.tolist(), shapely.intersection(segments[crossing], reach), strict=True))
    for k in sorted([*np.flatnonzero(whole).tolist(), *cut]):
        parts = [points[k : k + 2]] if whole[k] else _in_order(cut[k], points[k])
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
    return _in_order(shapely.intersection(segment, polygon), start)


def _in_order(found: BaseGeometry, start: np.ndarray) -> list[np.ndarray]:
    """The parts of a straight line that were *found*, as points (2, 2), in its own direction from *start*."""
    parts = [
        shapely.get_coordinates(part)
        for part in shapely.get_parts(found)
        if part.geom_type == "LineString" and part.length > 1e-9
    ]
    parts = [
        p if np.hypot(*(p[0] - start)) <= np.hypot(*(p[-1] - start)) else p[::-1] for p in parts
    ]
    return sorted(parts, key=lambda p: float(np.hypot(*(p[0] - start))))
