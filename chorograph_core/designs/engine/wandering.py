"""One line that wanders through a zone with even gaps and never crosses itself.

The line goes once round a tree grown through the zone (Itai, Papadimitriou, Szwarcfiter, Hamilton Paths in
Grid Graphs, 1982), whose branches end at the edge and in the corners. Then it relaxes: apart from itself,
into what is still open, smooth (Pedersen, Singh, Organic Labyrinths and Mazes, 2006). Every few steps it is
looked at; a line that has come to cross itself goes back to what it was before.
"""

from __future__ import annotations

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d
from scipy.sparse import coo_array
from scipy.sparse.csgraph import minimum_spanning_tree
from scipy.spatial import Delaunay, QhullError, cKDTree
from shapely.geometry import Polygon

from chorograph_core.designs.curves import resample, smooth
from chorograph_core.designs.engine.strokes import flowing
from chorograph_core.designs.engine.true_shape import sites_in, spots_in
from chorograph_core.designs.keeping import inside
from chorograph_core.designs.space import polygons

STEP = 0.26
"""Distance between the points that settle, in gaps."""
BRANCH = 0.46
"""Half the width of a branch, in gaps."""
PITCH = 1.68
"""From branch to branch, in gaps."""
APART = 0.9
"""Gaps from which the line keeps off itself."""
LOOK = 7
"""Steps after which the line is looked at."""
LOOKS = 4
WORTH = 0.004
"""Gaps by which the widest place must have closed for another look."""
ENOUGH = 0.70
"""Radius in gaps of the widest open circle with which one is content."""
OPEN = 0.5
"""Radius in gaps of a circle that is still too open."""
PULL = 0.55
SHY = 0.1
"""Gaps the line keeps from the edge, so that it can go round a corner that points inwards."""
RIM = 0.55
"""The same for a place on the edge."""
ROUND = 0.6
"""Turns up to which a line that settled is eased, in gaps."""
SWINGS = 6
"""Steps by which it is swung afterwards into what easing has left open."""
SHARP = 1.0
"""Radians a point may turn by before the line is let shrink there."""


def tree_through(
    points: np.ndarray, room, rng: np.random.Generator, edge: np.ndarray | None = None
):
    """Branches of a spanning tree through *points*: index pairs (n - 1, 2).

    Chance decides among legs of like length; long legs and those out of *room* are taken only where the
    tree would fall apart, those along the *edge* (a mask of points) rather not: branches end there.
    """
    n = len(points)
    if n < 2:
        return np.empty((0, 2), int)
    try:
        mesh = Delaunay(points).simplices
        pairs = np.vstack([mesh[:, [0, 1]], mesh[:, [1, 2]], mesh[:, [2, 0]]])
    except (QhullError, ValueError):
        order = np.argsort(points @ (points[-1] - points[0]), kind="stable")
        pairs = np.column_stack([order[:-1], order[1:]])
    pairs = np.unique(np.sort(pairs, axis=1), axis=0)
    legs = shapely.linestrings(points[pairs])
    cost = shapely.length(legs) * (1 + 0.5 * rng.random(len(pairs)))
    if edge is not None:
        cost = np.where(edge[pairs].all(axis=1), cost * 3, cost)
    cost = np.where(shapely.covers(room, legs), cost, cost * 20 + 100)
    grown = minimum_spanning_tree(coo_array((cost, (pairs[:, 0], pairs[:, 1])), shape=(n, n)))
    return np.column_stack(grown.nonzero())


