"""A motif of one's own, once, in the middle of a zone."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.engine.figure_motifs import FigureMotif
from chorograph_core.designs.engine.strokes import finished, slack
from chorograph_core.designs.freehand.own_figure import FIRST
from chorograph_core.designs.linework import Linework, Run, Unit, size_of_hand
from chorograph_core.designs.own_strokes import stroke_points
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    length_setting,
    margin_setting,
    stroke_setting,
)
from chorograph_core.measure import format_inches

LEAST = 0.35
"""Radius in inches from which a figure is one."""


@dataclass(frozen=True)
class OwnSingleSettings(Settings):
    """The stroke, its size and how it is turned."""

    size: float = length_setting("Across", 0.0, 0.0, 60.0, 0.25, help="0: as large as has room.")
    stroke: str = stroke_setting("Own motif", FIRST, "figure")
    turned: float = angle_setting("Turned by", 0.0, -180.0, 180.0, 7.5)
    mirror: str = choice_setting("Facing", (("drawn", "as it was drawn"), ("over", "turned over")))
    margin: float = margin_setting()


class OwnSingle(FigureMotif[OwnSingleSettings]):
    """As large as has room, with its room kept free of the ground round it."""

    key = "own_single"
    own = "once"
    name = "Own motif, one"
    stroke = "as it was drawn"
    settings_type = OwnSingleSettings

    def fits(self, space, settings=None):
        """It wants some room."""
        radius = _radius(space, self.clean(settings))
        if radius < LEAST:
            return Fit(0.1, ("no room for a figure",))
        return Fit(0.45, (f"{format_inches(2 * radius, 16)} across",))

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run."""
        s = self.clean(settings)
        radius = _radius(space, s)
        if radius < LEAST:
            return Linework()
        turn = math.radians(s.turned)
        line = stroke_points(s.stroke) * (radius, -radius if s.mirror == "over" else radius)
        cos, sin = math.cos(turn), math.sin(turn)
        line = np.array(space.middle[0]) + line @ np.array([[cos, sin], [-sin, cos]])
        made = finished(line, 0.01 * radius, space.polygon, over=slack(s.margin))
        if made is None:
            return Linework()
        return Linework((Run(made, size_of_hand(radius), units=(Unit("figure", len(made) - 1),)),))

    def closing(self, space, s):
        """A third of it."""
        return 0.7 * max(_radius(space, s), LEAST)


def _radius(space, s: OwnSingleSettings) -> float:
    room = space.middle[1] - s.margin
    return min(room, s.size / 2) if s.size else room
