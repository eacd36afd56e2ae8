"""What follows a guide: a line drawn on the top, taken from a seam, or a circle of a given size.

A strip along a guide reaches to whatever edge there is on either side, or half its own width; rows along
one are level lines of it, each the same distance from the last.
"""

from __future__ import annotations

import math
from typing import TypeGuard

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d, minimum_filter1d
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.geometry.polygon import orient

from chorograph_core.designs.curves import resample, tidy
from chorograph_core.designs.keeping import stretches
from chorograph_core.designs.linework import length
from chorograph_core.designs.rails import MOST_STATIONS, Strip
from chorograph_core.designs.space import Space, polygons

STATION = 0.25
"""Inches from station to station along a guide."""
HAIR = 0.01
CLOSED = 0.03
"""Inches between its ends at which a line closes."""
IN_SEAM = 0.03
"""Inches from a seam within which a guide lies in it: guides are thinned."""
AT_CORNER = 1.5
"""How much farther from a corner of a zone than from its sides that of a part inside it lies, at most."""
ROUNDED = 2.0
"""Least radius of a row round something where that has a dip, in ways from row to row."""
FAR = 400.0
"""Inches: across any top."""
LEAST_STATIONS = 4
DIP = 1.0
"""Least radius of a line round a shape where that has a dip, in half widths of what follows it."""
TIGHT = 0.6
"""How much of the radius of a bend a strip takes up on its inner side."""


def guide_within(space: Space, part: Polygon) -> np.ndarray | None:
    """The longest stretch (n, 2) of the space's guide in *part*; of one in the seam beside it, as far inside
    as the part begins. None without one."""
    if space.guide is None:
        return None
    found = stretches(np.array(space.guide), part)
    longest = max(found, key=length, default=None)
    if longest is not None and length(longest) >= 2 * STATION:
        return longest
    return _from_seam(space, part)


def closes(line: np.ndarray | None) -> TypeGuard[np.ndarray]:
    """Whether a line (n, 2) comes back to where it began."""
    return line is not None and bool(np.hypot(*(line[0] - line[-1])) < CLOSED)


def in_seam(guide: np.ndarray, edge: BaseGeometry) -> bool:
    """Whether a guide (n, 2) lies in an *edge* all along."""
    line = shapely.linestrings(guide)
    spots = shapely.line_interpolate_point(line, np.linspace(0, 1, 33), normalized=True)
    return bool(shapely.distance(edge, spots).max() < IN_SEAM)


def _from_seam(space: Space, part: Polygon) -> np.ndarray | None:
    """A guide that lies in a seam of the space, moved to the edge of *part* beside it; one that goes all
    round a shape to the middle of what is to lie round it, as wide as told. None for any other."""
    guide, edge, wide = np.array(space.guide), space.polygon.boundary, space.guide_width
    if not in_seam(guide, edge):
        return None
    spots = shapely.points(resample(guide, STATION))
    near = AT_CORNER * part.boundary.distance(edge) + IN_SEAM
    rings = (part.exterior, *part.interiors)
    beside = [shapely.distance(spots, each) <= near for each in rings]
    k = int(np.argmax([each.sum() for each in beside]))
    if k and closes(guide):
        room = min(rings[k].distance(each) for j, each in enumerate(rings) if j != k)
        half = min(wide or room, room) / 2
        return _all_round(Polygon(rings[k]), half)
    along = shapely.line_locate_point(rings[k], spots[beside[k]])
    made = tidy(shapely.get_coordinates(shapely.line_interpolate_point(rings[k], along)), 1e-6)
    return made if len(made) > 1 and length(made) >= 2 * STATION else None


def _all_round(shape: Polygon, half: float) -> np.ndarray:
    """A line (n, 2) all round *shape*, *half* inches from it. Corners that stand out are rounded, so that
    nothing is turned on the spot; dips are passed over, where what lies on either side would meet. It
    begins where it is straightest: nothing begins in a dip or at a point."""
    ring = shape.buffer((1 + DIP) * half).buffer(-DIP * half).exterior
    line = resample(shapely.get_coordinates(ring), min(STATION, half), closed=True)
    near = max(1, round(half / STATION))
    ways = np.roll(line, -near, axis=0) - line, line - np.roll(line, near, axis=0)
    turn = np.abs(np.angle((ways[0] @ [1, 1j]) / (ways[1] @ [1, 1j])))
    begin = int(np.round(turn, 3).argmin())
    line = np.roll(line, -begin, axis=0)
    return np.vstack([line, line[:1]])


