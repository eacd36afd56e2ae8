"""Meander: one wandering line, even gaps, no crossing."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import minimum_spanning_tree
from scipy.spatial import Delaunay, QhullError, cKDTree
from shapely.geometry import Polygon
from shapely.ops import split

from chorograph_core.designs.contract import Design, Fit, Linework, Run, size_of_hand
from chorograph_core.designs.curves import resample, smooth, thin
from chorograph_core.designs.doors import corner_doors
from chorograph_core.designs.keeping import inside
from chorograph_core.designs.settings import Settings, length_setting, margin_setting
from chorograph_core.designs.space import polygons
from chorograph_core.designs.wander import sites
from chorograph_core.measure import format_inches

STEP = 0.3
"""Distance between the points that settle, in gaps."""
MOST = 9000
"""Sites of a tree: a field of 90″ with gaps of half an inch, and no more than that."""
ROUNDS = 11
"""Relaxing steps. More changes nothing that an eye would notice."""


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
    settings_type = MeanderSettings

    def fits(self, space, settings=None):
        """Two gaps must have room across."""
        s = self.clean(settings)
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
        parts = space.inset(s.margin)
        hand = size_of_hand(2 * s.gap)
        if doorways and len(parts) == 1 and None not in doorways:
            start, stop = (np.asarray(door, float) for door in doorways)
            line = wander_between(parts[0], s.gap, seed, start, stop)
            if line is not None:
                return Linework((Run(line, hand),), kept_doorways=True)
        lines = [line for part in parts for line in wander(part, s.gap, seed)]
        return Linework(tuple(Run(thin(line, 0.004), hand, closed=True) for line in lines))

    def doors(self, space, settings=None):
        """The corners, when the zone is in one part."""
        parts = space.inset(self.clean(settings).margin)
        return corner_doors(parts[0]) if len(parts) == 1 else np.empty((0, 2))


def wander(part: Polygon, gap: float, seed: int) -> list[np.ndarray]:
    """Closed lines (n, 2) through *part* that keep about *gap* inches from themselves.

    One as a rule; more where holes leave no way from one piece of the zone to the next.
    """
    points, pairs = _grown(shapely.to_wkb(part), gap, seed)
    bodies: list[Polygon] = []
    if len(pairs):
        bodies = polygons(_legs(points, pairs).buffer(gap * 0.5, quad_segs=6).intersection(part))
    if not bodies:
        around = _round_the_edge(part)
        return [] if around is None else [around]
    large = [body for body in bodies if body is bodies[0] or body.area > gap * gap]
    return [_around(body, part, gap) for body in large]


def _around(body: Polygon, part: Polygon, gap: float) -> np.ndarray:
    """The line round a branching *body*, settled within *part*."""
    ring = shapely.get_coordinates(body.exterior)
    settled = _settle(resample(ring, gap * STEP, closed=True), part, gap)
    closed = smooth(np.vstack([settled, settled[:1]]), closed=True)
    if shapely.is_simple(shapely.linestrings(closed)) and inside(closed, part):
        return closed
    return ring


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
    drawn = resample(np.vstack([start, drawn, stop]), gap * STEP)
    settled = thin(smooth(_settle(drawn, part, gap, closed=False)), 0.004)
    if shapely.is_simple(shapely.linestrings(settled)) and inside(settled, part):
        return settled
    return drawn if inside(drawn, part) else None


@lru_cache(maxsize=256)
def _grown(shape: bytes, gap: float, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Sites (n, 2) and the branches of a tree between them, index pairs (m, 2); none in no room.

    Kept, since one zone's line is drawn between many pairs of doors over the same tree.
    """
    part, rng = shapely.from_wkb(shape), np.random.default_rng(seed)
    core = part.buffer(-gap * 0.45)
    lobes = [lobe for lobe in polygons(core) if lobe.area > gap * gap * 0.3]
    if not lobes:
        return np.empty((0, 2)), np.empty((0, 2), int)
    points = np.vstack([sites(lobe, 2.05 * gap, rng, most=MOST) for lobe in lobes])
    return points, _tree(points, part.buffer(-gap * 0.3), rng)


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


def _legs(points: np.ndarray, pairs: np.ndarray):
    return shapely.multilinestrings(shapely.linestrings(points[pairs]))


def _unit(vector: np.ndarray) -> np.ndarray:
    return vector / max(float(np.hypot(*vector)), 1e-12)


def _tree(points: np.ndarray, room, rng: np.random.Generator) -> np.ndarray:
    """A spanning tree through *points* with random preference: index pairs (n - 1, 2)."""
    n = len(points)
    if n < 2:
        return np.empty((0, 2), int)
    try:
        mesh = Delaunay(points).simplices
        pairs = np.vstack([mesh[:, [0, 1]], mesh[:, [1, 2]], mesh[:, [2, 0]]])
    except (QhullError, ValueError):
        line = np.argsort(points @ (points[-1] - points[0]), kind="stable")
        pairs = np.column_stack([line[:-1], line[1:]])
    pairs = np.unique(np.sort(pairs, axis=1), axis=0)
    legs = shapely.linestrings(points[pairs])
    length = shapely.length(legs)
    # Long legs and legs out of the zone are taken only where the tree would fall apart.
    cost = length * (1 + 0.55 * rng.random(len(pairs)))
    cost = np.where(shapely.covers(room, legs), cost, cost * 20 + 100)
    grown = minimum_spanning_tree(coo_array((cost, (pairs[:, 0], pairs[:, 1])), shape=(n, n)))
    return np.column_stack(grown.nonzero())


