"""Clams: rows of half-round scales, each row over the gaps of the last."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.families import measured_from
from chorograph_core.designs.engine.leaning import left_beside
from chorograph_core.designs.engine.rows import RowMotif, fitted_width, to_and_fro
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.settings import Settings, angle_setting, length_setting, margin_setting
from chorograph_core.designs.space import Space

LAID = ((0, 0.0), (1, 0.0), (0, 0.2), (1, 0.2), (0, 0.4), (1, 0.4))
"""With half a scale or a whole one rows begin, and how much of the last row the edge cuts off: what is tried
in turn until no corner and no edge is left open."""
MANY = 800.0
"""Squares of a scale's width up to which all of them are tried: in a large field an edge is little of it."""


@dataclass(frozen=True)
class ClamSettings(Settings):
    """How wide a scale is, and which way up it lies."""

    width: float = length_setting("Width of a scale", 1.0, 0.25, 8.0, 0.0625)
    angle: float = angle_setting("Turned by", 0.0, -180.0, 180.0, 7.5)
    relative: str = measured_from()
    margin: float = margin_setting()


class Clams(RowMotif[ClamSettings]):
    """Scales by hand, a whole number of them in the length of the zone."""

    key = "clams"
    name = "Clams"
    stroke = "scale beside scale across, a step down, back over the gaps"
    pointed = True
    upright = True
    settings_type = ClamSettings
    spaced_by = ("width", "Width of a scale")
    suits = 0.6

    def apart(self, s):
        """From row to row: half a scale."""
        return s.width / 2

    def drawn(self, space, s, seed):
        """Row after row, laid so that it reaches edges and corners."""
        best, least = Linework(()), (np.inf, np.inf)
        # Along a guide no edge cuts rows off.
        few = space.guide is not None or space.polygon.area > MANY * s.width**2
        for first, cut_off in LAID[: 2 if few else None]:
            made = _rows(space, s, first, cut_off)
            open_ = left_beside(made, space, self.apart(s), s.margin)
            if open_ < least:
                best, least = made, open_
            if not any(least):
                break
        return best


def _rows(space: Space, s: ClamSettings, first: int, cut_off: float) -> Linework:
    """All rows, of which every other, from the *first* on, begins with half a scale; the edge takes *cut_off*
    of the height of the last one."""
    wide = fitted_width(space, s)

    def curve(x, place, number):
        off = (x / wide + (0.5 if (number + first) % 2 else 0.0)) % 1.0 * 2 - 1
        return -wide / 2 * np.sqrt(np.maximum(0.0, 1 - off * off)) + wide / 4

    # Scales meet in points: there must be one just there.
    steps = min(max(12, round(wide / 0.04)), 48)
    return to_and_fro(space, s.margin, s.angle, s.relative, wide / 2, curve, wide / 2, "row",
                      0.012, wide, fine=wide / (2 * steps), cut_off=cut_off, scales=True)  # fmt: skip
