"""Alike classes: which polygons are congruent under move, turn and mirror.

Found by geometry alone. Two shapes are alike when one can be laid on the other so that no point of
either boundary is further than *tolerance* from the other boundary.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

TOLERANCE = 0.02
"""Inches. Sewing itself is not this exact."""
MOST_WAYS = 25
"""Ways onto itself beyond which a shape is as good as round: twelve alike sides have so many, one twice."""
NEARER = 0.05
"""Inches within which middles of blocks lie alike."""
LEVEL = 0.02
"""A slope of less is level."""


@dataclass(frozen=True)
class Placement:
    """A rigid motion p ↦ M p + t that lays a class's first shape on this one.

    *matrix* is ((a, b), (d, e)), *shift* is (x, y) in inches; *mirrored* when M turns it over.
    """

    matrix: tuple[tuple[float, float], tuple[float, float]]
    shift: tuple[float, float]

    @property
    def mirrored(self) -> bool:
        (a, b), (d, e) = self.matrix
        return a * e - b * d < 0

    def apply(self, points: np.ndarray) -> np.ndarray:
        """Move *points*, shape (n, 2)."""
        return points @ np.asarray(self.matrix).T + np.asarray(self.shift)

    def undo(self, points: np.ndarray) -> np.ndarray:
        """Move *points* back: the inverse of `apply`."""
        return (points - np.asarray(self.shift)) @ np.asarray(self.matrix)

    def inverse(self) -> Placement:
        """The motion back."""
        (a, b), (d, e) = self.matrix
        x, y = self.shift
        return Placement(((a, d), (b, e)), (-(a * x + d * y), -(b * x + e * y)))

    def after(self, first: Placement) -> Placement:
        """The motion *first* and then this one."""
        turned = np.asarray(self.matrix) @ np.asarray(first.matrix)
        x, y = self.apply(np.asarray([first.shift]))[0].tolist()
        (a, b), (d, e) = turned.tolist()
        return Placement(((a, b), (d, e)), (x, y))

    @property
    def keeps_level(self) -> bool:
        """Whether what lies level still does and what stands still stands: no turn, or a half one, or a
        mirror across or along the frame."""
        return abs(self.matrix[0][1]) < LEVEL and abs(self.matrix[1][0]) < LEVEL


@dataclass(frozen=True)
class Alike:
    """Class number and placement of each shape, in the order the shapes were given."""

    classes: tuple[int, ...]
    placements: tuple[Placement, ...]

    def members(self, number: int) -> list[int]:
        """Positions of the shapes in class *number*."""
        return [i for i, c in enumerate(self.classes) if c == number]


def alike(shapes: Sequence[Polygon], tolerance: float = TOLERANCE) -> Alike:
    """Sort *shapes* into classes of congruent ones. The first of each class is its pattern."""
    shapes = list(shapes)
    area = shapely.area(shapes)
    perimeter = shapely.length(shapes)
    patterns: list[_Pattern] = []
    buckets: dict[tuple[int, int], list[int]] = {}
    classes, placements = [], []
    for i, shape in enumerate(shapes):
        # The area of alike shapes may differ by what the tolerance allows along the boundary.
        cell = max(tolerance, 1e-6)
        place = (int(perimeter[i] // (8 * cell)), int(math.sqrt(area[i]) // (4 * cell)))
        found = None
        candidate = _Pattern(shape)
        near = [
            number
            for dp in (-1, 0, 1)
            for da in (-1, 0, 1)
            for number in buckets.get((place[0] + dp, place[1] + da), ())
        ]
        for number in sorted(near):
            found = patterns[number].lay_on(candidate, tolerance)
            if found is not None:
                classes.append(number)
                placements.append(found)
                break
        if found is None:
            buckets.setdefault(place, []).append(len(patterns))
            classes.append(len(patterns))
            placements.append(Placement(((1.0, 0.0), (0.0, 1.0)), (0.0, 0.0)))
            patterns.append(candidate)
    return Alike(tuple(classes), tuple(placements))


def ways_onto_itself(shape: Polygon, tolerance: float = TOLERANCE) -> list[Placement]:
    """The motions that lay *shape* on itself, those that turn it over last: eight of a square, four of
    an oblong, one of what has no symmetry. What is round lies one way as well as any other: one of it."""
    pattern = _Pattern(shape)
    found = list(itertools.islice(pattern.all_ways_on(pattern, tolerance), MOST_WAYS + 1))
    return found if len(found) <= MOST_WAYS else found[:1]


def turned_round(
    group: Sequence[tuple[int, Placement]], shape: Polygon, middle: np.ndarray | None,
    middles: Sequence[np.ndarray | None],
) -> list[tuple[int, Placement]]:  # fmt: skip
    """The placements of *shape*, in whose frame its block has this *middle*, by which sisters lie alike
    to the middles of theirs. The first that lies otherwise stays as it stands, and others like it go by that:
    squares in corners, and those between them."""
    if all(middles[i] is None for i, _ in group):
        return list(group)
    ways, found = ways_onto_itself(shape), []
    known: list[np.ndarray] = [] if middle is None else [middle]
    images = _images(ways, known)
    for i, placement in group:
        goal = middles[i]
        if goal is not None:
            # As it stands, and by each way of the shape onto itself.
            off = np.hypot(*(placement.apply(images.reshape(-1, 2)) - goal).T) < NEARER
            near = np.flatnonzero(off.reshape(len(ways) + 1, -1).any(axis=1))
            if len(near):
                placement = placement.after(ways[near[0] - 1]) if near[0] else placement
            else:
                known.append(placement.undo(goal[None])[0])
                images = _images(ways, known)
        found.append((i, placement))
    return found


def _images(ways: Sequence[Placement], spots: Sequence[np.ndarray]) -> np.ndarray:
    """Where *spots* come to lie as they stand, and by each of the *ways*: (ways + 1, spots, 2)."""
    here = np.array(spots).reshape(-1, 2)
    return np.stack([here, *(way.apply(here) for way in ways)])


class _Pattern:
    """A shape prepared for comparing: centroid, vertices around it, and their distances."""

    def __init__(self, shape: Polygon) -> None:
        self.shape = shape
        self.boundary = shape.boundary
        self.centre = np.array(shape.centroid.coords[0])
        self.points = shapely.get_coordinates(shape.exterior)[:-1] - self.centre
        self.reach = np.hypot(self.points[:, 0], self.points[:, 1])
        self.holes = len(shape.interiors)

    def lay_on(self, other: _Pattern, tolerance: float) -> Placement | None:
        """The placement that lays this shape on *other*, or None."""
        return next(self.all_ways_on(other, tolerance), None)

    def all_ways_on(self, other: _Pattern, tolerance: float) -> Iterator[Placement]:
        """Every placement that does; those that turn nothing over first. What is only moved may come
        twice."""
        far = self.reach.max()
        if self.holes != other.holes or abs(far - other.reach.max()) > tolerance * 2:
            return
        # Fast path: the very same vertices, only moved.
        if len(self.points) == len(other.points) and not self.holes:
            if np.abs(self.points - other.points).max() < tolerance / 4:
                yield self._placement(other, np.eye(2))
        anchor = self.points[int(np.argmax(self.reach > far - tolerance / 4))]
        goals = other.points[other.reach > far - tolerance * 2]
        first = math.atan2(anchor[1], anchor[0])
        for mirrored in (False, True):
            for goal in goals:
                last = math.atan2(goal[1], goal[0])
                if mirrored:
                    turn = first + last
                    matrix = np.array(
                        [[math.cos(turn), math.sin(turn)], [math.sin(turn), -math.cos(turn)]]
                    )
                else:
                    turn = last - first
                    matrix = np.array(
                        [[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]]
                    )
                moved = self.points @ matrix.T
                if not _vertices_near(moved, other, tolerance):
                    continue
                placement = self._placement(other, matrix)
                laid = shapely.transform(self.boundary, placement.apply)
                if shapely.hausdorff_distance(laid, other.boundary) <= tolerance:
                    yield placement

    def _placement(self, other: _Pattern, matrix: np.ndarray) -> Placement:
        clean = np.where(np.abs(matrix - np.round(matrix)) < 1e-12, np.round(matrix), matrix)
        shift = other.centre - clean @ self.centre
        (a, b), (d, e) = clean.tolist()
        return Placement(((a, b), (d, e)), (float(shift[0]), float(shift[1])))


def _vertices_near(moved: np.ndarray, other: _Pattern, tolerance: float) -> bool:
    """Quick refusal: the first few corners must lie close to the other boundary."""
    probe = moved[:: max(1, len(moved) // 4)] + other.centre
    return bool(np.all(shapely.distance(shapely.points(probe), other.boundary) <= tolerance))
