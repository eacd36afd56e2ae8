"""Pebbles: touching circles of mixed size."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.curves import thin, tidy
from chorograph_core.designs.engine.axes import axes_at
from chorograph_core.designs.engine.bands import band_along
from chorograph_core.designs.engine.figures_in_cells import units_at
from chorograph_core.designs.engine.packing import MOST, packed, round_all
from chorograph_core.designs.engine.rows import rows_linked
from chorograph_core.designs.engine.strokes import finished, slack
from chorograph_core.designs.engine.tight import least_radius
from chorograph_core.designs.linework import Linework, Run, size_of_hand
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    length_setting,
    margin_setting,
    refuse_thousands,
    share_setting,
)
from chorograph_core.designs.space import polygons


@dataclass(frozen=True)
class PebbleSettings(Settings):
    """How large pebbles are, and how unlike each other."""

    size: float = length_setting("Across the largest", 0.75, 0.1875, 6.0)
    mix: float = share_setting("Smallest", 0.4, 0.25, 0.9, 0.05,
                       help="Across the smallest pebble against the largest.")  # fmt: skip
    laid: str = choice_setting(
        "Laid", (("mixed", "mixed, each touching those before"), ("rows", "in rows"))
    )
    margin: float = margin_setting()


class Pebbles(Design[PebbleSettings]):
    """Circles that touch, each gone round once."""

    key = "pebbles"
    name = "Pebbles"
    family = "freehand"
    stroke = "round a pebble, into the next where it touches, home round the other side of each"
    crosses = True
    divisible = True
    undirected = True
    settings_type = PebbleSettings

    def fits(self, space, settings=None):
        """A few must have room."""
        s = self.clean(settings)
        _refuse_thousands(space, s)
        count = space.polygon.area / (0.6 * s.size**2)
        if 2 * (space.widest[1] - s.margin) < s.size * s.mix or count < 2:
            return Fit(0.1, ("not one pebble has room: echo instead",))
        least = s.size * s.mix / 2
        parts = space.inset(s.margin)
        held = sum(part.buffer(-least).buffer(least).area for part in parts)
        if held < 0.6 * space.polygon.area:
            return Fit(0.3, ("most of the zone is too narrow for pebbles",))
        if any(len(polygons(part.buffer(-least))) > 1 for part in parts):
            return Fit(
                0.3, ("its rooms hang together by necks too narrow for a pebble: echo instead",)
            )
        return Fit(0.66, (f"about {count:.0f} pebbles",))

    def spacing(self, space, settings=None):
        """Across a pebble of middle size."""
        s = self.clean(settings)
        return s.size * (1 + s.mix) / 2

    def draw(self, space, settings=None, seed=0, doorways=None):
        """A closed line through all that touch."""
        s = self.clean(settings)
        _refuse_thousands(space, s)
        if s.laid == "rows":
            return _in_rows(space, s)
        runs = []
        for part in space.inset(s.margin):
            rng, over = np.random.default_rng(seed), 0.8 * slack(s.margin)
            found = packed(part, s.size / 2, s.size * s.mix / 2, rng, over)
            for line, stops in round_all(found):
                ends = line[stops]
                drawn = _meshed(line, part, s)
                runs.append(
                    Run(
                        drawn,
                        size_of_hand(s.size),
                        closed=True,
                        units=units_at(drawn, ends, "pebble"),
                    )
                )
        return Linework(tuple(runs))


def _in_rows(space, s: PebbleSettings) -> Linework:
    """Rows of pebbles of one size, as many as come out even, along the zone's longest side."""

    def lines(part):
        along, across, u, v = axes_at(part, space.frame.axis)
        wide = float(np.ptp(v))
        count = max(1, round(wide / s.size))
        x = np.array([u.min(), u.max()])
        rows = []
        for k in range(count):
            place = v.min() + wide * (k + 0.5) / count
            centre = x[:, None] * along + place * across
            rows += band_along(centre, wide / count, "pebbles", part)
        return rows

    return rows_linked(space, s.margin, lines, "row", min(0.04, s.size / 20), s.size)


def _refuse_thousands(space, s: PebbleSettings) -> None:
    count = space.polygon.area / (0.8 * (s.size * (1 + s.mix) / 2) ** 2)
    refuse_thousands(count, MOST, "Across the largest", "size", "pebbles")


def _meshed(line: np.ndarray, part, s: PebbleSettings) -> np.ndarray:
    """The way round all pebbles, easy where one goes over into the next."""
    eased = finished(line, min(0.04, s.size * s.mix / 10), part, True, slack(s.margin),
                     min(least_radius(s.size * (1 + s.mix) / 2), 0.4 * s.size * s.mix))  # fmt: skip
    return tidy(thin(line, 0.003)) if eased is None else eased
