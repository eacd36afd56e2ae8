"""Even sites that know the shape of a zone: on its edge and in its corners first, then relaxed inside.

Sites on the edge stand at even distances between fixed ones in the corners; those inside settle in the
middle of what is nearest to them (Lloyd, Least squares quantization in PCM, 1982).
"""

from __future__ import annotations

import math

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry import Polygon

from chorograph_core.designs.space import turning_points

ROUNDS = 8
SAMPLES = 30
"""Spots by which the share of a site is measured."""
MOST_SPOTS = 150_000
CLOSEST = 0.62
"""Spacings. Sites nearer to each other than this are one."""


def edge_sites(core: Polygon, spacing: float) -> np.ndarray:
    """Points (n, 2) on the edge of *core* about *spacing* apart: its corners, and even ones between them."""
    found = [ring_sites(shapely.get_coordinates(core.exterior), spacing)]
    found += [ring_sites(shapely.get_coordinates(hole), spacing) for hole in core.interiors]
    return apart(np.vstack(found), CLOSEST * spacing)


def ring_sites(ring: np.ndarray, spacing: float) -> np.ndarray:
    """The same for one closed ring of points (n + 1, 2)."""
    plain = shapely.get_coordinates(shapely.linestrings(ring).simplify(0.12 * spacing))[:-1]
    if len(plain) < 3:
        return plain[:1]
    corners = turning_points(plain)
    at = np.concatenate(
        [[0.0], np.cumsum(np.hypot(*np.diff(np.vstack([plain, plain[:1]]), axis=0).T))]
    )
    closed = np.vstack([plain, plain[:1]])
    stops = at[corners] if len(corners) else at[:1]
    made = []
    for one, two in zip(stops, np.append(stops[1:], stops[0] + at[-1]), strict=True):
        count = max(1, round((two - one) / spacing))
        made.append((one + (two - one) * np.arange(count) / count) % at[-1])
    places = np.concatenate(made)
    return np.column_stack([np.interp(places, at, closed[:, k]) for k in (0, 1)])


def apart(points: np.ndarray, least: float) -> np.ndarray:
    """*points* without those nearer than *least* to one that comes before."""
    kept = np.ones(len(points), bool)
    for one, two in sorted(cKDTree(points).query_pairs(least)):
        if kept[one]:
            kept[two] = False
    return points[kept]


def spots_in(polygon: Polygon, step: float) -> np.ndarray:
    """Points (n, 2) of an even lattice in *polygon*, *step* inches apart; coarser where there were
    too many."""
    x0, y0, x1, y1 = polygon.bounds
    step = max(step, math.sqrt(max((x1 - x0) * (y1 - y0), 1e-9) / MOST_SPOTS))
    xs, ys = np.meshgrid(np.arange(x0 + step / 2, x1, step), np.arange(y0 + step / 2, y1, step))
    inside = shapely.contains_xy(polygon, xs.ravel(), ys.ravel())
    return np.column_stack([xs.ravel()[inside], ys.ravel()[inside]])


def free_sites(
    shape: Polygon, spacing: float, rng: np.random.Generator, looseness: float = 0.2
) -> np.ndarray:
    """Points (n, 2) in the middle of equal shares of *shape*, about *spacing* inches apart."""
    row = spacing * math.sqrt(3) / 2
    count = max(1, round(shape.area / (spacing * row)))
    cloud = spots_in(shape, spacing * math.sqrt(0.866 / SAMPLES))
    if count == 1 or len(cloud) <= count:
        return shapely.get_coordinates(shapely.maximum_inscribed_circle(shape, tolerance=0.02))[:1]
    x0, y0, x1, y1 = shape.bounds
    # The lattice has as many columns as fit, so that rows end at both sides alike.
    across = (x1 - x0) / max(1, round((x1 - x0) / spacing))
    j, i = np.meshgrid(
        np.arange(math.ceil((y1 - y0) / row) + 1), np.arange(-1, round((x1 - x0) / across) + 1),
        indexing="ij",
    )  # fmt: skip
    start = np.column_stack([
        x0 + (i.ravel() + 0.25 + 0.5 * (j.ravel() % 2)) * across, y0 + (j.ravel() + 0.5) * row
    ])  # fmt: skip
    start = start + rng.normal(0, looseness * spacing, start.shape)
    points = start[shapely.contains_xy(shape, start[:, 0], start[:, 1])]
    points = points[rng.permutation(len(points))][:count]
    if len(points) < count:
        points = np.vstack(
            [points, cloud[rng.choice(len(cloud), count - len(points), replace=False)]]
        )
    for _ in range(3 * ROUNDS):
        _, owner = cKDTree(points).query(cloud)
        weight = np.bincount(owner, minlength=len(points)).astype(float)
        middle = np.column_stack(
            [np.bincount(owner, cloud[:, k], minlength=len(points)) for k in (0, 1)]
        ) / np.maximum(weight, 1)[:, None]  # fmt: skip
        points = middle[weight > 0]
    good = shapely.contains_xy(shape, points[:, 0], points[:, 1])
    return points[good] if good.any() else cloud[:1]


def sites_in(
    core: Polygon, spacing: float, rng: np.random.Generator, looseness: float = 0.2
) -> np.ndarray:
    """Points (n, 2) in and on *core* about *spacing* inches apart; *looseness* is how far the lattice they
    grew from was shaken, in spacings."""
    fixed = edge_sites(core, spacing)
    row = spacing * math.sqrt(3) / 2
    wished = round(core.area / (spacing * row) - core.length / (2 * spacing))
    free = core.buffer(-0.55 * spacing)
    if wished < 1 or free.is_empty:
        return fixed
    x0, y0, x1, y1 = free.bounds
    down, across = max(1, math.ceil((y1 - y0) / row)), max(1, math.ceil((x1 - x0) / spacing) + 1)
    j, i = np.meshgrid(np.arange(down + 1), np.arange(-1, across + 1), indexing="ij")
    start = np.column_stack([
        x0 + (i.ravel() + 0.5 * (j.ravel() % 2)) * spacing, y0 + j.ravel() * row
    ])  # fmt: skip
    start = start + rng.normal(0, looseness * spacing, start.shape)
    start = start[shapely.contains_xy(free, start[:, 0], start[:, 1])]
    if not len(start):
        start = shapely.get_coordinates(free.representative_point())
    cloud = spots_in(core, spacing * math.sqrt(0.866 / SAMPLES))
    count = len(fixed)
    points = np.vstack([fixed, start])
    for _ in range(ROUNDS):
        _, owner = cKDTree(points).query(cloud)
        weight = np.bincount(owner, minlength=len(points)).astype(float)
        middle = np.column_stack(
            [np.bincount(owner, cloud[:, k], minlength=len(points)) for k in (0, 1)]
        ) / np.maximum(weight, 1)[:, None]  # fmt: skip
        kept = weight[count:] > 0
        points = np.vstack([fixed, middle[count:][kept]])
    good = shapely.intersects_xy(core.buffer(1e-6), points[:, 0], points[:, 1])
    return apart(points[good], CLOSEST * spacing)
