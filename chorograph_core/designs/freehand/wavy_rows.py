"""Wavy rows: long waves side by side, nested, with an even gap."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.axes import axes_at, base_angle
from chorograph_core.designs.engine.bands import band_along, places_with_bands, round_a_shape
from chorograph_core.designs.engine.families import cut_to, measured_from
from chorograph_core.designs.engine.rows import RowMotif, rows_linked, to_and_fro
from chorograph_core.designs.engine.tight import least_radius
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    count_setting,
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
    band: str = choice_setting("Between rows", (
        ("none", "nothing"), ("pebbles", "bands of pebbles"), ("candy", "bands of candy")))  # fmt: skip
    rows: int = count_setting("Rows from band to band", 3, 1, 40)
    wide: float = length_setting("Width of a band", 0.75, 0.25, 6.0)
    way: str = choice_setting("Running", (
        ("across", "to and fro"), ("round", "round a shape, or round the middle")))  # fmt: skip
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

    def leans(self, s):
        """But not where pebbles or candy lie between."""
        return s.band == "none" or s.way == "round"

    def drawn(self, space, s, seed):
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

        if s.way == "round":

            def lines(part):
                return round_a_shape(part, s.gap, s.period, high, float(drift))

            return rows_linked(
                space,
                s.margin,
                lines,
                "wave",
                s.gap / 1.8,
                s.period,
                True,
                least_turn=least_radius(s.gap),
            )
        if s.band != "none" and space.guide is None:
            angle = base_angle(space, s.relative) + math.radians(s.angle)

            def lines(part):
                return banded(part, angle, s, curve, high)

            return rows_linked(space, s.margin, lines, "row", min(s.gap / 1.8, 0.08), s.period)
        return to_and_fro(space, s.margin, s.angle, s.relative, s.gap, curve, high / 2, "row",
                          s.gap / 1.8, s.period, calm=True, least_turn=least_radius(s.gap))  # fmt: skip


def banded(part, angle: float, s: WavySettings, curve, reach: float) -> list[np.ndarray]:
    """Rows at *angle* radians with bands between, so many inches wide, that follow the same waves."""
    along, across, u, v = axes_at(part, angle)
    fine = min(0.1, s.gap / 3)
    x = np.arange(u.min() - fine, u.max() + 2 * fine, fine)
    wide = float(np.ptp(v)) + 2 * reach
    share, places = places_with_bands(wide, s.gap, s.rows, s.wide)
    rows, bands = [], []
    for number, (place, is_band) in enumerate(places):
        y = v.min() - reach + place + curve(x - u.min(), place, number)
        line = x[:, None] * along + y[:, None] * across
        if is_band:
            bands += band_along(line, s.wide * share, s.band, part)
        else:
            rows.append(line)
    return [*cut_to(rows, part, 0.8 * s.gap), *bands]
