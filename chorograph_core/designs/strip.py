"""A strip: a centre line and a width along it, found in any zone that is longer than wide.

The zone's edge is split at two ends (a short side or a tip) into two rails, which are matched (`rails.py`).
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import sides_of_outline
from chorograph_core.designs.rails import (
    DEEPEST,
    MOST_STATIONS,
    Strip,
    bow_of,
    in_step,
    length_of,
    matched_by_point,
    mirrored,
)
from chorograph_core.designs.space import Space
from chorograph_core.designs.symmetry import mirror_axes, off_axis
from chorograph_core.zones.places import is_wedge

RING_STATIONS = 420
"""Of a ring: it turns corners on its way."""
CORNERED = 0.3
"""The same for a ring, in widths: its corners stay corners."""
CORNER = np.radians(28)
CAP, ROUND = np.radians(120), np.radians(60)
"""How far a side turns without a corner to be the round end of a petal, and of that what its end is."""
DENTLESS = 0.99
RATHER, ALIKE = 2.0, 0.2
"""How many times better a strip counts that lies as its zone does before the finish takes from it (a square
two inches wide loses a fifth of one side), and radians within which it does."""
SLANTED = 0.04
"""By how much a side may differ from the one across, or an angle from a right one."""
ON_AXIS = 0.05
"""Inches from its axis at which an end of a wedge lies on it."""

End = tuple[float, float]
"""From where to where on the outline an end of a strip reaches."""


def strip_of(space: Space, part: Polygon) -> Strip:
    """The strip in a *part* of *space*, found once whichever design asks first."""
    return space.fact(("strip", shapely.to_wkb(part)), lambda: strip(part, _lying(space, part)))


def _lying(space: Space, part: Polygon) -> float | None:
    """The direction of the strip that *part* would be if the finish took nothing from its zone; None where it
    takes nothing."""
    if space.cut_from is None:
        return None
    whole = replace(space, polygon=space.cut_from, cut_from=None, _facts={})
    inside = whole.inset(round(float(part.exterior.distance(space.polygon.exterior)), 6))
    lane = strip(inside[0] if inside else space.cut_from)
    return _heading(*((lane.left[k] + lane.right[k]) / 2 for k in (0, -1)))


def _heading(one: np.ndarray, two: np.ndarray) -> float:
    """The direction from one point to another, radians, folded to a half turn."""
    return float(np.arctan2(two[1] - one[1], two[0] - one[0]) % np.pi)


def strip(polygon: Polygon, lying: float | None = None) -> Strip:
    """Find the strip in *polygon*: from the better of all pairs of ends, rather one that lies in the
    direction *lying* (radians).

    The score of a pair is (mean rail length)² / area, made less by rails of unequal length, by
    corners in the rails and by slanting ends: that is how long and how straight the strip would be.
    """
    ring = shapely.get_coordinates(polygon.exterior.simplify(0.01))[:-1]
    if not polygon.exterior.is_ccw:
        ring = ring[::-1]
    sides = np.hypot(*(np.roll(ring, -1, axis=0) - ring).T)
    at = np.concatenate([[0.0], np.cumsum(sides)])
    total = at[-1]
    turn = _turns(ring)
    corners = np.flatnonzero(np.abs(turn) > CORNER)
    slanted = _parallelogram(ring, corners)
    if slanted is not None:
        return slanted
    ends = _ends(ring, at, corners, total) + _caps(at, turn, corners)
    ends = _no_heads(ring, at, ends)
    if is_wedge(sides_of_outline(polygon)[:-1]):
        ends = _on_axis(polygon, ring, at, ends)
    best, choice = -1.0, (ends[0], ends[-1])
    for i, one in enumerate(ends):
        for two in ends[i + 1 :]:
            score = _score(one, two, at, turn, total, polygon.area)
            if lying is not None and score > 0:
                tips = (_spot(ring, at, (a + b) / 2) for a, b in (one, two))
                off = abs(_heading(*tips) - lying) % np.pi
                score *= RATHER if min(off, np.pi - off) < ALIKE else 1.0
            if score > best + 1e-9:
                best, choice = score, (one, two)
    (a0, a1), (b0, b1) = choice
    left = _stretch(ring, at, a1, b0)
    right = _stretch(ring, at, b1, a0)[::-1]
    # From tip to tip of what has no dent, and where they are mirror images, both turn in the same place.
    pointed = a1 - a0 < 1e-9 and b1 - b0 < 1e-9
    convex = polygon.area > DENTLESS * polygon.convex_hull.area
    step = (pointed and convex) or mirrored(left, right)
    matched = in_step(left, right) if step else matched_by_point(left, right)
    first, last = (_stretch(ring, at, *end) if end[1] > end[0] else None for end in choice)
    return replace(matched, bows=(bow_of(None if first is None else first[::-1]), bow_of(last)))


def _no_heads(ring: np.ndarray, at: np.ndarray, ends: list[End]) -> list[End]:
    """The *ends* without those that are too deep for one, as long as there are two."""
    flat = [
        end for end in ends if end[1] - end[0] < 1e-9 or _depth(_stretch(ring, at, *end)) < DEEPEST
    ]
    return flat if len(flat) > 1 else ends


def _on_axis(polygon: Polygon, ring: np.ndarray, at: np.ndarray, ends: list[End]) -> list[End]:
    """Those of the *ends* of a wedge that its axis goes through, as long as there are two."""
    for axis in mirror_axes(polygon):
        through = [
            e for e in ends if off_axis(polygon, axis, _spot(ring, at, sum(e) / 2)) < ON_AXIS
        ]
        if len(through) > 1:
            return through
    return ends


def _depth(end: np.ndarray) -> float:
    """How deep an end (n, 2) is against the straight way across it."""
    wide = float(np.hypot(*(end[-1] - end[0])))
    way = (end[-1] - end[0]) / max(wide, 1e-9)
    aside = (end - end[0]) @ np.array([-way[1], way[0]])
    return float(np.abs(aside).max()) / max(wide, 1e-9)


def ring_of(space: Space, part: Polygon) -> Strip:
    """The strip all round a *part* of *space* with a hole, found once whichever design asks first."""
    return space.fact(("ring", shapely.to_wkb(part)), lambda: ring_strip(part))


def ring_strip(part: Polygon) -> Strip:
    """The strip all round a ring, from the middle of its longest outer side to where it began."""
    outer = shapely.get_coordinates(part.exterior.simplify(0.01))
    inner = shapely.get_coordinates(
        max(part.interiors, key=lambda ring: ring.length).simplify(0.01)
    )
    outer = outer if part.exterior.is_ccw else outer[::-1]
    sides = np.hypot(*np.diff(outer, axis=0).T)
    k = int(np.argmax(np.round(sides, 3)))
    begin = (outer[k] + outer[k + 1]) / 2
    rails = []
    for ring in (outer, inner):
        closed = shapely.linearrings(ring)
        line = ring if shapely.is_ccw(closed) else ring[::-1]
        at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
        start = float(shapely.line_locate_point(shapely.linestrings(line), shapely.points(begin)))
        rails.append(_stretch(line[:-1], at, start, start))
    long = (length_of(rails[0]) + length_of(rails[1])) / 2
    wide = part.area / max(long, 1e-9)
    near = max(1, round(CORNERED * wide * RING_STATIONS / max(long, 1e-9)))
    return matched_by_point(rails[0], rails[1], RING_STATIONS, near)


def _parallelogram(ring: np.ndarray, corners: np.ndarray) -> Strip | None:
    """The strip along the longer two sides of a slanted parallelogram, across it as it slants; None for any
    other shape, squares and rectangles too."""
    if len(ring) != 4 or len(corners) != 4:
        return None
    sides = np.roll(ring, -1, axis=0) - ring
    inches = np.hypot(*sides.T)
    if np.abs(sides[0] + sides[2]).max() > SLANTED * inches.max():
        return None
    cosine = abs(float(sides[0] @ sides[1])) / max(float(inches[0] * inches[1]), 1e-9)
    long, short = max(inches[:2]), min(inches[:2])
    if cosine < SLANTED or long < short * (1 + SLANTED):
        return None
    k = int(np.argmax(inches[:2]))
    count = int(np.clip(long / 0.25, 16, MOST_STATIONS))
    share = np.linspace(0, 1, count + 1)[:, None]
    left = ring[k] * (1 - share) + ring[(k + 1) % 4] * share
    right = ring[(k + 3) % 4] * (1 - share) + ring[(k + 2) % 4] * share
    return Strip(left, right, np.linspace(0, long, count + 1))


def _turns(ring: np.ndarray) -> np.ndarray:
    before = ring - np.roll(ring, 1, axis=0)
    after = np.roll(ring, -1, axis=0) - ring
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    return np.arctan2(cross, (before * after).sum(axis=1))


def _ends(ring, at, corners, total) -> list[End]:
    """Candidate ends as (from, to) positions on the ring: sides between corners, and corners."""
    if len(corners) < 2:
        far = _farthest(ring)
        return [(float(at[i]), float(at[i])) for i in far]
    if len(corners) > 14:
        sharp = np.argsort(-np.abs(_turns(ring)[corners]))[:14]
        corners = np.sort(corners[sharp])
    found = []
    for k, corner in enumerate(corners):
        following = corners[(k + 1) % len(corners)]
        stop = at[following] if following > corner else at[following] + total
        found.append((float(at[corner]), float(stop)))
        found.append((float(at[corner]), float(at[corner])))
    return found


def _caps(at, turn, corners) -> list[End]:
    """The middles of sides that turn round without a corner, as of a petal, as ends like those of `_ends`."""
    found = []
    for corner, following in zip(corners, np.roll(corners, -1), strict=True):
        inner = (np.arange(corner + 1, following + len(turn) * (following <= corner))) % len(turn)
        gone = np.cumsum(turn[inner])
        if not len(inner) or gone[-1] < CAP or len(corners) < 2:
            continue
        where = at[inner] + at[-1] * (inner < corner)
        # At a point half of its turn is gone: from either corner it is as far.
        halfway = gone - turn[inner] / 2
        first, last = np.interp(gone[-1] / 2 + np.array([-0.5, 0.5]) * ROUND, halfway, where)
        found.append((float(first % at[-1]), float(first % at[-1] + last - first)))
    return found


def _farthest(ring: np.ndarray) -> tuple[int, int]:
    apart = np.hypot(*(ring[:, None] - ring[None, :]).transpose(2, 0, 1))
    i, j = np.unravel_index(int(np.argmax(np.round(apart, 6))), apart.shape)
    return int(i), int(j)


def _score(one, two, at, turn, total, area) -> float:
    first = (two[0] - one[1]) % total
    second = (one[0] - two[1]) % total
    span = (one[1] - one[0]) + (two[1] - two[0])
    if min(first, second) < 1e-6 or abs(first + second + span - total) > 1e-6 * total:
        return -1.0
    mean = (first + second) / 2
    balance = min(first, second) / max(first, second)
    bends = 0.0
    for start, reach in ((one[1], first), (two[1], second)):
        gone = (at[:-1] - start) % total
        inside = (gone > 1e-6) & (gone < reach - 1e-6)
        bends += np.abs(turn[inside]).sum()
    skew = _skew(one, at, turn) + _skew(two, at, turn)
    worse = 0.8 * bends / (np.pi / 2) + skew / (np.pi / 4)
    return mean * mean / area * balance**0.5 * float(np.exp(-worse))


def _skew(end, at, turn) -> float:
    """How far an end side is from square to the strip: half the difference of its two corners."""
    if end[1] - end[0] < 1e-9:
        return 0.0
    corners = [int(np.argmin(np.abs(at[:-1] - s % at[-1]))) for s in end]
    return abs(turn[corners[0]] - turn[corners[1]]) / 2


def _stretch(ring, at, start, stop) -> np.ndarray:
    total = at[-1]
    # From a place to itself is once round.
    reach = (stop - start) % total or total
    gone = (at[:-1] - start) % total
    inner = np.flatnonzero((gone > 1e-6) & (gone < reach - 1e-6))
    inner = inner[np.argsort(gone[inner])]
    return np.array([_spot(ring, at, start), *ring[inner], _spot(ring, at, start + reach)])


def _spot(ring, at, s: float) -> np.ndarray:
    """The point (2,) at *s* on the ring."""
    closed = np.vstack([ring, ring[:1]])
    return np.array([np.interp(s % at[-1], at, closed[:, k]) for k in (0, 1)])
