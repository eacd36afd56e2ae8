"""Curled feather: a spine that curls in upon itself, plumes outside it and small ones inside."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Point

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.engine.feathers import feather, stroke_setting
from chorograph_core.designs.engine.figure_motifs import FigureMotif
from chorograph_core.designs.engine.pearls import CLEAR_OF_PEARLS, pearls_setting
from chorograph_core.designs.engine.plumes import Growth
from chorograph_core.designs.engine.spines import even_spine
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    length_setting,
    margin_setting,
    share_setting,
)
from chorograph_core.designs.space import polygons
from chorograph_core.measure import format_inches

KEPT = 0.6
"""How wide the inner plumes are, against the outer ones' height."""


@dataclass(frozen=True)
class CurledSettings(Settings):
    """The curl and its plumes."""

    pitch: float = length_setting("Width of a plume", 0.875, 0.25, 5.0)
    turns: float = share_setting(
        "Turns", 0.85, 0.5, 1.0, 0.05, help="How far the spine curls in; 1 is once round."
    )
    reach: float = share_setting("Plumes outside", 0.34, 0.15, 0.5, 0.01,
                         help="Their height against the radius of the whole.")  # fmt: skip
    turned: float = angle_setting("Turned by", 0.0, -180.0, 180.0, 7.5)
    plumes: str = stroke_setting()
    pearls: int = pearls_setting(3)
    round: str = choice_setting("Curling", (("right", "to the right"), ("left", "to the left")))
    margin: float = margin_setting()


class CurledFeather(FigureMotif[CurledSettings]):
    """A feather on a spiral."""

    key = "curled_feather"
    name = "Curled feather"
    stroke = (
        "pearls at the foot and home, plume by plume up the outside, back down the spine, plume by plume "
        "up the inside"
    )
    settings_type = CurledSettings

    def fits(self, space, settings=None):
        """It wants a zone about as wide as long."""
        s = self.clean(settings)
        radius = space.middle[1] - s.margin
        if radius * s.reach < 0.9 * s.pitch:
            return Fit(0.12, ("no room for a curl with plumes",))
        share = math.pi * radius**2 / space.polygon.area
        return Fit(0.15 + 0.6 * min(1.0, share / 0.72), (f"radius {format_inches(radius, 16)}",))

    def proposed(self, space):
        """Plumes a third as wide as tall."""
        s = self.clean()
        return self.clean(
            {"pitch": max(0.25, min(s.pitch, round(space.middle[1] * 0.17 * 16) / 16))}
        )

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run from the foot of the spine."""
        s = self.clean(settings)
        (x, y), radius = space.middle
        radius -= s.margin
        if radius < 0.4:
            return Linework()
        middle = np.array([x, y])
        sense = 1 if s.round == "right" else -1
        begin = math.pi / 2 + math.radians(s.turned) + space.frame.axis
        t = np.linspace(0, 1, 160)
        outer = radius * (1 - s.reach)
        # The curl tightens: its inner end leaves room for small plumes.
        r = outer * (1 - 0.7 * t**1.15 * s.turns)
        angle = begin + sense * 2 * math.pi * s.turns * t
        line = middle + r[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])
        spine = even_spine(line)
        room = Point(x, y).buffer(radius, quad_segs=32)
        lean = math.radians(52)
        tall = radius * s.reach
        behind = CLEAR_OF_PEARLS if s.pearls else Growth.behind
        outside = Growth(s.pitch, lean, 1.25 * tall, base=True, tip=True, behind=behind)
        inside = Growth(0.7 * s.pitch, lean, 0.5 * tall, base=False, tip=True)
        # The tip's outer plumes keep off the inner ones near the foot.
        half = shapely.linestrings(line[: len(line) // 2])
        kept = shapely.buffer(half, sense * KEPT * tall, single_sided=True)
        rest = polygons(room.difference(kept.difference(half.buffer(0.05 * tall))))
        first, second = (inside, outside) if sense > 0 else (outside, inside)
        rooms = (room, rest[0]) if sense > 0 else (rest[0], room)
        # Pearls go on where the spine comes from.
        round_ = begin - sense * np.linspace(0, math.pi / 2, 60)
        back = middle + outer * np.column_stack([np.cos(round_), np.sin(round_)])
        run, sides = feather(
            spine, rooms, (first, second), "plume", s.plumes, pearls=(s.pearls, back)
        )
        if run is None or not any(side.heads for side in sides):
            return Linework()
        return Linework((run,), (Mark("line", line[::4], "spine"),))

    def closing(self, space, s):
        """Between neighbouring lines."""
        return 0.9 * s.pitch
