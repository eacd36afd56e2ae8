"""Lines by the seams: one or two in every pieced row, at given distances from its seams."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.families import SHORTEST, cut_to, linked
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.settings import Settings, choice_setting, length_setting
from chorograph_core.measure import format_inches

LEVEL = math.radians(3)
SAME = 0.06
"""Inches within which seams lie on one line."""
THROUGH = 0.5
"""Share of the region's breadth that a seam must run through to part two rows."""


@dataclass(frozen=True)
class RowSettings(Settings):
    """How far from its two seams a row is stitched."""

    first: float = length_setting("From the upper seam", 0.5, 0.0625, 12.0)
    second: float = length_setting("From the lower seam", 1.0, 0.0, 12.0, help="0: only one line.")
    direction: str = choice_setting(
        "Rows run", (("level", "across the top"), ("upright", "down the top"))
    )


class SeamRows(Design[RowSettings]):
    """Lines that keep their distance from the seams of every row, laid over all zones as one."""

    key = "seam_rows"
    name = "Lines by the seams"
    family = "ruler"
    stroke = "along one seam from edge to edge, along the next"
    settings_type = RowSettings

    def fits(self, space, settings=None):
        """Rows must be found, and be wide enough for their lines."""
        s = self.clean(settings)
        rows = _rows(space, s)
        narrow = sum(high - low < s.first + s.second + 0.125 for low, high in rows)
        reason = f"{len(rows)} rows between seams"
        if narrow == len(rows):
            return Fit(0.2, (reason, "none is wide enough for its lines"))
        if narrow:
            reason += f", {narrow} of them too narrow for two lines: those get one in the middle"
        return Fit(0.5 if len(rows) > 2 else 0.35, (reason,))

    def spacing(self, space, settings=None):
        """The widest row, less what its lines stand from the seams."""
        rows = _rows(space, self.clean(settings))
        return max(high - low for low, high in rows)

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Row after row; the ruler lies against the seam itself."""
        s = self.clean(settings)
        along, across = _frame(s)
        points = shapely.get_coordinates(space.polygon.exterior)
        reach = float((points @ along).min()) - 1, float((points @ along).max()) + 1
        lines = []
        for low, high in _rows(space, s):
            for at in _places(low, high, s):
                row = np.array([reach[0] * along + at * across, reach[1] * along + at * across])
                lines += cut_to([row], space.polygon)
        edge = format_inches(abs(s.first - space.foot_radius), 16)
        near = doorways[0] if doorways else None
        runs = linked(lines, space.polygon, f"the etched line {edge} from the edge on the seam",
                      start_near=near)  # fmt: skip
        notes = (f"{len(lines)} lines in {len(_rows(space, s))} rows",)
        return Linework(tuple(runs), (), notes, near is not None and len(runs) == 1)


def _places(low: float, high: float, s: RowSettings) -> list[float]:
    wide = high - low
    if wide < SHORTEST:
        return []
    if s.second <= 0:
        return [low + min(s.first, wide / 2)]
    if wide < s.first + s.second + 0.125:
        return [(low + high) / 2]
    return [low + s.first, high - s.second]


def _frame(s: RowSettings) -> tuple[np.ndarray, np.ndarray]:
    level = s.direction == "level"
    return (np.array([1.0, 0.0]), np.array([0.0, 1.0])) if level else (
        np.array([0.0, 1.0]), np.array([1.0, 0.0]))  # fmt: skip


def _rows(space, s: RowSettings) -> list[tuple[float, float]]:
    return space.fact(("rows", s.direction), lambda: _between(space, s))


def _between(space, s: RowSettings) -> list[tuple[float, float]]:
    """(upper, lower) places of the seams of each row: those that run through half the breadth and more."""
    along, across = _frame(s)
    found: list[tuple[float, float]] = []
    for part in space.parts or (space.polygon,):
        ring = shapely.get_coordinates(part.exterior)
        legs = np.diff(ring, axis=0)
        level = np.abs(legs @ across) <= math.tan(LEVEL) * np.abs(legs @ along)
        for k in np.flatnonzero(level).tolist():
            found.append((float((ring[k] + ring[k + 1]) @ across / 2), abs(float(legs[k] @ along))))
    points = shapely.get_coordinates(space.polygon.exterior)
    low, high = float((points @ across).min()), float((points @ across).max())
    breadth = float(np.ptp(points @ along))
    places, gathered = [low], 0.0
    last = None
    for at, inches in [*sorted(found), (math.inf, 0.0)]:
        if last is not None and at - last > SAME:
            # Seen from both of its sides a seam counts twice.
            if gathered / 2 >= THROUGH * breadth and low + SAME < last < high - SAME:
                places.append(last)
            gathered = 0.0
        gathered += inches
        last = at
    places.append(high)
    return list(itertools.pairwise(places))
