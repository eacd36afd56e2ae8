"""Straight lines at any angle, linked along the edge."""

from __future__ import annotations

import math

import numpy as np

from chorograph_core.designs.contract import Design, Fit, Linework, Mark, Parameter
from chorograph_core.designs.linking import link_along_edge
from chorograph_core.designs.placing import moves_along
from chorograph_core.designs.ruler.families import ANGLE_FROM, FITTING, base_angle, family
from chorograph_core.measure import format_inches


class ParallelLines(Design):
    """A family of straight lines that comes out even in the zone."""

    key = "parallel"
    name = "Parallel lines"
    family = "ruler"
    stroke = "across, along the edge, and back across"
    parameters = (
        Parameter("spacing", "Spacing", "length", 0.75, 0.125, 12.0, 0.0625),
        Parameter("angle", "Angle", "angle", 90.0, -180.0, 180.0, 7.5),
        ANGLE_FROM,
        FITTING,
    )

    def fits(self, space, settings=None):
        """There must be room for a line on either side of a gap."""
        s = self.clean(settings)
        lines = _family(space, s)
        if len(lines.lines) < 2:
            wide = format_inches(s["spacing"])
            return Fit(0.2, (f"room for one line only at {wide}",))
        reason = lines.sentence()
        if lines.spacing <= 0.3:
            return Fit(0.6, (reason, "at 1/4″ every error shows, and it takes long"))
        return Fit(0.75, (reason,))

    def draw(self, space, settings, seed=0, doorways=None):
        """Lines across, joined into one run where the edge allows."""
        s = self.clean(settings)
        made = _family(space, s)
        near = doorways[0] if doorways else None
        runs = link_along_edge(made.lines, space.polygon, start_near=near)
        moves = ruler_moves(made.lines, made.spacing, space.foot_radius)
        marks = tuple(Mark("line", line, "first line") for line in made.lines[:1])
        return Linework(
            tuple(runs),
            marks,
            tuple(moves),
            (made.sentence(),),
            near is not None and len(runs) == 1,
        )


def ruler_moves(lines: list[np.ndarray], spacing: float, foot_radius: float) -> list:
    """Layings for lines *spacing* apart: the etched line that far less the foot goes on the last."""
    etched = format_inches(max(0.0, spacing - foot_radius), 16)
    moves = []
    for number, line in enumerate(lines):
        align = "ruler 1/4″ off the mark" if number == 0 else f"the {etched} line on the last line"
        moves += moves_along(line, foot_radius, "straight edge", align)
    return moves


def _family(space, s):
    angle = base_angle(space.polygon, s["relative"]) + math.radians(s["angle"])
    return family(space.polygon, angle, s["spacing"], s["fitting"])
