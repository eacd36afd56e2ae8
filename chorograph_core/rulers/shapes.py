"""What a line is to a ruler: straight stretches, arcs of one radius, waves; and curves that are neither."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

SHORT = 0.25
"""Inches. A shorter stretch belongs to the laying before it."""
BEND = 0.1
"""Tangent of the angle, about 6 degrees, up to which a way counts as straight on."""
LEG = 1.0
CURVE = math.radians(30.0)
"""Legs no longer than `LEG` inches that turn by no more than `CURVE` draw a curve."""
FOLLOWED = math.radians(90.0)
"""How far a curve of no one radius turns along one laying."""
ON_THE_WAY = 2e-5
"""Inches from the way between its neighbours within which a point tells nothing."""
ROUND = 0.006
"""Inches by which an arc may be off the circle it is taken for; drawn arcs are off by a quarter of that."""


@dataclass(frozen=True)
class Stretch:
    """Points *first* to *last* of a line. *inches* along it; an ``"arc"`` has a *radius* and a *centre* and
    turns by *sweep* radians, to the left for positive ones; a ``"curve"`` only turns."""

    kind: Literal["straight", "arc", "curve"]
    first: int
    last: int
    inches: float
    radius: float = 0.0
    centre: tuple[float, float] = (0.0, 0.0)
    sweep: float = 0.0

    @property
    def chord(self) -> float:
        """Of an arc, inches from end to end as the crow flies; of more than half a circle its width."""
        return 2 * self.radius * math.sin(min(abs(self.sweep), math.pi) / 2)


def stretches_of(line: np.ndarray) -> list[Stretch]:
    """The stretches of *line* (n, 2) in order; those too short for a ruler are left out."""
    kept = _telling(np.asarray(line, float))
    if len(kept) == len(line):
        return _stretches(line)
    return [
        replace(stretch, first=int(kept[stretch.first]), last=int(kept[stretch.last]))
        for stretch in _stretches(line[kept])
    ]


def _telling(line: np.ndarray) -> np.ndarray:
    """Indices of the points without those that lie on the way between their neighbours: where a line was cut
    and joined again, they would hide that it keeps its bend. Where it bends the other way from there on, a
    point stays."""
    if len(line) < 4:
        return np.arange(len(line))
    a, b, c = line[:-2], line[1:-1], line[2:]
    u, v = c - a, b - a
    cross = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    telling = np.abs(cross) > ON_THE_WAY * np.maximum(np.hypot(*u.T), 1e-12)
    telling |= (v * u).sum(axis=1) * ((c - b) * u).sum(axis=1) <= 0
    if telling.all():
        return np.arange(len(line))
    places = np.arange(len(cross))
    before = np.maximum.accumulate(np.where(telling, places, -1))
    after = np.minimum.accumulate(np.where(telling, places, len(cross))[::-1])[::-1]
    inside = (before >= 0) & (after < len(cross))
    turns = np.zeros(len(cross), bool)
    turns[inside] = cross[before[inside]] * cross[after[inside]] < 0
    return np.concatenate([[0], 1 + np.flatnonzero(telling | turns), [len(line) - 1]])


def _stretches(line: np.ndarray) -> list[Stretch]:
    points = line.tolist()
    found: list[Stretch] = []
    corner = 0
    turns: list[float] = []
    for i in range(1, len(points)):
        if i < len(points) - 1:
            if not turns and _straight(points[corner], points[i], points[i + 1]):
                # A long arc begins as straight as a line does: its turns tell them apart.
                turn = _turn(points[i - 1], points[i], points[i + 1])
                if abs(turn) < 1e-4 or max(
                    math.dist(points[i - 1], points[i]), math.dist(points[i], points[i + 1])
                ) > LEG:  # fmt: skip
                    continue
                if i - 1 > corner:
                    found.append(Stretch("straight", corner, i - 1,
                                         math.dist(points[corner], points[i - 1])))  # fmt: skip
                    corner = i - 1
                turns.append(turn)
                continue
            bend = _bend(points[i - 1], points[i], points[i + 1])
            if bend is not None:
                if not turns and i - 1 > corner:
                    found.append(Stretch("straight", corner, i - 1,
                                         math.dist(points[corner], points[i - 1])))  # fmt: skip
                    corner = i - 1
                turns.append(bend)
                continue
        if turns:
            found += _curved(line, points, corner, turns)
        else:
            found.append(Stretch("straight", corner, i, _inches(points, corner, i)))
        corner, turns = i, []
    return [stretch for stretch in found if stretch.inches >= SHORT]


def waves_in(stretches: list[Stretch]) -> list[list[Stretch]]:
    """The stretches in groups: arcs of one radius that follow one another and bend to either side by turns
    are one wave, everything else is by itself."""
    groups: list[list[Stretch]] = []
    for stretch in stretches:
        last = groups[-1][-1] if groups else None
        if (
            last is not None and stretch.kind == last.kind == "arc" and stretch.first == last.last
            and stretch.sweep * last.sweep < 0
            and abs(stretch.radius - last.radius) < 0.05 * last.radius
        ):  # fmt: skip
            groups[-1].append(stretch)
        else:
            groups.append([stretch])
    return groups


def _inches(points: list, first: int, last: int) -> float:
    return sum(math.dist(points[k], points[k + 1]) for k in range(first, last))


def _curved(line: np.ndarray, points: list, corner: int, turns: list[float]) -> list[Stretch]:
    """A bent stretch from *corner* as arcs, each as far as it keeps its radius and its side, or as curves.

    *turns* are those at the points after *corner*, one each.
    """
    last = corner + len(turns) + 1
    found: list[Stretch] = []
    first = corner
    while first < last:
        arc = _arc(line, points, first, last, turns, corner)
        if arc is None:
            stop = _followed(first, last, turns, corner)
            sweep = sum(turns[first - corner : stop - corner - 1])
            arc = Stretch("curve", first, stop, _inches(points, first, stop), sweep=sweep)
        found.append(arc)
        first = arc.last
    return found


def _arc(line: np.ndarray, points: list, first: int, last: int, turns: list[float], corner: int):
    """The longest arc from *first*, of three legs and more; None where the line keeps no radius."""
    if last - first < 3:
        return None
    sign = math.copysign(1.0, turns[first - corner])
    curvature = _bent(points, first + 2, turns, corner)
    stop = first + 1
    while stop < last:
        # An end that was cut lies on a leg, not on the circle: beside it only the side of the turn counts.
        beside_end = stop in (first + 1, last - 1)
        differs = abs(_bent(points, stop, turns, corner) - curvature)
        if turns[stop - corner - 1] * sign <= 0 or (
            not beside_end and differs > 0.12 * abs(curvature) + 1e-3
        ):
            break
        stop += 1
    if stop - first < 3:
        return None
    part = line[first : stop + 1]
    inner = part[1:-1] if len(part) > 5 else part
    third = (len(inner) - 1) / 3
    # By points that are not cut ends, and not the same one twice where the arc closes.
    circle = _circle(
        inner[0], inner[round(third)], inner[-1 if len(part) > 5 else round(2 * third)]
    )
    if circle is None:
        return None
    (cx, cy), radius = circle
    off = np.abs(np.hypot(part[:, 0] - cx, part[:, 1] - cy) - radius)
    if off.max() > ROUND:
        return None
    inches = _inches(points, first, stop)
    return Stretch("arc", first, stop, inches, radius, (cx, cy), sign * inches / radius)


def _bent(points: list, at: int, turns: list[float], corner: int) -> float:
    """Curvature at a point, signed: its turn over half of both its legs."""
    legs = math.dist(points[at - 1], points[at]) + math.dist(points[at], points[at + 1])
    return 2 * turns[at - corner - 1] / max(legs, 1e-9)


def _circle(a, b, c) -> tuple[tuple[float, float], float] | None:
    """Centre and radius of the circle through three points."""
    (ax, ay), (bx, by), (cx, cy) = (tuple(map(float, p)) for p in (a, b, c))
    d = 2 * (ax * (by - cy) + bx * (cy - ay) + cx * (ay - by))
    if abs(d) < 1e-9:
        return None
    a2, b2, c2 = ax * ax + ay * ay, bx * bx + by * by, cx * cx + cy * cy
    ux = (a2 * (by - cy) + b2 * (cy - ay) + c2 * (ay - by)) / d
    uy = (a2 * (cx - bx) + b2 * (ax - cx) + c2 * (bx - ax)) / d
    return (ux, uy), math.hypot(ax - ux, ay - uy)


def _followed(first: int, last: int, turns: list[float], corner: int) -> int:
    """Where a curve has turned by a quarter circle."""
    gone = 0.0
    for stop in range(first + 1, last):
        gone += abs(turns[stop - corner - 1])
        if gone > FOLLOWED:
            return stop
    return last


def _turn(a, b, c) -> float:
    """Signed turn at *b*, radians."""
    ux, uy, vx, vy = b[0] - a[0], b[1] - a[1], c[0] - b[0], c[1] - b[1]
    return math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)


def _bend(a, b, c) -> float | None:
    """The turn at *b* where a curve is drawn by short legs, in radians; None where it is a corner."""
    if max(math.dist(a, b), math.dist(b, c)) > LEG:
        return None
    turn = _turn(a, b, c)
    return turn if abs(turn) <= CURVE else None


def _straight(a, b, c) -> bool:
    """Whether the way a-b-c goes straight on."""
    ux, uy, vx, vy = b[0] - a[0], b[1] - a[1], c[0] - b[0], c[1] - b[1]
    ahead = ux * vx + uy * vy
    return ahead > 0 and abs(ux * vy - uy * vx) < BEND * ahead
