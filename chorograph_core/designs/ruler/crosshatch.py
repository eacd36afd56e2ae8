"""Two families of straight lines that make squares or diamonds."""

from __future__ import annotations

import math

from chorograph_core.designs.contract import Design, Fit, Linework, Mark, Parameter
from chorograph_core.designs.linking import link_along_edge
from chorograph_core.designs.ruler.families import ANGLE_FROM, FITTING, base_angle, family
from chorograph_core.designs.ruler.parallel import ruler_moves


class Crosshatch(Design):
    """Square or diamond grid, each family fitted on its own so both come out even."""

    key = "crosshatch"
    name = "Crosshatch"
    family = "ruler"
    stroke = "one way through, turning at the edge, then the other way"
    parameters = (
        Parameter("spacing", "Spacing", "length", 0.75, 0.1875, 12.0, 0.0625),
        Parameter("angle", "First direction", "angle", 45.0, -180.0, 180.0, 7.5),
        Parameter("cross", "Angle between", "angle", 90.0, 20.0, 160.0, 5.0,
                  help="90° makes squares, 60° diamonds."),
        ANGLE_FROM,
        FITTING,
    )  # fmt: skip

    def fits(self, space, settings=None):
        """A grid needs a few cells to read as one."""
        s = self.clean(settings)
        one, two = _families(space, s)
        cells = space.polygon.area / (s["spacing"] ** 2)
        reason = f"about {cells:.0f} cells; {one.sentence()}"
        if min(len(one.lines), len(two.lines)) < 2 or cells < 4:
            return Fit(0.2, (reason, "too few to read as a grid"))
        return Fit(0.75, (reason,))

    def draw(self, space, settings, seed=0, doorways=None):
        """All lines of both families, linked along the edge into as few runs as can be."""
        s = self.clean(settings)
        one, two = _families(space, s)
        near = doorways[0] if doorways else None
        runs = link_along_edge([*one.lines, *two.lines], space.polygon, start_near=near)
        moves = [
            move
            for made in (one, two)
            for move in ruler_moves(made.lines, made.spacing, space.foot_radius)
        ]
        marks = tuple(
            Mark("line", made.lines[len(made.lines) // 2], "spine of the grid")
            for made in (one, two)
            if made.lines
        )
        notes = (one.sentence(), two.sentence())
        kept = near is not None and len(runs) == 1
        return Linework(tuple(runs), marks, tuple(moves), notes, kept)


def _families(space, s):
    first = base_angle(space.polygon, s["relative"]) + math.radians(s["angle"])
    return tuple(
        family(space.polygon, angle, s["spacing"], s["fitting"])
        for angle in (first, first + math.radians(s["cross"]))
    )
