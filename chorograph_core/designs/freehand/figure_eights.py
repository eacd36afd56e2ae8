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
from chorograph_core.designs.settings import (
    Settings,
    count_setting,
    hand_setting,
    margin_setting,
    share_setting,
)


@dataclass(frozen=True)
class EightsSettings(Settings):
    """How close the eights stand, how wide they are."""

    pitch: float = share_setting("Eight to eight", 0.42, 0.2, 1.0, 0.02,
                         help="Against the width of the strip.")  # fmt: skip
    width: float = share_setting("Width of an eight", 0.8, 0.4, 1.0, 0.05,
                         help="Against the way from eight to eight.")  # fmt: skip
    rows: int = count_setting(
        "Rows", 1, 1, 12, help="To and fro; an even number ends where it began."
    )
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
    leans = True
    settings_type = EightsSettings
    unit, units = "eight", "eights"

    def proportion(self, s):
        """Of the width of its own row."""
        return s.pitch / s.rows

    def stroke_in(self, lane: Lane, s: EightsSettings) -> tuple[np.ndarray, np.ndarray]:
        """As u and v along the lane."""
        t = steps_to(lane.count)
        drift = t * (lane.count - s.width) / lane.count + s.width / 2
        along = drift + s.width / 2 * np.sin(4 * np.pi * t)
        across = -np.cos(2 * np.pi * t)
        us, vs = [], []
        for row in range(s.rows):
            order = slice(None) if row % 2 == 0 else slice(None, None, -1)
            us.append(along[order])
            vs.append(((2 * row + 1 - s.rows) + across[order]) / s.rows)
        return np.concatenate(us), np.concatenate(vs)
