"""Meander: one wandering line, even gaps, no crossing."""

from __future__ import annotations

import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import minimum_spanning_tree
from scipy.spatial import Delaunay, QhullError, cKDTree
from shapely.geometry import Polygon

from chorograph_core.designs.contract import MARGIN, Design, Fit, Linework, Parameter, Run, polygons
from chorograph_core.designs.contract import size_of_hand
from chorograph_core.designs.curves import resample, thin
from chorograph_core.designs.keeping import inside
from chorograph_core.designs.wander import sites

ROUNDS = 26
"""Relaxing steps. More changes nothing that an eye would notice."""


class Meander(Design):
    """A line that goes round the branches of a tree grown through the zone, then settles."""

    key = "meander"
    name = "Meander"
    family = "freehand"
    stroke = "wander with even gaps; comes back to where it began, can be entered anywhere"
    parameters = (
        Parameter("gap", "Gap", "length", 0.5, 0.125, 4.0, 0.0625,
                  help="Distance between neighbouring lines."),
        MARGIN,
    )  # fmt: skip

    def fits(self, space, settings=None):
        """Two gaps must have room across."""
        s = self.clean(settings)
        parts = space.inset(s["margin"] + s["gap"] * 0.75)
        if not parts:
            return Fit(0.15, ("narrower than two gaps: echo instead",))
        return Fit(0.8, (f"covers {space.polygon.area:.0f} sq in with gaps of {s['gap']:g}″",))

    def draw(self, space, settings, seed=0, doorways=None):
        """One run for each part; open where both doorways lie close together on it, else closed."""
        s = self.clean(settings)
        rng = np.random.default_rng(seed)
        runs = []
        for part in space.inset(s["margin"]):
            line = wander(part, s["gap"], rng)
            if line is not None:
                runs.append(Run(thin(line, 0.006), size_of_hand(2 * s["gap"]), closed=True))
        if doorways and doorways[0] is not None and runs:
            runs[0] = _opened(runs[0], doorways)
            return Linework(tuple(runs), kept_doorways=True)
        return Linework(tuple(runs))


def wander(part: Polygon, gap: float, rng: np.random.Generator) -> np.ndarray | None:
    """A closed line (n, 2) through *part* that keeps about *gap* inches from itself."""
    core = part.buffer(-gap * 0.45)
    lobes = [lobe for lobe in polygons(core) if lobe.area > gap * gap * 0.3]
    if not lobes:
        return _round_the_edge(part)
    points = np.vstack([sites(lobe, 2.05 * gap, rng) for lobe in lobes])
    tree = _tree(points, part.buffer(-gap * 0.3), rng)
    if tree is None:
        return _round_the_edge(part)
    body = tree.buffer(gap * 0.5, quad_segs=6).intersection(part)
    bodies = polygons(body)
    if not bodies:
        return _round_the_edge(part)
    ring = shapely.get_coordinates(bodies[0].exterior)
    drawn = resample(ring, gap * 0.24, closed=True)
    settled = _settle(drawn, part, gap)
    closed = np.vstack([settled, settled[:1]])
    if shapely.is_simple(shapely.linestrings(closed)) and inside(closed, part):
        return closed
    return ring


def _tree(points: np.ndarray, room, rng: np.random.Generator):
    """A spanning tree through *points* with random preference, as a multi-line; None if too few."""
    n = len(points)
    if n < 2:
        return shapely.points(points[0]) if n else None
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
    i, j = grown.nonzero()
    return shapely.multilinestrings(shapely.linestrings(np.stack([points[i], points[j]], axis=1)))


def _settle(line: np.ndarray, part: Polygon, gap: float) -> np.ndarray:
    """Let the closed line relax: apart from itself, off the edge, smooth, out into the corners."""
    border = shapely.boundary(part)
    reach = 0.98 * gap
    spacing = gap * 0.24
    for step in range(ROUNDS):
        n = len(line)
        tree = cKDTree(line)
        pairs = tree.query_pairs(reach, output_type="ndarray")
        push = np.zeros_like(line)
        if len(pairs):
            apart = np.abs(pairs[:, 0] - pairs[:, 1])
            apart = np.minimum(apart, n - apart)
            far = pairs[apart * spacing > 1.5 * gap]
            if len(far):
                between = line[far[:, 0]] - line[far[:, 1]]
                distance = np.maximum(np.hypot(between[:, 0], between[:, 1]), 1e-9)
                force = between / distance[:, None] * ((reach - distance) / reach)[:, None]
                for k in (0, 1):
                    push[:, k] += np.bincount(far[:, 0], force[:, k], minlength=n)
                    push[:, k] -= np.bincount(far[:, 1], force[:, k], minlength=n)
        size = np.hypot(push[:, 0], push[:, 1])
        limit = gap * 0.07
        push *= np.minimum(1.0, limit / np.maximum(size * gap * 0.12, 1e-9))[:, None] * gap * 0.12
        # Taubin's pair of steps smooths without shrinking; one step alone would eat the branches.
        moved = line + push
        moved = moved + _bow(moved) * 0.5
        moved = moved - _bow(moved) * 0.52
        nearest = shapely.shortest_line(shapely.points(moved), border)
        onto = shapely.get_coordinates(nearest).reshape(-1, 2, 2)[:, 1]
        away = moved - onto
        distance = np.hypot(away[:, 0], away[:, 1])
        out = ~shapely.contains_xy(part, moved[:, 0], moved[:, 1])
        moved[out] = onto[out]
        # Turns that look at the edge are drawn out to it, so that corners are filled.
        outward = (~out) & (distance < 0.9 * gap) & (distance > 1e-6)
        pull = np.clip(distance - 0.06 * gap, 0, 0.05 * gap)[:, None]
        moved[outward] -= (away / np.maximum(distance, 1e-9)[:, None] * pull)[outward] * 0.5
        line = moved
        if step % 6 == 5:
            line = resample(np.vstack([line, line[:1]]), spacing, closed=True)
    return line


def _bow(line: np.ndarray) -> np.ndarray:
    """From each point of a closed line to the middle of its neighbours."""
    return (np.roll(line, 1, axis=0) + np.roll(line, -1, axis=0)) / 2 - line


def _round_the_edge(part: Polygon) -> np.ndarray | None:
    """Where no meander has room: once round inside the edge."""
    ring = shapely.get_coordinates(part.exterior)
    return ring if len(ring) > 3 and part.exterior.length > 0.6 else None


def _opened(run: Run, doorways) -> Run:
    """Let the closed line begin at the point nearest to the first doorway."""
    ring = run.points[:-1]
    start = int(np.argmin(np.hypot(*(ring - np.asarray(doorways[0])).T)))
    turned = np.roll(ring, -start, axis=0)
    return Run(np.vstack([turned, turned[:1]]), run.technique, closed=True)


