"""Ellipses by arcs: an oval of four arcs about the middle of a zone, with rings inside it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import turned
from chorograph_core.designs.engine.axes import symmetry_of
from chorograph_core.designs.linework import Linework, Mark, Run, Span, Unit
from chorograph_core.designs.settings import (
    Settings,
    count_setting,
    length_setting,
    share_setting,
)
from chorograph_core.measure import format_inches


@dataclass(frozen=True)
class EllipseSettings(Settings):
    """Its breadth, and how many lie inside one another."""

    breadth: float = share_setting("Breadth", 0.6, 0.3, 1.0, 0.02, help="In parts of its length.")
    margin: float = length_setting("Room to the seam", 0.25, 0.0, 6.0)
    rings: int = count_setting("Inside one another", 1, 1, 12)
    spacing: float = length_setting("Between them", 0.5, 0.125, 6.0)


class Ellipses(Design[EllipseSettings]):
    """An oval that rulers can stitch: two arcs for its long sides, two for its ends."""

    key = "ellipses"
    name = "Ovals by arcs"
    family = "ruler"
    role = "motif"
    stroke = "long side, end, long side, end, home where it began"
    settings_type = EllipseSettings

    def fits(self, space, settings=None):
        """It should fill a good part of the zone."""
        s = self.clean(settings)
        found = _halves(space, s)
        if found is None:
            return Fit(0.1, ("no room for an oval",))
        long, broad = found
        big, small = radii_of(long, broad)
        share = math.pi * long * broad / space.polygon.area
        return Fit(0.2 + 0.45 * min(1.0, share / 0.7),
                   (f"{format_inches(2 * long, 16)} by {format_inches(2 * broad, 16)}, arcs of radius "
                    f"{format_inches(big, 16)} and {format_inches(small, 16)}",))  # fmt: skip

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Ovals inside one another, each closed."""
        s = self.clean(settings)
        found = _halves(space, s)
        if found is None:
            return Linework()
        runs = []
        for k in range(s.rings):
            long, broad = found[0] - k * s.spacing, found[1] - k * s.spacing
            if broad > 0.15:
                runs.append(_oval(space, long, broad))
        axis = _middle(space), symmetry_of(space)
        along = np.array([math.cos(axis[1]), math.sin(axis[1])]) * found[0]
        return Linework(
            tuple(runs), (Mark("line", np.array([axis[0] - along, axis[0] + along]), "axis"),)
        )

    def reserves(self, space, settings, linework):
        """The outer oval."""
        if not linework.runs:
            return None
        return shapely.Polygon(linework.runs[0].points).buffer(0.02)


def radii_of(long: float, broad: float) -> tuple[float, float]:
    """Radii of the long sides and of the ends of an oval of four arcs with half axes *long* and *broad*, so
    that the arcs meet without a corner. With the line from tip to top at angle θ to the long axis, the
    ends have r = (l² + b² − (l − b)·√(l² + b²)) / 2l and the sides R = (l² + b² + (l − b)·√(l² + b²)) / 2b
    (the draughtsman's four-centred oval).

    >>> [round(radius, 6) for radius in radii_of(2.0, 2.0)]
    [2.0, 2.0]
    """
    d = math.hypot(long, broad)
    end = (d * d - (long - broad) * d) / (2 * long)
    side = (d * d + (long - broad) * d) / (2 * broad)
    return side, end


def _middle(space) -> np.ndarray:
    return np.array(space.middle[0])


def _halves(space, s: EllipseSettings) -> tuple[float, float] | None:
    """Half axes of the largest oval with room (found by halving)."""
    return space.fact(("oval", s.breadth, s.margin), lambda: _largest(space, s))


def _largest(space, s: EllipseSettings) -> tuple[float, float] | None:
    parts = space.inset(s.margin)
    middle = shapely.points(_middle(space))
    part = next((each for each in parts if each.contains(middle)), None)
    if part is None:
        return None
    low, high = 0.0, float(np.hypot(*np.ptp(shapely.get_coordinates(part), axis=0)))
    for _ in range(22):
        half = (low + high) / 2
        oval = _oval(space, half, half * s.breadth)
        if part.covers(shapely.linestrings(oval.points)):
            low = half
        else:
            high = half
    return (low, low * s.breadth) if low * s.breadth > 0.2 else None


def _oval(space, long: float, broad: float) -> Run:
    axis = symmetry_of(space)
    side, end = radii_of(long, broad)
    centre = _middle(space)
    along = np.array([math.cos(axis), math.sin(axis)])
    across = np.array([-along[1], along[0]])
    # Where the arcs meet, seen from the centre of an end.
    half = math.atan2(side - broad, long - end) if long - broad > 1e-9 else math.pi / 4
    pieces: list[np.ndarray] = []
    for k, (middle, radius, heading, sweep) in enumerate((
        (centre + along * (long - end), end, axis, 2 * half),
        (centre - across * (side - broad), side, axis + math.pi / 2, math.pi - 2 * half),
        (centre - along * (long - end), end, axis + math.pi, 2 * half),
        (centre + across * (side - broad), side, axis - math.pi / 2, math.pi - 2 * half),
    )):  # fmt: skip
        points = turned(middle, radius, heading - sweep / 2, sweep)
        if k:
            points[0] = pieces[-1][-1]
        pieces.append(points)
    pieces[-1][-1] = pieces[0][0]
    stops = np.cumsum([len(each) - 1 for each in pieces])
    points = np.concatenate([pieces[0], *(each[1:] for each in pieces[1:])])
    spans = tuple(Span(int(stop), "curved", position="the edge where the last arc ended")
                  for stop in stops)  # fmt: skip
    units = tuple(Unit(name, int(stop)) for name, stop in zip(
        ("end 1", "side 1", "end 2", "side 2"), stops, strict=True))  # fmt: skip
    return Run(points, "curved", spans, closed=True, units=units)
