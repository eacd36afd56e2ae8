"""Join the straight lines of a ruler layout into few unbroken runs, linked along the zone's edge.

Lines that cross a zone end on its edge. Going on to the next line along that edge hides the travel
in the ditch. Choosing the order and direction of the lines is a small travelling problem: greedy
nearest end first, then 2-opt.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import Point, Polygon

from chorograph_core.designs.curves import tidy
from chorograph_core.designs.linework import Run, Span

NO_LONGER = 1.05
"""How many times longer the ways along the edge of another drawing of the same lines may be."""
LONGEST_LINK = 14.0
"""Inches. Rather cut than run further along an edge only to reach the next line."""


class Edge:
    """The rings of a polygon as lines with positions in inches along them."""

    def __init__(self, polygon: Polygon) -> None:
        self.rings = [polygon.exterior, *polygon.interiors]
        self.lengths = [ring.length for ring in self.rings]
        self._coords = [np.asarray(ring.coords) for ring in self.rings]
        self._at = [
            np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(coords, axis=0).T))])
            for coords in self._coords
        ]

    def locate(self, point: np.ndarray) -> tuple[int, float]:
        """Ring number and position of the edge point nearest to *point*."""
        spot = Point(point)
        ring = min(range(len(self.rings)), key=lambda k: self.rings[k].distance(spot))
        return ring, self.rings[ring].project(spot)

    def located(self, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """The same for many points (n, 2): ring numbers and positions."""
        spots = shapely.points(points)
        away = np.stack([shapely.distance(ring, spots) for ring in self.rings])
        rings = away.argmin(axis=0)
        along = shapely.line_locate_point(np.array(self.rings)[rings], spots)
        return rings, along

    def distances(self, rings: np.ndarray, along: np.ndarray) -> np.ndarray:
        """Matrix (n, n) of the shorter ways along the edge; infinite between different rings."""
        total = np.asarray(self.lengths)[rings]
        apart = np.abs(along[:, None] - along[None, :])
        apart = np.minimum(apart, total[:, None] - apart)
        return np.where(rings[:, None] == rings[None, :], apart, np.inf)

    def way(self, ring: int, start: float, stop: float) -> np.ndarray:
        """Points (n, 2) along the shorter way from *start* to *stop*."""
        total = self.lengths[ring]
        forward = (stop - start) % total
        sign = 1 if forward <= total - forward else -1
        reach = forward if sign > 0 else total - forward
        coords, at = self._coords[ring], self._at[ring]
        gone = (sign * (at[:-1] - start)) % total
        between = np.flatnonzero((gone > 1e-6) & (gone < reach - 1e-6))
        between = between[np.argsort(gone[between])]
        ends = np.column_stack([np.interp((start, stop), at, coords[:, k]) for k in (0, 1)])
        return np.vstack([ends[:1], coords[:-1][between], ends[1:]])


def link_along_edge(
    lines: Sequence[np.ndarray],
    polygon: Polygon,
    technique: str = "straight",
    longest: float = LONGEST_LINK,
    start_near: tuple[float, float] | None = None,
) -> list[Run]:
    """Return runs that stitch every one of *lines* (each (n, 2), both ends on the edge) once."""
    lines = [line for line in lines if len(line) > 1]
    if not lines:
        return []
    edge = Edge(polygon)
    ends = np.array([point for line in lines for point in (line[0], line[-1])])
    rings, along = edge.located(ends)
    ways = edge.distances(rings, along)
    order = in_order(ways, len(lines), ends, start_near)
    runs: list[Run] = []
    points: list[np.ndarray] = []
    spans: list[tuple[int, str]] = []
    count = 0

    def close() -> None:
        nonlocal points, spans, count
        if points:
            runs.append(_run(points, spans, technique))
        points, spans, count = [], [], 0

    for place, entry in enumerate(order):
        line = lines[entry // 2] if entry % 2 == 0 else lines[entry // 2][::-1]
        if place:
            leave = order[place - 1] ^ 1
            if ways[leave, entry] > longest:
                close()
            elif ways[leave, entry] > 1e-6:
                way = edge.way(rings[leave], along[leave], along[entry])
                points.append(way)
                spans.append((len(way), "link"))
        points.append(line)
        spans.append((len(line), "stitch"))
    close()
    return runs


def linked_variants(
    lines: Sequence[np.ndarray], polygon: Polygon, technique: str = "straight"
) -> list[Run]:
    """The same lines in one run from others of their ends: the ways along the edge no longer than those of
    `link_along_edge`, so that nobody can tell them apart. None where it takes more than one run."""
    first = link_along_edge(lines, polygon, technique)
    if len(first) != 1 or len(lines) < 2:
        return []
    least = _links(first[0])
    found = [first[0]]
    for near in (lines[0][0], lines[0][-1], lines[-1][0], lines[-1][-1]):
        made = link_along_edge(lines, polygon, technique, start_near=tuple(near))
        if len(made) != 1 or _links(made[0]) > least * NO_LONGER + 0.01:
            continue
        ends = made[0].points[[0, -1]]
        if all(min(np.abs(ends - run.points[[0, -1]]).max(), np.abs(ends - run.points[[-1, 0]]).max())
               > 0.05 for run in found):  # fmt: skip
            found.append(made[0])
    return found[1:]


def _links(run: Run) -> float:
    """Inches of a run along the edge."""
    steps = np.hypot(*np.diff(run.points, axis=0).T)
    first, inches = 0, 0.0
    for span in run.spans:
        inches += float(steps[first : span.stop].sum()) if span.kind == "link" else 0.0
        first = span.stop
    return inches


def in_order(
    ways: np.ndarray, count: int, ends: np.ndarray | None = None,
    near: tuple[float, float] | None = None,
) -> list[int]:  # fmt: skip
    """Entry ends in the order of stitching, begun at that of *ends* nearest to *near*. End 2k and 2k+1 are
    the two ends of line k; *ways* are the inches between them."""
    if near is not None and ends is not None:
        starts = [int(np.argmin(np.hypot(*(ends - np.asarray(near)).T)))]
    else:
        starts = sorted({0, 1, 2 * count - 2, 2 * count - 1})
    finite = np.where(np.isfinite(ways), ways, 1e6)
    best, best_cost = [], np.inf
    # No order does with less than each end's way to the nearest other, two ends left over.
    nearest = np.sort((finite + np.diag(np.full(2 * count, np.inf))).min(axis=1))
    bound = nearest[: 2 * count - 2].sum() / 2
    for start in starts:
        if best_cost <= bound * (1 + 1e-9):
            break
        order = _greedy(finite, count, start)
        order = _two_opt(finite, order, fixed_start=near is not None)
        cost = sum(finite[a ^ 1, b] for a, b in itertools.pairwise(order))
        if cost < best_cost - 1e-9:
            best, best_cost = order, cost
    return best


def _greedy(ways: np.ndarray, count: int, start: int) -> list[int]:
    free = np.ones(2 * count, bool)
    order = [start]
    free[[start, start ^ 1]] = False
    for _ in range(count - 1):
        row = np.where(free, ways[order[-1] ^ 1], np.inf)
        following = int(np.argmin(row))
        order.append(following)
        free[[following, following ^ 1]] = False
    return order


def _two_opt(ways: np.ndarray, order: list[int], fixed_start: bool) -> list[int]:
    """Reverse stretches of the order while that shortens the links."""
    n = len(order)
    if n > 160:
        return order
    for _ in range(12):
        better = False
        for i in range(1 if fixed_start else 0, n - 1):
            entry = np.array(order)
            leave = entry ^ 1
            j = np.arange(i + 1, n)
            before_i = ways[leave[i - 1], entry[i]] if i else 0.0
            after = np.where(j + 1 < n, ways[leave[j], entry[np.minimum(j + 1, n - 1)]], 0.0)
            new_before = ways[leave[i - 1], leave[j]] if i else np.zeros(len(j))
            new_after = np.where(j + 1 < n, ways[entry[i], entry[np.minimum(j + 1, n - 1)]], 0.0)
            gain = before_i + after - new_before - new_after
            k = int(np.argmax(gain))
            if gain[k] > 1e-9:
                stop = i + 1 + k
                order[i : stop + 1] = [e ^ 1 for e in reversed(order[i : stop + 1])]
                better = True
        if not better:
            break
    return order


def _run(points: list[np.ndarray], kinds: list[tuple[int, str]], technique: str) -> Run:
    """Put pieces end to end, dropping doubled joints, and mark which are links."""
    made = [points[0]]
    stop = len(points[0]) - 1
    spans = [Span(stop, technique if kinds[0][1] == "stitch" else "ditch", kinds[0][1])]
    for piece, (_, kind) in zip(points[1:], kinds[1:], strict=True):
        rest = piece[1:] if np.hypot(*(piece[0] - made[-1][-1])) < 1e-3 else piece
        made.append(rest)
        stop += len(rest)
        spans.append(Span(stop, technique if kind == "stitch" else "ditch", kind))
    joined = np.concatenate(made)
    if len(tidy(joined)) == len(joined):
        return Run(joined, technique, tuple(spans))
    # Where two lines meet at one point on the edge there is a doubled point; leave it out.
    keep = np.concatenate([[True], np.hypot(*np.diff(joined, axis=0).T) > 1e-6])
    index = np.cumsum(keep) - 1
    merged: list[Span] = []
    for span in spans:
        at = int(index[span.stop])
        if not merged or at > merged[-1].stop:
            merged.append(Span(at, span.technique, span.kind))
    return Run(joined[keep], technique, tuple(merged))
