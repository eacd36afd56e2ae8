"""Nested chevrons: L- and V-shaped lines stepping from a corner, from a side, in four quarters."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.axes import beside_axes, symmetry_of
from chorograph_core.designs.engine.families import cut_to, fitted_places, positions_of
from chorograph_core.designs.engine.fitting import fitting_setting
from chorograph_core.designs.engine.sides import sides_of
from chorograph_core.designs.linework import Linework, Mark, Run
from chorograph_core.designs.linking import link_along_edge
from chorograph_core.designs.settings import Settings, choice_setting, length_setting

RIGHT = 0.98
"""Share of the box round it from which a zone is a rectangle: in that corners are as good as sides."""


@dataclass(frozen=True)
class ChevronSettings(Settings):
    """Where the lines step from, and how far apart they lie."""

    spacing: float = length_setting("Between lines", 0.5, 0.125, 6.0)
    begun: str = choice_setting("They step from", (
        ("corner", "the sharpest corner"), ("opposite", "the corner across from it"),
        ("side", "the longest side"), ("quarters", "four quarters, towards the middle")),
        help="From a corner they run beside its two sides, from a side they are V-shaped.")  # fmt: skip
    rings: str = choice_setting("Lines", (
        ("joined", "one after another"), ("apart", "each for itself")),
        help="For itself: so that a round over several zones does all outer lines first.")  # fmt: skip
    fitting: str = fitting_setting()


class Chevrons(Design[ChevronSettings]):
    """Bent lines inside each other, like the rows of a roof."""

    key = "chevrons"
    name = "Nested chevrons"
    family = "ruler"
    stroke = "along one side, round the point, along the other; a step along the edge, and back"
    faces = True
    settings_type = ChevronSettings

    def fits(self, space, settings=None):
        """Shapes with few corners show it best."""
        s = self.clean(settings)
        lines, sentence = _lines(space, s)
        if len(lines) < 2:
            return Fit(0.2, (sentence, "too few to read as a nest"))
        corners = len(sides_of(space))
        return Fit(0.72 if corners in (3, 4) else 0.5, (sentence,))

    def proposed(self, space):
        """From a side, where a zone is alike about an axis and its sharpest corner lies beside that."""
        s = super().proposed(space)
        box = shapely.oriented_envelope(space.polygon)
        if space.polygon.area > RIGHT * box.area or not beside_axes(space, _in_corner(space)[0]):
            return s
        return replace(s, begun="side")

    def spacing(self, space, settings=None):
        """As it comes out."""
        return _places(space, self.clean(settings))[0].spacing

    def draw(self, space, settings=None, seed=0, doorways=None):
        """All lines along the edge in one run, or each for itself."""
        s = self.clean(settings)
        lines, sentence = _lines(space, s)
        gaps = (_places(space, s)[0].spacing,)
        position = positions_of(gaps, space)
        if s.rings == "apart":
            runs = [
                Run(line, "straight", position=position, figure=f"line {k}")
                for k, line in enumerate(lines, 1)
            ]
        else:
            runs = [
                replace(run, position=position)
                for run in link_along_edge(lines, space.polygon, start_near=_near(doorways))
            ]
        axes = tuple(Mark("line", line, "the points of the lines") for line in _axes(space, s))
        return Linework(tuple(runs), axes, (sentence,), bool(_near(doorways)) and len(runs) == 1)


def _near(doorways):
    return doorways[0] if doorways else None


def _lines(space, s: ChevronSettings) -> tuple[list[np.ndarray], str]:
    at, bent = _places(space, s)
    lines = [line for each in bent for line in cut_to(each, space.polygon)]
    return lines, at.sentence(len(lines))


def _axes(space, s: ChevronSettings) -> list[np.ndarray]:
    """The lines on which the points lie."""
    _, bent = _places(space, s)
    found = []
    for each in bent:
        tips = np.array([line[len(line) // 2] for line in each])
        if len(tips) > 1:
            found += cut_to([tips[[0, -1]]], space.polygon)
    return found


def _places(space, s: ChevronSettings):
    return space.fact(("chevrons", s), lambda: _bent(space, s))


def _bent(space, s: ChevronSettings):
    """Where the lines step, and for each nest its bent lines, still too long."""
    points = shapely.get_coordinates(space.polygon.exterior)
    if s.begun == "quarters":
        return _quarters(space, s, points)
    if s.begun == "side":
        apex, axis, half = _on_side(space)
    else:
        apex, axis, half = _in_corner(space)
    if s.begun == "opposite":
        # Stepping away from it, the lines point at the corner that lies across.
        along = (points - apex) @ axis
        apex, axis = apex + axis * along.max(), -axis
    low, high = _reach(space, points, apex, axis, half)
    at = fitted_places(high - low, s.spacing, s.fitting)
    return at, [_nest(apex, axis, half, low + at.at, points)]


def _reach(space, points: np.ndarray, apex, axis: np.ndarray, half: float) -> tuple[float, float]:
    """Least and greatest depth, square to the lines, of any point of the zone: at a corner, or where its
    edge crosses the axis."""
    side, long = np.array([-axis[1], axis[0]]), 4 * float(np.hypot(*np.ptp(points, axis=0))) + 1
    on_axis = cut_to([np.array([apex - axis * long, apex + axis * long])], space.polygon)
    spots = np.concatenate([points, *(line[[0, -1]] for line in on_axis)])
    u, v = (spots - apex) @ axis, np.abs((spots - apex) @ side)
    depth = u * math.sin(half) - v * math.cos(half)
    low = float(depth.min())
    return (0.0 if abs(low) < 1e-6 else low), max(float(depth.max()), low + 1e-3)


def _nest(apex, axis, half: float, at: np.ndarray, points: np.ndarray) -> list[np.ndarray]:
    """Bent lines at square distances *at* from the two legs of an angle of 2·*half*."""
    side = np.array([-axis[1], axis[0]])
    long = 2 * float(np.hypot(*np.ptp(points, axis=0))) + 1
    legs = [math.cos(half) * axis + sign * math.sin(half) * side for sign in (1, -1)]
    made = []
    for each in at.tolist():
        tip = apex + axis * (each / math.sin(half))
        made.append(np.array([tip + legs[0] * long, tip, tip + legs[1] * long]))
    return made


def _in_corner(space):
    """The sharpest corner: its point, the way inwards that halves it, half its angle."""
    sides = sides_of(space)
    best = None
    for before, after in zip(sides[-1:] + sides[:-1], sides, strict=True):
        corner = after.points[0]
        out = _unit(before.points[-2] - corner), _unit(after.points[1] - corner)
        turn = out[1][0] * out[0][1] - out[1][1] * out[0][0]
        angle = math.atan2(turn, float(out[0] @ out[1])) % (2 * math.pi)
        if 0.3 < angle < math.pi - 0.2 and (best is None or angle < best[2] * 2 - 1e-3):
            best = corner, _unit(out[0] + out[1]), angle / 2
    if best is not None:
        return best
    middle = np.array(space.polygon.centroid.coords[0])
    angle = symmetry_of(space)
    axis = np.array([math.cos(angle), math.sin(angle)])
    points = shapely.get_coordinates(space.polygon.exterior)
    return middle + axis * ((points - middle) @ axis).min(), axis, math.pi / 4


def _on_side(space):
    """V-shaped lines that point away from the longest side, over its middle: legs at 45 degrees, or as steep
    as the zone's own sides where they meet above it."""
    sides = sides_of(space)
    # Rather one that the axis of the zone goes through.
    even = [side for side in sides if not beside_axes(space, side.points[[0, -1]].mean(axis=0))]
    long = max(even or sides, key=lambda side: round(side.length, 3))
    a, b = long.points[0], long.points[-1]
    inward = np.array([-(b - a)[1], (b - a)[0]]) / max(float(np.hypot(*(b - a))), 1e-9)
    points = shapely.get_coordinates(space.polygon.exterior)
    top = float(((points - a) @ inward).max())
    half = math.pi / 4
    if len(sides) == 3:
        tip = points[int(np.argmax((points - a) @ inward))]
        half = math.atan2(float(np.hypot(*(b - a))) / 2, float((tip - a) @ inward))
        return tip, -inward, min(max(half, 0.35), 1.3)
    return (a + b) / 2 + inward * top, -inward, half


def _quarters(space, s: ChevronSettings, points: np.ndarray):
    """Four nests whose points lie on the diagonals of the zone's frame."""
    frame = space.frame
    axes = np.array([[math.cos(frame.axis), math.sin(frame.axis)],
                     [-math.sin(frame.axis), math.cos(frame.axis)]])  # fmt: skip
    turned = points @ axes.T
    low, high = turned.min(axis=0), turned.max(axis=0)
    middle, half = (low + high) / 2, (high - low) / 2
    at = fitted_places(float(half.min()), s.spacing, s.fitting)
    nests = []
    for sx, sy in ((1, 1), (-1, 1), (-1, -1), (1, -1)):
        nest = []
        for each in at.at.tolist():
            tip, ends = middle + np.array([sx, sy]) * each, half - each + 1
            nest.append(np.array([tip + (0, sy * ends[1]), tip, tip + (sx * ends[0], 0)]) @ axes)
        nests.append(nest)
    return at, nests


def _unit(v: np.ndarray) -> np.ndarray:
    return v / max(float(np.hypot(*v)), 1e-12)
