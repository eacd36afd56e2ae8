"""A zone parted into rounded cells of about one size, each for one figure, and a way through all of them.

Cells are what is nearest to each of a set of even sites, less half a gap towards its neighbours: so
figures that fill their cells keep a gap from each other and reach the zone's edge. Where a zone is narrow
they are smaller, by half at most. The way goes from cell to cell as long as it can and turns aside into
those it would leave.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d
from scipy.spatial import Delaunay, QhullError, cKDTree
from shapely.geometry import MultiPoint, Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.engine.necks import group_of, through_necks
from chorograph_core.designs.engine.true_shape import apart, free_sites
from chorograph_core.designs.space import polygons

ANGLES = 72
SMALLER = 0.5
"""A cell's least size against the one asked for."""
LANE = 0.06
"""Half the way from rim to rim, in gaps: figures touch their rims in one place and keep off them
elsewhere."""
DEPTH = 0.46
"""How far from the edge the outermost sites stand, in cells."""


@dataclass
class Cell:
    """Room for one figure: its *middle*, and how far it reaches at each of `ANGLES` even angles, inches."""

    middle: np.ndarray
    radii: np.ndarray
    near: list[int] = field(default_factory=list)
    outer: bool = False
    """Whether it lies at the zone's edge."""
    necks: dict[int, list[np.ndarray]] = field(default_factory=dict)
    """Of neighbours that one comes to only through a neck, from where to where (2, 2) it reaches across,
    place by place on the way there."""
    spare: bool = False
    """Whether it is an open spot between others, with room for a loop."""

    def radius(self, angle: np.ndarray | float) -> np.ndarray:
        """How far the cell reaches at an angle in radians."""
        place = np.asarray(angle) / (2 * math.pi) * ANGLES
        return np.interp(
            place % ANGLES, np.arange(ANGLES + 1), np.append(self.radii, self.radii[0])
        )

    def at(self, angle: np.ndarray | float, depth: np.ndarray | float) -> np.ndarray:
        """The point (n, 2) at an angle, *depth* inches inside the rim where the cell is narrowest, and in
        proportion where it is wider."""
        angle = np.asarray(angle, float)
        share = np.clip(1 - np.asarray(depth) / self.least, 0, None)
        # Inwards it grows round, whatever its rim.
        far = (self.least + (self.radius(angle) - self.least) * np.sqrt(share)) * share
        return self.middle + np.stack([far * np.cos(angle), far * np.sin(angle)], axis=-1)

    @cached_property
    def narrowest(self) -> float:
        """How far it is to the rim where that is nearest."""
        return float(self.radii.min())

    @cached_property
    def least(self) -> float:
        """The radius by which depths are measured: between its narrowest and its mean."""
        return float(0.5 * self.radii.min() + 0.5 * self.radii.mean())

    def facing(self, other: int, cells: list[Cell]) -> float:
        """The angle at which a neighbour lies, or the neck that leads to it."""
        necks = self.necks.get(other)
        return self.towards(necks[0].mean(axis=0) if necks else cells[other].middle)

    def towards(self, spot: np.ndarray) -> float:
        """The angle at which *spot* lies."""
        off = spot - self.middle
        return math.atan2(off[1], off[0])


def cells_in(
    part: Polygon, size: float, gap: float, rng: np.random.Generator, round_: float = 0.5,
    at_edge: float = 1.0, necks: bool = True,
) -> list[Cell]:  # fmt: skip
    """Cells of about *size* inches across in *part*, *gap* inches between their rims.

    *round_*: how round, 0 for cells that fill into every corner, 1 for as round as can be; *at_edge* the most
    for cells at the edge of *part*, where more is open between round ones than amid others. Through *necks*
    those hang together that would not else.
    """
    points = _sites(part, size, rng)
    if not len(points):
        return []
    # What is nearest to whom is ill defined where four sites lie on one circle.
    points = points + rng.normal(0, 0.008 * size, points.shape)
    lane = gap * LANE
    wide = part.buffer(lane, quad_segs=4)
    shapes = _nearest_to(points, wide)
    found = []
    for point, shape in zip(points, shapes, strict=True):
        room = shape.buffer(-lane, join_style="mitre", mitre_limit=2.5).intersection(part)
        pieces = polygons(room)
        spot = shapely.points(point)
        piece = next((p for p in pieces if p.covers(spot)), pieces[0] if pieces else None)
        if piece is None:
            continue
        outer = piece.distance(part.exterior) < 0.05 * size
        cell = cell_of(piece, gap, min(round_, at_edge) if outer else round_)
        if cell is not None:
            cell.outer = outer
            found.append(cell)
    _neighbours(found, part, gap)
    if necks:
        through_necks(found, part, gap)
    return found


