"""Breeze: S-curves echoed evenly in bundles that swell and lean as grass does."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.cells import ANGLES, Cell
from chorograph_core.designs.engine.families import measured_from
from chorograph_core.designs.engine.islands import Island, plume
from chorograph_core.designs.engine.rows import RowMotif, Scatter, to_and_fro
from chorograph_core.designs.engine.tight import least_radius
from chorograph_core.designs.engine.turning import Spiral, pieces_of, round_middle
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    length_setting,
    margin_setting,
    share_setting,
)

ROUND = 3.2
"""Radius of a swirl or a plume in gaps."""
SPARSE = 1.5
"""How far apart they stand, in lengths of a curve."""


@dataclass(frozen=True)
class BreezeSettings(Settings):
    """How close the lines are, how large the bundles, how far they sway."""

    gap: float = length_setting("Between lines", 0.3125, 0.125, 3.0)
    bundle: float = length_setting("Length of a curve", 5.0, 1.0, 24.0, 0.25)
    sway: float = share_setting("Sway", 0.5, 0.1, 1.0, 0.05)
    figure: str = choice_setting("Now and then", (
        ("none", "nothing but lines"), ("swirl", "a swirl"), ("plume", "a plume"),
        ("both", "two swirls, then a plume")),
        help="What a line turns aside into where it would get stuck.")  # fmt: skip
    angle: float = angle_setting("Direction", 0.0, -180.0, 180.0, 7.5)
    relative: str = measured_from()
    margin: float = margin_setting()


class Breeze(RowMotif[BreezeSettings]):
    """Lines that follow each other while what they follow changes slowly."""

    key = "breeze"
    name = "Breeze"
    stroke = "an S across, echoed back, each a little unlike the last"
    settings_type = BreezeSettings
    spaced_by = ("gap", "Between lines")
    what, fewest, suits = "line", 5, 0.62

    def leans(self, s):
        """As a hand does that sees a gap come."""
        return True

    def drawn(self, space, s, seed):
        """Line after line."""
        rng = np.random.default_rng(seed)
        one, two, three = rng.uniform(0, 2 * math.pi, 3)
        high = 0.13 * s.bundle * s.sway

        def curve(x, place, number):
            # Two waves whose crests wander as one goes across: the sum of both is never twice the same.
            turn = 2 * math.pi / s.bundle
            lean = 1.2 * np.sin(place / (2.2 * s.bundle) * 2 * math.pi + one)
            slow = 0.9 * np.sin(place / (1.7 * s.bundle) * 2 * math.pi + two)
            return high * (np.sin(turn * x + lean) + 0.7 * np.sin(0.57 * turn * x + slow + three))

        scatter = None
        if s.figure != "none":
            radius = min(ROUND * s.gap, 0.4 * s.bundle)
            draw = _figures(s.figure, s.gap)
            scatter = Scatter(radius, max(SPARSE * s.bundle, 5 * radius), draw, seed)
        return to_and_fro(space, s.margin, s.angle, s.relative, s.gap, curve, 1.7 * high, "line",
                          s.gap / 1.8, s.bundle, scatter, calm=True,
                          least_turn=least_radius(s.gap))  # fmt: skip


def _figures(which: str, gap: float):
    """What stands on an island: a swirl, entered from one side and left on the other, or a plume."""
    kind = Spiral(2 * gap, gap, 0.15, round_middle)

    def draw(island: Island) -> np.ndarray:
        if which == "plume" or (which == "both" and island.number % 3 == 2):
            return plume(island)
        cell = Cell(np.zeros(2), np.full(ANGLES, island.radius - 0.3 * gap))
        return pieces_of(cell, kind, math.pi, 1, math.pi)[0]

    return draw
