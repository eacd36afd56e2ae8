"""Where the ruler lies while a line is stitched: beside it, one foot radius away."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.measure import format_inches
from chorograph_core.rulers.model import Ruler

SHORT = 0.25
"""Inches. A shorter stretch belongs to the laying before it."""
BEND = 0.1
"""Tangent of the angle, about 6 degrees, up to which a way counts as straight on."""
LEG = 1.0
CURVE = math.radians(30.0)
"""Legs no longer than `LEG` inches that turn by no more than `CURVE` draw a curve."""
FOLLOWED = math.radians(90.0)
"""How far a curve turns along one laying: a quarter circle is one edge of a ruler."""


@dataclass(frozen=True)
class RulerPlacement:
    """One laying of a ruler.

    *ruler* is its key, *edge* the edge stitched along, *pose* where that edge lies on the quilt
    (2, 2), *stitched* the line from and to which one stitches beside it (2, 2). It is laid by two
    *references*: a position and a direction, never only one. *avoid* says what the hand must mind.
    """

    ruler: str
    edge: str
    pose: np.ndarray
    stitched: np.ndarray
    references: tuple[str, str]
    avoid: str = ""


def placements_along(
    line: np.ndarray, ruler: Ruler, foot_radius: float, position: str, direction: str = ""
) -> list[RulerPlacement]:
    """Lay *ruler* along each straight stretch of *line* (n, 2), as much at once as it is usable.

    *position* is the reference that sets the distance; *direction* the other one for the first
    laying of a stretch. What follows goes on where the last one stopped.
    """
    made: list[RulerPlacement] = []
    tips = f"the last {format_inches(ruler.margin)} at either end: the ruler tips there"
    for first, last, count in _stretches(line, ruler.usable):
        a, b = line[first], line[last]
        normal = np.array([b[1] - a[1], a[0] - b[0]]) / np.hypot(*(b - a)) * foot_radius
        stops = [a + (b - a) * k / count for k in range(count + 1)]
        for number, (one, two) in enumerate(itertools.pairwise(stops)):
            towards = direction or "the foot against the seam at both ends"
            if number:
                towards = "the end mark where the last laying stopped"
            made.append(
                RulerPlacement(
                    ruler.key, "straight edge", np.array([one + normal, two + normal]),
                    np.array([one, two]), (position, towards), tips if ruler.margin else "",
                )
            )  # fmt: skip
    return made


def count_placements(line: np.ndarray, usable: float) -> int:
    """Number of layings for *line*, *usable* inches at once, without working out where each lies."""
    return sum(count for _, _, count in _stretches(line, usable))


def _stretches(line: np.ndarray, usable: float) -> list[tuple[int, int, int]]:
    """Stretches that a ruler is laid along as (first point, last point, layings): straight ones, and
    curves drawn by short legs, as much of one as an edge follows."""
    points = line.tolist()
    found, corner, turned = [], 0, 0.0
    for i in range(1, len(points)):
        if i < len(points) - 1:
            if _straight(points[corner], points[i], points[i + 1]) and not turned:
                continue
            bend = _bend(points[i - 1], points[i], points[i + 1])
            if bend is not None and turned + bend <= FOLLOWED:
                turned += bend
                continue
        inches = sum(math.dist(points[k], points[k + 1]) for k in range(corner, i))
        if inches >= SHORT:
            found.append((corner, i, math.ceil(inches / usable - 1e-9)))
        corner, turned = i, 0.0
    return found


def _bend(a, b, c) -> float | None:
    """The turn at *b* where a curve is drawn by short legs, in radians; None where it is a corner."""
    if max(math.dist(a, b), math.dist(b, c)) > LEG:
        return None
    ux, uy, vx, vy = b[0] - a[0], b[1] - a[1], c[0] - b[0], c[1] - b[1]
    turn = abs(math.atan2(ux * vy - uy * vx, ux * vx + uy * vy))
    return turn if turn <= CURVE else None


def _straight(a, b, c) -> bool:
    """Whether the way a-b-c goes straight on."""
    ux, uy, vx, vy = b[0] - a[0], b[1] - a[1], c[0] - b[0], c[1] - b[1]
    ahead = ux * vx + uy * vy
    return ahead > 0 and abs(ux * vy - uy * vx) < BEND * ahead
