"""Dot to dot: points on corners, midpoints and thirds of a patch, joined by a rule."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.families import cut_to
from chorograph_core.designs.engine.sides import Side, sides_of
from chorograph_core.designs.engine.tracing import Line, traced
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import Settings, choice_setting, length_setting

RULES = (
    ("midpoints", "midpoint to next midpoint"),
    ("diagonals", "corner to all corners across"),
    ("second", "corner to the next corner but one"),
    ("third", "corner to the third corner on"),
    ("envelope", "corners to the middle, the middle to midpoints"),
    ("corner_midpoint", "corner to the midpoints across"),
    ("whirl", "corner to the first third of the side after next"),
    ("thirds", "third to third round each corner"),
    ("fan", "one corner to the thirds across"),
    ("star", "midpoint to every other midpoint"),
    ("nested", "midpoints, and the midpoints of those"),
    ("tied", "corners to the thirds beside the next corner"),
)
MOST_SIDES = 12
ALONG = 0.02
"""Share of its length that a line may run beside a side: more would be the ditch."""


@dataclass(frozen=True)
class DotSettings(Settings):
    """The rule, and how far the dots stay from the seam."""

    rule: str = choice_setting("Dots are joined", RULES)
    margin: float = length_setting("Dots from the seam", 0.0, 0.0, 2.0,
                            help="Where points must not be cut off by a binding.")  # fmt: skip


class DotToDot(Design[DotSettings]):
    """Straight lines between dots, found from the patch's own corners."""

    key = "dot_to_dot"
    name = "Dot to dot"
    family = "ruler"
    role = "motif"
    stroke = "from dot to dot, home along the seam or over the points"
    crosses = True
    retraces = True
    settings_type = DotSettings

    def fits(self, space, settings=None):
        """Three to eight corners show it."""
        s = self.clean(settings)
        lines = _lines(space, s)
        count = len(sides_of(space))
        if not lines or count > MOST_SIDES:
            return Fit(0.1, (f"{count} corners are too many to join by a rule" if lines or
                             count > MOST_SIDES else "nothing to join by this rule",))  # fmt: skip
        least = min(float(np.hypot(*(line[-1] - line[0]))) for line in lines)
        if least < 0.3:
            return Fit(0.2, ("dots too close to lay a ruler between them",))
        reason = f"{len(lines)} lines from {count} corners"
        if space.polygon.convex_hull.area > 1.02 * space.polygon.area:
            return Fit(0.25, (reason, "the zone bends inwards, which cuts the lines"))
        return Fit(0.68 if count <= 8 else 0.4, (reason,))

    def proposed(self, space):
        """From five corners on a star, the pointed one of two: midpoints alone leave the middle bare."""
        count = len(sides_of(space))
        star = "third" if count > 6 else "second" if count > 4 else None
        return self.clean({"rule": star} if star else None)

    def draw(self, space, settings=None, seed=0, doorways=None):
        """All lines, in as few runs as their ends allow."""
        s = self.clean(settings)
        if len(sides_of(space)) > MOST_SIDES:
            return Linework()
        lines = _lines(space, s)
        shape = space.polygon
        if s.margin > 0:
            parts = space.inset(s.margin)
            shape = parts[0] if parts else shape
        runs = traced([Line(line, position="the edge a foot's radius short of both dots")
                       for line in lines], shape)  # fmt: skip
        dots = np.unique(np.round(np.array([line[k] for line in lines for k in (0, -1)])
                                  .reshape(-1, 2), 6), axis=0)  # fmt: skip
        free = [dot for dot in dots if not _at_corner(dot, space)]
        marks = (Mark("dot", np.array(free), "target dots"),) if free else ()
        return Linework(tuple(runs), marks)


def _at_corner(dot: np.ndarray, space) -> bool:
    """A corner of the piecing needs no mark."""
    return any(np.hypot(*(side.points[0] - dot)) < 0.02 for side in sides_of(space))


def _lines(space, s: DotSettings) -> list[np.ndarray]:
    return space.fact(("dots", s), lambda: _joined(space, s))


def _joined(space, s: DotSettings) -> list[np.ndarray]:
    sides, polygon = sides_of(space), space.polygon
    if s.margin > 0:
        parts = space.inset(s.margin)
        if not parts:
            return []
        polygon = parts[0]
        sides = sides_of(type(space)(polygon))
    if len(sides) > MOST_SIDES:
        return []
    pairs = _pairs(s.rule, sides, np.array(polygon.centroid.coords[0]))
    found, seen = [], set()
    for a, b in pairs:
        name = tuple(sorted((tuple(np.round(a, 4)), tuple(np.round(b, 4)))))
        if name in seen or np.hypot(*(b - a)) < 1e-3:
            continue
        seen.add(name)
        for line in cut_to([np.array([a, b])], polygon):
            near = shapely.linestrings(line).intersection(polygon.boundary.buffer(0.01))
            if near.length < 0.5 * shapely.linestrings(line).length:
                found.append(line)
    return found


def _pairs(rule: str, sides: list[Side], centre: np.ndarray):
    """(point, point) by the rule; sides and corners are counted round."""
    n = len(sides)
    corner = [side.points[0] for side in sides]
    middle = [side.at(0.5) for side in sides]

    def third(k: int, share: float) -> np.ndarray:
        return sides[k % n].at(share / 3)

    if rule == "midpoints":
        return [(middle[k], middle[(k + 1) % n]) for k in range(n)]
    if rule == "diagonals":
        apart = [(corner[i], corner[j]) for i, j in itertools.combinations(range(n), 2)
                 if (j - i) % n not in (1, n - 1)]  # fmt: skip
        return apart or [(corner[k], middle[(k + 1) % n]) for k in range(n)]
    if rule in ("second", "third"):
        # With four corners there is no third one on, with three there is none but the next.
        step = 3 if rule == "third" and n > 4 else 2
        if n == 3:
            return [(corner[k], middle[(k + 1) % n]) for k in range(n)]
        return [(corner[k], corner[(k + step) % n]) for k in range(n)]
    if rule == "envelope":
        return [(corner[k], centre) for k in range(n)] + [(centre, middle[k]) for k in range(n)]
    if rule == "corner_midpoint":
        return [(corner[k], middle[(k + j) % n]) for k in range(n)
                for j in ({(n - 1) // 2, n // 2} if n > 3 else {1})]  # fmt: skip
    if rule == "whirl":
        return [(corner[k], third(k + 1, 1)) for k in range(n)]
    if rule == "thirds":
        return [(third(k - 1, 2), third(k, 1)) for k in range(n)]
    if rule == "fan":
        return [(corner[0], spot) for k in range(1, n - 1)
                for spot in (third(k, 1), third(k, 2), *([corner[k + 1]] if k < n - 2 else []))]  # fmt: skip
    if rule == "star":
        step = 2 if n > 4 else 1
        return [(middle[k], middle[(k + step) % n]) for k in range(n)]
    if rule == "nested":
        inner = [(middle[k] + middle[(k + 1) % n]) / 2 for k in range(n)]
        # The outer lines are parted where the inner ones touch them, so that it is one line.
        after = [(k + 1) % n for k in range(n)]
        return [(a, b) for k in range(n) for a, b in (
            (middle[k], inner[k]), (inner[k], middle[after[k]]), (inner[k], inner[after[k]]))]  # fmt: skip
    return [(corner[k], third(k + 1, 2)) for k in range(n)] + [
        (corner[k], third(k - 2, 1)) for k in range(n)]  # fmt: skip
