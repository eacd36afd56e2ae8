"""A spiral built of half circles about two centres, so that rulers can stitch it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from shapely.geometry import Point

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import turned
from chorograph_core.designs.engine.families import position_of
from chorograph_core.designs.linework import Linework, Mark, Run, Span, Unit
from chorograph_core.designs.settings import Settings, length_setting
from chorograph_core.measure import format_inches


@dataclass(frozen=True)
class SpiralSettings(Settings):
    """How far its rounds lie apart, and how large it is."""

    spacing: float = length_setting("Between rounds", 0.5, 0.1875, 6.0)
    radius: float = length_setting(
        "Radius", 0.0, 0.0, 60.0, help="0: as large as there is room for."
    )
    margin: float = length_setting("Room to the seam", 0.25, 0.0, 6.0)


class ArcSpiral(Design[SpiralSettings]):
    """Half circles, each larger than the last by half the spacing."""

    key = "arc_spiral"
    name = "Spiral of arcs"
    family = "ruler"
    role = "motif"
    stroke = "half circle after half circle, each larger, from the middle out"
    settings_type = SpiralSettings

    def fits(self, space, settings=None):
        """A few rounds in a zone about as wide as long."""
        s = self.clean(settings)
        arcs = _arcs(space, s)
        share = math.pi * max(space.middle[1] - s.margin, 0) ** 2 / space.polygon.area
        if len(arcs) < 4:
            return Fit(0.15, ("room for fewer than two rounds",))
        reason = f"{len(arcs) / 2:g} rounds, {format_inches(s.spacing, 16)} apart"
        return Fit(0.2 + 0.45 * min(1.0, share / 0.7), (reason,))

    def draw(self, space, settings=None, seed=0, doorways=None):
        """From the middle outwards."""
        s = self.clean(settings)
        arcs = _arcs(space, s)
        if not arcs:
            return Linework()
        points = np.concatenate([arcs[0], *(each[1:] for each in arcs[1:])])
        stops = np.cumsum([len(each) - 1 for each in arcs])
        position = position_of(s.spacing, space)
        spans = tuple(Span(int(stop), "curved", position=position) for stop in stops)
        units = tuple(Unit(f"half round {k}", int(stop)) for k, stop in enumerate(stops, 1))
        run = Run(points, "curved", spans, units=units if len(units) > 1 else ())
        ends = np.array([arcs[0][0], arcs[0][-1]])
        return Linework((run,), (Mark("dot", (ends[:1] + ends[1:]) / 2, "first centre"),))

    def reserves(self, space, settings, linework):
        """The disc it fills."""
        s = self.clean(settings)
        arcs = _arcs(space, s)
        if not arcs:
            return None
        far = max(float(np.hypot(*(each - np.array(space.middle[0])).T).max()) for each in arcs)
        return Point(space.middle[0]).buffer(far + 0.02, quad_segs=48)


def _arcs(space, s: SpiralSettings) -> list[np.ndarray]:
    return space.fact(("spiral of arcs", s), lambda: _all(space, s))


def _all(space, s: SpiralSettings) -> list[np.ndarray]:
    """Half circles about two centres half a spacing apart: radius grows by that at every half round."""
    centre, room = np.array(space.middle[0]), space.middle[1] - s.margin
    most = min(s.radius or room, space.middle[1])
    step, axis = s.spacing / 2, space.frame.axis
    along = np.array([math.cos(axis), math.sin(axis)])
    made: list[np.ndarray] = []
    k = 0
    while k < 400:
        radius = step * (k + 1)
        # Half a spacing to either side: the farthest point of this half round.
        if radius + step / 2 > most + 1e-9:
            break
        middle = centre + along * (step / 2 if k % 2 == 0 else -step / 2)
        begin = axis + (math.pi if k % 2 == 0 else 0.0)
        points = turned(middle, radius, begin, math.pi)
        if made:
            points[0] = made[-1][-1]
        made.append(points)
        k += 1
    return made
