"""Cursive loops: a tall loop, a short loop along a strip, as in handwriting."""

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

ROUND = 0.56
"""How far a loop swings to either side, in ways from loop to loop: less, and its head would be a point."""


@dataclass(frozen=True)
class CursiveSettings(Settings):
    """How far from loop to loop, how much shorter every other one is."""

    pitch: float = share_setting("Loop to loop", 0.55, 0.2, 1.2, 0.05,
                         help="Against the width of the strip.")  # fmt: skip
    short: float = share_setting("Short loops", 0.5, 0.2, 1.0, 0.05,
                         help="Height of every other loop against the tall ones.")  # fmt: skip
    lean: float = share_setting("Lean", 0.25, 0.0, 0.6, 0.05,
                        help="How far loops lean forward, against their height.")  # fmt: skip
    loose: float = hand_setting()
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()
    legs: str = frame_setting()


class Cursive(StripMotif[CursiveSettings]):
    """Loops that stand on one side of a strip."""

    key = "cursive_loops"
    name = "Cursive loops"
    stroke = "up, round to the left, down over the own line; a tall one, a short one"
    crosses = True
    # Tall and short in turn, they begin and end with a tall one, which fills both ends of the strip.
    rounds, odd = 2, True
    leaning, slant = 0.5, 0.1
    settings_type = CursiveSettings
    unit, units = "loop", "loops"

    def stroke_in(self, lane: Lane, s: CursiveSettings) -> tuple[np.ndarray, np.ndarray]:
        """As u and v along the lane."""
        t = steps_to(lane.count)
        number = np.floor(t).astype(int)
        tall = np.where(number % 2 == 0, 1.0, s.short)
        height = (1 - np.cos(2 * np.pi * t)) / 2
        u = t + ROUND * np.sin(2 * np.pi * t) + s.lean * height * tall
        # Leaning forward, the last loop stays on its strip.
        return u * lane.count / (lane.count + 0.35 * s.lean), -1 + 2 * height * tall
