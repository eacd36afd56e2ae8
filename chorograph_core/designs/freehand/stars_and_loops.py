"""Stars and loops: a five-point star drawn in one go, a loop, a star."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.cells import Cell
from chorograph_core.designs.engine.figures_in_cells import (
    FigureFill,
    figures_through,
    in_tip,
    nowhere,
)
from chorograph_core.designs.freehand.own_figure import figure_in
from chorograph_core.designs.linework import Linework
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

ECHO = 0.45
"""Sizes that lines keep from each other where open spots are echoed."""
AT_EDGE = 0.15
"""How round cells at the edge are, by which it is told what lies in a tip."""


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
    settings_type = StarSettings
    sized_by = ("size", "Star to loop")

    def spacing(self, space, settings=None):
        """About half the way from star to loop."""
        return self.clean(settings).size * 0.55

    def drawn(self, space, s, seed):
        """One line for each part of the zone."""
        own = stroke_points(s.own) if s.own else None

        last, stars = 0, 0

        def figure(cell: Cell, behind: float, ahead: float, number: int) -> np.ndarray:
            nonlocal last, stars
            if not number:
                last = -s.loops - 1
            if number - last > s.loops and not loose(cell):
                last, stars = number, stars + 1
                return _star(cell, behind, ahead, s)
            # The loops are counted without the stars.
            loop = number - number // (s.loops + 1)
            if own is not None and loop % s.every == 0:
                return figure_in(cell, own, behind, ahead, 0.8, False)
            return _loop(cell, behind, ahead)

        def filled() -> Linework:
            return figures_through(
                space, s.margin, s.size, 0.05 * s.size, seed, figure, "figure", 0.7, ECHO * s.size,
                AT_EDGE, loose,
            )  # fmt: skip

        # Into a tip goes a loop, and from it a drop: a star would leave it open.
        loose = in_tip if s.loops else nowhere
        made = filled()
        if not stars:
            loose = nowhere
            made = filled()
        return made


def _star(cell: Cell, behind: float, ahead: float, s: StarSettings) -> np.ndarray:
    """All points of a star in one stroke, begun at the foot of the one that looks back, left at its end."""
    points = int(s.points)
    skip = points // 2
    radius = float(cell.radius(np.arange(0, 2 * math.pi, 0.3)).min()) * s.star
    # The point at which one enters and leaves looks between where one comes from and where one goes.
    bend = (ahead - behind + math.pi) % (2 * math.pi) - math.pi
    turn = behind + bend / 2 + np.arange(points + 1) * 2 * math.pi * skip / points
    tips = cell.middle + radius * np.column_stack([np.cos(turn), np.sin(turn)])
    dense = [np.linspace(one, two, 12)[:-1] for one, two in itertools.pairwise(tips)]
    return np.vstack([*dense, tips[-1:]])


def _loop(cell: Cell, behind: float, ahead: float) -> np.ndarray:
    """Through the cell with a loop in its middle, on the side towards which the way bends."""
    radius = 0.5 * float(cell.radii.min())
    bend = (ahead - behind - math.pi + math.pi) % (2 * math.pi) - math.pi
    sense = -1 if bend >= 0 else 1
    enter, leave = cell.at(behind, 0.25 * cell.least), cell.at(ahead, 0.25 * cell.least)
    along = leave - enter
    heading = math.atan2(along[1], along[0])
    foot = heading - sense * math.pi / 2
    turn = foot + sense * np.linspace(-0.6, 2 * math.pi + 0.6, 40)
    ring = cell.middle + radius * np.column_stack([np.cos(turn), np.sin(turn)])
    return np.vstack([enter, ring, leave])
