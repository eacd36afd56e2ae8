"""Seams: the edges that patches share, found by noding all patch boundaries together."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import LineString

from chorograph_core.chart.model import Chart, Seam

GRID = 1e-5
"""Inches. Corners closer than this are one corner."""
_PROBE = 2e-3


def seams(chart: Chart) -> list[Seam]:
    """Return every seam and every outer edge once, in a stable order.

    A seam is the longest unbroken line with the same patch on its left all along and the same on
    its right. T-junctions (a border against many blocks) are noded.
    """
    pieces = noded_edges(chart)
    if len(pieces) == 0:
        return []
    left, right = _neighbours(chart, pieces)
    names = [patch.id for patch in chart.patches] + [""]
    groups: dict[tuple[int, int], list[np.ndarray]] = defaultdict(list)
    for piece, a, b in zip(pieces, left, right, strict=True):
        if a == b:
            continue
        if a > b:
            a, b, piece = b, a, piece[::-1]
        groups[(int(a), int(b))].append(piece)
    found: list[Seam] = []
    for (a, b), segments in sorted(groups.items()):
        merged = shapely.line_merge(shapely.multilinestrings(segments), directed=True)
        lines = _lines(merged)
        for line in lines:
            name, twins = seam_name(names[a], names[b]), len(lines)
            number = lines.index(line) + 1
            found.append(Seam(name if twins == 1 else f"{name}#{number}", line, names[a], names[b]))
    return found


def seam_name(left: str, right: str) -> str:
    """What the seam between two patches is called, whichever way one walks along it."""
    return "|".join(sorted((left, right)))


def seam_names(chart: Chart, segments: np.ndarray) -> list[str]:
    """The name of the seam that each segment (n, 2, 2) lies on."""
    if len(segments) == 0:
        return []
    left, right = _neighbours(chart, segments)
    names = [patch.id for patch in chart.patches] + [""]
    return [seam_name(names[a], names[b]) for a, b in zip(left, right, strict=True)]


def noded_edges(chart: Chart) -> np.ndarray:
    """All boundary segments, noded and without doubles: array of shape (n, 2, 2), inches."""
    rings = shapely.boundary([patch.polygon for patch in chart.patches])
    if len(rings) == 0:
        return np.empty((0, 2, 2))
    network = shapely.union_all(shapely.set_precision(rings, GRID), grid_size=GRID)
    coords, owner = shapely.get_coordinates(shapely.get_parts(network), return_index=True)
    same = owner[1:] == owner[:-1]
    return np.stack([coords[:-1][same], coords[1:][same]], axis=1)


def _neighbours(chart: Chart, pieces: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Index of the patch to the left and right of each segment; len(patches) where none is."""
    along = pieces[:, 1] - pieces[:, 0]
    length = np.hypot(along[:, 0], along[:, 1])
    normal = np.column_stack([along[:, 1], -along[:, 0]]) / length[:, None]
    middle = pieces.mean(axis=1)
    probe = np.minimum(_PROBE, length / 4)[:, None]
    tree = STRtree([patch.polygon for patch in chart.patches])
    sides = []
    for sign in (1, -1):
        points = shapely.points(middle + sign * normal * probe)
        which = np.full(len(pieces), len(chart.patches))
        hit, patch = tree.query(points, predicate="within")
        which[hit] = patch
        sides.append(which)
    return sides[0], sides[1]


def _lines(geometry: shapely.Geometry) -> list[LineString]:
    return [part for part in shapely.get_parts(geometry) if not part.is_empty]
