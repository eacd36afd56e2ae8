"""Circles and rings: round a zone's widest place, as a figure or as the spine of a wreath."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from shapely.geometry import Point

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import circle
from chorograph_core.designs.engine.families import position_of
from chorograph_core.designs.linework import Linework, Mark, Run, Span, Unit
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    count_setting,
    length_setting,
)
from chorograph_core.measure import format_inches


@dataclass(frozen=True)
class CircleSettings(Settings):
    """How large, and how many inside one another."""

    radius: float = length_setting(
        "Radius", 0.0, 0.0, 60.0, help="0: as large as there is room for."
    )
    margin: float = length_setting("Room to the seam", 0.25, 0.0, 6.0)
    rings: int = count_setting("Circles inside one another", 1, 1, 40)
    spacing: float = length_setting("Between them", 0.5, 0.125, 6.0)
    ground: str = choice_setting("Ground round it", (
        ("outside", "outside the circle"), ("both", "outside and inside")))  # fmt: skip


class Circles(Design[CircleSettings]):
    """One circle or several rings about the middle of the widest place."""

    key = "circles"
    name = "Circles and rings"
    family = "ruler"
    role = "motif"
    stroke = "round, a step inwards, round again"
    undirected = True
    settings_type = CircleSettings

    def fits(self, space, settings=None):
        """A circle wants a zone about as wide as long."""
        s = self.clean(settings)
        radii, room = _radii(space, s)
        if not radii:
            return Fit(0.1, (f"the widest circle here has a radius of {format_inches(room, 16)}",))
        share = 3.1416 * radii[0] ** 2 / space.polygon.area
        return Fit(0.25 + 0.5 * min(1.0, share / 0.7),
                   (f"radius {format_inches(radii[0], 16)} of {format_inches(room, 16)}",))  # fmt: skip

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Each ring closed; several are one run, stepping in along the axis and home over the steps."""
        s = self.clean(settings)
        radii, _ = _radii(space, s)
        if not radii:
            return Linework()
        centre, _ = space.middle
        begin = space.frame.axis
        mark = (Mark("dot", np.array([centre]), "middle"),)
        rings = [circle(centre, radius, begin) for radius in radii]
        if len(rings) == 1:
            return Linework((Run(rings[0], "curved", closed=True, position=_on(radii[0])),), mark)
        # The step inwards lies on the axis, where each ring begins.
        points, spans, units = [], [], []
        stop = -1
        for k, ring in enumerate(rings, 1):
            points.append(ring)
            if k > 1:
                spans.append(Span(stop + 1, "ditch", "link"))
            stop += len(ring)
            position = _on(radii[0]) if k == 1 else position_of(s.spacing, space)
            spans.append(Span(stop, "curved", position=position))
            units.append(Unit(f"circle {k}", stop))
        return Linework(
            (Run(np.concatenate(points), "curved", tuple(spans), units=tuple(units)),), mark
        )

    def reserves(self, space, settings, linework):
        """The disc, or only the line where the ground goes on inside."""
        s = self.clean(settings)
        radii, _ = _radii(space, s)
        if not radii:
            return None
        disc = Point(space.middle[0]).buffer(radii[0] + 0.02, quad_segs=48)
        return disc.boundary.buffer(0.05) if s.ground == "both" else disc


def _on(radius: float) -> str:
    return f"the edge on two dots {format_inches(radius, 16)} from the middle"


def _radii(space, s: CircleSettings) -> tuple[list[float], float]:
    _, room = space.middle
    free = room - s.margin
    first = s.radius or free
    if first <= 0.1 or first > room + 1e-6:
        return [], room
    radii = [first - s.spacing * k for k in range(s.rings)]
    return [radius for radius in radii if radius > 0.1], room
