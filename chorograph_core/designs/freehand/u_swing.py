"""U-swing: from edge to edge of a border in deep curves with a tuck at each edge."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.lanes import Lane, along_setting, start_setting, steps_to
from chorograph_core.designs.engine.strip_motifs import StripMotif
from chorograph_core.designs.settings import Settings, choice_setting, margin_setting, share_setting


@dataclass(frozen=True)
class SwingSettings(Settings):
    """How wide a swing is, how deep the tuck, and where swings cross back into lens shapes."""

    pitch: float = share_setting("Swing to swing", 0.75, 0.3, 2.0, 0.05,
                         help="Against the width of the border.")  # fmt: skip
    tuck: float = share_setting("Tuck", 0.14, 0.0, 0.25, 0.01,
                        help="How far a swing turns in at the edge, against its width.")  # fmt: skip
    lenses: str = choice_setting("Crossing back", (
        ("none", "not at all"), ("half", "from the end to the middle"), ("all", "all the way")))  # fmt: skip
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()


class Swing(StripMotif[SwingSettings]):
    """Deep swings; crossing back makes lens shapes of them."""

    key = "u_swing"
    name = "U-swing"
    stroke = "swing to one edge, tuck, swing to the other; back over them where lenses are wanted"
    crosses = True
    settings_type = SwingSettings
    unit, units = "swing", "swings"
    soft = 0.05

    def stroke_in(self, lane: Lane, s: SwingSettings) -> tuple[np.ndarray, np.ndarray]:
        """As u and v along the lane."""
        out = steps_to(lane.count)
        back = steps_to(lane.count)[::-1]
        if s.lenses == "none":
            back = back[:0]
        elif s.lenses == "half":
            back = back[back >= lane.count / 2 - 1e-9]
        t = np.concatenate([out, back[1:]])
        side = np.concatenate([np.ones(len(out)), -np.ones(max(0, len(back) - 1))])
        # One comes back from the very edge at which one arrived.
        return t + s.tuck * np.sin(2 * np.pi * t), -np.cos(np.pi * t) * side
