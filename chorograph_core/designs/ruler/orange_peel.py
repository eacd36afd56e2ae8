"""Orange peel: a grid of squares or triangles, an arc on both sides of every line of it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import arc
from chorograph_core.designs.engine.axes import axes_at, base_angle
from chorograph_core.designs.engine.families import cut_to, measured_from
from chorograph_core.designs.engine.tracing import Line, traced
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    length_setting,
    refuse_thousands,
    share_setting,
)
from chorograph_core.measure import format_inches
from chorograph_core.rulers.fitting import radius_of

MOST_LINES = 3000


@dataclass(frozen=True)
class PeelSettings(Settings):
    """The grid, and how full the peels are."""

    cell: float = length_setting("Side of a cell", 2.0, 0.5, 12.0)
    height: float = share_setting("Height of an arc", 0.2, 0.05, 0.3, 0.01,
                           help="In parts of a side. 21 % makes circles of four arcs.")  # fmt: skip
    grid: str = choice_setting("Grid", (("squares", "squares"), ("triangles", "triangles")))
    angle: float = angle_setting("Turned by", 0.0, -90.0, 90.0, 7.5)
    relative: str = measured_from()


class OrangePeel(Design[PeelSettings]):
    """Petals on all lines of a grid that fits the zone."""

    key = "orange_peel"
    name = "Orange peel"
    family = "ruler"
    stroke = "a wave along each line of the grid, and back on its other side"
    crosses = True
    undirected = True
    settings_type = PeelSettings

    def fits(self, space, settings=None):
        """A few cells must have room."""
        s = self.clean(settings)
        _, side = _lines(space, s)
        cells = space.polygon.area / s.cell**2
        reason = (f"about {cells:.0f} cells of {format_inches(side, 16)}, arcs of radius "
                  f"{format_inches(radius_of(side, s.height * side), 16)}")  # fmt: skip
        return Fit(0.2 if cells < 3 else 0.58, (reason,))

    def spacing(self, space, settings=None):
        """What stays open between two petals."""
        s = self.clean(settings)
        return s.cell * (0.75 if s.grid == "squares" else 0.6)

    def draw(self, space, settings=None, seed=0, doorways=None):
        """All arcs; at a crossing one goes straight on, so each line of the grid becomes a wave."""
        s = self.clean(settings)
        lines, side = _lines(space, s)
        runs = traced([Line(line, "curved", position="the ends of the edge on two crossings")
                       for line in lines], space.polygon, 2.5 * s.cell)  # fmt: skip
        nodes = np.unique(np.round(np.array([line[k] for line in lines for k in (0, -1)])
                                   .reshape(-1, 2), 4), axis=0)  # fmt: skip
        marks = (Mark("dot", nodes, "crossings of the grid"),) if len(nodes) else ()
        return Linework(tuple(runs), marks, (f"cells of {format_inches(side, 16)}",))


def _lines(space, s: PeelSettings):
    return space.fact(("peels", s), lambda: _all(space, s))


def _all(space, s: PeelSettings):
    petals = 4 * space.polygon.area / s.cell**2
    refuse_thousands(petals, MOST_LINES, "Side of a cell", "cell", "petals")
    angle = base_angle(space, s.relative) + math.radians(s.angle)
    along, across, u, v = axes_at(space.polygon, angle)
    columns = max(1, round(float(np.ptp(u)) / s.cell))
    side = float(np.ptp(u)) / columns
    squares = s.grid == "squares"
    rise = side if squares else side * math.sqrt(3) / 2
    rows = max(1, round(float(np.ptp(v)) / rise))
    down = float(np.ptp(v)) / rows if squares else rise
    if squares and abs(down / side - 1) > 0.25:
        down = side
    count = math.ceil(float(np.ptp(v)) / down - 1e-6)
    pairs = []
    for j in range(count + 1):
        for i in range(-1 - count, columns + 2):
            node = (i, j)
            pairs.append((node, (i + 1, j)))
            pairs.append((node, (i, j + 1)))
            if not squares:
                pairs.append((node, (i - 1, j + 1)))
    at = {}
    for pair in pairs:
        for i, j in pair:
            slant = 0.0 if squares else 0.5 * j
            at[i, j] = (u.min() + side * (i + slant)) * along + (v.min() + down * j) * across
    made = []
    room = space.polygon.buffer(side)
    near = [pair for pair in pairs if all(room.intersects(shapely.points(at[n])) for n in pair)]
    for one, two in near:
        a, b = at[one], at[two]
        high = s.height * float(np.hypot(*(b - a)))
        made += [arc(a, b, high), arc(a, b, -high)]
    return cut_to(made, space.polygon, 0.1), side
