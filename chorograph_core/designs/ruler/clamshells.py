"""Clamshells: rows of half circles, each row set over the gaps of the last."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import chained_arcs
from chorograph_core.designs.engine.axes import axes_at, base_angle
from chorograph_core.designs.engine.families import cut_to, linked, measured_from
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    length_setting,
    refuse_thousands,
)
from chorograph_core.measure import format_inches

MOST_SHELLS = 4000


@dataclass(frozen=True)
class ShellSettings(Settings):
    """The size of a shell, and which way up it lies."""

    width: float = length_setting("Width of a shell", 2.0, 0.375, 12.0)
    angle: float = angle_setting("Turned by", 0.0, -180.0, 180.0, 7.5)
    relative: str = measured_from()


class Clamshells(Design[ShellSettings]):
    """Half circles that overlap like tiles; a whole number of them fits across."""

    key = "clamshells"
    name = "Clamshells"
    family = "ruler"
    stroke = "a row of half circles across, a step along the edge, the next row back"
    # Rows touch where the shells of one stand on the crowns of the other.
    crosses = True
    upright = True
    settings_type = ShellSettings

    def fits(self, space, settings=None):
        """A few shells must have room."""
        s = self.clean(settings)
        rows, wide = _rows(space, s)
        shells = space.polygon.area / (s.width**2 / 2)
        reason = f"about {shells:.0f} shells, {format_inches(wide, 16)} wide"
        return Fit(0.2 if shells < 4 or len(rows) < 2 else 0.6, (reason,))

    def spacing(self, space, settings=None):
        """From row to row: half a shell."""
        return _rows(space, self.clean(settings))[1] / 2

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Row after row."""
        s = self.clean(settings)
        rows, wide = _rows(space, s)
        near = doorways[0] if doorways else None
        runs = linked(rows, space.polygon, "the ends of the edge on two dots", "curved", near)
        middle = [row[[0, -1]] for row in rows[:1]]
        marks = tuple(Mark("line", line, "foot of the first row") for line in middle)
        kept = near is not None and len(runs) == 1
        return Linework(tuple(runs), marks, (f"shells {format_inches(wide, 16)} wide",), kept)


def _rows(space, s: ShellSettings):
    return space.fact(("shells", s), lambda: _all(space, s))


def _all(space, s: ShellSettings):
    shells = space.polygon.area / (s.width**2 / 2)
    refuse_thousands(shells, MOST_SHELLS, "Width of a shell", "width", "shells")
    angle = base_angle(space, s.relative) + math.radians(s.angle)
    along, across, u, v = axes_at(space.polygon, angle)
    count = max(1, round(float(np.ptp(u)) / s.width))
    wide = float(np.ptp(u)) / count
    down = max(1, math.ceil(float(np.ptp(v)) / (wide / 2) - 1e-6))
    rows = []
    for j in range(down + 1):
        # Crowns point back to where the rows begin, so that the first row fills the edge there.
        foot = v.min() + wide / 2 * (j + 1) - 1e-9 if j < down else v.min() + wide / 2 * (j + 1)
        shift = wide / 2 if j % 2 else 0.0
        nodes = np.array([(u.min() + shift + wide * (k - 1)) * along + foot * across
                          for k in range(count + 2)])  # fmt: skip
        rows += cut_to([chained_arcs(nodes, [-wide / 2] * (count + 1))], space.polygon, 0.3)
    return rows, wide
