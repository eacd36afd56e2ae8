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

STILL = 0.5
"""Units before a turn within which a line comes to lie still."""


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
    sizes = 12.0

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
        # Half a circle from line to line, in units.
        turn = min(0.5 / (s.count * s.pitch), lane.count / 3)
        us, vs = [], []
        for k in range(s.count):
            middle = -1 + share * (k + 0.5)
            first = turn if k else 0.0
            last = lane.count - (turn if k < s.count - 1 else 0.0)
            t = np.linspace(first, last, max(12, int(lane.count * 26)))
            # All lines of a wedge waver together: beside each other they keep their distance. Where they
            # turn they are still.
            near = np.minimum(t - first if k else np.inf, last - t if k < s.count - 1 else np.inf)
            still = np.clip(near / STILL, 0, 1) ** 2 * (3 - 2 * np.clip(near / STILL, 0, 1))
            v = middle + share / 2 * s.swing * np.sin(2 * np.pi * t) * still
            us.append(t[::-1] if k % 2 else t)
            vs.append(v[::-1] if k % 2 else v)
            if k < s.count - 1:
                round_ = np.linspace(-np.pi / 2, np.pi / 2, 18)[1:-1]
                us.append(us[-1][-1] + (-1 if k % 2 else 1) * turn * np.cos(round_))
                vs.append(middle + share / 2 * (1 + np.sin(round_)))
        return np.concatenate(us), np.concatenate(vs)