def at_edge(line: np.ndarray, part: Polygon) -> int:
    """On which side of a guide at the edge of *part* the part lies: 1 where that is the side towards which y
    grows from x, -1 the other; 0 for a guide in the open."""
    way = np.gradient(line, axis=0)
    way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    aside = np.column_stack([-way[:, 1], way[:, 0]])[1:-1]
    if len(aside) < 1:
        return 0
    room = part.buffer(1e-6)
    shapely.prepare(room)
    within = [
        float(np.mean(shapely.contains_xy(room, *(line[1:-1] + aside * side * 2 * HAIR).T)))
        for side in (1, -1)
    ]
    if min(within) > 0.5:
        return 0
    return 1 if within[0] > within[1] else -1


def strip_along(space: Space, part: Polygon) -> Strip | None:
    """The strip along the guide of *space* within *part*; None where it has none there."""
    line = guide_within(space, part)
    if line is None:
        return None
    return space.fact(
        ("guided", shapely.to_wkb(part)), lambda: _strip(line, part, space.guide_width)
    )


def _strip(line: np.ndarray, part: Polygon, wide: float) -> Strip:
    long = float(np.hypot(*np.diff(line, axis=0).T).sum())
    line = resample(line, max(STATION, long / MOST_STATIONS))
    way = np.gradient(line, axis=0)
    way = gaussian_filter1d(way, 1.2, axis=0, mode="nearest")
    way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    aside = np.column_stack([-way[:, 1], way[:, 0]])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    along += np.linspace(0, 1e-9, len(along))
    turn = np.gradient(np.unwrap(np.arctan2(way[:, 1], way[:, 0])), along)
    rails = []
    edge = at_edge(line, part)
    # Upon the edge itself one sees nothing but the edge.
    line = line + aside * edge * 2 * HAIR
    for side in (-1, 1):
        far = seen(line, aside * side, part)
        if edge:
            # Along a seam all of it lies on one side.
            far = far * (side == edge)
        if wide > 0:
            far = np.minimum(far, wide if edge else wide / 2)
        inner = turn * side > 1e-6
        far = np.where(inner, np.minimum(far, TIGHT / np.maximum(np.abs(turn), 1e-6)), far)
        # Gradually: a hand does not leap where the edge does.
        soft = gaussian_filter1d(minimum_filter1d(far, 5, mode="nearest"), 1.6, mode="nearest")
        rails.append(line + aside * side * np.minimum(soft, far)[:, None])
    return _within(Strip(rails[0], rails[1], along), part)


def _within(strip: Strip, part: Polygon) -> Strip:
    """The strip less what of its ends looks out of *part*: where a guide comes to an edge that is not square
    to it there is no room all across."""
    legs = shapely.linestrings(np.stack([strip.left, strip.right], axis=1))
    fine = np.flatnonzero(shapely.covers(part.buffer(HAIR), legs))
    if len(fine) < LEAST_STATIONS or fine[-1] - fine[0] + 1 == len(legs):
        return strip
    return strip.part(int(fine[0]), int(fine[-1]) + 1)


def seen(foot: np.ndarray, look: np.ndarray, room: Polygon) -> np.ndarray:
    """How far (n,) one sees from each *foot* (n, 2) along *look* (n, 2) to the edge of *room*."""
    rings = [shapely.get_coordinates(ring) for ring in (room.exterior, *room.interiors)]
    a = np.concatenate([ring[:-1] for ring in rings])
    b = np.concatenate([ring[1:] for ring in rings])
    side = b - a
    from_foot = a[None] - foot[:, None]
    cross = look[:, None, 0] * side[None, :, 1] - look[:, None, 1] * side[None, :, 0]
    safe = np.where(np.abs(cross) < 1e-12, 1.0, cross)
    far = (from_foot[..., 0] * side[None, :, 1] - from_foot[..., 1] * side[None, :, 0]) / safe
    share = (from_foot[..., 0] * look[:, None, 1] - from_foot[..., 1] * look[:, None, 0]) / safe
    hit = (np.abs(cross) > 1e-12) & (far > 1e-6) & (share >= -1e-9) & (share <= 1 + 1e-9)
    found = np.where(hit, far, np.inf).min(axis=1)
    return np.where(np.isfinite(found), found, 0.0)


