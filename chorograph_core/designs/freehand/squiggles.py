"""Squiggles: wavering lines up and down a wedge, counted so that they end where the next wedge begins."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.engine.lanes import (
    Lane,
    along_setting,
    bulge,
    start_setting,
    strip_in,
    strip_width,
)
from chorograph_core.designs.engine.strip_motifs import StripMotif
from chorograph_core.designs.settings import (
    Settings,
    count_setting,
    margin_setting,
    share_setting,
)

APART = 0.8
"""Inches between lines, where they are not counted by hand."""
LEAST_LONG = 0.6
"""How many times as long as wide a wedge is at least that many lines go up and down."""
LEADS = 0.6
"""Widths before a tip from which on the line that goes into it leaves its place; the others turn before."""
BULGE, WIDE, BULGED = 0.27, 1.75, 0.3
"""How much of a strip may be narrower on either side of its widest place, half of that where it is so many
times as wide there as on the whole; its score where more of it is."""
STILL = 0.5
"""Units before a turn within which a line comes to lie still."""


@dataclass(frozen=True)
class SquiggleSettings(Settings):
    """How many lines, how they waver."""

    count: int = count_setting(
        "Lines", 3, 1, 40, help="An odd number ends at the other end of the wedge."
    )
    pitch: float = share_setting(
        "Length of a squiggle", 1.8, 0.6, 9.0, 0.1, help="Against a line's share of the width."
    )
    swing: float = share_setting("Swing", 0.5, 0.1, 0.9, 0.05,
                         help="How far a line swings, against its share of the width.")  # fmt: skip
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()


class Squiggles(StripMotif[SquiggleSettings]):
    """Lines along a strip or a wedge that waver together."""

    key = "squiggles"
    version = 2
    name = "Squiggles"
    stroke = "wavering up the wedge, round, down beside it, counted"
    settings_type = SquiggleSettings
    unit, units = "squiggle", "squiggles"
    soft = 0.09
    leans = True
    sharp = True
    sizes = 12.0
    opens = 4.0
    end = 0.25

    def upgrade(self, settings, from_version):
        """The length of a squiggle was told against the whole wedge, 0.6 of it."""
        made: dict[str, Any] = dict(settings)
        if from_version < 2:
            count, pitch = made.get("count", 3), made.get("pitch", 0.6)
            if all(isinstance(each, (int, float)) for each in (count, pitch)):
                made["pitch"] = round(min(max(count * pitch, 0.6), 9.0), 1)
        return made

    def proposed(self, space):
        """Three lines, or as many more as a wide wedge wants; an odd number of them."""
        s = super().proposed(space)
        wide = strip_width(space, s.margin, s.along)
        return self.clean({**vars(s), "count": max(s.count, 2 * round((wide / APART - 1) / 2) + 1)})

    def fits(self, space, settings=None):
        """It wants a strip or a wedge."""
        fit, s = super().fits(space, settings), self.clean(settings)
        count, parts = s.count, space.inset(s.margin)
        if parts and fit.score > BULGED and space.guide is None:
            # A guide leads a strip of one width.
            strip = strip_in(space, parts[0], s.along)
            wide = strip.widths.max() > WIDE * strip.mean_width
            if bulge(strip) > (BULGE / 2 if wide else BULGE):
                fit = Fit(
                    BULGED, (*fit.reasons, "widest in its middle: lines up and down it part there")
                )
        where = "ends at the other end" if count % 2 else "ends where it began"
        return Fit(fit.score, (*fit.reasons, f"{count} lines: {where}"))

    def proportion(self, s):
        """Against the width of the whole wedge."""
        return float(s.pitch / s.count)

    def least_length(self, s):
        """Not the wedge, a line's share of it wants to be longer than wide."""
        return max(LEAST_LONG, 2.0 / s.count)

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
        turn = min(0.5 / s.pitch, lane.count / 3)
        # Into a tip goes the line that comes from it, or that ends there.
        leads = min(LEADS / self.proportion(s), lane.count / 4) if s.count > 1 else 0.0
        back = [leads * lane.tipped[0], leads * (lane.tipped[1] and s.count % 2 == 1)]
        us, vs = [], []
        for k in range(s.count):
            middle = -1 + share * (k + 0.5)
            # The last one on the way back ends at the edge, beside where the first began.
            first = turn + back[0] if 0 < k < s.count - 1 + (s.count % 2) else 0.0
            last = lane.count - (turn + back[1] if k < s.count - 1 else 0.0)
            t = np.linspace(first, last, max(12, int(lane.count * 26)))
            # All lines of a wedge waver together: beside each other they keep their distance. Where they
            # turn they are still.
            near = np.minimum(
                t - first if first else np.inf, last - t if k < s.count - 1 else np.inf
            )
            # Round a corner they go straight, one beside the other.
            still = _eased(np.minimum(near, lane.from_bends(t)) / STILL)
            v = middle + share / 2 * s.swing * np.sin(2 * np.pi * t) * still
            if not k and back[0]:
                v = v * _eased(t / (back[0] + turn))
            if k == s.count - 1 and back[1]:
                v = v * _eased((last - t) / (back[1] + turn))
            us.append(t[::-1] if k % 2 else t)
            vs.append(v[::-1] if k % 2 else v)
            if k < s.count - 1:
                round_ = np.linspace(-np.pi / 2, np.pi / 2, 18)[1:-1]
                us.append(us[-1][-1] + (-1 if k % 2 else 1) * turn * np.cos(round_))
                vs.append(middle + share / 2 * (1 + np.sin(round_)))
        return np.concatenate(us), np.concatenate(vs)


def _eased(share: np.ndarray) -> np.ndarray:
    """From 0 to 1, at rest at both."""
    share = np.clip(share, 0.0, 1.0)
    return share**2 * (3 - 2 * share)
