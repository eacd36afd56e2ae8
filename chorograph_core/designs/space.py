"""What a design may fill, and what surrounds it; facts about it are found once and shared."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Protocol, TypeVar

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.chart import Fabric, sides_of_outline
from chorograph_core.designs.symmetry import lying_of
from chorograph_core.rulers import STARTING_RULERS, Ruler

T = TypeVar("T")
AS_WIDE = 0.995
"""Share of the widest place that is as wide."""
SIDED = 0.08
"""Share of its outline from which a straight side of a zone is one that is seen."""
TURNS = math.radians(20)
"""A turn of the edge from which it is a corner."""


@dataclass(frozen=True)
class Frame:
    """A space's own frame: *origin* (x, y) in inches and *axis*, the direction by which it lies in radians,
    folded to a half turn: that of its longest side, or of its axis where no side runs with that or square
    to it. A zone drawn in it draws alike wherever it lies."""

    origin: tuple[float, float]
    axis: float


@dataclass(frozen=True)
class SpaceSeam:
    """A seam of a space: its name, its line (n, 2), what lies beyond it (empty: the raw edge), and
    whether this space lies on the low side, where one stitches in the ditch (None: not known)."""

    id: str
    line: np.ndarray
    beyond: str = ""
    low: bool | None = None


class Around(Protocol):
    """What lies round a space; each is found when a design first asks for it."""

    @property
    def seams(self) -> tuple[SpaceSeam, ...]: ...
    @property
    def neighbours(self) -> tuple[str, ...]: ...
    @property
    def fabric(self) -> Fabric | None: ...
    @property
    def grain(self) -> float | None: ...


@dataclass(frozen=True)
class Space:
    """What a design may fill: a polygon in inches, and what surrounds it.

    *raw_edge* is the outline of the top, where there is no ditch; *foot_radius* the distance from the
    ruler's edge to the needle; *rulers* what the studio owns. *parts* are the zones that a region is made
    of, for figures that follow the piecing under them. *cut_from* is the zone of which it is what the
    finish leaves: it lies as that does. *guide* is a line that a motif follows, and *guide_width* how wide
    it is along it in inches (0: to the edge). *raw_edge* and what lies *around* (`seams`, `neighbours`,
    `fabric`, `grain`) are known only to designs that look round (`Design.looks_round`), since alike zones
    are drawn once for all.
    """

    polygon: Polygon
    raw_edge: BaseGeometry | None = None
    foot_radius: float = 0.25
    rulers: tuple[Ruler, ...] = STARTING_RULERS
    parts: tuple[Polygon, ...] = ()
    guide: tuple[tuple[float, float], ...] | None = None
    guide_width: float = 0.0
    cut_from: Polygon | None = None
    around: Around | None = field(default=None, compare=False, repr=False)
    _facts: dict[Hashable, Any] = field(default_factory=dict, compare=False, repr=False)

    @property
    def seams(self) -> tuple[SpaceSeam, ...]:
        """Every seam between the space and what is not in it."""
        return self.around.seams if self.around else ()

    @property
    def neighbours(self) -> tuple[str, ...]:
        """The zones that share an edge with it, by id, in the order of the top."""
        return self.around.neighbours if self.around else ()

    @property
    def fabric(self) -> Fabric | None:
        """The cloth it is of."""
        return self.around.fabric if self.around else None

    @property
    def grain(self) -> float | None:
        """The way the threads of the cloth run, in radians, folded to a quarter turn: the others run
        across it."""
        return self.around.grain if self.around else None

    def fact(self, name: Hashable, find: Callable[[], T]) -> T:
        """What *find* returns, found once for each *name*, whichever design asks first."""
        if name not in self._facts:
            self._facts[name] = find()
        return self._facts[name]

    def inset(self, distance: float) -> list[Polygon]:
        """The parts that remain *distance* inches inside the edge, largest first."""
        if distance < 1e-6:
            # A buffer by next to nothing may come back without its holes.
            return [self.polygon]
        return self.fact(
            ("inset", distance),
            lambda: polygons(self.polygon.buffer(-distance, join_style="mitre")),
        )

    @cached_property
    def frame(self) -> Frame:
        """Its own frame."""
        middle = self.polygon.centroid
        lies = lying_of(self.cut_from or self.polygon, *self._longest)
        return Frame((middle.x, middle.y), lies)

    @property
    def side(self) -> float:
        """The direction of its longest side, radians; of what is round, which has none, that of its frame."""
        heading, seen = self._longest
        return heading if seen else self.frame.axis

    @cached_property
    def _longest(self) -> tuple[float, bool]:
        ring = sides_of_outline(self.cut_from or self.polygon)
        sides = np.hypot(*np.diff(ring, axis=0).T)
        return side_heading(ring), bool(sides.max() > SIDED * sides.sum())

    @cached_property
    def widest(self) -> tuple[tuple[float, float], float]:
        """The middle and the radius, in inches, of the largest circle that has room."""
        circle = shapely.maximum_inscribed_circle(self.polygon, tolerance=0.02)
        return (float(circle.coords[0][0]), float(circle.coords[0][1])), float(circle.length)

    @cached_property
    def middle(self) -> tuple[tuple[float, float], float]:
        """Where a round figure stands, and the radius it may have: about the centroid where nearly as large
        a circle has room there as anywhere, else about the widest place; of several as wide, as along a
        strip, the nearest to the centroid."""
        (x, y), radius = self.widest
        centroid = self.polygon.centroid
        if self.polygon.contains(centroid):
            here = float(shapely.distance(centroid, self.polygon.boundary))
            if here >= 0.97 * radius:
                return (centroid.x, centroid.y), here
        if wide := self.polygon.buffer(-AS_WIDE * radius):
            near = shapely.get_coordinates(shapely.shortest_line(wide, centroid))[0]
            return (float(near[0]), float(near[1])), AS_WIDE * radius
        return (x, y), radius

    @cached_property
    def corners(self) -> np.ndarray:
        """Points (n, 2) where the outer edge turns by more than 20 degrees."""
        ring = shapely.get_coordinates(self.polygon.simplify(0.02).exterior)[:-1]
        return ring[turning_points(ring)]


def window_of(space: Space, side: float) -> Space:
    """The space itself, or of one longer than *side* inches a window of it: quickly drawn, and to be read."""
    x0, y0, x1, y1 = space.polygon.bounds
    if max(x1 - x0, y1 - y0) <= side:
        return space
    spot = space.polygon.representative_point()
    x = min(max(spot.x, x0 + side / 2), max(x1 - side / 2, x0 + side / 2))
    y = min(max(spot.y, y0 + side / 2), max(y1 - side / 2, y0 + side / 2))
    window = shapely.box(x - side / 2, y - side / 2, x + side / 2, y + side / 2)
    parts = polygons(space.polygon.intersection(window))
    part = parts[0] if parts else space.polygon
    return Space(part, None, space.foot_radius, space.rulers, cut_from=space.cut_from)


def largest_within(shape: Polygon, limit: BaseGeometry) -> Polygon | None:
    """The largest part of *shape* inside *limit*: the very same where all of it is, None where nothing is."""
    return shape if limit.covers(shape) else next(iter(parts_within(shape, limit)), None)


def side_heading(line: np.ndarray, longest: bool = True) -> float:
    """Direction of the longest, or the shortest, leg of *line* (n, 2), the first of those alike; radians,
    folded to a half turn, so that nearly level stays level."""
    legs = np.diff(line, axis=0)
    inches = np.round(np.hypot(*legs.T), 4)
    leg = legs[int(inches.argmax() if longest else inches.argmin())]
    return math.atan2(leg[1], leg[0]) % math.pi


def turning_points(ring: np.ndarray) -> np.ndarray:
    """Indices of the points of an open *ring* (n, 2) at which it turns by more than 20 degrees."""
    into, onto = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    turn = np.arctan2(into[:, 0] * onto[:, 1] - into[:, 1] * onto[:, 0], (into * onto).sum(axis=1))
    return np.flatnonzero(np.abs(turn) > TURNS)


def parts_within(shape: Polygon, limit: BaseGeometry) -> list[Polygon]:
    """The parts of *shape* inside *limit*, largest first. What is left of it begins where it does: with which
    of its sides a shape begins says how it lies (see `chorograph_core.layouts.borders`)."""
    return [begun_as(shape, part) for part in polygons(shape.intersection(limit))]


def begun_as(shape: Polygon, part: Polygon) -> Polygon:
    """The *part*, beginning near where *shape* does and going round the same way."""
    first = shapely.points(shape.exterior.coords[0])
    ring = shapely.get_coordinates(part.exterior)[:-1]
    if part.exterior.is_ccw != shape.exterior.is_ccw:
        ring = ring[::-1]
    k = int(np.argmin(np.round(shapely.distance(shapely.points(ring), first), 6)))
    return Polygon(np.roll(ring, -k, axis=0), part.interiors)


def polygons(shape: BaseGeometry) -> list[Polygon]:
    """The polygon parts of *shape*, largest first, slivers left out.

    Where two shapes share an edge that was rounded, what they have in common is a polygon and a line.
    """
    whole = [p for p in shapely.get_parts(shape) if isinstance(p, Polygon) and p.area > 1e-4]
    return sorted(whole, key=lambda p: -p.area)
