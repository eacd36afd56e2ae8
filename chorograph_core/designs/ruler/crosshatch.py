"""Two families of straight lines that make squares or diamonds."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.axes import base_angle
from chorograph_core.designs.engine.families import (
    family,
    in_turn,
    linked,
    measured_from,
    positions_of,
)
from chorograph_core.designs.engine.fitting import fitting_setting, rhythm_setting
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import Settings, angle_setting, length_setting


@dataclass(frozen=True)
class CrosshatchSettings(Settings):
    """A grid of two families of lines."""

    spacing: float = length_setting("Spacing", 0.75, 0.1875, 12.0)
    angle: float = angle_setting("First direction", 45.0, -180.0, 180.0, 7.5)
    cross: float = angle_setting("Angle between", 90.0, 20.0, 160.0, 5.0,
                         help="90° makes squares, 60° diamonds.")  # fmt: skip
    relative: str = measured_from()
    rhythm: str = rhythm_setting()
    fitting: str = fitting_setting()


class Crosshatch(Design[CrosshatchSettings]):
    """Square or diamond grid, each family fitted on its own so both come out even."""

    key = "crosshatch"
    name = "Crosshatch"
    family = "ruler"
    stroke = "one way through, turning at the edge, then the other way"
    crosses = True
    settings_type = CrosshatchSettings

    def fits(self, space, settings=None):
        """A grid needs a few cells to read as one."""
        s = self.clean(settings)
        one, two = _families(space, s)
        cells = space.polygon.area / (s.spacing**2)
        reason = f"about {cells:.0f} cells; {one.sentence()}"
        if min(len(one.lines), len(two.lines)) < 2 or cells < 4:
            return Fit(0.2, (reason, "too few to read as a grid"))
        return Fit(0.75, (reason,))

    def spacing(self, space, settings=None):
        """As it comes out, the wider of both."""
        return max(each.spacing for each in _families(space, self.clean(settings)))

    def draw(self, space, settings=None, seed=0, doorways=None):
        """All lines of both families, linked along the edge into as few runs as can be."""
        s = self.clean(settings)
        one, two = _families(space, s)
        near = doorways[0] if doorways else None
        position = positions_of(one.places.gaps, space)
        runs = linked([*one.lines, *two.lines], space.polygon, position, start_near=near)
        marks = tuple(
            Mark("line", made.lines[len(made.lines) // 2], "spine of the grid")
            for made in (one, two)
            if made.lines
        )
        notes = (one.sentence(), two.sentence())
        kept = near is not None and len(runs) == 1
        return Linework(tuple(runs), marks, notes, kept)

    def alongside(self, settings):
        """Measured from the top, whatever side is the longest of each."""
        return replace(settings, relative="top")

    def variants(self, space, settings=None):
        """From other corners."""
        s = self.clean(settings)
        return space.fact(("crosshatch from elsewhere", s), lambda: _from_elsewhere(space, s))


def _from_elsewhere(space, s):
    one, two = _families(space, s)
    return in_turn([*one.lines, *two.lines], space, positions_of(one.places.gaps, space))


def _families(space, s):
    return space.fact(("crosshatch", s), lambda: _both(space, s))


def _both(space, s):
    first = base_angle(space, s.relative) + math.radians(s.angle)
    return tuple(
        family(space.polygon, angle, s.spacing, s.fitting, s.rhythm)
        for angle in (first, first + math.radians(s.cross))
    )
