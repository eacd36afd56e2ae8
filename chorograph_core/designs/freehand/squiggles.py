"""Squiggles: wavering lines up and down a wedge, counted so that they end where the next wedge begins."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.lanes import Lane, along_setting, start_setting, strip_width
from chorograph_core.designs.engine.strip_motifs import StripMotif
from chorograph_core.designs.settings import (
    Settings,
    count_setting,
    margin_setting,
    share_setting,
)

TURN = 0.3
"""Units in which a line turns round."""


@dataclass(frozen=True)
class SquiggleSettings(Settings):
    """How many lines, how they waver."""

    count: int = count_setting(
        "Lines", 3, 1, 40, help="An odd number ends at the other end of the wedge."
    )
    pitch: float = share_setting(
        "Length of a squiggle", 0.6, 0.2, 3.0, 0.1, help="Against the width of the wedge."
    )
    swing: float = share_setting("Swing", 0.5, 0.1, 0.9, 0.05,
                         help="How far a line swings, against its share of the width.")  # fmt: skip
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()


class Squiggles(StripMotif[SquiggleSettings]):
    """Lines along a strip or a wedge that waver together."""

    key = "squiggles"
    name = "Squiggles"
    stroke = "wavering up the wedge, round, down beside it, counted"
    settings_type = SquiggleSettings
    unit, units = "squiggle", "squiggles"
    soft = 0.09

    def fits(self, space, settings=None):
        """It wants a strip or a wedge."""
        fit = super().fits(space, settings)
        count = self.clean(settings).count
        where = "ends at the other end" if count % 2 else "ends where it began"
        return type(fit)(fit.score, (*fit.reasons, f"{count} lines: {where}"))

    def spacing(self, space, settings=None):
        """A line's share of the width."""
        s = self.clean(settings)
        return strip_width(space, s.margin, s.along) / s.count

    def corner_figure(self, s):
        """Its lines turn corners themselves."""
        return None

    def stroke_in(self, lane: Lane, s: SquiggleSettings) -> tuple[np.ndarray, np.ndarray]:
        """As u and v along the lane."""
        share = 2.0 / s.count
        us, vs = [], []
        for k in range(s.count):
            middle = -1 + share * (k + 0.5)
            first, last = (
                0.0 if k == 0 else TURN / 2,
                lane.count - (TURN / 2 if k < s.count - 1 else 0.0),
            )
            t = np.linspace(first, last, max(12, int(lane.count * 26)))
            # All lines of a wedge waver together: beside each other they keep their distance.
            v = middle + share / 2 * s.swing * np.sin(2 * np.pi * t)
            if k % 2:
                t, v = t[::-1], v[::-1]
            us.append(t)
            vs.append(v)
        return np.concatenate(us), np.concatenate(vs)
