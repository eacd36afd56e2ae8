"""Rungs of arcs: a wedge or a fan crossed by arcs round the point where its sides meet."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import turned
from chorograph_core.designs.engine.families import cut_to, fitted_places, linked, positions_of
from chorograph_core.designs.engine.fans import ORIGINS, fan_of, meeting_of
from chorograph_core.designs.engine.fitting import fitting_setting, rhythm_setting
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.settings import Settings, choice_setting, length_setting


@dataclass(frozen=True)
class RungSettings(Settings):
    """How far apart the rungs lie."""

    spacing: float = length_setting("Between rungs", 0.75, 0.125, 6.0)
    origin: str = choice_setting("Round", ORIGINS[:3])
    rhythm: str = rhythm_setting()
    fitting: str = fitting_setting()


class ArcRungs(Design[RungSettings]):
    """A ladder of arcs that bend as the wedge does."""

    key = "arc_rungs"
    name = "Rungs of arcs"
    family = "ruler"
    stroke = "across on one arc, along the side, back on the next"
    faces = True
    settings_type = RungSettings

    def fits(self, space, settings=None):
        """A zone with two sides that run towards one point."""
        s = self.clean(settings)
        lines, at = _rungs(space, s)
        if len(lines) < 2:
            return Fit(0.2, ("room for fewer than two rungs",))
        wedge = s.origin == "meeting" and meeting_of(space) is not None
        return Fit(0.7 if wedge else 0.4, (at.sentence(len(lines)),))

    def spacing(self, space, settings=None):
        """As it comes out."""
        return _rungs(space, self.clean(settings))[1].spacing

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Rung after rung."""
        s = self.clean(settings)
        lines, at = _rungs(space, s)
        near = doorways[0] if doorways else None
        runs = linked(lines, space.polygon, positions_of(at.gaps, space), "curved", near)
        return Linework(tuple(runs), (), (at.sentence(len(lines)),),
                        near is not None and len(runs) == 1)  # fmt: skip


def _rungs(space, s: RungSettings):
    return space.fact(("rungs", s), lambda: _across(space, s))


def _across(space, s: RungSettings):
    point, begin, sweep, far = fan_of(space, s.origin)
    near = float(shapely.distance(shapely.points(point), space.polygon))
    at = fitted_places(max(far - near, 1e-3), s.spacing, s.fitting, s.rhythm)
    pad = math.radians(4)
    arcs = [turned(point, near + each, begin - pad, sweep + 2 * pad) for each in at.at.tolist()]
    return cut_to([np.asarray(arc) for arc in arcs], space.polygon), at
