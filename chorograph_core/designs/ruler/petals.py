"""Petals: pairs of arcs from the middle of a zone to its corners, or counted round."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import arc
from chorograph_core.designs.engine.sides import sides_of
from chorograph_core.designs.linework import Linework, Mark, Run, Span, Unit
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    count_setting,
    length_setting,
    share_setting,
)
from chorograph_core.measure import format_inches
from chorograph_core.rulers.fitting import radius_of


@dataclass(frozen=True)
class PetalSettings(Settings):
    """How many, where they point, how full they are."""

    points: str = choice_setting("They point", (
        ("corners", "to the corners"), ("sides", "to the middle of each side"),
        ("count", "round a circle, counted")))  # fmt: skip
    count: int = count_setting("How many, when counted", 6, 3, 24)
    plump: float = share_setting("Breadth", 0.36, 0.1, 0.8, 0.02, help="In parts of its length.")
    margin: float = length_setting("Tips from the seam", 0.25, 0.0, 6.0)


class Petals(Design[PetalSettings]):
    """A flower of arcs in one line: out on one side of a petal, back on its other."""

    key = "petals"
    name = "Petals by arcs"
    family = "ruler"
    role = "motif"
    stroke = "out on one side of a petal, back on the other, and the next"
    crosses = True
    settings_type = PetalSettings

    def fits(self, space, settings=None):
        """Three to eight petals in an open shape."""
        s = self.clean(settings)
        arcs = _arcs(space, s)
        if len(arcs) < 6:
            return Fit(0.1, ("room for fewer than three petals",))
        long = float(np.hypot(*(arcs[0][-1] - arcs[0][0])))
        around = space.middle[1] ** 2 * math.pi / space.polygon.area
        if space.polygon.convex_hull.area > 1.02 * space.polygon.area:
            return Fit(0.25, ("the zone bends inwards between the petals",))
        reason = (f"{len(arcs) // 2} petals, radius "
                  f"{format_inches(radius_of(long, s.plump * long / 2), 16)}")  # fmt: skip
        return Fit(0.25 + 0.45 * min(1.0, around / 0.75), (reason,))

    def draw(self, space, settings=None, seed=0, doorways=None):
        """All petals through the middle."""
        s = self.clean(settings)
        arcs = _arcs(space, s)
        if not arcs:
            return Linework()
        points = np.concatenate([arcs[0], *(each[1:] for each in arcs[1:])])
        points[-1] = points[0]
        stops = np.cumsum([len(each) - 1 for each in arcs])
        position = "the edge through the middle and the dot at the tip"
        spans = tuple(Span(int(stop), "curved", position=position) for stop in stops)
        units = tuple(Unit(f"petal {k}", int(stop)) for k, stop in enumerate(stops[1::2], 1))
        tips = np.array([each[-1] for each in arcs[::2]])
        marks = (Mark("dot", np.vstack([arcs[0][:1], tips]), "middle and tips"),)
        return Linework((Run(points, "curved", spans, closed=True, units=units),), marks)

    def reserves(self, space, settings, linework):
        """The petals themselves."""
        arcs = _arcs(space, self.clean(settings))
        leaves = [shapely.Polygon(np.concatenate([out, back[1:]]))
                  for out, back in zip(arcs[::2], arcs[1::2], strict=True)]  # fmt: skip
        return shapely.union_all(leaves).buffer(0.02) if leaves else None


def _arcs(space, s: PetalSettings) -> list[np.ndarray]:
    return space.fact(("petals", s), lambda: _all(space, s))


def _all(space, s: PetalSettings) -> list[np.ndarray]:
    """Out and back for each petal, by the angle of its tip."""
    parts = space.inset(s.margin)
    if not parts:
        return []
    room = parts[0].buffer(1e-6)
    centre = np.array(space.polygon.centroid.coords[0])
    if not room.contains(shapely.points(centre)):
        centre = np.array(space.middle[0])
    tips = _tips(space, s, centre)
    order = np.argsort(np.arctan2(*(tips - centre).T[::-1]), kind="stable")
    made: list[np.ndarray] = []
    for tip in tips[order]:
        long = float(np.hypot(*(tip - centre)))
        # Beside its neighbour a petal is no fuller than the angle between them leaves room for.
        gap = _nearest(tips, tip, centre)
        plump = min(s.plump / 2, 0.5 * math.tan(min(gap, 2.8) / 4) + 1e-9)
        high = plump * long
        for _ in range(14):
            out, back = arc(centre, tip, high), arc(tip, centre, high)
            if room.covers(shapely.linestrings(np.concatenate([out, back[1:]]))):
                made += [out, back]
                break
            tip, high = centre + (tip - centre) * 0.93, high * 0.9
    return made


def _nearest(tips: np.ndarray, tip: np.ndarray, centre: np.ndarray) -> float:
    headings = np.arctan2(*(tips - centre).T[::-1])
    own = math.atan2(*(tip - centre)[::-1])
    apart = np.abs((headings - own + math.pi) % (2 * math.pi) - math.pi)
    others = apart[apart > 1e-6]
    return float(others.min()) if len(others) else math.pi


def _tips(space, s: PetalSettings, centre: np.ndarray) -> np.ndarray:
    sides = sides_of(space)
    if s.points == "count":
        radius = max(space.middle[1] - s.margin, 0.1)
        angles = space.frame.axis + 2 * math.pi * np.arange(s.count) / s.count
        return centre + radius * np.column_stack([np.cos(angles), np.sin(angles)])
    ends = np.array([side.points[0] if s.points == "corners" else side.at(0.5) for side in sides])
    away = ends - centre
    long = np.maximum(np.hypot(*away.T), 1e-9)[:, None]
    reach = np.maximum(long - s.margin * 1.15, 0.2 * long)
    return centre + away / long * reach
