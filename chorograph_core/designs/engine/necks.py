"""Ways through necks, between cells that do not hang together: a hand goes on there rather than cut.

The shortest way from one to the other bends at corners of the zone that point inwards; what reaches from
such a corner across to the other side is where the neck is gone through.
"""

from __future__ import annotations

import itertools
from typing import TYPE_CHECKING

import numpy as np
import shapely
from scipy.sparse.csgraph import dijkstra
from scipy.spatial.distance import cdist
from shapely.geometry import Polygon

if TYPE_CHECKING:
    from chorograph_core.designs.engine.cells import Cell

PAIRS = 6
"""Pairs of cells that are looked at between two groups, nearest first."""
CORNERS = 80
"""Corners that point inwards up to which a way is looked for."""
LONGEST = 10.0
"""Gaps that one goes at most through a neck from the rim of a cell to that of the next."""
WIDEST = 6.0
"""Gaps that it reaches across at most: where a neck is wider one keeps to a side."""
TURNS = (-60, -45, -30, -15, 0, 15, 30, 45, 60)
"""Degrees to either side at which it may lie."""
HAIR, OVER = 1e-4, 0.2
"""Inches, and gaps, by which a way may pass the edge before it is drawn: rims of cells are smooth."""


def through_necks(cells: list[Cell], part: Polygon, gap: float) -> None:
    """Make cells of *part* neighbours, *gap* inches between their rims, until all hang together, as far as
    there are ways: those between which the way is shortest."""
    while cells and len(group := group_of(cells, 0)) < len(cells):
        found = _nearest(cells, group, part, gap)
        if found is None:
            return
        i, j, necks = found
        cells[i].near.append(j)
        cells[j].near.append(i)
        cells[i].necks[j], cells[j].necks[i] = necks, necks[::-1]


def group_of(cells: list[Cell], first: int) -> set[int]:
    """The cells that hang together with the *first*."""
    seen, queue = {first}, [first]
    for node in queue:
        for other in cells[node].near:
            if other not in seen:
                seen.add(other)
                queue.append(other)
    return seen


def _nearest(
    cells: list[Cell], group: set[int], part: Polygon, gap: float
) -> tuple[int, int, list[np.ndarray]] | None:
    """A cell of a *group*, one of no such, and the neck between them, on the shortest way there is."""
    mine, others = sorted(group), sorted(set(range(len(cells))) - group)
    middles = np.array([cell.middle for cell in cells])
    apart = cdist(middles[mine], middles[others]).round(6)
    nearest = np.unravel_index(np.argsort(apart, axis=None, kind="stable")[:PAIRS], apart.shape)
    corners = _inward_corners(part)
    if len(corners) > CORNERS:
        return None
    room = part.buffer(OVER * gap)
    shapely.prepare(room)
    ways = []
    for i, j in zip((mine[k] for k in nearest[0]), (others[k] for k in nearest[1]), strict=True):
        bends = _bends(cells[i].middle, cells[j].middle, corners, part)
        if bends is None:
            continue
        necks = _across(bends, cells[i], cells[j], part, gap)
        spots = [neck.mean(axis=0) for neck in necks]
        rims = [
            cells[i].at(cells[i].towards(spots[0]), 0),
            cells[j].at(cells[j].towards(spots[-1]), 0),
        ]
        way = shapely.linestrings([rims[0], *spots, rims[1]])
        if way.length < LONGEST * gap and room.covers(way):
            ways.append((round(float(way.length), 6), i, j, necks))
    return min(ways, key=lambda each: each[:3])[1:] if ways else None


def _inward_corners(part: Polygon) -> np.ndarray:
    """Corners (n, 2) of *part* round which a way may bend."""
    found = []
    for number, ring in enumerate((part.exterior, *part.interiors)):
        points = shapely.get_coordinates(ring.simplify(0.02))[:-1]
        # The zone lies to the left of its outer edge, and of its holes too.
        if ring.is_ccw != (number == 0):
            points = points[::-1]
        into, onto = points - np.roll(points, 1, axis=0), np.roll(points, -1, axis=0) - points
        found.append(points[into[:, 0] * onto[:, 1] - into[:, 1] * onto[:, 0] < 0])
    return np.concatenate(found)


def _bends(
    start: np.ndarray, goal: np.ndarray, corners: np.ndarray, part: Polygon
) -> np.ndarray | None:
    """The *corners* (n, 2) at which the shortest way within *part* bends; None where there is no way."""
    spots = np.vstack([start, goal, corners])
    pairs = np.array(list(itertools.combinations(range(len(spots)), 2)))
    legs = shapely.linestrings(spots[pairs])
    room = part.buffer(HAIR)
    shapely.prepare(room)
    clear = shapely.covers(room, legs)
    costs = np.zeros((len(spots), len(spots)))
    costs[tuple(pairs[clear].T)] = shapely.length(legs[clear]) + HAIR
    prices, came = dijkstra(costs, directed=False, indices=0, return_predecessors=True)
    if not np.isfinite(prices[1]):
        return None
    way, at = [], int(came[1])
    while at:
        way.append(at)
        at = int(came[at])
    return spots[way[::-1]]


def _across(bends: np.ndarray, one: Cell, two: Cell, part: Polygon, gap: float) -> list[np.ndarray]:
    """From where to where (2, 2) it reaches across at each of the *bends* of a way between two cells; halfway
    where it is straight."""
    if not len(bends):
        rims = [one.at(one.towards(two.middle), 0), two.at(two.towards(one.middle), 0)]
        way = rims[1] - rims[0]
        size = max(float(np.hypot(*way)), 1e-9)
        side = np.array([-way[1], way[0]]) / size * gap / 2
        middle = (rims[0] + rims[1]) / 2
        return [np.array([middle - side, middle + side])]
    spots = [one.middle, *bends, two.middle]
    found = []
    for before, bend, after in zip(spots, bends, spots[2:], strict=False):
        # Away from the corner, to the other side of the way.
        into, onto = bend - before, after - bend
        out = into / max(np.hypot(*into), 1e-9) - onto / max(np.hypot(*onto), 1e-9)
        if np.hypot(*out) < 1e-6:
            out = np.array([-into[1], into[0]])
        found.append(_shortest(bend, out / np.hypot(*out), part, WIDEST * gap))
    return found


def _shortest(corner: np.ndarray, out: np.ndarray, part: Polygon, most: float) -> np.ndarray:
    """From a *corner* the shortest way (2, 2) across *part*, about towards *out*; *most* inches at most."""
    turns = np.radians(TURNS)
    ways = np.column_stack([
        out[0] * np.cos(turns) - out[1] * np.sin(turns), out[0] * np.sin(turns) + out[1] * np.cos(turns)
    ])  # fmt: skip
    rays = shapely.linestrings(np.stack([corner + 1e-3 * ways, corner + most * ways], axis=1))
    far = []
    for ray in shapely.intersection(rays, part):
        pieces = shapely.get_parts(ray)
        first = min(pieces, key=lambda piece: piece.distance(shapely.points(corner)), default=None)
        far.append(most if first is None else float(shapely.length(first)))
    # Of like ones that which lies most as it should.
    best = min(range(len(far)), key=lambda k: (round(far[k], 3), abs(TURNS[k])))
    return np.array([corner, corner + far[best] * ways[best]])
