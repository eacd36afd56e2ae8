"""Wishbone: parallel slants along a strip, a small backward loop at each edge."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.lanes import (
    Lane,
    along_setting,
    frame_setting,
    start_setting,
    steps_to,
)
from chorograph_core.designs.engine.strip_motifs import StripMotif
from chorograph_core.designs.settings import Settings, hand_setting, margin_setting, share_setting

BEFORE = 0.8
"""Slants before the first loop and after the last, so that no corner of the strip is left open."""

AFTER = 0.35
"""Of the first slant what is left out where it comes out of a tip."""


@dataclass(frozen=True)
class WishboneSettings(Settings):
    """How far from slant to slant, how large the loops are."""

    pitch: float = share_setting("Slant to slant", 0.5, 0.2, 1.2, 0.05,
                         help="Against the width of the strip.")  # fmt: skip
    loop: float = share_setting("Loops", 0.56, 0.25, 0.6, 0.02,
                        help="How far a loop reaches back, against the way from slant to slant.")  # fmt: skip
    loose: float = hand_setting()
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()
    legs: str = frame_setting()


class Wishbone(StripMotif[WishboneSettings]):
    """Slants that cross over in a loop at either edge."""

    key = "wishbone"
    name = "Wishbone"
    stroke = "slant over, a small loop back at the edge, slant over"
    crosses = True
    slant = 0.1
    leans = True
    settings_type = WishboneSettings
    unit, units = "slant", "slants"

    def stroke_in(self, lane: Lane, s: WishboneSettings) -> tuple[np.ndarray, np.ndarray]:
        """As u and v along the lane."""
        # Out of a tip the first slant goes straight on, and into one the last.
        begin, end = (-AFTER if tip else BEFORE for tip in lane.tipped)
        t = steps_to(lane.count + begin + end) - begin
        u = t - s.loop * np.sin(2 * np.pi * t)
        # Up the end of the strip into the first loop, and out of the last one down the other end.
        u = np.where(t < -0.25, t + s.loop, np.where(t > lane.count + 0.25, t - s.loop, u))
        return u, -np.cos(np.pi * t)
