"""Lines that meet at their ends, read off as few runs as there can be.

Between lines one goes along the zone's edge, where it hides, or over a line of one's own once more. What is
added so that a walk exists is a small postman problem: parts that hang apart are joined by the shortest ways
between them, then odd ends are matched so that the ways together are shortest, two of them left open
(Edmonds, Johnson 1973; Eiselt, Gendreau, Laporte 1995). The walk itself goes straight on where it can
(Hierholzer).
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import rustworkx
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components, dijkstra
from scipy.spatial import cKDTree
from shapely.geometry import Polygon

from chorograph_core.designs.linework import Run, Span, Unit
from chorograph_core.designs.linking import LONGEST_LINK, Edge

MEETS = 2e-3
"""Inches within which two ends are one place."""
ALL_PAIRS, NEAREST = 40, 12
"""Odd ends up to which all pairs are weighed; of more, so many of each."""
SHOWS = 2.5
"""How much longer a way over one's own line counts than one along the edge."""


@dataclass(frozen=True)
class Line:
    """A line to stitch: points (n, 2), how, what it is called, and how its ruler is laid."""

    points: np.ndarray
    technique: str = "straight"
    name: str = ""
    position: str = ""


@dataclass(frozen=True)
class _Link:
    a: int
    b: int
    points: np.ndarray
    kind: str
    line: int
    cost: float


def traced(lines: Sequence[Line], polygon: Polygon, longest: float = LONGEST_LINK) -> list[Run]:
    """Runs that stitch each of *lines* once, joined along the edge of *polygon* where they end on it.

    Lines that close on themselves are a run each unless another begins on them.
    """
    lines = [line for line in lines if len(line.points) > 1]
    if not lines:
        return []
    nodes, spots = _nodes(lines)
    links = [
        _Link(int(a), int(b), line.points, "stitch", k, _inches(line.points))
        for k, (line, (a, b)) in enumerate(zip(lines, nodes, strict=True))
    ]
    ways = [
        *(_Link(one.a, one.b, one.points, "retrace", one.line, SHOWS * one.cost) for one in links),
        *_along_edge(spots, polygon, longest),
    ]
    walk = _Postman(links, ways, spots).walks(longest)
    return [_run(each, lines) for each in walk]


def _inches(points: np.ndarray) -> float:
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


def _nodes(lines: Sequence[Line]) -> tuple[np.ndarray, np.ndarray]:
    ends = np.array([spot for line in lines for spot in (line.points[0], line.points[-1])])
    pairs = cKDTree(ends).query_pairs(MEETS, output_type="ndarray")
    near = coo_array((np.ones(len(pairs)), pairs.T), shape=(len(ends), len(ends)))
    count, labels = connected_components(near, directed=False)
    spots = np.zeros((count, 2))
    spots[labels] = ends
    return labels.reshape(-1, 2), spots


def _along_edge(spots: np.ndarray, polygon: Polygon, longest: float) -> list[_Link]:
    """The stretches of the edge between each two places that follow one another on it."""
    edge = Edge(polygon)
    near = shapely.distance(shapely.points(spots), polygon.boundary) < 5e-3
    at: dict[int, list[tuple[float, int]]] = defaultdict(list)
    for node in np.flatnonzero(near).tolist():
        ring, along = edge.locate(spots[node])
        at[ring].append((along, node))
    found = []
    for ring, places in at.items():
        places.sort()
        for (one, a), (two, b) in itertools.pairwise([*places, places[0]]):
            apart = (two - one) % edge.lengths[ring]
            if a != b and 1e-6 < apart <= min(longest, edge.lengths[ring] / 2 + 1e-6):
                way = edge.way(ring, one, two)
                way = np.vstack([spots[a], way[1:-1], spots[b]])
                found.append(_Link(a, b, way, "link", -1, _inches(way)))
    return found


