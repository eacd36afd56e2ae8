"""Chains: unbroken stretches of seam or edge between junctions, and which must be stitched."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import STRtree

from chorograph_core.chart import Chart
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.route.model import TOLERANCE
from chorograph_core.route.network import as_lines
from chorograph_core.zones import Zone
from chorograph_core.zones.edges import cut_zones, named_edges

SHORT = 4 * TOLERANCE
"""Inches of an edge up to which it lies near a line only if both its ends do."""


@dataclass(frozen=True)
class Edges:
    """All edges of patches and zones as noded *segments* (n, 2, 2); of each the names of the patches on both
    sides, and whether it lies *on_outline* and *on_seam*. The same for all that is drawn on a chart."""

    segments: np.ndarray
    names: list[str]
    on_outline: list[bool]
    on_seam: list[bool]


def edges_of(chart: Chart, zones: Sequence[Zone]) -> Edges:
    """The edges of a *chart*, and of those *zones* that do not follow its seams."""
    segments, names = named_edges(chart, zones)
    return Edges(
        segments,
        names,
        _on_outline(chart, segments).tolist(),
        _on_seam(chart, zones, segments).tolist(),
    )


def chains_of(edges: Edges, drawn: Sequence[LayerLinework]) -> list[tuple[np.ndarray, tuple]]:
    """All chains as (points (n, 2), (asked, on_outline, on_seam, seam)).

    *asked* is the (thread, spi, entry) of the first layer that wants the chain stitched, or None;
    *seam* names the patches on both sides, whatever else the graph is cut into.
    Where a zone was cut its edge lies on open fabric: *on_seam* is False there.
    """
    asked = _asked_ditches(drawn, edges.segments)
    # A ditch may end at the raw edge, where a short bit of that lies near it; it never runs along it.
    asked = [None if raw else each for each, raw in zip(asked, edges.on_outline, strict=True)]
    labels = zip(asked, edges.on_outline, edges.on_seam, edges.names, strict=True)
    return _chains(edges.segments, list(labels))


def _asked_ditches(drawn: Sequence[LayerLinework], segments: np.ndarray) -> list[tuple | None]:
    """For each segment the (thread, spi, entry) of the first layer that wants it stitched."""
    lines, owners = [], []
    for one in drawn:
        for run in one.linework.runs:
            if run.in_ditch:
                lines.append(run.points)
                owners.append((one.thread, one.spi, one.entry))
    asked: list[tuple | None] = [None] * len(segments)
    if not lines:
        return asked
    middles = shapely.points(segments.mean(axis=1))
    shapes, near = as_lines(lines), TOLERANCE * 0.75
    hit, line = STRtree(shapes).query(middles, predicate="dwithin", distance=near)
    # The middle of a seam that is that short lies near every line that ends or turns where it does.
    long = np.hypot(*(segments[hit, 1] - segments[hit, 0]).T) > SHORT
    ends = [
        shapely.dwithin(shapely.points(segments[hit, end]), shapes[line], near) for end in (0, 1)
    ]
    kept = long | (ends[0] & ends[1])
    hit, line = hit[kept], line[kept]
    first = np.full(len(segments), len(lines))
    np.minimum.at(first, hit, line)
    for k in np.flatnonzero(first < len(lines)):
        asked[k] = owners[first[k]]
    return asked


def _on_outline(chart: Chart, segments: np.ndarray) -> np.ndarray:
    middles = shapely.points(segments.mean(axis=1))
    return shapely.dwithin(middles, chart.outline.boundary, TOLERANCE / 2)


def _on_seam(chart: Chart, zones: Sequence[Zone], segments: np.ndarray) -> np.ndarray:
    if not cut_zones(chart, zones):
        return np.ones(len(segments), bool)
    edges = shapely.get_parts(shapely.boundary([patch.polygon for patch in chart.patches]))
    middles = shapely.points(segments.mean(axis=1))
    near = STRtree(edges).query(middles, predicate="dwithin", distance=TOLERANCE / 2)[0]
    found = np.zeros(len(segments), bool)
    found[near] = True
    return found


def _chains(segments: np.ndarray, labels: list) -> list[tuple[np.ndarray, tuple]]:
    """Join segments end to end as long as nothing branches off and their label stays the same."""
    flat = np.round(segments.reshape(-1, 2), 5)
    _, where = np.unique(flat, axis=0, return_inverse=True)
    ends = where.reshape(-1, 2)
    touching: dict[int, list[int]] = defaultdict(list)
    for k, (a, b) in enumerate(ends.tolist()):
        touching[a].append(k)
        touching[b].append(k)
    spots = {}
    for k, (a, b) in enumerate(ends.tolist()):
        spots[a], spots[b] = segments[k, 0], segments[k, 1]
    stops = {
        node
        for node, found in touching.items()
        if len(found) != 2 or labels[found[0]] != labels[found[1]]
    }
    used = np.zeros(len(segments), bool)
    chains = []

    def walk(first: int, node: int) -> None:
        used[first] = True
        a, b = ends[first].tolist()
        node = b if node == a else a
        points = [spots[a if node == b else b], spots[node]]
        current = first
        while node not in stops:
            one, two = touching[node]
            current = two if one == current else one
            if used[current]:
                break
            used[current] = True
            a, b = ends[current].tolist()
            node = b if node == a else a
            points.append(spots[node])
        chains.append((np.array(points), labels[first]))

    for node in sorted(stops):
        for k in touching[node]:
            if not used[k]:
                walk(k, node)
    for k in range(len(segments)):
        if not used[k]:
            walk(k, int(ends[k, 0]))
    return chains
