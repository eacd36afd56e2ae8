"""A line that leans into the corners it would leave open, as a hand stretches its turn there."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.curves import bezier, thin
from chorograph_core.designs.judging import sharp_corners

SHARP = 120
"""Corners of fewer degrees are reached into."""
NEAR, FAR = 1.0, 2.2
"""Spacings from a corner within which a line reaches it, and beyond which leaning would not."""
TO = 0.75
"""Spacings from the corner to which it leans."""
WIDE = (2.0, 3.0)
"""Half the stretch that leans: spacings at least, and ways it leans."""
AT_END = 0.5
"""Spacings from the end of a line within which it goes on rather than leans."""
FINE = 12
"""Points to a spacing along what leans."""
THINNED = 0.0012
"""Inches by which points of what leans may be left out again."""


def into_corners(line: np.ndarray, part: Polygon, spacing: float, over: float) -> np.ndarray:
    """*line* (n, 2), leaning into each sharp corner of *part* from which it stays away farther than a
    *spacing*, as long as it then stays within *over* inches of *part* and crosses itself no more than
    before. Where it ends nearest to one, it goes on to it."""
    room = part.buffer(over)
    shapely.prepare(room)
    for corner in sharp_corners(part, SHARP):
        whole = shapely.linestrings(line)
        spot = shapely.points(corner)
        away = float(whole.distance(spot))
        if not NEAR * spacing < away < FAR * spacing:
            continue
        leaning = _leaning(line, whole, corner, away - TO * spacing, spacing)
        now = shapely.linestrings(leaning)
        if room.covers(now) and (now.is_simple or not whole.is_simple):
            line = leaning
    return line


def _leaning(
    line: np.ndarray, whole: shapely.LineString, corner: np.ndarray, by: float, spacing: float
) -> np.ndarray:
    """The line drawn towards a corner *by* so many inches where it comes nearest to it; gone on with to
    there, if that is at its end."""
    at = whole.project(shapely.points(corner))
    if at > whole.length - AT_END * spacing:
        return _gone_on(line, corner, by)
    if at < AT_END * spacing:
        return _gone_on(line[::-1], corner, by)[::-1]
    half = max(WIDE[0] * spacing, WIDE[1] * by)
    half = min(half, at, whole.length - at)
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    low, high = np.searchsorted(along, (at - half, at + half))
    steps = np.linspace(at - half, at + half, 2 * max(4, math.ceil(half / spacing * FINE)) + 1)
    spots = shapely.get_coordinates(shapely.line_interpolate_point(whole, steps))
    way = corner - spots[len(spots) // 2]
    way *= by / np.hypot(*way)
    share = np.cos(np.linspace(-math.pi / 2, math.pi / 2, len(steps))) ** 2
    return np.vstack([line[:low], thin(spots + share[:, None] * way, THINNED), line[high:]])


def _gone_on(line: np.ndarray, corner: np.ndarray, by: float) -> np.ndarray:
    """The line, on from its end towards a *corner* by so many inches, as it came."""
    end = line[-1]
    way = (corner - end) / max(math.dist(corner, end), 1e-9)
    back = line[max(len(line) - 4, 0)]
    came = (end - back) / max(math.dist(end, back), 1e-9)
    return np.vstack(
        [line, bezier(end, end + came * by / 3, end + way * by * 2 / 3, end + way * by)[1:]]
    )
