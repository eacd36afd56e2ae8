"""A guide that swings with the points of the piecing: away from each point that reaches into a strip or
touches its edge, and back between two."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d
from shapely import affinity
from shapely.geometry import LineString, Polygon
from shapely.geometry.polygon import orient

from chorograph_core.designs.engine.feathers import goes_round
from chorograph_core.designs.engine.spines import STEEPEST
from chorograph_core.designs.space import Space, turning_points
from chorograph_core.designs.strip import ring_of

STATION = 0.2
"""Inches from place to place along the strip."""
TOUCHES = 0.02
APART = 0.3
"""Inches within which two points are one."""
CORNER = 0.12
"""How far round a ring it takes its corners in a bend, in shares of the breadth."""
SWING = 0.35
"""How far it swings at most, in shares of half the breadth."""
LEAST = 0.5
"""Of how far it might swing: where points are too close for that it passes them by twos, by threes ..."""
BROAD = 0.3
"""Of the greatest breadth, under which the ends of a strip are left out (mitred corners)."""
LONG = 2.0
"""Length of a strip over its breadth from which a line swings in it."""


def swinging_line(zone: Polygon, round_about: Sequence[Polygon]) -> np.ndarray | None:
    """A line (n, 2), inches, along the middle of *zone*: away from where corners of what lies *round_about*
    touch its edge, or its own edge points inwards, and back between them; None where nothing does, or the
    zone is no strip that runs straight. Points too close for a swing each are passed two or more at a time.

    >>> from shapely.geometry import box
    >>> teeth = [Polygon([(x, 6), (x + 8, 6), (x + 4, 4)]) for x in (0, 8, 16, 24)]
    >>> line = swinging_line(box(0, 0, 32, 6).difference(shapely.union_all(teeth)), teeth)
    >>> [round(float(np.interp(x, *line.T)), 1) for x in (4, 8, 12)]
    [2.0, 3.0, 2.0]
    """
    axis = Space(zone).frame.axis
    centre = (0.0, 0.0)

    def level(shape: Polygon) -> Polygon:
        return affinity.rotate(shape, -axis, origin=centre, use_radians=True)

    strip = level(zone)
    across = _chords(strip)
    if across is None:
        return None
    u, low, high = across
    points = _points(strip, [level(each) for each in round_about])
    points = points[(points[:, 0] > u[0] + APART) & (points[:, 0] < u[-1] - APART)]
    lower = np.abs(points[:, 1] - np.interp(points[:, 0], u, low))
    upper = np.abs(points[:, 1] - np.interp(points[:, 0], u, high))
    sides = [_told_apart(points[lower <= upper, 0]), _told_apart(points[lower > upper, 0])]
    most = 0 if len(sides[0]) >= len(sides[1]) else 1
    if not len(sides[most]):
        return None
    line = np.column_stack([u, _swung(u, low, high, sides[most], 1 if most == 0 else -1)])
    cos, sin = math.cos(axis), math.sin(axis)
    return line @ np.array([[cos, sin], [-sin, cos]])


def swinging_ring(zone: Polygon, round_about: Sequence[Polygon]) -> np.ndarray | None:
    """A closed line (n, 2), inches, along the middle of a *zone* that goes all round, as a border does: away
    from points as `swinging_line` is, and round the corners in a bend. None where nothing touches it, or it
    is no ring."""
    space = Space(zone)
    if not goes_round(space, zone):
        return None
    ring = ring_of(space, zone)
    points = _points(zone, round_about)
    if not len(points):
        return None
    rails = [shapely.linestrings(rail) for rail in (ring.left, ring.right)]
    spots = shapely.points(points)
    on = np.argmin([shapely.distance(rail, spots) for rail in rails], axis=0)
    middle = shapely.linestrings((ring.left + ring.right) / 2)
    # Told by how far along the middle they are; stations are not as far from each other everywhere.
    share = shapely.line_locate_point(middle, spots) / middle.length
    gone = np.hypot(*np.diff(shapely.get_coordinates(middle), axis=0).T)
    places = np.interp(share, np.concatenate([[0], np.cumsum(gone)]) / middle.length, ring.along)
    sides = [_told_apart(places[on == k]) for k in (0, 1)]
    most = 0 if len(sides[0]) >= len(sides[1]) else 1
    s = np.linspace(0, ring.length, max(48, math.ceil(ring.length / STATION)) + 1)[:-1]
    v = _swung_round(s, ring.length, ring.mean_width, sides[most], 1 if most == 0 else -1)
    line = np.array([ring.at(at, across) for at, across in zip(s, v, strict=True)])
    step = float(np.hypot(*np.diff(line, axis=0).T).mean())
    soft = gaussian_filter1d(line, CORNER * ring.mean_width / max(step, 1e-9), axis=0, mode="wrap")
    return np.vstack([soft, soft[:1]])


def _swung_round(
    s: np.ndarray, long: float, wide: float, points: np.ndarray, away: int
) -> np.ndarray:
    """How far across (n,), from -1 to 1, the line runs at places *s* of a ring so *long*: *away* (1: to the
    right) from *points*, or from every second, every third where they are close, and back between."""
    fewest = LEAST * SWING * wide / 2 * 2 * math.pi / STEEPEST
    count = max(1, min(len(points), int(long / max(fewest, 1e-9))))
    kept = points[np.arange(count) * len(points) // count]
    far = min(SWING * wide / 2, STEEPEST * long / count / (2 * math.pi)) / (wide / 2)
    between = (kept + np.append(kept[1:], kept[0] + long)) / 2
    knots = np.column_stack([kept, between]).ravel()
    knots = np.concatenate([knots - long, knots, knots + long])
    return _eased(s, knots, np.tile((away * far, -away * far), len(knots) // 2))


def _chords(strip: Polygon) -> tuple[np.ndarray, np.ndarray, np.ndarray] | None:
    """Places along a level *strip* and how far it reaches across there, below and above."""
    x0, y0, x1, y1 = strip.bounds
    if x1 - x0 < LONG * (y1 - y0):
        return None
    u = np.linspace(x0, x1, max(12, math.ceil((x1 - x0) / STATION)) + 1)[1:-1]
    cuts = [strip.intersection(LineString([(x, y0 - 1), (x, y1 + 1)])) for x in u]
    chords = []
    for cut in cuts:
        parts = [part for part in shapely.get_parts(cut) if part.length > 0]
        longest = max(parts, key=lambda part: part.length, default=None)
        chords.append((0.0, 0.0) if longest is None else (longest.bounds[1], longest.bounds[3]))
    low, high = np.array(chords).T
    broad = np.flatnonzero(high - low > BROAD * (high - low).max() + 1e-6)
    inner = slice(broad[0], broad[-1] + 1)
    return u[inner], low[inner], high[inner]


def _points(strip: Polygon, round_about: Sequence[Polygon]) -> np.ndarray:
    """Points (n, 2) of the piecing at the edge of *strip*."""
    found = [np.empty((0, 2))]
    outline = orient(strip.simplify(TOUCHES))
    for side in (outline.exterior, *outline.interiors):
        ring = shapely.get_coordinates(side)[:-1]
        into, onto = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
        inwards = into[:, 0] * onto[:, 1] - into[:, 1] * onto[:, 0] < 0
        found.append(ring[[k for k in turning_points(ring) if inwards[k]]])
    edge = strip.boundary
    for each in round_about:
        corners = shapely.get_coordinates(each.simplify(TOUCHES).exterior)[:-1]
        corners = corners[turning_points(corners)]
        touch = shapely.distance(shapely.points(corners), edge) < TOUCHES
        found.append(corners[touch])
    return np.vstack(found)


def _told_apart(places: np.ndarray) -> np.ndarray:
    """Places in order, those that are one told once."""
    kept: list[float] = []
    for place in np.sort(places):
        if not kept or place - kept[-1] > APART:
            kept.append(float(place))
    return np.array(kept)


def _swung(
    u: np.ndarray, low: np.ndarray, high: np.ndarray, points: np.ndarray, away: int
) -> np.ndarray:
    """How far across (n,) the line runs at places *u*: in the middle where points themselves make the strip
    wide and narrow, else swung *away* (1: upwards) from them."""
    middle, half = (low + high) / 2, float(np.median(high - low)) / 2
    between = (points[1:] + points[:-1]) / 2
    bent = bool(len(between)) and 0.15 * half < float(
        abs(np.median(np.interp(points, u, middle)) - np.median(np.interp(between, u, middle)))
    )
    if not bent:
        # Mitred ends do not lead it astray.
        middle = np.full(len(u), float(np.median(middle)))
    if not bent:
        gap = float(np.median(np.diff(points))) if len(points) > 1 else float(u[-1] - u[0])
        wished = LEAST * SWING * half
        by = max(1, math.ceil(wished * 2 * math.pi / STEEPEST / gap))
        by = min(by, max(1, len(points) // 2))
        spare = (len(points) - 1) % by // 2
        points = points[spare::by]
        gap *= by
        far = min(SWING * half, STEEPEST * gap / (2 * math.pi))
        between = (points[1:] + points[:-1]) / 2
    knots = np.concatenate([[u[0]], np.sort(np.concatenate([points, between])), [u[-1]]])
    at_point = np.isin(knots, points)
    values = np.interp(knots, u, middle)
    if not bent:
        values = values + np.where(at_point, away * far, -away * far)
        values[[0, -1]] = middle[[0, -1]]
    line = _eased(u, knots, values)
    rise = float(np.abs(np.gradient(line, u)).max())
    mean = float(line.mean())
    return mean + (line - mean) * min(1.0, STEEPEST / max(rise, 1e-9))


def _eased(u: np.ndarray, knots: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Half waves from knot to knot."""
    k = np.clip(np.searchsorted(knots, u, side="right") - 1, 0, len(knots) - 2)
    share = (u - knots[k]) / np.maximum(knots[k + 1] - knots[k], 1e-9)
    return values[k] + (values[k + 1] - values[k]) * (1 - np.cos(np.pi * share)) / 2