class _Postman:
    """Ways added until every part can be walked, and the walks."""

    def __init__(self, links: list[_Link], ways: list[_Link], spots: np.ndarray) -> None:
        self.links, self.ways, self.count = links, ways, len(spots)
        best: dict[tuple[int, int], int] = {}
        for k, way in enumerate(ways):
            key = min(way.a, way.b), max(way.a, way.b)
            if way.a != way.b and (key not in best or way.cost < ways[best[key]].cost):
                best[key] = k
        self.best = best
        keys = np.array(list(best) or np.empty((0, 2), int)).reshape(-1, 2)
        costs = [ways[k].cost for k in best.values()]
        self.graph = coo_array((costs, keys.T), shape=(self.count, self.count)).tocsr()

    def walks(self, longest: float) -> list[list[tuple[_Link, bool]]]:
        taken = list(self.links)
        used = sorted({node for link in taken for node in (link.a, link.b)})
        far, before = dijkstra(self.graph, directed=False, indices=used, return_predecessors=True)
        row = {node: k for k, node in enumerate(used)}

        def way(a: int, b: int) -> list[_Link]:
            found: list[_Link] = []
            node = b
            while node != a:
                previous = int(before[row[a], node])
                found.append(self.ways[self.best[min(previous, node), max(previous, node)]])
                node = previous
            return found

        parts = self._parts(taken)
        for a, b in self._bridges(parts, used, row, far, longest):
            taken += way(a, b)
        made = []
        for members in self._parts(taken).values():
            own = [link for link in taken if link.a in members]
            for a, b in self._odd_pairs(own, row, far):
                own += way(a, b)
            made.append(_walk(own))
        return made

    def _parts(self, taken: list[_Link]) -> dict[int, set[int]]:
        ends = np.array([(link.a, link.b) for link in taken])
        joined = coo_array((np.ones(len(ends)), ends.T), shape=(self.count, self.count))
        _, labels = connected_components(joined, directed=False)
        parts: dict[int, set[int]] = defaultdict(set)
        for node in np.unique(ends).tolist():
            parts[int(labels[node])].add(node)
        return parts

    def _bridges(self, parts, used, row, far, longest) -> list[tuple[int, int]]:
        """The shortest ways that join parts (Kruskal), none longer than *longest*."""
        if len(parts) < 2:
            return []
        label = {node: part for part, nodes in parts.items() for node in nodes}
        among = far[:, used]
        order = np.argsort(among, axis=None, kind="stable")
        parent = {part: part for part in parts}

        def find(part):
            while parent[part] != part:
                part = parent[part]
            return part

        found: list[tuple[int, int]] = []
        for flat in order.tolist():
            i, j = divmod(flat, len(used))
            if not among[i, j] <= longest or len(found) == len(parts) - 1:
                break
            one, two = find(label[used[i]]), find(label[used[j]])
            if one != two:
                parent[one] = two
                found.append((used[i], used[j]))
        return found

    def _odd_pairs(self, own: list[_Link], row, far) -> list[tuple[int, int]]:
        """Odd ends to be joined, all but two of them, by the shortest ways together."""
        degree: dict[int, int] = defaultdict(int)
        for link in own:
            degree[link.a] += 1
            degree[link.b] += 1
        odd = sorted(node for node, count in degree.items() if count % 2)
        if len(odd) <= 2:
            return []
        graph = rustworkx.PyGraph()
        graph.add_nodes_from([*odd, -1, -1])
        most = float(far[np.isfinite(far)].max(initial=1.0)) * 4 + 1000
        apart = far[np.ix_([row[node] for node in odd], odd)]
        for i, j in _nearest(apart):
            graph.add_edge(i, j, round((most - apart[i, j]) * 1000))
        for i in range(len(odd)):
            for free in (len(odd), len(odd) + 1):
                graph.add_edge(i, free, round(most * 1000))
        pairs = rustworkx.max_weight_matching(graph, True, lambda weight: weight)
        return [
            (odd[i], odd[j]) for i, j in sorted(tuple(sorted(p)) for p in pairs) if j < len(odd)
        ]


def _nearest(apart: np.ndarray) -> list[tuple[int, int]]:
    """Pairs worth matching: of few ends all that a way joins, of many the nearest of each."""
    most = len(apart) - 1 if len(apart) <= ALL_PAIRS else NEAREST
    order = np.argsort(apart + np.diag(np.full(len(apart), np.inf)), axis=1, kind="stable")[
        :, :most
    ]
    found = {(min(i, j), max(i, j)) for i, row in enumerate(order.tolist()) for j in row}
    return sorted((i, j) for i, j in found if math.isfinite(apart[i, j]) and i != j)


def _walk(links: list[_Link]) -> list[tuple[_Link, bool]]:
    """Every one of *links* once, as (link, whether it is gone from a to b), going straight on."""
    at: dict[int, list[tuple[int, bool]]] = defaultdict(list)
    for k, link in enumerate(links):
        at[link.a].append((k, True))
        at[link.b].append((k, False))
    # A link from a place to itself counts twice there, so it never makes its node odd.
    odd = sorted(node for node, ends in at.items() if len(ends) % 2)
    free = [True] * len(links)
    start = odd[0] if odd else links[0].a
    stack: list[tuple[int, tuple[int, bool] | None]] = [(start, None)]
    out: list[tuple[int, bool]] = []
    while stack:
        node, came = stack[-1]
        ahead = [way for way in at[node] if free[way[0]]]
        if not ahead:
            stack.pop()
            if came is not None:
                out.append(came)
            continue
        chosen = ahead[0] if came is None else min(ahead, key=lambda way: _turn(links, came, way))
        free[chosen[0]] = False
        link = links[chosen[0]]
        stack.append((link.b if chosen[1] else link.a, chosen))
    out.reverse()
    return _trimmed([(links[k], forth) for k, forth in out])


def _turn(links: list[_Link], came: tuple[int, bool], onto: tuple[int, bool]) -> float:
    into = links[came[0]].points if came[1] else links[came[0]].points[::-1]
    away = links[onto[0]].points if onto[1] else links[onto[0]].points[::-1]
    u, v = into[-1] - into[-2], away[1] - away[0]
    # What has to be stitched comes before what only leads somewhere.
    later = 0.0 if links[onto[0]].kind == "stitch" else 10.0
    return abs(math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1])) + later


def _trimmed(walk: list[tuple[_Link, bool]]) -> list[tuple[_Link, bool]]:
    """Without ways at either end that lead to nothing."""
    kinds = [link.kind == "stitch" for link, _ in walk]
    first, last = kinds.index(True), len(kinds) - kinds[::-1].index(True)
    return walk[first:last]


def _run(walk: list[tuple[_Link, bool]], lines: Sequence[Line]) -> Run:
    points: list[np.ndarray] = []
    spans: list[Span] = []
    units: list[Unit] = []
    stop = 0
    for link, forth in walk:
        way = link.points if forth else link.points[::-1]
        points.append(way[1:] if points else way)
        stop += len(way) - 1
        line = lines[link.line] if link.line >= 0 else None
        technique = "ditch" if line is None else line.technique
        if link.kind == "retrace":
            technique = "retrace"
        spans.append(Span(stop, technique, link.kind, line.position if line else ""))
        if link.kind == "stitch" and line is not None and line.name:
            units.append(Unit(line.name, stop))
    joined = np.concatenate(points)
    closed = bool(np.hypot(*(joined[0] - joined[-1])) < 1e-6)
    if closed:
        joined[-1] = joined[0]
    return Run(joined, lines[walk[0][0].line].technique, tuple(spans), closed=closed,
               units=tuple(units) if len(units) > 1 else ())  # fmt: skip
