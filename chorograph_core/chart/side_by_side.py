"""Pieces whose edges lie side by side: what they have in common, though slanting seams are cut to other last
digits on either side; and shapes laid over them whose edge runs along theirs, since nobody stitches two lines
a thread's breadth apart."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

NARROWEST = 1 / 16
"""Inches across under which a piece belongs to what lies beside it: both its sides would be one line."""
ALONG = 0.5
"""Inches for which two edges run side by side before they are taken for one; so do not those of a corner."""
GRID = 1e-7
HAIR = 1e-4
"""Inches that edges lie apart, or over each other, which are one."""


def inches_shared(
    ones: Sequence[Polygon] | np.ndarray, others: Sequence[Polygon] | np.ndarray
) -> np.ndarray:
    """Inches of edge (n,) that each of *ones* has in common with the one of *others* in the same place.

    >>> square, slanting = shapely.box(0, 0, 3, 3), shapely.box(3.00002, 1, 5, 9)
    >>> inches_shared([square], [slanting]).round(3).tolist()
    [2.0]
    """
    if not len(ones):
        return np.zeros(0)
    near = shapely.buffer(
        np.asarray(others, dtype=object), HAIR, cap_style="flat", join_style="mitre"
    )
    return shapely.length(
        shapely.intersection(shapely.boundary(np.asarray(ones, dtype=object)), near)
    )


def lying_beside(shape: Polygon, tree: STRtree) -> tuple[np.ndarray, np.ndarray]:
    """The shapes of a *tree* that touch a shape, by number (n,) in order, and the inches of edge that each
    has in common with it; the shape itself, where it is one of them, all of its own."""
    near = np.sort(tree.query(shape, predicate="dwithin", distance=HAIR))
    return near, inches_shared([shape] * len(near), tree.geometries[near])


def lying_side_by_side(shapes: Sequence[Polygon]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Pairs of shapes that touch, the *first* and the *second* of each by number (n,), and the inches of
    edge that they have in common, 0 for those that touch at a corner."""
    made = np.asarray(shapes, dtype=object)
    first, second = STRtree(made).query(made, predicate="dwithin", distance=HAIR)
    once = first < second
    first, second = first[once], second[once]
    return first, second, inches_shared(made[first], made[second])


def met(shape: Polygon, pieces: Sequence[Polygon]) -> Polygon:
    """The *shape* with its edge moved onto that of the *pieces* beneath it where it runs along it, less than
    `NARROWEST` before it or beyond it; the same shape where it does so nowhere.

    >>> met(shapely.box(2, 1, 5.97, 6.02), [shapely.box(0, 0, 6, 6), shapely.box(0, 6, 6, 12)]).bounds
    (2.0, 1.0, 6.0, 6.0)
    """
    near = [piece for piece in pieces if piece.intersects(shape)]
    edges = shapely.union_all([piece.boundary for piece in near])
    beyond = _long((piece.intersection(shape) for piece in near), edges, shape)
    if beyond:
        # A tip of a piece may hang on by its point.
        rest = _largest(shapely.difference(shape, shapely.union_all(beyond), grid_size=GRID))
        # What is hardly wider than a strip itself stays as it was drawn.
        shape = rest if rest.area > shape.area / 2 else shape
    before = _long((piece.difference(shape) for piece in near), edges, shape)
    if before:
        shape = _largest(shapely.union_all([shape, *before], grid_size=GRID))
    return shape


def _long(parts: Iterable[BaseGeometry], edges: BaseGeometry, shape: Polygon) -> list[Polygon]:
    """Where *parts* are narrower than `NARROWEST` for `ALONG` inches between *edges* and that of *shape*."""
    strips = [strip for part in parts for strip in _strips(part)]
    return [
        strip
        for strip in _polygons(shapely.union_all(strips, grid_size=GRID) if strips else Polygon())
        if min(_inches_along(strip, edges), _inches_along(strip, shape.boundary)) > ALONG
    ]


def _strips(part: BaseGeometry) -> list[Polygon]:
    """Where *part* is narrower than `NARROWEST`."""
    by = NARROWEST / 2
    wide = part.buffer(-by, join_style="mitre").buffer(by + GRID / 10, join_style="mitre")
    return _polygons(part.difference(wide))


def _inches_along(strip: Polygon, line: BaseGeometry) -> float:
    return strip.boundary.intersection(line.buffer(HAIR)).length


def _polygons(shape: BaseGeometry) -> list[Polygon]:
    return [each for each in getattr(shape, "geoms", [shape]) if isinstance(each, Polygon)]


def _largest(shape: BaseGeometry) -> Polygon:
    return max(_polygons(shape), key=lambda each: each.area, default=Polygon())
