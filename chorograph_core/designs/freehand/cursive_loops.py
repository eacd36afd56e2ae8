"""Cursive loops: a tall loop, a short loop along a strip, as in handwriting."""

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
class CursiveSettings(Settings):
    """How far from loop to loop, how much shorter every other one is."""

    pitch: float = share_setting("Loop to loop", 0.55, 0.2, 1.2, 0.05,
                         help="Against the width of the strip.")  # fmt: skip
    short: float = share_setting("Short loops", 0.5, 0.2, 1.0, 0.05,
                         help="Height of every other loop against the tall ones.")  # fmt: skip
    lean: float = share_setting("Lean", 0.25, 0.0, 0.6, 0.05,
                        help="How far loops lean forward, against their height.")  # fmt: skip
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()


class Cursive(Design[CursiveSettings]):
    """Loops that stand on one side of a strip."""

    key = "cursive_loops"
    name = "Cursive loops"
    family = "freehand"
    stroke = "up, round to the left, down over the own line; a tall one, a short one"
    crosses = True
    settings_type = CursiveSettings

    def fits(self, space, settings=None):
        """It wants a strip."""
        s = self.clean(settings)
        return how_strip(space, s.margin, s.along, s.pitch, "loops")

    def spacing(self, space, settings=None):
        """From loop to loop."""
        s = self.clean(settings)
        return s.pitch * strip_width(space, s.margin, s.along)

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One line along each part of the zone."""
        s = self.clean(settings)
        return along_strip(space, s.margin, s.along, s.begin, s.pitch, lambda lane: _stroke(lane, s),
                           "loop", doorways, soft=0.03)  # fmt: skip


def _stroke(lane: Lane, s: CursiveSettings) -> tuple[np.ndarray, np.ndarray]:
    t = steps_to(lane.count)
    number = np.floor(t).astype(int)
    tall = np.where(number % 2 == 0, 1.0, s.short)
    height = (1 - np.cos(2 * np.pi * t)) / 2
    u = t + 0.38 * np.sin(2 * np.pi * t) + s.lean * height * tall
    # Leaning forward, the last loop stays on its strip.
    return u * lane.count / (lane.count + 0.35 * s.lean), -1 + 2 * height * tall