def grown(part: Polygon, gap: float, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """Sites (n, 2) in *part* and the branches between them (m, 2); none where there is no room."""
    core = part.buffer(-BRANCH * gap, join_style="mitre", mitre_limit=3)
    lobes = [lobe for lobe in polygons(core) if lobe.length > 0.2 * gap]
    if not lobes:
        return np.empty((0, 2)), np.empty((0, 2), int)
    points = np.vstack([sites_in(lobe, PITCH * gap, rng) for lobe in lobes])
    rim = shapely.distance(shapely.points(points), core.boundary) < 0.05 * gap
    return points, tree_through(points, part.buffer(-0.25 * gap), rng, rim)


def round_branches(
    points: np.ndarray, pairs: np.ndarray, part: Polygon, gap: float
) -> list[Polygon]:
    """The branches as bodies a gap wide, the largest first."""
    if not len(points):
        return []
    legs = shapely.linestrings(points[pairs]) if len(pairs) else shapely.points(points)
    fat = shapely.union_all(shapely.buffer(legs, BRANCH * gap, quad_segs=5))
    bodies = polygons(fat.intersection(part))
    return [body for body in bodies if body is bodies[0] or body.area > gap * gap]


def settled(
    line: np.ndarray, part: Polygon, gap: float, closed: bool = True, looks: int = LOOKS,
    slack: float = 0.0,
) -> np.ndarray | None:  # fmt: skip
    """The line (n, 2) relaxed within *part*, or so many inches of *slack* round it; None where it cannot be
    had without a crossing.

    A closed line comes and goes without its first point repeated.
    """
    ground = Ground(part, gap)
    room = part.buffer(slack) if slack else part
    line = resample(np.vstack([line, line[:1]]) if closed else line, STEP * gap, closed=closed)
    best, widest, stale = None, np.inf, 0
    for look in range(looks):
        for step in range(LOOK):
            line = _moved(line, ground, closed, step)
        whole = np.vstack([line, line[:1]]) if closed else line
        line = resample(whole, STEP * gap, closed=closed)
        rounded = line
        for _ in range(3):
            rounded = _rounded(rounded, closed)
        if not is_sound(rounded, room, closed):
            if best is not None:
                break
            continue
        wide = ground.widest(rounded) / gap
        gained = widest - wide
        stale = 0 if gained > WORTH else stale + 1
        if gained > 0:
            best, widest = rounded, wide
        # One stops when it is open enough nowhere, or when two looks in a row gain nothing more.
        if look >= 2 and (widest < ENOUGH or stale >= 2):
            break
    return best


def _rounded(line: np.ndarray, closed: bool) -> np.ndarray:
    """Eased where it turns sharply; its ends stay."""
    eased = _eased(line, closed)
    if not closed:
        eased[0], eased[-1] = line[0], line[-1]
    return eased


def is_sound(line: np.ndarray, part: Polygon, closed: bool) -> bool:
    """Whether the line stays in *part* and does not cross itself."""
    drawn = finished(line, closed)
    return bool(shapely.is_simple(shapely.linestrings(drawn))) and inside(drawn, part)


def finished(line: np.ndarray, closed: bool) -> np.ndarray:
    """The smooth line through the points that settled."""
    return smooth(np.vstack([line, line[:1]]), closed=True) if closed else smooth(line)


def _moved(line, ground: Ground, closed: bool, step: int) -> np.ndarray:
    gap = ground.gap
    push = _repulsion(line, gap, closed)
    if step % 2:
        push += _into_the_open(line, ground)
    size = np.maximum(np.hypot(*push.T), 1e-12)
    push *= (np.minimum(size, 0.09 * gap) / size)[:, None]
    moved = _eased(line + push, closed)
    near = np.flatnonzero(~shapely.contains_xy(ground.middle, *moved.T))
    if len(near):
        onto, distance = ground.nearest(moved[near])
        out = ~shapely.contains_xy(ground.part, *moved[near].T)
        # Turns that look at the edge are drawn out to it, so that it is filled.
        pull = np.where(out, distance, np.minimum(distance, 0.04 * gap))
        moved[near] += (onto - moved[near]) * (pull / np.maximum(distance, 1e-9))[:, None]
    if not closed:
        moved[0], moved[-1] = line[0], line[-1]
    return moved


def _eased(line: np.ndarray, closed: bool) -> np.ndarray:
    """Smoothed without shrinking, by Taubin's pair of steps; only where it turns too sharply it
    may shrink: one step alone would eat the branches."""
    eased = line + _bow(line, closed) * 0.5
    back = _bow(eased, closed) * 0.5
    ahead = np.roll(eased, -1, axis=0) - eased
    behind = np.roll(ahead, 1, axis=0)
    turn = np.abs(np.arctan2(behind[:, 0] * ahead[:, 1] - behind[:, 1] * ahead[:, 0],
                             (behind * ahead).sum(axis=1)))  # fmt: skip
    return eased - back * np.clip((SHARP - turn) / 0.3, 0, 1)[:, None]


def _repulsion(line: np.ndarray, gap: float, closed: bool) -> np.ndarray:
    """Away from stretches of the line that are nearer than a gap and not one's own neighbours."""
    n = len(line)
    pairs = cKDTree(line).query_pairs(APART * gap, output_type="ndarray")
    along = np.abs(pairs[:, 0] - pairs[:, 1])
    along = np.minimum(along, n - along) if closed else along
    pairs = pairs[along > 1.6 / STEP]
    push = np.zeros_like(line)
    if len(pairs):
        between = line[pairs[:, 0]] - line[pairs[:, 1]]
        distance = np.maximum(np.hypot(*between.T), 1e-9)
        size = (APART * gap - distance) / distance * 0.16
        both = pairs.T.ravel()
        for k in (0, 1):
            force = between[:, k] * size
            push[:, k] = np.bincount(both, np.concatenate([force, -force]), minlength=n)
    return push


def evened(line: np.ndarray, part: Polygon, gap: float, steps: int = 5) -> np.ndarray:
    """An open line (n, 2) with a shape of its own, swung a little into what it leaves open; as it
    was where it would come to cross itself."""
    ground = Ground(part, gap)
    was = made = resample(line, STEP * gap)
    for _ in range(steps):
        made = _swung(made, ground, part, 0.68, 0.8, False)
    made = gaussian_filter1d(made, 1.0, axis=0, mode="nearest")
    made[0], made[-1] = line[0], line[-1]
    return made if is_sound(made, part.buffer(0.04), False) else was


def rounded(line: np.ndarray, part: Polygon, gap: float, closed: bool) -> np.ndarray:
    """The smooth line (n, 2) through points that settled, its fingers round as a hand turns them: eased, then
    swung into what that left open. As it settled where it would come to meet itself or leave the zone.

    A closed line comes without its first point repeated, and goes with it.
    """
    plain, ground = finished(line, closed), Ground(part, gap)
    made = resample(flowing(plain, ROUND * gap, closed), STEP * gap, closed=closed)
    for _ in range(SWINGS):
        made = _swung(made, ground, ground.part, 0.6, 0.5, closed)
    drawn = flowing(finished(made, closed), ROUND / 2 * gap, closed)
    sound = shapely.is_simple(shapely.linestrings(drawn)) and inside(drawn, part)
    return drawn if sound else plain


def _swung(
    line: np.ndarray, ground: Ground, room: Polygon, wide: float, along: float, closed: bool
) -> np.ndarray:
    """The line a step further into places more open than *wide* gaps, within *room*. What is pushed takes its
    neighbours *along*, so many gaps to either side: a swing, not a dent."""
    push = _into_the_open(line, ground, wide, 0.45)
    push += _repulsion(line, ground.gap, closed) * 0.5
    push = gaussian_filter1d(push, along / STEP, axis=0, mode="wrap" if closed else "nearest") * 1.6
    size = np.maximum(np.hypot(*push.T), 1e-12)
    push *= (np.minimum(size, 0.1 * ground.gap) / size)[:, None]
    moved = line + push
    out = ~shapely.contains_xy(room, *moved.T)
    moved[out] = line[out]
    if not closed:
        moved[0], moved[-1] = line[0], line[-1]
    return moved


def _into_the_open(
    line: np.ndarray, ground: Ground, wide: float = OPEN, pull: float = PULL
) -> np.ndarray:
    """Towards spots that no stretch of the line is near, for the points nearest to them."""
    push = np.zeros_like(line)
    tree = cKDTree(line)
    # At the edge a spot is open sooner: beyond it nothing follows.
    spots = np.vstack([ground.spots, ground.rim])
    least = np.full(len(spots), wide * ground.gap)
    least[len(ground.spots) :] = RIM * ground.gap
    away, _ = tree.query(spots)
    open_ = away > least
    if not open_.any():
        return push
    spots, least = spots[open_], least[open_]
    away, index = tree.query(spots, min(5, len(line)))
    far = np.minimum(away[:, 0] - least, 0.3 * ground.gap)
    for k in range(index.shape[1]):
        took = away[:, k] < 1.25 * away[:, 0]
        way = (spots - line[index[:, k]]) / away[:, k : k + 1] * far[:, None]
        np.add.at(push, index[took, k], way[took] * pull)
    return push


def _bow(line: np.ndarray, closed: bool) -> np.ndarray:
    """From each point of a line to the middle of its neighbours; nothing at the ends."""
    bow = np.zeros_like(line)
    bow[1:-1] = (line[:-2] + line[2:]) / 2 - line[1:-1]
    if closed and len(line) > 1:
        bow[0] = (line[-1] + line[1]) / 2 - line[0]
        bow[-1] = (line[-2] + line[0]) / 2 - line[-1]
    return bow


class Ground:
    """What a line settles in: the zone, what lies a gap inside it, and spots by which one sees
    what is open."""

    def __init__(self, part: Polygon, gap: float) -> None:
        shy = max(polygons(part.buffer(-SHY * gap, quad_segs=4)) or [part], key=lambda p: p.area)
        self.part, self.gap, self.line = shy, gap, shy.boundary
        self.middle = part.buffer(-0.8 * gap)
        self.spots = spots_in(part, 0.33 * gap)
        self.rim = shapely.get_coordinates(shapely.segmentize(part.boundary, 0.5 * gap))
        self.room = shapely.distance(part.boundary, shapely.points(self.spots)) + 0.25 * gap
        for shape in (self.part, self.line, self.middle):
            shapely.prepare(shape)

    def widest(self, line: np.ndarray) -> float:
        """Radius of about the largest circle in the zone that touches no line."""
        if not len(self.spots):
            return 0.0
        return float(np.minimum(cKDTree(line).query(self.spots)[0], self.room).max())

    def nearest(self, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """The nearest points (n, 2) of the edge, and how far they are."""
        ways = shapely.get_coordinates(shapely.shortest_line(self.line, shapely.points(points)))
        onto = ways.reshape(-1, 2, 2)[:, 0]
        return onto, np.hypot(*(points - onto).T)
