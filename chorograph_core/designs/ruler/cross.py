"""A cross or an X through the middle of a zone, its arms of several lines."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.axes import axes_at
from chorograph_core.designs.engine.families import cut_to, linked, position_of
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    count_setting,
    length_setting,
)
from chorograph_core.zones.places import size_of


@dataclass(frozen=True)
class CrossSettings(Settings):
    """Which way the arms run, and how broad they are."""

    shape: str = choice_setting("Arms", (
        ("x", "from corner to corner"), ("cross", "from side to side")))  # fmt: skip
    lines: int = count_setting("Lines in an arm", 3, 1, 25)
    spacing: float = length_setting("Between lines", 0.5, 0.125, 6.0)


class Cross(Design[CrossSettings]):
    """Two bands of lines that cross in the middle."""

    key = "cross"
    name = "Cross or X"
    family = "ruler"
    role = "motif"
    stroke = "up and down one arm, along the edge, up and down the other"
    crosses = True
    settings_type = CrossSettings

    def fits(self, space, settings=None):
        """It wants a zone about as wide as long."""
        s = self.clean(settings)
        lines = _lines(space, s)
        long, broad = size_of(space.polygon)
        if len(lines) < 2 * s.lines or s.lines * s.spacing > broad:
            return Fit(0.2, ("the arms are broader than the zone",))
        square = broad / max(long, 1e-9)
        return Fit(0.3 + 0.35 * square, (f"two arms of {s.lines}",))

    def draw(self, space, settings=None, seed=0, doorways=None):
        """All lines of both arms."""
        s = self.clean(settings)
        lines = _lines(space, s)
        runs = linked(lines, space.polygon, position_of(s.spacing, space))
        middles = lines[s.lines // 2 :: s.lines] if s.lines else []
        return Linework(
            tuple(runs), tuple(Mark("line", line, "middle of an arm") for line in middles)
        )


def _lines(space, s):
    frame = space.frame
    along, across, u, v = axes_at(space.polygon, frame.axis)
    box = np.array([
        along * a + across * b
        for a, b in ((u.min(), v.min()), (u.max(), v.min()), (u.max(), v.max()), (u.min(), v.max()))
    ])  # fmt: skip
    middle = box.mean(axis=0)
    if s.shape == "x":
        angles = [math.atan2(*(box[k + 2] - box[k])[::-1]) for k in (0, 1)]
    else:
        angles = [frame.axis, frame.axis + math.pi / 2]
    reach = float(np.hypot(*(box[2] - box[0])))
    made = []
    for angle in angles:
        along = np.array([math.cos(angle), math.sin(angle)])
        across = np.array([-along[1], along[0]])
        for k in range(s.lines):
            spot = middle + across * (k - (s.lines - 1) / 2) * s.spacing
            made += cut_to([np.array([spot - along * reach, spot + along * reach])], space.polygon)
    return made
