"""A motif of one's own scattered over a zone: one after another, each turned to where the next one is."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.curves import smooth
from chorograph_core.designs.engine.cells import Cell
from chorograph_core.designs.engine.figures_in_cells import FigureFill, figures_through
from chorograph_core.designs.own_strokes import stroke_points
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    length_setting,
    margin_setting,
    share_setting,
    stroke_setting,
    write_stroke,
)

KNOTS = ((-0.95, 0.1), (-0.55, -0.05), (-0.15, -0.75), (0.35, -0.8), (0.45, -0.35), (0.1, 0.0), (-0.3, -0.1),
         (-0.25, 0.45), (0.2, 0.75), (0.6, 0.45), (0.4, 0.05), (0.95, 0.1))  # fmt: skip
FIRST = write_stroke(smooth(np.array(KNOTS), 8))


@dataclass(frozen=True)
class OwnFigureSettings(Settings):
    """The stroke, and how large and how upright it stands."""

    size: float = length_setting("One to the next", 2.0, 0.5, 12.0, 0.125)
    stroke: str = stroke_setting("Own motif", FIRST, "figure")
    share: float = share_setting("Size", 0.88, 0.4, 1.0, 0.02, help="Against the room it has.")
    upright: str = choice_setting(
        "Turned", (("way", "to where the next one is"), ("up", "upright, all alike"))
    )
    margin: float = margin_setting()


class OwnFigure(FigureFill[OwnFigureSettings]):
    """Figures of one size with a short way from each to the next."""

    key = "own_figure"
    own = "scattered"
    name = "Own motif, scattered"
    stroke = "as it was drawn, on to the next"
    crosses = True
    pointed = True
    retraces = True
    settings_type = OwnFigureSettings
    sized_by = ("size", "One to the next")

    def spacing(self, space, settings=None):
        """About half the way from one to the next."""
        return self.clean(settings).size * 0.55

    def drawn(self, space, s, seed):
        """One line for each part of the zone."""
        line = stroke_points(s.stroke)

        def figure(cell: Cell, behind: float, ahead: float, number: int) -> np.ndarray:
            return figure_in(cell, line, behind, ahead, s.share, s.upright == "up")

        return figures_through(space, s.margin, s.size, 0.12 * s.size, seed, figure, "figure", 0.7)


def figure_in(
    cell: Cell, line: np.ndarray, behind: float, ahead: float, share: float, upright: bool
) -> np.ndarray:
    """A stroke (n, 2) of the unit circle in *cell*; unless *upright*, turned so that it begins where one
    comes from and ends where one goes, as nearly as it can."""
    radius = float(cell.radius(np.arange(0, 2 * math.pi, 0.2)).min()) * share
    turn = 0.0
    if not upright:
        begin = math.atan2(line[0, 1], line[0, 0])
        end = math.atan2(line[-1, 1], line[-1, 0])
        # Half way between what either end asks for.
        one, two = behind - begin, ahead - end
        turn = one + ((two - one + math.pi) % (2 * math.pi) - math.pi) / 2
    cos, sin = math.cos(turn), math.sin(turn)
    return cell.middle + radius * line @ np.array([[cos, sin], [-sin, cos]])
