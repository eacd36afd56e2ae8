"""Feather: plumes on both sides of a spine, out to whatever edge there is."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from chorograph_core.designs.engine.feathers import (
    feather_with_room,
    goes_round,
    how_feathered,
    line_through,
    round_line,
    shortened,
    stroke_setting,
)
from chorograph_core.designs.engine.figure_motifs import FigureMotif, growing_setting
from chorograph_core.designs.engine.pearls import ACROSS, CLEAR_OF_PEARLS, SMALLER, pearls_setting
from chorograph_core.designs.engine.plumes import Growth
from chorograph_core.designs.engine.spines import Spine, even_spine
from chorograph_core.designs.engine.strokes import slack
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    count_setting,
    length_setting,
    margin_setting,
    share_setting,
)


@dataclass(frozen=True)
class FeatherSettings(Settings):
    """The plumes, and the spine they grow from."""

    pitch: float = length_setting("Width of a plume", 0.875, 0.3125, 5.0)
    height: float = length_setting(
        "Tallest plume", 0.0, 0.0, 24.0, 0.125, help="0: out to the edge."
    )
    lean: float = angle_setting("Lean", 52.0, 25.0, 80.0, 1.0)
    swings: int = count_setting("Swings of the spine", 1, 0, 24)
    sway: float = share_setting("How far it swings", 0.35, 0.0, 0.8, 0.05)
    channel: float = length_setting(
        "Open channel along the spine", 0.0, 0.0, 1.5, help="0: a single spine."
    )
    count: int = count_setting("Plumes on a side", 0, 0, 400, help="0: as many as have room.")
    plumes: str = stroke_setting()
    pearls: int = pearls_setting(0)
    growing: str = growing_setting()
    margin: float = margin_setting()


class Feather(FigureMotif[FeatherSettings]):
    """Plumes start along the spine, end round, and fan out at its foot and its tip."""

    key = "feather"
    name = "Feather"
    guided = True
    goes_behind = True
    stroke = "up one side plume by plume, back down the spine, up the other side"
    settings_type = FeatherSettings

    def fits(self, space, settings=None):
        """Plumes must be taller than wide on both sides."""
        s = self.clean(settings)
        return how_feathered(space, s.margin, s.pitch)

    def proposed(self, space):
        """Plumes narrow enough for four on a side."""
        s = self.clean()
        pitch = max(0.3125, min(s.pitch, math.floor(space.widest[1] / 2.6 * 16) / 16))
        long = space.polygon.length / 2 - 2 * space.widest[1]
        swings = max(1, round(long / max(space.widest[1] * 6, 1)))
        parts = space.inset(s.margin)
        if parts and goes_round(space, parts[0]):
            # As many on each of four sides.
            swings = 4 * max(1, round(swings / 4))
        return self.clean({"pitch": pitch, "swings": min(swings, 24)})

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run for each part, from the foot of the spine."""
        s = self.clean(settings)
        runs, marks = [], []
        for part in space.inset(s.margin):
            spine, back = _spine(space, part, s)
            if spine is None:
                continue
            growth = Growth(s.pitch, math.radians(s.lean), s.height, count=s.count)
            if s.pearls:
                growth = replace(growth, behind=CLEAR_OF_PEARLS)
            run, sides = feather_with_room(
                spine, part, growth, s.plumes, s.channel, slack(s.margin), back
            )
            if run is None or not any(side.heads for side in sides):
                continue
            runs.append(run)
            marks.append(Mark("line", spine.points[::6], "spine"))
        return Linework(tuple(runs), tuple(marks))

    def closing(self, space, s):
        """Between neighbouring lines."""
        return 0.9 * s.pitch


def _spine(space, part, s: FeatherSettings) -> tuple[Spine | None, tuple[int, np.ndarray] | None]:
    """The spine in a part, closed where that goes round, and the pearls at its foot with the line they lie
    along."""
    line = round_line(space, part, s.sway, s.swings)
    if line is not None:
        # Where it closes there is no foot for pearls.
        return even_spine(line if s.growing == "forward" else line[::-1], closed=True), None
    line = line_through(space, part, s.sway, s.swings)
    if line is None or len(line) < 8:
        return None, None
    line = line if s.growing == "forward" else line[::-1]
    taken = ACROSS * (1 - SMALLER**s.pearls) / (1 - SMALLER)
    first = s.pitch * max(0.45, taken + 0.1) if s.pearls else 0.45 * s.pitch
    spine = even_spine(shortened(line, first, 0.85 * s.pitch))
    return spine, (s.pearls, np.vstack([spine.points[0], line[0]]))
