"""Figure-eights: a row of eights along a strip, slanting with it."""

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


@dataclass(frozen=True)
class EightsSettings(Settings):
    """How close the eights stand, how wide they are."""

    pitch: float = share_setting("Eight to eight", 0.42, 0.2, 1.0, 0.02,
                         help="Against the width of the strip.")  # fmt: skip
    width: float = share_setting("Width of an eight", 0.8, 0.4, 1.0, 0.05,
                         help="Against the way from eight to eight.")  # fmt: skip
    loose: float = hand_setting()
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()
    legs: str = frame_setting()


class Eights(StripMotif[EightsSettings]):
    """Eights side by side, one stroke through all of them."""

    key = "figure_eights"
    name = "Figure-eights"
    stroke = "over and back through its own middle, on to the next at the foot"
    crosses = True
    settings_type = EightsSettings
    unit, units = "eight", "eights"

    def stroke_in(self, lane: Lane, s: EightsSettings) -> tuple[np.ndarray, np.ndarray]:
        """As u and v along the lane."""
        t = steps_to(lane.count)
        drift = (t - np.sin(2 * np.pi * t) * 0.0) * (
            lane.count - s.width
        ) / lane.count + s.width / 2
        return drift + s.width / 2 * np.sin(4 * np.pi * t), -np.cos(2 * np.pi * t)
