"""Seams: the edges that patches share, found by noding all patch boundaries together."""

from __future__ import annotations

from collections import defaultdict
from itertools import pairwise

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely import STRtree
from shapely.geometry import LineString

from chorograph_core.chart.model import Chart, Seam

GRID = 1e-5
"""Inches. Corners closer than this are one corner."""
ON_SIDE = 5e-4
"""Inches within which a corner lies on a side."""
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
    """All boundary segments, noded and without doubles: array of shape (n, 2, 2), inches.

    Corners are put onto the sides they lie on before anything is snapped to a grid: where a slanted
    side meets a corner in its middle, snapping alone moves one of them off the other, and the same
    seam would be there twice.
    """
    rings = shapely.boundary([patch.polygon for patch in chart.patches])
    if len(rings) == 0:
        return np.empty((0, 2, 2))
    network = shapely.union_all(shapely.linestrings(_with_corners(rings)), grid_size=GRID)
    coords, owner = shapely.get_coordinates(shapely.get_parts(network), return_index=True)
    same = owner[1:] == owner[:-1]
    return np.stack([coords[:-1][same], coords[1:][same]], axis=1)


def _with_corners(rings: np.ndarray) -> np.ndarray:
    """The sides of *rings* (n, 2, 2), each once, parted at every corner that lies on them."""
    parts = shapely.get_parts(rings)
    coords, owner = shapely.get_coordinates(parts, return_index=True)
    spots, where = _corners(coords)
    same = owner[1:] == owner[:-1]
    sides = np.unique(np.sort(np.stack([where[:-1][same], where[1:][same]], axis=1)), axis=0)
    sides = sides[sides[:, 0] != sides[:, 1]]
    lines = shapely.linestrings(spots[sides])
    corner, side = STRtree(lines).query(
        shapely.points(spots), predicate="dwithin", distance=ON_SIDE
    )
    inside = (corner != sides[side, 0]) & (corner != sides[side, 1])
    corner, side = corner[inside], side[inside]
    along = shapely.line_locate_point(lines[side], shapely.points(spots[corner]))
    order = np.lexsort((along, side))
    between: dict[int, list[int]] = defaultdict(list)
    for k in order:
        between[int(side[k])].append(int(corner[k]))
    pieces: set[tuple[int, int]] = set()
    for number, (a, b) in enumerate(sides.tolist()):
        stops = [a, *between.get(number, ()), b]
        pieces |= {(min(p, q), max(p, q)) for p, q in pairwise(stops) if p != q}
    return spots[np.array(sorted(pieces))]


def _corners(coords: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The different corners among *coords* (n, 2), and which of them each is: one that lies within `ON_SIDE`
    of another is that one. No corner is moved further, however many lie close together."""
    spots, where = np.unique(np.round(coords / GRID) * GRID, axis=0, return_inverse=True)
    where = where.reshape(-1)
    close = cKDTree(spots).query_pairs(ON_SIDE, output_type="ndarray")
    if not len(close):
        return spots, where
    near: dict[int, list[int]] = defaultdict(list)
    for a, b in close.tolist():
        near[a].append(b)
        near[b].append(a)
    goes_by = np.arange(len(spots))
    for k in sorted(near):
        if goes_by[k] == k:
            # All that lie near it and are no other's yet are this one from now on.
            mine = [other for other in near[k] if other > k and goes_by[other] == other]
            goes_by[mine] = k
    kept, number = np.unique(goes_by, return_inverse=True)
    return spots[kept], number.reshape(-1)[where]


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
        which = np.full(len(pieces), -1)
        hit, patch = tree.query(points, predicate="within")
        # Of several that lie there the last counts: what was cut out of a patch, not the patch.
        np.maximum.at(which, hit, patch)
        which[which < 0] = len(chart.patches)
        sides.append(which)
    return sides[0], sides[1]


def _lines(geometry: shapely.Geometry) -> list[LineString]:
    return [part for part in shapely.get_parts(geometry) if not part.is_empty]
