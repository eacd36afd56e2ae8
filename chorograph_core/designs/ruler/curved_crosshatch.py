"""Curved crosshatch: one arc laid again and again along an axis, and a second family across it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import turned
from chorograph_core.designs.engine.axes import base_angle
from chorograph_core.designs.engine.families import (
    cut_to,
    fitted_places,
    linked,
    measured_from,
    positions_of,
)
from chorograph_core.designs.engine.fitting import fitting_setting, rhythm_setting
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    length_setting,
)
from chorograph_core.measure import format_inches


@dataclass(frozen=True)
class CurvedSettings(Settings):
    """The arc, its axis, the second family."""

    radius: float = length_setting("Stitched radius", 12.25, 0.75, 60.0,
                            help="A convex edge stitches its own radius and the foot's more.")  # fmt: skip
    spacing: float = length_setting("Spacing", 0.75, 0.1875, 12.0)
    families: str = choice_setting("Families", (
        ("two", "two, that cross"), ("one", "one"), ("facing", "two that face each other")))  # fmt: skip
    angle: float = angle_setting("Axis", 45.0, -180.0, 180.0, 7.5)
    cross: float = angle_setting("Second axis, turned by", 90.0, 20.0, 180.0, 5.0)
    relative: str = measured_from()
    rhythm: str = rhythm_setting()
    fitting: str = fitting_setting()


class CurvedCrosshatch(Design[CurvedSettings]):
    """Arcs of one radius stepping along an axis; two families make cells with bent sides."""

    key = "curved_crosshatch"
    name = "Curved crosshatch"
    family = "ruler"
    stroke = "along an arc, a step along the edge, back along the next; then the other family"
    crosses = True
    settings_type = CurvedSettings

    def fits(self, space, settings=None):
        """The arc must span the zone."""
        s = self.clean(settings)
        families = _families(space, s)
        lines = sum(len(made) for made, *_ in families)
        reason = f"{lines} arcs of radius {format_inches(s.radius, 16)}"
        if any(len(made) < 2 for made, *_ in families):
            return Fit(0.2, (reason, "too few to read"))
        wide = max(width for *_, width in families)
        if wide > 1.9 * s.radius:
            return Fit(0.2, (reason, f"no such arc spans {format_inches(wide)}"))
        cells = space.polygon.area / s.spacing**2
        return Fit(0.2 if cells < 4 else 0.64, (reason, families[0][1].sentence(lines)))

    def spacing(self, space, settings=None):
        """Along the axis, as it comes out; the wider of both."""
        return max(at.spacing for _, at, *_ in _families(space, self.clean(settings)))

    def draw(self, space, settings=None, seed=0, doorways=None):
        """All arcs, joined along the edge."""
        s = self.clean(settings)
        families = _families(space, s)
        lines = [line for made, *_ in families for line in made]
        near = doorways[0] if doorways else None
        at = families[0][1]
        position = f"the centre mark on the axis, {positions_of(at.gaps, space)}"
        runs = linked(lines, space.polygon, position, "curved", near)
        marks = tuple(
            Mark("line", line, "axis") for *_, axis, _ in families
            for line in cut_to([axis], space.polygon)[:1]
        )  # fmt: skip
        return Linework(tuple(runs), marks, (at.sentence(len(lines)),),
                        near is not None and len(runs) == 1)  # fmt: skip


def _families(space, s: CurvedSettings):
    return space.fact(("curved families", s), lambda: _all(space, s))


def _all(space, s: CurvedSettings):
    first = base_angle(space, s.relative) + math.radians(s.angle)
    if s.families == "one":
        return [_shifted(space, s, first)]
    turn = math.pi if s.families == "facing" else math.radians(s.cross)
    return [_shifted(space, s, first), _shifted(space, s, first + turn)]


def _shifted(space, s: CurvedSettings, axis: float):
    """(arcs, their places, the axis as a line, how wide the zone is across it): apexes on the axis through
    the zone's middle, as far either way as an arc still touches the zone."""
    along = np.array([math.cos(axis), math.sin(axis)])
    across = np.array([-along[1], along[0]])
    middle = np.array(space.polygon.centroid.coords[0])
    points = shapely.get_coordinates(shapely.segmentize(space.polygon, 0.5)) - middle
    u, v = points @ along, np.clip(points @ across, -0.97 * s.radius, 0.97 * s.radius)
    # A point is met by the arc whose apex lies this far along the axis.
    apex = u + s.radius - np.sqrt(s.radius**2 - v**2)
    low, high = float(apex.min()), float(apex.max())
    at = fitted_places(high - low, s.spacing, s.fitting, s.rhythm)
    half = math.asin(0.97)
    arcs = [
        turned(middle + along * (low + each - s.radius), s.radius, axis - half, 2 * half)
        for each in at.at.tolist()
    ]
    line = np.array([middle + along * (low - 1), middle + along * (high + 1)])
    return cut_to(arcs, space.polygon), at, line, float(np.ptp(points @ across))