def _settle(line: np.ndarray, part: Polygon, gap: float, closed: bool = True) -> np.ndarray:
    """Let the line relax: apart from itself, off the edge, smooth, out into the corners."""
    border = _sides(part)
    shapely.prepare(part)
    reach = 0.98 * gap
    spacing = gap * STEP
    limit = gap * 0.07
    for step in range(ROUNDS):
        n = len(line)
        if step % 2 == 0:
            # In one step nothing moves far: who is near whom is looked up in every other one.
            far = _strangers(line, reach, 1.5 * gap / spacing, closed)
        push = np.zeros_like(line)
        if len(far):
            between = line[far[:, 0]] - line[far[:, 1]]
            distance = np.maximum(np.hypot(between[:, 0], between[:, 1]), 1e-9)
            size = np.maximum((reach - distance) / reach, 0) / distance
            both = far.T.ravel()
            for k in (0, 1):
                force = between[:, k] * size
                push[:, k] = np.bincount(both, np.concatenate([force, -force]), minlength=n)
        size = np.hypot(push[:, 0], push[:, 1]) * gap * 0.12
        push *= (np.minimum(1.0, limit / np.maximum(size, 1e-9)) * gap * 0.12)[:, None]
        # Taubin's pair of steps smooths without shrinking; one step alone would eat the branches.
        moved = line + push
        moved += _bow(moved, closed) * 0.5
        moved -= _bow(moved, closed) * 0.52
        onto = _onto(moved, border)
        away = moved - onto
        distance = np.hypot(away[:, 0], away[:, 1])
        out = ~shapely.contains_xy(part, moved[:, 0], moved[:, 1])
        # Turns that look at the edge are drawn out to it, so that corners are filled.
        pull = np.minimum(np.maximum(distance - 0.06 * gap, 0), 0.05 * gap) * 0.5
        pull[out | (distance >= 0.9 * gap)] = 0.0
        moved -= away * (pull / np.maximum(distance, 1e-9))[:, None]
        moved[out] = onto[out]
        if not closed:
            moved[0], moved[-1] = line[0], line[-1]
        line = moved
        if step % 6 == 5:
            whole = np.vstack([line, line[:1]]) if closed else line
            line = resample(whole, spacing, closed=closed)
    return line


def _strangers(line: np.ndarray, reach: float, along: float, closed: bool) -> np.ndarray:
    """Index pairs (m, 2) of points nearer than *reach* that are not within *along* points on the line."""
    pairs = cKDTree(line).query_pairs(reach, output_type="ndarray")
    apart = np.abs(pairs[:, 0] - pairs[:, 1])
    apart = np.minimum(apart, len(line) - apart) if closed else apart
    return pairs[apart > along]


def _sides(part: Polygon) -> tuple[np.ndarray, np.ndarray]:
    """Beginnings of all sides of *part* and the way along each, both (m, 2)."""
    rings = [np.asarray(ring.coords) for ring in (part.exterior, *part.interiors)]
    return np.concatenate([r[:-1] for r in rings]), np.concatenate(
        [np.diff(r, axis=0) for r in rings]
    )


def _onto(points: np.ndarray, sides: tuple[np.ndarray, np.ndarray]) -> np.ndarray:
    """The nearest point of the sides to each of *points*."""
    (sx, sy), (wx, wy) = sides[0].T, sides[1].T
    # Across and down apart: sums over a last axis of two are slow.
    dx, dy = points[:, :1] - sx, points[:, 1:] - sy
    share = (dx * wx + dy * wy) / np.maximum(wx * wx + wy * wy, 1e-18)
    np.clip(share, 0, 1, out=share)
    dx -= share * wx
    dy -= share * wy
    best = (dx * dx + dy * dy).argmin(axis=1)
    rows = np.arange(len(points))
    return points - np.column_stack([dx[rows, best], dy[rows, best]])


def _bow(line: np.ndarray, closed: bool) -> np.ndarray:
    """From each point of a line to the middle of its neighbours; nothing at the ends."""
    bow = np.zeros_like(line)
    bow[1:-1] = (line[:-2] + line[2:]) / 2 - line[1:-1]
    if closed and len(line) > 1:
        bow[0] = (line[-1] + line[1]) / 2 - line[0]
        bow[-1] = (line[-2] + line[0]) / 2 - line[-1]
    return bow


def _round_the_edge(part: Polygon) -> np.ndarray | None:
    """Where no meander has room: once round inside the edge."""
    ring = shapely.get_coordinates(part.exterior)
    return ring if len(ring) > 3 and part.exterior.length > 0.6 else None
