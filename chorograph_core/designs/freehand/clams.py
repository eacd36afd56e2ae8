"""Clams: rows of half-round scales, each row over the gaps of the last."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.families import measured_from
from chorograph_core.designs.engine.rows import RowMotif, fitted_width, to_and_fro
from chorograph_core.designs.settings import Settings, angle_setting, length_setting, margin_setting


@dataclass(frozen=True)
class ClamSettings(Settings):
    """How wide a scale is, and which way up it lies."""

    width: float = length_setting("Width of a scale", 1.0, 0.25, 8.0, 0.0625)
    angle: float = angle_setting("Turned by", 0.0, -180.0, 180.0, 7.5)
    relative: str = measured_from()
    margin: float = margin_setting()


class Clams(RowMotif[ClamSettings]):
    """Scales by hand, a whole number of them in the length of the zone."""

    key = "clams"
    name = "Clams"
    stroke = "scale beside scale across, a step down, back over the gaps"
    pointed = True
    upright = True
    settings_type = ClamSettings
    spaced_by = ("width", "Width of a scale")
    suits = 0.6

    def apart(self, s):
        """From row to row: half a scale."""
        return s.width / 2

    def drawn(self, space, s, seed):
        """Row after row."""
        wide = fitted_width(space, s)

        def curve(x, place, number):
            off = (x / wide + (0.5 if number % 2 else 0.0)) % 1.0 * 2 - 1
            return -wide / 2 * np.sqrt(np.maximum(0.0, 1 - off * off)) + wide / 4

        # Scales meet in points: there must be one just there.
        steps = min(max(12, round(wide / 0.04)), 48)
        return to_and_fro(space, s.margin, s.angle, s.relative, wide / 2, curve, wide / 2, "row",
                          0.012, wide, fine=wide / (2 * steps))  # fmt: skip
