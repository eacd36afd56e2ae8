"""Arches: rows of even arcs to and fro, each nested under the last."""

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
class ArchSettings(Settings):
    """How wide an arch is and how close the rows lie."""

    width: float = length_setting("Width of an arch", 1.5, 0.375, 12.0, 0.125)
    height: float = length_setting("Height of an arch", 0.625, 0.125, 8.0)
    gap: float = length_setting("Between rows", 0.4375, 0.125, 4.0)
    angle: float = angle_setting("Direction", 0.0, -180.0, 180.0, 7.5)
    relative: str = measured_from()
    margin: float = margin_setting()


class Arches(Design[ArchSettings]):
    """Rows of arcs, a whole number of them in the length of the zone."""

    key = "arches"
    name = "Arches"
    family = "freehand"
    stroke = "arc beside arc across, round at the edge, back under them"
    pointed = True
    # Along the edge one passes the turns of other rows.
    crosses = True
    settings_type = ArchSettings

    def fits(self, space, settings=None):
        """Two arches and two rows must have room."""
        s = self.clean(settings)
        rows = 2 * (space.widest[1] - s.margin) / s.gap
        if rows < 2 or 2 * space.widest[1] < s.width:
            return Fit(0.15, ("not one row of arches has room: echo instead",))
        return Fit(0.6, (f"about {rows:.0f} rows at the widest place",))

    def spacing(self, space, settings=None):
        """Between rows."""
        return self.clean(settings).gap

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Row after row."""
        s = self.clean(settings)
        high = min(s.height, 0.75 * s.width)
        angle = base_angle(space, s.relative) + math.radians(s.angle)
        _, _, u, _ = axes_at((space.inset(s.margin) or [space.polygon])[0], angle)
        wide = float(np.ptp(u)) / max(1, round(float(np.ptp(u)) / s.width))

        def curve(x, place, number):
            return high * (0.5 - np.abs(np.sin(np.pi * x / wide)) ** 0.8)

        return to_and_fro(space, s.margin, s.angle, s.relative, s.gap, curve, high, "row",
                          min(0.06, s.gap / 8), wide)  # fmt: skip

    def alongside(self, settings):
        """Measured from the top, whatever side is the longest of each."""
        return replace(settings, relative="top")
