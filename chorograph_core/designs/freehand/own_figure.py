"""A motif of one's own scattered over a zone: one after another, each turned to where the next one is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.curves import smooth
from chorograph_core.designs.engine.figures_in_cells import FigureFill
from chorograph_core.designs.engine.scattered import scattered
from chorograph_core.designs.engine.turned_figures import Placed
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

KNOTS = ((-1.0, 0.28), (-0.45, 0.58), (0.1, 0.4), (0.62, -0.1), (0.6, -0.56), (0.28, -0.66), (0.0, -0.26),
         (-0.28, -0.66), (-0.6, -0.56), (-0.62, -0.1), (-0.1, 0.4), (0.45, 0.58), (1.0, 0.28))  # fmt: skip
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
    undirected = True
    settings_type = OwnFigureSettings
    sized_by = ("size", "One to the next")

    def spacing(self, space, settings=None):
        """About half the way from one to the next."""
        return self.clean(settings).size * 0.55

    def drawn(self, space, s, seed):
        """One line for each part of the zone."""
        line = stroke_points(s.stroke)
        turned = s.upright == "way"
        return scattered(
            space, s.margin, s.size, seed, "figure", s.share,
            lambda cell, _: Placed(cell.middle, cell.narrowest * s.share, (line,), turned),
        )  # fmt: skip
