"""Clams: rows of half-round scales, each row over the gaps of the last."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.axes import axes_at, base_angle
from chorograph_core.designs.engine.families import measured_from
from chorograph_core.designs.engine.rows import to_and_fro
from chorograph_core.designs.settings import Settings, angle_setting, length_setting, margin_setting


@dataclass(frozen=True)
class ClamSettings(Settings):
    """How wide a scale is, and which way up it lies."""

    width: float = length_setting("Width of a scale", 1.0, 0.25, 8.0, 0.0625)
    angle: float = angle_setting("Turned by", 0.0, -180.0, 180.0, 7.5)
    relative: str = measured_from()
    margin: float = margin_setting()


class Clams(Design[ClamSettings]):
    """Scales by hand, a whole number of them in the length of the zone."""

    key = "clams"
    name = "Clams"
    family = "freehand"
    stroke = "scale beside scale across, a step down, back over the gaps"
    pointed = True
    crosses = True
    settings_type = ClamSettings

    def fits(self, space, settings=None):
        """A few scales must have room."""
        s = self.clean(settings)
        count = space.polygon.area / (s.width**2 / 2)
        if count < 5 or 2 * (space.widest[1] - s.margin) < s.width:
            return Fit(0.15, ("hardly a scale has room: echo instead",))
        return Fit(0.6, (f"about {count:.0f} scales",))

    def spacing(self, space, settings=None):
        """From row to row: half a scale."""
        return self.clean(settings).width / 2

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Row after row."""
        s = self.clean(settings)
        angle = base_angle(space, s.relative) + math.radians(s.angle)
        _, _, u, _ = axes_at((space.inset(s.margin) or [space.polygon])[0], angle)
        wide = float(np.ptp(u)) / max(1, round(float(np.ptp(u)) / s.width))

        def curve(x, place, number):
            off = (x / wide + (0.5 if number % 2 else 0.0)) % 1.0 * 2 - 1
            return -wide / 2 * np.sqrt(np.maximum(0.0, 1 - off * off)) + wide / 4

        return to_and_fro(space, s.margin, s.angle, s.relative, wide / 2, curve, wide / 2, "row",
                          0.015, wide)  # fmt: skip

    def alongside(self, settings):
        """Measured from the top, whatever side is the longest of each."""
        return replace(settings, relative="top")
