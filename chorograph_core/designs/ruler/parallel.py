"""Straight lines at any angle, linked along the edge."""

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
from chorograph_core.measure import format_inches


@dataclass(frozen=True)
class ParallelSettings(Settings):
    """One family of lines."""

    spacing: float = length_setting("Spacing", 0.75, 0.125, 12.0)
    angle: float = angle_setting("Angle", 90.0, -180.0, 180.0, 7.5)
    relative: str = measured_from()
    rhythm: str = rhythm_setting()
    fitting: str = fitting_setting()


class ParallelLines(Design[ParallelSettings]):
    """A family of straight lines that comes out even in the zone."""

    key = "parallel"
    name = "Parallel lines"
    family = "ruler"
    stroke = "across, along the edge, and back across"
    settings_type = ParallelSettings

    def fits(self, space, settings=None):
        """There must be room for a line on either side of a gap."""
        s = self.clean(settings)
        lines = _family(space, s)
        if len(lines.lines) < 2:
            wide = format_inches(s.spacing)
            return Fit(0.2, (f"room for one line only at {wide}",))
        reason = lines.sentence()
        if lines.spacing <= 0.3:
            return Fit(0.6, (reason, "at 1/4″ every error shows, and it takes long"))
        return Fit(0.75, (reason,))

    def spacing(self, space, settings=None):
        """As it comes out; of a rhythm, its widest gap."""
        return _family(space, self.clean(settings)).spacing

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Lines across, joined into one run where the edge allows."""
        s = self.clean(settings)
        made = _family(space, s)
        near = doorways[0] if doorways else None
        position = positions_of(made.places.gaps, space)
        runs = linked(made.lines, space.polygon, position, start_near=near)
        marks = tuple(Mark("line", line, "first line") for line in made.lines[:1])
        return Linework(
            tuple(runs),
            marks,
            (made.sentence(),),
            near is not None and len(runs) == 1,
        )

    def alongside(self, settings):
        """Measured from the top, whatever side is the longest of each."""
        return replace(settings, relative="top")

    def variants(self, space, settings=None):
        """From the other side, or from the last line to the first."""
        s = self.clean(settings)
        return space.fact(("parallel from elsewhere", s), lambda: _from_elsewhere(space, s))


def _from_elsewhere(space, s):
    made = _family(space, s)
    return in_turn(made.lines, space, positions_of(made.places.gaps, space))


def _family(space, s):
    angle = base_angle(space, s.relative) + math.radians(s.angle)
    return space.fact(
        ("parallel", s), lambda: family(space.polygon, angle, s.spacing, s.fitting, s.rhythm)
    )
