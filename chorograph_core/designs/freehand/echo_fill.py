"""Echo fill: lines that follow the edge, each a fixed way further in; round what lies inside, further out."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.curves import resample
from chorograph_core.designs.engine.rings import holes_of, rings_of
from chorograph_core.designs.engine.spirals import spiral
from chorograph_core.designs.engine.strokes import finished, slack
from chorograph_core.designs.linework import Linework, Run, size_of_hand
from chorograph_core.designs.settings import (
    Settings,
    count_setting,
    length_setting,
    margin_setting,
    share_setting,
)


@dataclass(frozen=True)
class EchoSettings(Settings):
    """How far apart, how many, how soft the corners."""

    gap: float = length_setting("Between lines", 0.375, 0.125, 4.0)
    count: int = count_setting("Lines", 0, 0, 60, help="0: to the middle.")
    soft: float = share_setting("Soft corners", 0.5, 0.0, 1.0, 0.1,
                        help="How far corners are rounded, 0 for not at all.")  # fmt: skip
    margin: float = margin_setting()


class EchoFill(Design[EchoSettings]):
    """Level lines of the zone in one line from outside in."""

    key = "echo_fill"
    name = "Echo fill"
    family = "freehand"
    stroke = "round the edge, and on a step further in, and on, to the middle"
    divisible = False
    settings_type = EchoSettings

    def fits(self, space, settings=None):
        """Two lines must have room."""
        s = self.clean(settings)
        lines = (space.widest[1] - s.margin) / s.gap
        if lines < 0.6:
            return Fit(0.2, ("room for one line",))
        return Fit(0.62, (f"{max(1, round(lines))} lines to the middle",))

    def spacing(self, space, settings=None):
        """Between lines; 0 where they do not go to the middle."""
        s = self.clean(settings)
        return 0.0 if s.count else s.gap

    def draw(self, space, settings=None, seed=0, doorways=None):
        """From outside in, and what goes round holes for itself."""
        s = self.clean(settings)
        runs = []
        for part in space.inset(s.margin):
            for ring in rings_of(part, 0.02, s.gap, s.count):
                lines = [(spiral(ring, s.gap), False)]
                lines += [(line, True) for line in holes_of(ring)]
                for line, closed in lines:
                    if len(line) < 4:
                        continue
                    soft = s.soft * s.gap * 1.6
                    even = resample(line, 0.06)
                    made = finished(even, max(soft, 0.01), part, closed, slack(s.margin))
                    if made is not None and shapely.length(shapely.linestrings(made)) > 0.6:
                        runs.append(Run(made, size_of_hand(2 * s.gap), closed=closed))
        return Linework(tuple(runs))
