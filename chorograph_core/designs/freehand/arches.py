"""Arches: rows of even arcs to and fro, each nested under the last."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.families import measured_from
from chorograph_core.designs.engine.rows import RowMotif, fitted_width, to_and_fro
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


class Arches(RowMotif[ArchSettings]):
    """Rows of arcs, a whole number of them in the length of the zone."""

    key = "arches"
    name = "Arches"
    stroke = "arc beside arc across, round at the edge, back under them"
    pointed = True
    settings_type = ArchSettings
    suits = 0.6

    def drawn(self, space, s, seed):
        """Row after row."""
        high = min(s.height, 0.75 * s.width)
        wide = fitted_width(space, s)

        def curve(x, place, number):
            return high * (0.5 - np.abs(np.sin(np.pi * x / wide)) ** 0.8)

        return to_and_fro(space, s.margin, s.angle, s.relative, s.gap, curve, high, "row",
                          min(0.06, s.gap / 8), wide, fine=wide / max(24, round(wide / 0.08)))  # fmt: skip
