"""Echo fill: lines that follow the edge, each a fixed way further in; round what lies inside, further out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.curves import resample
from chorograph_core.designs.engine.echoing import echoed
from chorograph_core.designs.engine.leaning import leaning
from chorograph_core.designs.engine.pockets import pocketed
from chorograph_core.designs.engine.rings import holes_of, rings_of, round_holes
from chorograph_core.designs.engine.spirals import spiral
from chorograph_core.designs.engine.strokes import finished, slack
from chorograph_core.designs.engine.tight import least_radius
from chorograph_core.designs.linework import Linework, Run, size_of_hand
from chorograph_core.designs.settings import (
    Settings,
    count_setting,
    length_setting,
    margin_setting,
    share_setting,
)
from chorograph_core.designs.space import Space

ALONE = 12.0
"""Ways from line to line round what is one ring for itself, at most."""
CLOSER = (1.0, 0.97, 0.94, 0.9, 0.86, 0.82)
"""Of the way from line to line, what is tried."""


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
    undirected = True
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
        """From outside in, and round what holes there are."""
        s = self.clean(settings)
        runs = [run for part in space.inset(s.margin) for run in _echoes(part, s)]
        spacing, least = self.spacing(space, s), least_radius(s.gap) if s.soft > 0 else 0.0
        made = Linework(tuple(_into_pockets(runs, space, s, least) if spacing else runs))
        made = leaning(made, space, spacing, s.margin, least)
        return _with_drops(made, space, s) if spacing else made


def _with_drops(made: Linework, space: Space, s: EchoSettings) -> Linework:
    """A drop in what is open beside the longest of its lines, and leaning does not close."""
    longest = max(made.runs, key=lambda run: run.inches, default=None)
    if longest is None or longest.closed:
        return made
    part = max(space.inset(s.margin), key=lambda each: each.area)
    others = [shapely.linestrings(run.points) for run in made.runs if run is not longest]
    free = part.difference(shapely.union_all(others).buffer(s.gap, quad_segs=4)) if others else part
    fuller = echoed(longest.points, free, s.gap)
    if len(fuller) == len(longest.points):
        return made
    drawn = _drawn(fuller, False, part, s)
    if not drawn or not shapely.is_simple(shapely.linestrings(drawn[0].points)):
        return made
    return Linework(tuple(drawn[0] if run is longest else run for run in made.runs))


def _into_pockets(runs: list[Run], space: Space, s: EchoSettings, least_turn: float) -> list[Run]:
    """The runs, one ring for itself behind a neck gone round by the line that passes, where that can be."""
    alone = [run for run in runs if run.inches < ALONE * s.gap]
    if not alone or len(alone) == len(runs):
        return runs
    kept = [run for run in runs if run.inches >= ALONE * s.gap]
    made = pocketed(Linework(tuple(kept)), space, s.gap, s.margin, least_turn)
    drawn = shapely.multilinestrings([shapely.linestrings(run.points) for run in made.runs])
    left = [
        run for run in alone if shapely.distance(drawn, shapely.points(run.points)).max() > s.gap
    ]
    return [*made.runs, *left]


def _echoes(part: Polygon, s: EchoSettings) -> list[Run]:
    """All lines of *part*, one if that can be; drawn a little closer where one would else come to meet
    itself, or what goes round holes for itself."""
    first: list[Run] = []
    for one in (True, False) if part.interiors and not s.count else (False,):
        for share in (1.0,) if s.count else CLOSER:
            runs: list[Run] = []
            for ring in rings_of(part, 0.02, share * s.gap, s.count):
                around = [] if one else [(line, True) for line in holes_of(ring)]
                inward = spiral(round_holes(ring) if one else ring, share * s.gap)
                for line, closed in [(inward, False), *around]:
                    runs += _drawn(line, closed, part, s)
            if (runs or not one) and all(
                shapely.is_simple(shapely.linestrings(run.points)) for run in runs
            ):
                return runs
            first = runs if not one and not first else first
    return first


def _drawn(line: np.ndarray, closed: bool, part: Polygon, s: EchoSettings) -> list[Run]:
    """A line as it is stitched; nothing where it is a blob of thread."""
    if len(line) < 4:
        return []
    soft = max(s.soft * s.gap * 1.6, 0.01)
    made = finished(resample(line, 0.06), soft, part, closed, slack(s.margin),
                    least_radius(s.gap) if s.soft > 0 else 0.0)  # fmt: skip
    if made is None or shapely.length(shapely.linestrings(made)) <= 0.6:
        return []
    return [Run(made, size_of_hand(2 * s.gap), closed=closed)]
