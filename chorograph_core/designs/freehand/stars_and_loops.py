"""Stars and loops: a five-point star drawn in one go, a loop, a star."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.cells import Cell
from chorograph_core.designs.engine.figures_in_cells import FigureFill
from chorograph_core.designs.engine.scattered import loop_in, scattered
from chorograph_core.designs.engine.turned_figures import Placed, Stroke
from chorograph_core.designs.own_strokes import stroke_points
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    count_setting,
    length_setting,
    margin_setting,
    share_setting,
    stroke_setting,
)

LOOP, OWN = 0.5, 0.8
"""How much of its cell a loop takes up, and a figure of one's own."""


@dataclass(frozen=True)
class StarSettings(Settings):
    """How large, how far apart, how many loops to a star."""

    size: float = length_setting("Star to loop", 1.5, 0.5, 8.0, 0.125)
    star: float = share_setting(
        "Star", 0.86, 0.4, 1.0, 0.02, help="Across a star against the room it has."
    )
    loops: int = count_setting("Loops to a star", 1, 0, 6)
    points: str = choice_setting("Points", (("5", "five"), ("7", "seven")))
    own: str = stroke_setting("Another figure now and then", "", "figure",
                       help="One of your own, from the shelf.")  # fmt: skip
    every: int = count_setting("Every so many loops", 4, 1, 40)
    margin: float = margin_setting()


class StarsAndLoops(FigureFill[StarSettings]):
    """Stars in one stroke with loops on the way from one to the next."""

    key = "stars_and_loops"
    name = "Stars and loops"
    stroke = "a star in one go, point to point; a loop; the next star"
    crosses = True
    pointed = True
    undirected = True
    settings_type = StarSettings
    sized_by = ("size", "Star to loop")

    def spacing(self, space, settings=None):
        """About half the way from star to loop."""
        return self.clean(settings).size * 0.55

    def drawn(self, space, s, seed):
        """One line for each part of the zone."""
        own = stroke_points(s.own) if s.own else None
        star = _star(int(s.points))

        def what(cell: Cell, number: int) -> Placed:
            # The loops are counted without the stars.
            stars, on = divmod(number, s.loops + 1)
            if not on:
                return Placed(cell.middle, s.star * cell.narrowest, (star,))
            if own is not None and (number - stars) % s.every == 0:
                return Placed(cell.middle, OWN * cell.narrowest, (own,))
            return loop_in(cell, LOOP)

        return scattered(space, s.margin, s.size, seed, "figure", s.star, what)


def _star(points: int) -> Stroke:
    """All points of a star in one go, begun and ended at one of them."""
    turn = np.arange(points + 1) * 2 * math.pi * (points // 2) / points
    tips = np.column_stack([np.cos(turn), np.sin(turn)])
    dense = [np.linspace(one, two, 12)[:-1] for one, two in itertools.pairwise(tips)]
    return np.vstack([*dense, tips[-1:]])