def level_lines(
    guide: np.ndarray, part: Polygon, apart: float, beyond: int
) -> tuple[float, list[tuple[float, np.ndarray, np.ndarray]]]:
    """Lines beside *guide* (n, 2), about *apart* inches from each other, that reach across *part*, and how
    far apart they are: for each its place from the first, its points (m, 2), and how far along the guide
    each point lies. *beyond* of them lie outside on either side."""
    guide = resample(guide, STATION)
    x0, y0, x1, y1 = part.bounds
    far = math.hypot(x1 - x0, y1 - y0)
    first, last = guide[0] - guide[min(3, len(guide) - 1)], guide[-1] - guide[-min(4, len(guide))]
    ends = [way / max(float(np.hypot(*way)), 1e-9) * far for way in (first, last)]
    line = shapely.linestrings(np.vstack([guide[0] + ends[0], guide, guide[-1] + ends[1]]))
    spots = shapely.points(shapely.get_coordinates(shapely.segmentize(part, 1.0)))
    off = [line.distance(p) * _side(line, p) for p in spots]
    low, high = min(*off, 0.0), max(*off, 0.0)
    count = max(1, round((high - low) / apart))
    step = (high - low) / count
    found = []
    for j in range(-beyond, count + beyond):
        place = low + step * (j + 0.5)
        made = shapely.offset_curve(line, place, quad_segs=8, join_style="round")
        for piece in shapely.get_parts(made):
            points = shapely.get_coordinates(piece)
            if len(points) < 2:
                continue
            points = resample(points, min(0.15, apart / 3))
            x = shapely.line_locate_point(line, shapely.points(points))
            found.append((place - low, points if x[-1] >= x[0] else points[::-1], np.sort(x)))
    return step, found


def level_rings(
    guide: np.ndarray, part: Polygon, apart: float, beyond: int
) -> tuple[float, list[tuple[float, np.ndarray, np.ndarray]]]:
    """The same beside a *guide* that closes: rings inside and outside it, each from where the guide
    begins."""
    core = Polygon(guide)
    ring = shapely.linestrings(guide)
    spots = shapely.points(shapely.get_coordinates(shapely.segmentize(part, 1.0)))
    off = shapely.distance(ring, spots) * np.where(shapely.contains(core, spots), -1, 1)
    low, high = min(float(off.min()), 0.0), max(float(off.max()), 0.0)
    count = max(1, round((high - low) / apart))
    step = (high - low) / count
    ray, sign = _across(guide), 1 if core.exterior.is_ccw else -1
    found = []
    for j in range(-beyond, count + beyond):
        place = low + step * (j + 0.5)
        # Round in dips as at points: a row cannot turn on the spot.
        ring_of = core.buffer(place + ROUNDED * step, quad_segs=8).buffer(
            -ROUNDED * step, quad_segs=8
        )
        for piece in polygons(ring_of):
            points = shapely.get_coordinates(orient(piece, sign).exterior)
            points = resample(points, min(0.15, apart / 3), closed=True)
            begin = int(shapely.distance(ray, shapely.points(points)).argmin())
            points = np.roll(points, -begin, axis=0)
            # As many waves on each: what lies nearest on the guide leaps where it has a dip.
            x = np.linspace(0, ring.length, len(points) + 1)
            found.append((place - low, np.vstack([points, points[:1]]), x))
    return step, found


def opened(part: Polygon, guide: np.ndarray, wide: float) -> Polygon:
    """*part* cut open, so many inches wide, across where a *guide* that closes begins: rows round
    something are turned there."""
    cut = part.difference(_across(guide).buffer(wide / 2, cap_style="flat"))
    return max(polygons(cut), key=lambda each: each.area, default=part)


def _across(guide: np.ndarray) -> LineString:
    """Square across the beginning of a guide that closes: from the middle of what it goes round outwards."""
    core = Polygon(guide)
    way = guide[1] - guide[-2]
    out = np.array([way[1], -way[0]]) / max(float(np.hypot(*way)), 1e-9)
    middle = shapely.get_coordinates(core.centroid)[0]
    if out @ (guide[0] - middle) < 0:
        out = -out
    inward = float(out @ (guide[0] - middle))
    return LineString([guide[0] - out * inward, guide[0] + out * FAR])


def _side(line, spot) -> float:
    at = line.project(spot)
    one, two = line.interpolate(max(0.0, at - 0.05)), line.interpolate(at + 0.05)
    cross = (two.x - one.x) * (spot.y - one.y) - (two.y - one.y) * (spot.x - one.x)
    return 1.0 if cross >= 0 else -1.0
