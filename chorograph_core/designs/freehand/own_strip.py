"""A motif of one's own along a strip: drawn once, bent and tapered as the strip is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.curves import smooth
from chorograph_core.designs.engine.lanes import (
    Lane,
    along_setting,
    frame_setting,
    start_setting,
)
from chorograph_core.designs.engine.strip_motifs import StripMotif
from chorograph_core.designs.own_strokes import stroke_points, turned_over
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    margin_setting,
    share_setting,
    stroke_setting,
    write_stroke,
)

KNOTS = ((0.0, 0.95), (0.14, 0.7), (0.24, -0.3), (0.42, -0.98), (0.66, -0.8), (0.7, -0.3), (0.54, -0.05),
         (0.44, -0.35), (0.6, -0.6), (0.76, 0.0), (0.86, 0.7), (1.0, 0.95))  # fmt: skip
FIRST = write_stroke(smooth(np.array(KNOTS), 8))


@dataclass(frozen=True)
class OwnStripSettings(Settings):
    """The stroke, and how it is repeated."""

    pitch: float = share_setting("Length of one", 0.9, 0.2, 4.0, 0.05,
                         help="Against the width of the strip.")  # fmt: skip
    stroke: str = stroke_setting("Own motif", FIRST, "strip")
    turned: str = choice_setting("Every second one", (
        ("joins", "as it joins"), ("over", "turned over"), ("same", "like the first")))  # fmt: skip
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()
    legs: str = frame_setting()


class OwnStrip(StripMotif[OwnStripSettings]):
    """One stroke after another, each begun where the last one ended."""

    key = "own_strip"
    own = "along"
    name = "Own motif along a strip"
    stroke = "as it was drawn, again and again"
    crosses = True
    pointed = True
    retraces = True
    settings_type = OwnStripSettings
    unit, units = "repeat", "repeats"
    soft = 0.01

    def stroke_in(self, lane: Lane, s: OwnStripSettings) -> tuple[np.ndarray, np.ndarray]:
        """As u and v along the lane."""
        line = stroke_points(s.stroke)
        over = s.turned == "over" or (s.turned == "joins" and turned_over(line))
        side = np.where(np.arange(lane.count) % 2 == 1, -1.0 if over else 1.0, 1.0)
        u = np.arange(lane.count)[:, None] + line[None, :, 0]
        v = side[:, None] * line[None, :, 1]
        # A hair from the very edge, so that a bent one stays inside.
        return u.ravel(), 0.985 * v.ravel()