def _sites(part: Polygon, size: float, rng: np.random.Generator) -> np.ndarray:
    """Even sites, closer together where *part* is narrower than a cell."""
    found = np.empty((0, 2))
    rest = part
    for share in (1.0, 0.72, SMALLER):
        here = size * share
        lobes = [lobe for lobe in polygons(rest.buffer(-DEPTH * here)) if not lobe.is_empty]
        for lobe in lobes:
            made = free_sites(lobe.buffer(DEPTH * here, quad_segs=6), here, rng)
            if len(found):
                made = made[cKDTree(found).query(made)[0] > 0.62 * here]
            found = np.vstack([found, made])
        if not lobes:
            continue
        covered = shapely.union_all(lobes).buffer((DEPTH + 0.22) * here)
        rest = rest.difference(covered)
        if rest.area < 0.05 * here * here:
            break
    return apart(found, 0.5 * SMALLER * size) if len(found) > 1 else found


def _nearest_to(points: np.ndarray, wide: Polygon) -> list[Polygon]:
    """What of *wide* is nearest to each of *points*."""
    if len(points) == 1:
        return [wide]
    regions = shapely.get_parts(
        shapely.voronoi_polygons(
            MultiPoint(points), extend_to=wide.envelope.buffer(1), ordered=True
        )
    )
    return [shapely.intersection(shapely.buffer(region, 0), wide) for region in regions]


def cell_of(room: BaseGeometry, gap: float, round_: float) -> Cell | None:
    """The cell that fills the largest part of *room*, its corners rounded; None where there is hardly any."""
    pieces = polygons(room)
    if not pieces:
        return None
    shape = pieces[0]
    circle = shapely.maximum_inscribed_circle(shape, tolerance=0.02)
    inner = float(circle.length)
    if inner < 0.3 * gap or inner < 0.05:
        return None
    soft = shape.buffer(-round_ * inner).buffer(round_ * inner) if round_ > 0 else shape
    shape = max(polygons(soft) or [shape], key=lambda p: p.area)
    if not shape.covers(shapely.points(circle.coords[0])):
        # Rounding may have parted the cell; the middle is that of what is left.
        circle = shapely.maximum_inscribed_circle(shape, tolerance=0.02)
        inner = float(circle.length)
    middle = np.array(circle.coords[0])
    centroid = shapely.get_coordinates(shape.centroid)[0]
    if shape.boundary.distance(shapely.points(centroid)) > 0.9 * inner and shape.covers(
        shape.centroid
    ):
        middle = centroid
    radii = _seen_from(middle, shape)
    smooth = gaussian_filter1d(radii, 2.4, mode="wrap")
    return Cell(middle, np.minimum(smooth, radii + 0.1 * gap))


def _seen_from(middle: np.ndarray, shape: Polygon) -> np.ndarray:
    """How far one sees from *middle* to the edge of *shape* at each angle."""
    ring = shapely.get_coordinates(shape.exterior) - middle
    a, b = ring[:-1], ring[1:]
    angles = np.arange(ANGLES) * 2 * math.pi / ANGLES
    way = np.column_stack([np.cos(angles), np.sin(angles)])
    side = b - a
    cross = way[:, :1] * side[:, 1] - way[:, 1:] * side[:, 0]
    safe = np.where(np.abs(cross) < 1e-12, 1.0, cross)
    far = (a[:, 0] * side[:, 1] - a[:, 1] * side[:, 0]) / safe
    share = (a[:, 0] * way[:, 1:] - a[:, 1] * way[:, :1]) / safe
    hit = (np.abs(cross) > 1e-12) & (far > 1e-9) & (share >= -1e-9) & (share <= 1 + 1e-9)
    seen = np.where(hit, far, np.inf).min(axis=1)
    return np.where(np.isfinite(seen), seen, 0.03).clip(0.03)


