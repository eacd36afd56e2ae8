"""Continuous curve: shallow arcs from corner to corner of a patch, one unbroken line round it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import arc
from chorograph_core.designs.engine.baselines import inward
from chorograph_core.designs.engine.sides import sides_of
from chorograph_core.designs.linework import Linework, Run, Span, Unit
from chorograph_core.designs.settings import Settings, choice_setting, length_setting
from chorograph_core.measure import format_inches

SMALL = 3.0
"""Inches. On sides up to this long an arc is no higher than `LOW`."""
LOW = 0.25
MOST_SIDES = 24


@dataclass(frozen=True)
class CurveSettings(Settings):
    """How high the arcs stand, and on which sides."""

    height: float = length_setting("Height of an arc", 0.25, 0.0625, 3.0,
                            help="No more than 1/4″ is stitched on sides up to 3″.")  # fmt: skip
    sides: str = choice_setting("Along", (
        ("all", "all sides"), ("long", "all but the longest side"),
        ("other", "every other side")))  # fmt: skip


class ContinuousCurve(Design[CurveSettings]):
    """An arc inside each side; through a grid of patches the corners are where the lines meet."""

    key = "continuous_curve"
    name = "Continuous curve"
    family = "ruler"
    role = "motif"
    stroke = "arc after arc from corner to corner, home where it began"
    undirected = True
    settings_type = CurveSettings

    def fits(self, space, settings=None):
        """Patches with three to eight corners."""
        s = self.clean(settings)
        sides = sides_of(space)
        arcs = _arcs(space, s)
        if len(sides) > 8 or len(arcs) < 2:
            return Fit(0.2, (f"{len(sides)} corners",))
        least = min(side.length for side in sides)
        high = max(height for _, height in arcs)
        reason = f"{len(arcs)} arcs, {format_inches(high, 16)} high"
        if least < 0.5:
            return Fit(0.2, (reason, "sides too short for an arc"))
        return Fit(
            0.72 if len(sides) <= 4 else 0.55, (reason, "hides in nothing: it shows each patch")
        )

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One line where the sides follow one another; else one for each stretch."""
        s = self.clean(settings)
        stretches: list[list[np.ndarray]] = []
        for points, _ in _arcs(space, s):
            if stretches and np.hypot(*(stretches[-1][-1][-1] - points[0])) < 1e-6:
                stretches[-1].append(points)
            else:
                stretches.append([points])
        if len(stretches) > 1 and np.hypot(*(stretches[-1][-1][-1] - stretches[0][0][0])) < 1e-6:
            stretches[0] = stretches.pop() + stretches[0]
        return Linework(tuple(_run(each) for each in stretches))


def _run(arcs: list[np.ndarray]) -> Run:
    points = np.concatenate([arcs[0], *(each[1:] for each in arcs[1:])])
    stops = np.cumsum([len(each) - 1 for each in arcs])
    closed = len(arcs) > 1 and bool(np.hypot(*(points[0] - points[-1])) < 1e-6)
    if closed:
        points[-1] = points[0]
    position = "the edge a foot's radius short of both corners"
    spans = tuple(Span(int(stop), "curved", position=position) for stop in stops)
    units = tuple(Unit(f"arc {k}", int(stop)) for k, stop in enumerate(stops, 1))
    return Run(points, "curved", spans, closed=closed, units=units if len(units) > 1 else ())


def _arcs(space, s: CurveSettings) -> list[tuple[np.ndarray, float]]:
    """(arc, its height) for each side that gets one, in order; none leaves the zone or meets another."""
    sides = sides_of(space)
    if len(sides) > MOST_SIDES:
        return []
    room, made = space.polygon.buffer(1e-6), []
    long = max(range(len(sides)), key=lambda k: round(sides[k].length, 3))
    for k, side in enumerate(sides):
        if (s.sides == "long" and k == long) or (s.sides == "other" and k % 2):
            continue
        a, b = side.points[0], side.points[-1]
        chord = float(np.hypot(*(b - a)))
        most = LOW if chord <= SMALL else 0.25 * chord
        height = min(s.height, most, 0.3 * chord)
        # A side that is bent itself is followed by an arc that stands as far off it in its middle.
        bent = float((side.at(0.5) - (a + b) / 2) @ inward(side))
        while height > 0.03:
            points = arc(a, b, bent + height)
            if room.covers(shapely.linestrings(points)):
                made.append((points, height))
                break
            height *= 0.75
    return made
