"""Wavy rows: long waves side by side, nested, with an even gap."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.families import measured_from
from chorograph_core.designs.engine.rows import RowMotif, to_and_fro
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    length_setting,
    margin_setting,
    share_setting,
)


@dataclass(frozen=True)
class WavySettings(Settings):
    """How close the rows are and how they wave."""

    gap: float = length_setting("Between rows", 0.4375, 0.125, 4.0)
    period: float = length_setting("Length of a wave", 3.5, 0.5, 24.0, 0.125)
    height: float = length_setting("Height of a wave", 0.75, 0.0625, 8.0,
                            help="From its lowest to its highest point.")  # fmt: skip
    loose: float = share_setting("By hand", 0.3, 0.0, 1.0, 0.1,
                         help="How much waves differ from each other; 0 as if drafted.")  # fmt: skip
    angle: float = angle_setting("Direction", 0.0, -180.0, 180.0, 7.5)
    relative: str = measured_from()
    margin: float = margin_setting()


class WavyRows(RowMotif[WavySettings]):
    """Nested waves to and fro."""

    key = "wavy_rows"
    name = "Wavy rows"
    stroke = "a long wave across, round at the edge, back beside it"
    settings_type = WavySettings
    suits = 0.68

    def rows(self, space, s, seed):
        """Row after row."""
        high = min(s.height, 0.32 * s.period)
        rng = np.random.default_rng(seed)
        drift, breath = rng.uniform(0, 2 * math.pi, 2)

        def curve(x, place, number):
            slow = s.loose * (
                0.8 * np.sin(x / (2.3 * s.period) * 2 * math.pi + drift) + 0.05 * place
            )
            swell = 1 + 0.25 * s.loose * np.sin(x / (3.1 * s.period) * 2 * math.pi + breath)
            return high / 2 * swell * np.sin(x / s.period * 2 * math.pi + slow)

        return to_and_fro(space, s.margin, s.angle, s.relative, s.gap, curve, high, "row",
                          s.gap / 1.8, s.period)  # fmt: skip
