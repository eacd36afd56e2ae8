"""Meander: one wandering line, even gaps, no crossing."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.ops import split

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.doors import corner_doors
from chorograph_core.designs.engine.leaning import leaning
from chorograph_core.designs.engine.pockets import pocketed
from chorograph_core.designs.engine.tight import least_radius, without_kinks
from chorograph_core.designs.engine.wandering import grown, round_branches, rounded, settled
from chorograph_core.designs.linework import Linework, Run, size_of_hand
from chorograph_core.designs.settings import (
    Settings,
    length_setting,
    margin_setting,
    refuse_thousands,
)
from chorograph_core.designs.space import polygons
from chorograph_core.measure import format_inches

LOOKS_AT_DOORS = 3
"""How long a line between two doors is relaxed: a route asks for many of them."""
MOST = 40_000
"""Turns in a zone: a field of 90″ with gaps of half an inch holds 32,000."""
HAIR = 0.05
"""Inches of the margin that a line may take where there is a neck with no room for it and back."""
TRIES = 3
"""Trees that are tried where a line cannot be had without a crossing."""
TRUE = 0.95
"""Of the gap that is asked for: round fingers are as wide on the whole as square ones so much closer."""


@dataclass(frozen=True)
class MeanderSettings(Settings):
    """How far the line keeps from itself and from the seam."""

    gap: float = length_setting("Gap", 0.5, 0.125, 4.0, help="Distance between neighbouring lines.")
    margin: float = margin_setting()


class Meander(Design[MeanderSettings]):
    """A line that goes round the branches of a tree grown through the zone, then settles."""

    key = "meander"
    name = "Meander"
    family = "freehand"
    stroke = "wander with even gaps; comes back to where it began, can be entered anywhere"
    divisible = True
    undirected = True
    settings_type = MeanderSettings

    def fits(self, space, settings=None):
        """Two gaps must have room across."""
        s = self.clean(settings)
        _refuse_thousands(space, s)
        parts = space.inset(s.margin + s.gap * 0.75)
        if not parts:
            return Fit(0.15, ("narrower than two gaps: echo instead",))
        return Fit(
            0.8,
            (f"covers {space.polygon.area:.0f} sq in with gaps of {format_inches(s.gap, 16)}",),
        )

    def spacing(self, space, settings=None):
        """As set."""
        return self.clean(settings).gap

    def draw(self, space, settings=None, seed=0, doorways=None):
        """A closed run for each part; between two doorways, one open run from one to the other."""
        s = self.clean(settings)
        _refuse_thousands(space, s)
        parts = space.inset(s.margin)
        hand, gap = size_of_hand(2 * s.gap), TRUE * s.gap
        if doorways and len(parts) == 1 and None not in doorways:
            start, stop = (np.asarray(door, float) for door in doorways)
            for attempt in range(TRIES):
                way = wander_between(parts[0], gap, seed + 1000 * attempt, start, stop)
                if way is not None:
                    return Linework((Run(way, hand),), kept_doorways=True)
        slack = min(HAIR, s.margin / 2)
        lines = [line for part in parts for line in wander(part, gap, seed, slack)]
        made = Linework(tuple(Run(line, hand, closed=True) for line in lines))
        least = least_radius(s.gap)
        made = pocketed(made, space, s.gap, s.margin, least)
        return leaning(made, space, s.gap, s.margin, least)

    def doors(self, space, settings=None):
        """The corners, when the zone is in one part."""
        parts = space.inset(self.clean(settings).margin)
        return corner_doors(parts[0]) if len(parts) == 1 else np.empty((0, 2))


def _refuse_thousands(space, s: MeanderSettings) -> None:
    refuse_thousands(space.polygon.area / s.gap**2, MOST, "Gap", "gap", "turns")


def wander(part: Polygon, gap: float, seed: int, slack: float = 0.0) -> list[np.ndarray]:
    """Closed lines (n, 2) through *part* that keep about *gap* inches from themselves; where it has no room
    for two beside each other, as in a neck, so many inches of *slack* round it.

    One as a rule; more where holes leave no way from one piece of the zone to the next.
    """
    for attempt in range(2 * TRIES if slack else TRIES):
        over = slack if attempt >= TRIES else 0.0
        points, pairs = _grown(shapely.to_wkb(part), gap, seed + 1000 * (attempt % TRIES))
        bodies = round_branches(points, pairs, part, gap)
        lines = [settled(shapely.get_coordinates(body.exterior)[:-1], part, gap, slack=over)
                 for body in bodies]  # fmt: skip
        good = [_without_kinks(rounded(line, part, gap, True), part, gap, True)
                for line in lines if line is not None]  # fmt: skip
        if good and len(good) == len(bodies):
            return good
    around = _round_the_edge(part)
    return [] if around is None else [around]


def wander_between(
    part: Polygon, gap: float, seed: int, start: np.ndarray, stop: np.ndarray
) -> np.ndarray | None:
    """An open line (n, 2) from *start* to *stop* on the edge of *part*; None where none is found.

    The way through the tree from one door to the other parts the zone in two sides; branches on
    its left become fingers of the right side, branches on its right fingers of the left. The line
    is where the two sides meet.
    """
    points, pairs = _grown(shapely.to_wkb(part), gap, seed)
    if not len(pairs):
        return None
    first = int(np.argmin(np.hypot(*(points - start).T)))
    last = int(np.argmin(np.hypot(*(points - stop).T)))
    if first == last:
        return None
    spine = _way(len(points), pairs, first, last)
    on_spine = {frozenset(pair) for pair in itertools.pairwise(spine)}
    side = np.array([pair for pair in pairs.tolist() if frozenset(pair) not in on_spine])
    middle = points[spine]
    line = np.vstack([start + _unit(start - middle[0]) * 0.05, middle,
                      stop + _unit(stop - middle[-1]) * 0.05])  # fmt: skip
    right = _right_of(part, line)
    if right is None:
        return None
    if len(side):
        legs = shapely.linestrings(points[side.reshape(-1, 2)])
        over = shapely.contains(right.buffer(1e-6), shapely.line_interpolate_point(legs, 0.5,
                                                                              normalized=True))  # fmt: skip
        fat = [shapely.union_all(legs[k]).buffer(gap * 0.42, quad_segs=4) for k in (~over, over)]
        right = right.union(fat[0]).difference(fat[1]).intersection(part)
    sides = polygons(right)
    if not sides:
        return None
    meeting = sides[0].boundary.difference(part.boundary.buffer(1e-5))
    meeting = shapely.line_merge(meeting) if meeting.geom_type == "MultiLineString" else meeting
    longest = max(shapely.get_parts(meeting), key=shapely.length, default=None)
    if longest is None or longest.length < 1.5 * gap:
        return None
    drawn = shapely.get_coordinates(longest)
    if np.hypot(*(drawn[0] - start)) > np.hypot(*(drawn[-1] - start)):
        drawn = drawn[::-1]
    if max(np.hypot(*(drawn[0] - start)), np.hypot(*(drawn[-1] - stop))) > 0.75 * gap:
        return None
    found = settled(np.vstack([start, drawn, stop]), part, gap, closed=False, looks=LOOKS_AT_DOORS)
    if found is None:
        return None
    return _without_kinks(rounded(found, part, gap, False), part, gap, False)


def _without_kinks(line: np.ndarray, part: Polygon, gap: float, closed: bool) -> np.ndarray:
    return without_kinks(line, least_radius(gap / TRUE), part, HAIR, closed)


@lru_cache(maxsize=256)
def _grown(shape: bytes, gap: float, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Sites (n, 2) and the branches of a tree between them, index pairs (m, 2); none in no room.

    Kept, since one zone's line is drawn between many pairs of doors over the same tree.
    """
    return grown(shapely.from_wkb(shape), gap, np.random.default_rng(seed))


