"""Swirl row: long swirls one after another along a strip, each echoed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.cells import Cell, Walk, cell_of
from chorograph_core.designs.engine.corners import sides_and_corners
from chorograph_core.designs.engine.figures_in_cells import TRUE, outward_in, run_of
from chorograph_core.designs.engine.lanes import (
    Lane,
    how_strip,
    lane_in,
    start_setting,
    strays,
    strip_in,
)
from chorograph_core.designs.engine.leaning import leaning
from chorograph_core.designs.engine.reserving import strip_along_guide
from chorograph_core.designs.engine.tight import least_radius
from chorograph_core.designs.engine.turning import Spiral, round_middle, walked
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.rails import Strip
from chorograph_core.designs.settings import (
    Settings,
    length_setting,
    margin_setting,
    refuse_thousands,
    share_setting,
)
from chorograph_core.designs.space import polygons

ROUND = 0.0
"""How round the room of a swirl is: its outer line goes into the corners, inwards it grows round."""
MOST = 40_000
"""Turns in a zone."""
LINES = 6.0
"""Lines of a swirl across the strip: three or four echoes to either side of its middle."""
ROW = 1.5
"""Swirls that are a row, at least."""
THREAD = 0.01
"""Inches by which rooms that touch may be apart."""
SIDES = 9
"""Points on each side of a swirl's room."""


@dataclass(frozen=True)
class SwirlRowSettings(Settings):
    """How long the swirls are and how close their lines."""

    long: float = share_setting(
        "Length of a swirl", 1.7, 0.8, 3.0, 0.1, help="Against the width of the strip."
    )
    gap: float = length_setting("Between lines", 0.3125, 0.125, 2.0)
    margin: float = margin_setting()
    begin: str = start_setting()


class SwirlRow(Design[SwirlRowSettings]):
    """Swirls as wide as the strip, a whole number of them."""

    key = "swirl_row"
    name = "Swirl row"
    family = "freehand"
    guided = True
    goes_behind = True
    grounded = True
    stroke = "a long swirl in and out, the next from its back, along the strip"
    settings_type = SwirlRowSettings

    def fits(self, space, settings=None):
        """It wants a strip."""
        s = self.clean(settings)
        _refuse_thousands(space, s)
        parts = space.inset(s.margin)
        strip = strip_in(space, parts[0], "long") if parts else None
        if strip is None or strip.mean_width < 2 * s.gap:
            return Fit(0.1, ("too narrow for a swirl: echo instead",))
        fit = how_strip(space, s.margin, "long", s.long, "swirls")
        if _is_one(strip, s):
            return Fit(min(fit.score, 0.3), ("room for one figure",))
        return fit

    def proposed(self, space):
        """Lines so far apart that each swirl is echoed three or four times, however wide the strip."""
        s = super().proposed(space)
        parts = space.inset(s.margin)
        strip = strip_in(space, parts[0], "long") if parts else None
        if strip is None or strip.mean_width < LINES * s.gap or _is_one(strip, s):
            return s
        return self.clean({**vars(s), "gap": min(2.0, round(strip.mean_width / LINES * 16) / 16)})

    def spacing(self, space, settings=None):
        """Between lines."""
        return self.clean(settings).gap

    def reserves(self, space, settings, linework):
        """The strip along its guide."""
        return strip_along_guide(space, linework)

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One line along each part of the zone."""
        s = self.clean(settings)
        _refuse_thousands(space, s)
        runs = []
        for part in space.inset(s.margin):
            strip = strip_in(space, part, "long", s.begin)
            if strays(strip, part) or strip.mean_width < 2 * s.gap:
                continue
            lane = lane_in(strip, s.long, guided=space.guide is not None)
            gap = min(s.gap, strip.mean_width / 3) * TRUE
            if space.guide is not None:
                # Along a guide a swirl stays in its own strip.
                rails = np.vstack([strip.left, strip.right[::-1]])
                part = (polygons(Polygon(rails).buffer(0).intersection(part)) or [part])[0]
            cells = _cells(strip, lane, s.long, part, gap)
            if not cells:
                continue
            kind = Spiral(2 * gap, gap, 0.15, round_middle)
            line, stops = walked(cells, Walk(list(range(len(cells))), {}), kind, outward_in(part),
                                 1 if s.begin == "first" else -1)  # fmt: skip
            run = run_of(line, stops, part, gap, strip.mean_width * s.long, "swirl", True, s.margin,
                         least_turn=least_radius(s.gap), echo=min(s.gap, strip.mean_width / 3))  # fmt: skip
            if run is not None:
                runs.append(run)
        made = Linework(tuple(runs))
        if space.guide is not None:
            # Beside its strip something else lies.
            return made
        spacing = self.spacing(space, s)
        return leaning(made, space, spacing, s.margin, least_radius(spacing))


def _cells(strip: Strip, lane: Lane, long: float, part: Polygon, gap: float) -> list[Cell]:
    """The rooms of all swirls along a strip; in each corner that it turns stands one of its own."""
    sides, corners = sides_and_corners(strip)
    lanes = [lane_in(side, long) for side in sides] if corners else [lane]
    rooms: list[BaseGeometry] = []
    for number, each in enumerate(lanes):
        rooms += [_room(each, k, part) for k in range(each.count)]
        if number < len(corners):
            rooms.append(corners[number].intersection(part))
    # The first and the last go on into the tips of the strip.
    left = part.difference(shapely.union_all(rooms).buffer(THREAD))
    for tip in polygons(left):
        near = min((0, -1), key=lambda end: rooms[end].distance(tip))
        if rooms[near].distance(tip) < 2 * THREAD:
            rooms[near] = rooms[near].union(tip.buffer(2 * THREAD).intersection(part))
    cells = [cell_of(room, gap, ROUND) for room in rooms]
    return [cell for cell in cells if cell is not None]


def _is_one(strip: Strip, s: SwirlRowSettings) -> bool:
    """Whether there is room for one swirl, which is no row."""
    return strip.length < ROW * s.long * strip.mean_width


def _refuse_thousands(space, s: SwirlRowSettings) -> None:
    turns = space.polygon.area / s.gap**2
    refuse_thousands(turns, MOST, "Between lines", "gap", "turns")


def _room(lane: Lane, k: int, part: Polygon) -> BaseGeometry:
    """The room of swirl number *k*: the strip between two places."""
    u = np.linspace(k, k + 1, SIDES)
    sides = [lane.points(u, np.full(SIDES, -1.0)), lane.points(u, np.full(SIDES, 1.0))[::-1]]
    return Polygon(np.vstack(sides)).buffer(0).intersection(part)
