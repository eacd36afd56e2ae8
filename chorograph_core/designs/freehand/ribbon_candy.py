"""Ribbon candy: round over the top, slant back, round under; the bulbs touch."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.along import along_strip
from chorograph_core.designs.engine.corners import swirl_in_corner
from chorograph_core.designs.engine.lanes import (
    Lane,
    along_setting,
    frame_setting,
    how_strip,
    steps_to,
    strip_width,
)
from chorograph_core.designs.engine.reserving import strip_along_guide
from chorograph_core.designs.engine.tight import least_radius
from chorograph_core.designs.settings import Settings, hand_setting, margin_setting, share_setting
from chorograph_core.measure import format_inches

TIGHT = 0.5
"""How much of a hand's unevenness bulbs that touch can have without crossing."""
SLANT = 0.66
"""How far a bulb reaches past its place, in ways from bulb to bulb: a little more and neighbours
would cross."""


@dataclass(frozen=True)
class CandySettings(Settings):
    """How plump the bulbs are, and which way they run."""

    plump: float = share_setting("Bulb width", 0.5, 0.18, 0.8, 0.02,
                         help="Width of a bulb against the width of the strip.")  # fmt: skip
    loose: float = hand_setting()
    margin: float = margin_setting()
    turn: str = along_setting()
    legs: str = frame_setting()


class RibbonCandy(Design[CandySettings]):
    """Bulbs along both edges of a strip, joined by slanting strokes."""

    key = "ribbon_candy"
    name = "Ribbon candy"
    family = "freehand"
    guided = True
    goes_behind = True
    grounded = True
    stroke = "over the top, slant back, under; ends at the far end"
    settings_type = CandySettings

    def fits(self, space, settings=None):
        """It wants a strip at least three times as long as wide."""
        s = self.clean(settings)
        wide = strip_width(space, s.margin, s.turn)
        if wide * s.plump < 0.16:
            words = (
                f"bulbs {format_inches(wide * s.plump, 16)} wide close up"
                if wide
                else "too narrow for a bulb"
            )
            return Fit(0.1, (words,))
        return how_strip(space, s.margin, s.turn, s.plump / 2, "bulbs")

    def spacing(self, space, settings=None):
        """A bulb's width."""
        s = self.clean(settings)
        return strip_width(space, s.margin, s.turn) * s.plump

    def lies(self, settings):
        """As its legs are told to stand."""
        return settings.legs == "frame"

    def reserves(self, space, settings, linework):
        """The strip along its guide."""
        return strip_along_guide(space, linework)

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run along each part of the zone, from the end nearer to the first doorway."""
        s = self.clean(settings)
        return along_strip(space, s.margin, s.turn, "first", s.plump / 2, _stroke, "bulb", doorways,
                           soft=0.02, least=0.1, lies=float(self.lies(s)), corner=swirl_in_corner,
                           loose=TIGHT * s.loose, seed=seed,
                           least_turn=least_radius(self.spacing(space, s)))  # fmt: skip


def _stroke(lane: Lane) -> tuple[np.ndarray, np.ndarray]:
    count = max(1, lane.count - 1)
    t = steps_to(count, 1 / 50)
    u = 0.5 + t * (lane.count - 1) / count + SLANT * np.sin(2 * np.pi * t)
    # Half a bulb is kept free at either end, where its own round needs it.
    return np.clip(u, 0.0, lane.count), -np.cos(np.pi * t)