def _right_of(part: Polygon, line: np.ndarray):
    """The pieces of *part* to the right of *line* as one walks along it (y down: clockwise)."""
    pieces = shapely.get_parts(split(part, shapely.linestrings(line)))
    if len(pieces) < 2:
        return None
    ahead = np.diff(line, axis=0)
    aside = np.column_stack([-ahead[:, 1], ahead[:, 0]])
    aside /= np.maximum(np.hypot(*aside.T), 1e-12)[:, None]
    spots = (line[:-1] + line[1:]) / 2 + aside * 1e-3
    hits = [shapely.contains_xy(piece, spots[:, 0], spots[:, 1]).sum() for piece in pieces]
    chosen = [piece for piece, hit in zip(pieces, hits, strict=True) if hit]
    return shapely.union_all(chosen) if chosen and len(chosen) < len(pieces) else None


def _way(count: int, pairs: np.ndarray, first: int, last: int) -> list[int]:
    """The one way through a tree from node *first* to node *last*."""
    near: dict[int, list[int]] = {k: [] for k in range(count)}
    for a, b in pairs.tolist():
        near[a].append(b)
        near[b].append(a)
    came, queue = {first: first}, [first]
    for node in queue:
        for beyond in near[node]:
            if beyond not in came:
                came[beyond] = node
                queue.append(beyond)
    back = [last]
    while back[-1] != first:
        back.append(came[back[-1]])
    return back[::-1]


def _unit(vector: np.ndarray) -> np.ndarray:
    return vector / max(float(np.hypot(*vector)), 1e-12)


def _round_the_edge(part: Polygon) -> np.ndarray | None:
    """Where no meander has room: once round inside the edge."""
    ring = shapely.get_coordinates(part.exterior)
    return ring if len(ring) > 3 and part.exterior.length > 0.6 else None
