"""Wishbone: parallel slants along a strip, a small backward loop at each edge."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Design
from chorograph_core.designs.engine.lanes import (
    Lane,
    along_setting,
    along_strip,
    how_strip,
    start_setting,
    steps_to,
    strip_width,
)
from chorograph_core.designs.settings import Settings, margin_setting, share_setting


@dataclass(frozen=True)
class WishboneSettings(Settings):
    """How far from slant to slant, how large the loops are."""

    pitch: float = share_setting("Slant to slant", 0.5, 0.2, 1.2, 0.05,
                         help="Against the width of the strip.")  # fmt: skip
    loop: float = share_setting("Loops", 0.4, 0.25, 0.6, 0.02,
                        help="How far a loop reaches back, against the way from slant to slant.")  # fmt: skip
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()


class Wishbone(Design[WishboneSettings]):
    """Slants that cross over in a loop at either edge."""

    key = "wishbone"
    name = "Wishbone"
    family = "freehand"
    stroke = "slant over, a small loop back at the edge, slant over"
    crosses = True
    settings_type = WishboneSettings

    def fits(self, space, settings=None):
        """It wants a strip."""
        s = self.clean(settings)
        return how_strip(space, s.margin, s.along, s.pitch, "slants")

    def spacing(self, space, settings=None):
        """From slant to slant."""
        s = self.clean(settings)
        return s.pitch * strip_width(space, s.margin, s.along)

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One line along each part of the zone."""
        s = self.clean(settings)
        return along_strip(space, s.margin, s.along, s.begin, s.pitch, lambda lane: _stroke(lane, s),
                           "slant", doorways, soft=0.03)  # fmt: skip


def _stroke(lane: Lane, s: WishboneSettings) -> tuple[np.ndarray, np.ndarray]:
    t = steps_to(lane.count)
    u = t - s.loop * np.sin(2 * np.pi * t)
    return u, -np.cos(np.pi * t)
