"""Blocks round a centre: stars of n points, rings of wedges, fans about a corner. Unit square."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import Polygon, box

from chorograph_core.chart.arcs import arc, arc_steps
from chorograph_core.chart.model import ChartError

TIPS = ("straight", "pointed", "round")
POINT = 1.22
"""How many times further than its shoulders a pointed tip reaches."""
Made = list[tuple[list[tuple[float, float]], str]]
"""Vertices and fabric letter of each piece."""


def star(points: int, outer: float = 0.5, inner: float = 0.2, colours: str = "bc") -> Made:
    """A star of *points* kites about the middle, their tips at *outer*, their waists at *inner*."""
    _between(points, 3, 40, "points")
    if not 0 < inner < outer <= 0.5:
        raise ChartError(
            "A star's waist lies inside its points, and those inside the block.", "block"
        )
    turn = -math.pi / 2
    tips = [_at(0.5, 0.5, outer, turn + 2 * math.pi * k / points) for k in range(points)]
    waists = [_at(0.5, 0.5, inner, turn + 2 * math.pi * (k + 0.5) / points) for k in range(points)]
    made = [
        ([(0.5, 0.5), waists[k - 1], tips[k], waists[k]], colours[k % len(colours)])
        for k in range(points)
    ]
    outline = [p for k in range(points) for p in (tips[k], waists[k])]
    return made + _ground([Polygon(outline)])


def ring(
    wedges: int, inner: float = 0.12, outer: float = 0.4, tip: str = "straight", size: float = 12.0,
    colours: str = "bcd",
) -> Made:  # fmt: skip
    """A ring of *wedges* between two radii, a round centre, tips straight, pointed or round.

    *outer* is as far as the tips reach.
    *size* in inches says how many chords stand for an arc.
    """
    _between(wedges, 3, 60, "wedges")
    _radii(inner, outer, tip, wedges)
    middle = (0.5, 0.5)
    turn = -math.pi / 2
    edges = [turn + 2 * math.pi * k / wedges for k in range(wedges + 1)]
    shoulder = outer / _reach(tip, wedges)
    made, outline, core = _wedges(middle, edges, inner, shoulder, tip, size, colours)
    if inner > 0:
        made.append((core, "a"))
    return made + _ground([Polygon(outline)])


def fan(
    wedges: int, inner: float = 0.25, outer: float = 0.85, tip: str = "straight", size: float = 12.0,
    colours: str = "bcd",
) -> Made:  # fmt: skip
    """A quarter of a ring about the lower left corner, with a quarter circle as its handle."""
    _between(wedges, 2, 30, "wedges")
    _radii(inner, outer / 2, tip, 4 * wedges)
    corner = (0.0, 1.0)
    edges = [-math.pi / 2 + math.pi / 2 * k / wedges for k in range(wedges + 1)]
    shoulder = outer / _reach(tip, 4 * wedges)
    made, outline, core = _wedges(corner, edges, inner, shoulder, tip, size, colours)
    if inner > 0:
        made.append(([*core, corner], "a"))
    covered = [Polygon([*outline, corner])]
    return made + _ground(covered, whole=True)


def _wedges(centre, edges: Sequence[float], inner, outer, tip, size, colours):
    """Wedges between *edges* (angles), the outline of their tips, and the arc round the core."""
    made: Made = []
    outline: list[tuple[float, float]] = []
    core: list[tuple[float, float]] = []
    closed = abs(edges[-1] - edges[0] - 2 * math.pi) < 1e-9
    for k in range(len(edges) - 1):
        a, b = edges[k], edges[k + 1]
        near = [centre] if inner <= 0 else _arc(centre, inner, a, b, size)
        far = _tip(centre, outer, a, b, tip, size)
        made.append(([*near[::-1], *far], colours[k % len(colours)]))
        last = k == len(edges) - 2
        outline += far if last and not closed else far[:-1]
        core += near if last and not closed else near[:-1]
    return made, outline, core


def _tip(centre: tuple[float, float], outer: float, a: float, b: float, tip: str, size: float):
    if tip == "straight":
        return [_at(*centre, outer, a), _at(*centre, outer, b)]
    if tip == "pointed":
        return [
            _at(*centre, outer, a),
            _at(*centre, outer * POINT, (a + b) / 2),
            _at(*centre, outer, b),
        ]
    # A half circle over the chord.
    p, q = np.array(_at(*centre, outer, a)), np.array(_at(*centre, outer, b))
    middle, radius = (p + q) / 2, float(np.hypot(*(q - p))) / 2
    first = math.atan2(*(p - middle)[::-1])
    steps = arc_steps(radius * size, math.pi)
    bow = arc((float(middle[0]), float(middle[1])), radius, first, first + math.pi, steps)
    bow[0], bow[-1] = p, q
    return [_rounded(point) for point in bow]


def _arc(centre, radius: float, a: float, b: float, size: float):
    return [_rounded(p) for p in arc(centre, radius, a, b, arc_steps(radius * size, b - a))]


def _ground(covered: Sequence[Polygon], whole: bool = False) -> Made:
    """What is left of the square: in quarters, so that none of it has a hole."""
    shape = shapely.union_all(list(covered))
    cells = [box(0, 0, 1, 1)] if whole else [
        box(x, y, x + 0.5, y + 0.5) for y in (0, 0.5) for x in (0, 0.5)
    ]  # fmt: skip
    made: Made = []
    for cell in cells:
        rest = cell.difference(shape)
        for part in getattr(rest, "geoms", [rest]):
            if isinstance(part, Polygon) and part.area > 1e-6:
                made.append(([_rounded(p) for p in part.exterior.coords[:-1]], "a"))
    return made


def _at(x: float, y: float, radius: float, angle: float) -> tuple[float, float]:
    return _rounded((x + radius * math.cos(angle), y + radius * math.sin(angle)))


def _rounded(point) -> tuple[float, float]:
    return round(float(point[0]), 12), round(float(point[1]), 12)


def _between(count: int, low: int, high: int, name: str) -> None:
    if not low <= count <= high:
        raise ChartError(f"{name.capitalize()}: between {low} and {high}.", "block")


def _radii(inner: float, outer: float, tip: str, wedges: int) -> None:
    if tip not in TIPS:
        raise ChartError("Tips are straight, pointed or round.", "block")
    if not 0 <= inner < outer / _reach(tip, wedges) or outer > 0.5 + 1e-9:
        raise ChartError(
            "The inner radius is the smaller, and the tips stay in the block.", "block"
        )


def _reach(tip: str, wedges: int) -> float:
    """How many times further than its shoulders a tip reaches: the outer radius is that of the tips.

    A half circle over the chord of a wedge of angle 2π/n has its middle cos(π/n) out and the radius
    sin(π/n), each times the shoulders' radius.
    """
    if tip == "round":
        return math.cos(math.pi / wedges) + math.sin(math.pi / wedges)
    return POINT if tip == "pointed" else 1.0