def _neighbours(cells: list[Cell], part: Polygon, gap: float) -> None:
    """Who is beside whom: rims a gap apart, with nothing of the edge between them."""
    if len(cells) < 2:
        return
    middles = np.array([cell.middle for cell in cells])
    if len(cells) < 4:
        pairs = np.array([(i, j) for i in range(len(cells)) for j in range(i + 1, len(cells))])
    else:
        try:
            mesh = Delaunay(middles).simplices
            pairs = np.unique(np.sort(np.vstack([mesh[:, [0, 1]], mesh[:, [1, 2]], mesh[:, [2, 0]]]), axis=1),
                              axis=0)  # fmt: skip
        except (QhullError, ValueError):
            order = np.argsort(middles @ (middles[-1] - middles[0]), kind="stable")
            pairs = np.column_stack([order[:-1], order[1:]])
    room = part.buffer(1e-6)
    shapely.prepare(room)
    for i, j in pairs.tolist():
        one, two = cells[i], cells[j]
        rims = np.array([one.at(one.towards(two.middle), 0), two.at(two.towards(one.middle), 0)])
        if np.hypot(*(rims[1] - rims[0])) < 1.3 * gap and room.covers(shapely.linestrings(rims)):
            one.near.append(j)
            two.near.append(i)


@dataclass
class Walk:
    """A way through cells: a *path* of indices, and for each cell those one turns aside into."""

    path: list[int]
    aside: dict[int, list[int]]


def walks_through(cells: list[Cell]) -> list[Walk]:
    """One walk for each group of cells that hang together."""
    left = set(range(len(cells)))
    found = []
    while left:
        group = group_of(cells, min(left))
        left -= group
        found.append(_walk(cells, group))
    return found


def _walk(cells: list[Cell], group: set[int]) -> Walk:
    """From a cell at an end always to the neighbour with the fewest ways on; what is left is
    turned aside to."""
    middles = {k: cells[k].middle for k in group}
    begin = min(group, key=lambda k: (len(cells[k].near), *np.round(middles[k], 6)))
    path, left = [begin], group - {begin}
    while True:
        ways = [k for k in cells[path[-1]].near if k in left]
        if not ways:
            break
        here = middles[path[-1]]
        best = min(ways, key=lambda k: (sum(n in left for n in cells[k].near),
                                        round(float(np.hypot(*(middles[k] - here))), 6), k))  # fmt: skip
        path.append(best)
        left.discard(best)
    # One arrives at the edge: what lies behind the last cell there is turned aside to.
    while len(path) > 1 and not cells[path[-1]].outer and any(cells[k].outer for k in path[1:]):
        left.add(path.pop())
    path = _taken_in(cells, path, left)
    aside: dict[int, list[int]] = {}
    reached = list(path)
    for node in reached:
        # Nearest first, so that a cell is turned aside to from where it touches best.
        for other in sorted(
            cells[node].near, key=lambda k: float(np.hypot(*(middles[k] - middles[node])))
        ):
            if other in left:
                left.discard(other)
                aside.setdefault(node, []).append(other)
                reached.append(other)
    return Walk(path, aside)


def _taken_in(cells: list[Cell], path: list[int], left: set[int]) -> list[int]:
    """*path* with those of *left* in it that lie between two cells that follow each other in it, one by one
    or, where cells stand in squares, two by two: nearly all."""
    after: dict[int, int | None] = dict(zip(path, [*path[1:], None], strict=True))
    going = True
    while going and left:
        going = False
        for cell in sorted(left):
            if cell not in left:
                continue
            found = _one_between(cells, after, cell) or _two_between(cells, after, left, cell)
            if found is not None:
                one, *new, two = found
                for here, there in itertools.pairwise((one, *new, two)):
                    after[here] = there
                left -= set(new)
                going = True
    made: list[int] = []
    node: int | None = path[0]
    while node is not None:
        made.append(node)
        node = after[node]
    return made


def _one_between(cells, after, cell: int) -> tuple[int, ...] | None:
    """A cell between two that follow each other and touch it: those by which it leads least astray."""
    near = set(cells[cell].near)
    ways = [(k, cell, after[k]) for k in cells[cell].near if after.get(k) in near]
    return _shortest(cells, ways)


def _two_between(cells, after, left: set[int], cell: int) -> tuple[int, ...] | None:
    """A cell and one beside it between two that follow each other, one touching the one, one the other."""
    beside = [k for k in cells[cell].near if k in left]
    ways = []
    for other in beside:
        near = set(cells[other].near)
        ways += [(k, cell, other, after[k]) for k in cells[cell].near if after.get(k) in near]
    return _shortest(cells, ways)


def _shortest(cells, ways) -> tuple[int, ...] | None:
    def longer(way: tuple[int, ...]) -> float:
        spots = np.array([cells[k].middle for k in way])
        gone = np.hypot(*np.diff(spots, axis=0).T).sum() - np.hypot(*(spots[-1] - spots[0]))
        return round(float(gone), 6)

    return min(ways, key=lambda way: (longer(way), way), default=None)
