"""Feathered wreath: plumes outside and inside a circle, the first and the last one meeting."""

from __future__ import annotations

import math
from dataclasses import dataclass

from shapely.geometry import Point

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.engine.arcs import circle
from chorograph_core.designs.engine.feathers import feather_with_room, stroke_setting
from chorograph_core.designs.engine.figure_motifs import FigureMotif
from chorograph_core.designs.engine.plumes import Growth
from chorograph_core.designs.engine.spines import even_spine
from chorograph_core.designs.engine.strokes import slack
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    count_setting,
    length_setting,
    margin_setting,
    share_setting,
)
from chorograph_core.measure import format_inches

INNER = 0.6
"""Plumes inside the spine are so much narrower: there is less room round."""


@dataclass(frozen=True)
class WreathSettings(Settings):
    """The circle and the plumes on it."""

    pitch: float = length_setting("Width of a plume", 0.875, 0.25, 5.0)
    spine: float = share_setting("Spine", 0.62, 0.3, 0.85, 0.01,
                           help="Its radius against that of the whole wreath.")  # fmt: skip
    radius: float = length_setting(
        "Radius", 0.0, 0.0, 60.0, help="0: as large as there is room for."
    )
    lean: float = angle_setting("Lean", 50.0, 25.0, 80.0, 1.0)
    channel: float = length_setting(
        "Open channel along the spine", 0.0, 0.0, 1.0, help="0: a single spine."
    )
    count: int = count_setting("Plumes outside", 0, 0, 400, help="0: as many as have room.")
    inside: int = count_setting("Plumes inside", 0, 0, 400, help="0: as many as have room.")
    plumes: str = stroke_setting()
    round: str = choice_setting("Growing", (("right", "to the right"), ("left", "to the left")))
    margin: float = margin_setting()


class Wreath(FigureMotif[WreathSettings]):
    """A feather on a circle."""

    key = "wreath"
    name = "Feathered wreath"
    stroke = "plume by plume round one side, round the spine, round the other side"
    settings_type = WreathSettings

    def fits(self, space, settings=None):
        """It wants a zone about as wide as long."""
        s = self.clean(settings)
        radius = _radius(space, s)
        if radius * (1 - s.spine) < 0.7 * s.pitch:
            return Fit(
                0.12, (f"a wreath of {format_inches(max(radius, 0), 16)} has no room for plumes",)
            )
        share = math.pi * radius**2 / space.polygon.area
        return Fit(0.2 + 0.65 * min(1.0, share / 0.72), (f"radius {format_inches(radius, 16)}",))

    def proposed(self, space):
        """Plumes about as many as a hand likes to count."""
        s = self.clean()
        return self.clean(
            {"pitch": max(0.25, min(s.pitch, round(_radius(space, s) * 0.3 * 16) / 16))}
        )

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run from where the spine begins."""
        s = self.clean(settings)
        radius = _radius(space, s)
        if radius <= 0.3:
            return Linework()
        centre, _ = space.middle
        line = circle(centre, radius * s.spine, space.frame.axis - math.pi / 2)
        spine = even_spine(line if s.round == "right" else line[::-1], closed=True)
        room = Point(centre).buffer(radius, quad_segs=32)
        lean = math.radians(s.lean)
        outer = Growth(s.pitch, lean, count=s.count)
        inner = Growth(INNER * s.pitch, lean, 0.5 * radius * s.spine, count=s.inside)
        first, second = (inner, outer) if s.round == "right" else (outer, inner)
        run, sides = feather_with_room(
            spine, room, (first, second), s.plumes, s.channel, slack(s.margin)
        )
        if run is None or not any(side.heads for side in sides):
            return Linework()
        mark = Mark("line", line[::2], "spine")
        counted = " and ".join(str(side.count) for side in sides)
        return Linework((run,), (mark,), (f"{counted} plumes, radius {format_inches(radius, 16)}",))

    def closing(self, space, s):
        """Between neighbouring lines."""
        return 0.9 * s.pitch


def _radius(space, s: WreathSettings) -> float:
    free = space.middle[1] - s.margin
    return min(s.radius, free) if s.radius else free
