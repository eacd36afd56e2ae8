"""Lines that follow the zone's edge inwards at a fixed distance, each after the last."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit, Linework, Run, Span, Unit
from chorograph_core.designs.ruler.families import position_of
from chorograph_core.designs.settings import Settings, count_setting, length_setting
from chorograph_core.designs.space import polygons
from chorograph_core.measure import format_inches

OUT_AGAIN = 3
"""Rings from which one goes back out over the steps; from further in, one cuts."""


@dataclass(frozen=True)
class EchoSettings(Settings):
    """Where the lines lie, and how many there are."""

    first: float = length_setting("First line from the seam", 0.25, 0.0625, 6.0,
                          help="1/4″ is the foot against the seam.")  # fmt: skip
    spacing: float = length_setting("Between lines", 0.5, 0.125, 6.0)
    count: int = count_setting("How many lines", 1, 0, 60, help="0 fills the zone.")


class InsetEcho(Design[EchoSettings]):
    """One line inside (a breathing line) or as many as there is room for."""

    key = "inset_echo"
    name = "Inset echo"
    family = "ruler"
    stroke = "round and back to where it began, then a step in to the next line"
    role = "frame"
    settings_type = EchoSettings

    def fits(self, space, settings=None):
        """It needs room for its first line."""
        s = self.clean(settings)
        if not space.inset(s.first):
            deep = format_inches(s.first)
            return Fit(0.0, (f"no room for a line {deep} inside the seam",))
        reasons = []
        pieces = len(space.inset(s.first))
        if pieces > 1:
            reasons.append(f"the zone is narrow: the line falls into {pieces} parts")
        return Fit(0.7 if pieces == 1 else 0.4, tuple(reasons) or ("follows any shape",))

    def spacing(self, space, settings=None):
        """As set."""
        return self.clean(settings).spacing

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Rings that lie within one another are one run, joined by a step from each to the next.

        Up to three come back out over their own steps and end where they began; more end inside.
        """
        s = self.clean(settings)
        levels: list[list[np.ndarray]] = []
        depth, number = s.first, 0
        while s.count == 0 or number < s.count:
            rings = [
                shapely.get_coordinates(ring.simplify(1e-6))
                for part in polygons(space.polygon.buffer(-depth, join_style="mitre"))
                for ring in (part.exterior, *part.interiors)
                if ring.length >= 0.5
            ]
            if not rings:
                break
            levels.append(rings)
            number += 1
            depth = s.first + number * s.spacing
        later = position_of(s.spacing, space)
        positions = [_align(s.first - space.foot_radius), *[later] * (len(levels) - 1)]
        positions = positions[: len(levels)]
        nested = [rings[0] for rings in levels if len(rings) == 1]
        if len(nested) == len(levels) and len(levels) > 1:
            runs = [_nest(nested, positions)]
        else:
            runs = [
                Run(_from_long_side(ring), _technique(ring), closed=True, position=position)
                for rings, position in zip(levels, positions, strict=True)
                for ring in rings
            ]
        return Linework(tuple(runs))

    def remaining(self, space, settings=None):
        """What lies inside the innermost line."""
        s = self.clean(settings)
        if s.count == 0:
            return []
        return space.inset(s.first + (s.count - 1) * s.spacing)


def _nest(rings: list[np.ndarray], positions: list[str]) -> Run:
    """All rings as one run: round the outer, step in, round the next; each is a unit."""
    technique = _technique(rings[0])
    laid = [_from_long_side(rings[0])]
    for ring in rings[1:]:
        laid.append(_begun_near(ring, laid[-1][0]))
    points = np.concatenate(laid)
    ends = np.cumsum([len(ring) for ring in laid]) - 1
    spans = [
        Span(int(end), technique, position=position)
        for end, position in zip(ends, positions, strict=True)
    ]
    units = tuple(Unit(f"line {k}", int(end)) for k, end in enumerate(ends, 1))
    if len(rings) > OUT_AGAIN:
        return Run(points, technique, tuple(spans), units=units)
    back = np.array([ring[0] for ring in reversed(laid[:-1])])
    spans.append(Span(len(points) + len(back) - 1, "retrace", "retrace"))
    return Run(np.concatenate([points, back]), technique, tuple(spans), closed=True, units=units)


def _begun_near(ring: np.ndarray, spot: np.ndarray) -> np.ndarray:
    """The ring, begun at its point nearest to *spot*."""
    line = shapely.linestrings(ring)
    at = float(shapely.line_locate_point(line, shapely.points(spot)))
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(ring, axis=0).T))])
    start = shapely.get_coordinates(shapely.line_interpolate_point(line, at))
    after, before = ring[along > at + 1e-6], ring[along < at - 1e-6]
    return np.vstack([start, after[:-1], before, start])


def _align(edge: float) -> str:
    """Where the ruler's edge lies for the first line: the needle is one foot radius further in."""
    if abs(edge) < 1 / 32:
        return "ruler edge on the seam"
    side = "inside" if edge > 0 else "beyond"
    return f"ruler edge {format_inches(abs(edge), 16)} {side} the seam"


def _from_long_side(ring: np.ndarray) -> np.ndarray:
    """Let the ring begin in the middle of its longest side: a start meets its end cleanly there."""
    sides = np.hypot(*np.diff(ring, axis=0).T)
    k = int(np.argmax(sides))
    middle = (ring[k] + ring[k + 1]) / 2
    return np.vstack([middle, ring[k + 1 : -1], ring[: k + 1], middle])


def _technique(ring: np.ndarray) -> str:
    """Curved ruler work where the sides are short chords of a bend."""
    sides = np.hypot(*np.diff(ring, axis=0).T)
    return "curved" if sides[sides < 1.0].sum() > sides.sum() / 2 else "straight"
