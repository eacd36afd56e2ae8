"""Circles through many blocks as one figure: down on one side of a column of them, up on the other."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import chained_arcs
from chorograph_core.designs.engine.axes import axes_at, base_angle
from chorograph_core.designs.engine.families import cut_to, measured_from
from chorograph_core.designs.engine.tracing import Line, traced
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    length_setting,
    refuse_thousands,
)
from chorograph_core.measure import format_inches
from chorograph_core.zones.places import size_of

MOST = 1500


@dataclass(frozen=True)
class ChainSettings(Settings):
    """How far apart the circles stand, and what follows them."""

    pitch: float = length_setting("From circle to circle", 6.0, 1.0, 40.0,
                           help="The side of a block: then circles show between the blocks.")  # fmt: skip
    centred: str = choice_setting("Middles", (
        ("corners", "on the corners of the blocks"), ("blocks", "in the blocks")))  # fmt: skip
    echo: float = length_setting("Home on an echo, apart by", 0.0, 0.0, 4.0,
                          help="0: home on the other half of each circle.")  # fmt: skip
    relative: str = measured_from()


class CircleChain(Design[ChainSettings]):
    """A wave of half circles down a column, and the halves that are missing on the way back."""

    key = "circle_chain"
    name = "Circles between blocks"
    family = "ruler"
    stroke = "down a column in half circles to either side by turns, up again on the other halves"
    crosses = True
    settings_type = ChainSettings

    def fits(self, space, settings=None):
        """It runs through several blocks as one."""
        s = self.clean(settings)
        reason = f"circles of {format_inches(s.pitch, 16)} across"
        if size_of(space.polygon)[0] < 1.4 * s.pitch:
            return Fit(0.2, (reason, "only part of one has room"))
        return Fit(0.45, (reason,))

    def spacing(self, space, settings=None):
        """The open middle of a circle."""
        return self.clean(settings).pitch * 0.9

    def draw(self, space, settings=None, seed=0, doorways=None):
        """All columns, turned at the edge."""
        s = self.clean(settings)
        lines, middles = _lines(space, s)
        runs = traced([Line(line, "curved", position="the edge on the crossings of the seams")
                       for line in lines], space.polygon, 1.6 * s.pitch)  # fmt: skip
        inside = [spot for spot in middles if space.polygon.contains(shapely.points(spot))]
        return Linework(tuple(runs), (Mark("dot", np.array(inside), "middles"),) if inside else ())

    def alongside(self, settings):
        """Measured from the top."""
        return replace(settings, relative="top")


def _lines(space, s: ChainSettings):
    return space.fact(("circle chain", s), lambda: _all(space, s))


def _all(space, s: ChainSettings):
    circles = space.polygon.area / s.pitch**2
    refuse_thousands(circles, MOST, "From circle to circle", "pitch", "circles")
    angle = base_angle(space, s.relative)
    along, across, u, v = axes_at(space.polygon, angle)
    columns, rows = (max(1, round(float(np.ptp(w)) / s.pitch)) for w in (u, v))
    wide, tall = float(np.ptp(u)) / columns, float(np.ptp(v)) / rows
    shift = 0.0 if s.centred == "corners" else 0.5
    lines, middles = [], []
    for i in range(columns + 1):
        at = u.min() + (i + shift) * wide
        for j in range(-1, rows + 2):
            middles.append(at * along + (v.min() + (j + shift) * tall) * across)
        # Half circles between the places where circles of a column touch.
        nodes = np.array([at * along + (v.min() + (j + shift - 0.5) * tall) * across
                          for j in range(-1, rows + 3)])  # fmt: skip
        # An oval where blocks are not square would be no arc of one ruler: the height stays the radius.
        high = min(wide, tall) / 2
        turns = (-1.0) ** np.arange(len(nodes) - 1)
        lines.append(chained_arcs(nodes, high * turns))
        if s.echo <= 0:
            lines.append(chained_arcs(nodes, -high * turns))
        elif high > s.echo + 0.2:
            # The same line a step aside: its half circles are smaller and larger by turns.
            moved = nodes + (s.echo * (-1.0) ** np.arange(len(nodes)))[:, None] * across
            lines.append(chained_arcs(moved, (high - s.echo * turns) * turns))
    return cut_to(lines, space.polygon, 0.2), middles
