"""Touching circles of mixed size, laid one against the last, and the way round all of them.

A front of circles (Collins, Stephenson, A circle packing algorithm, 2003): each new one touches what is
nearest to it, the edge or circles that lie already. Circles that touch each other hang together; one goes
round each of them once, turning aside into the next where it touches, so that nothing is stitched twice.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry import Polygon

from chorograph_core.designs.curves import step_angle
from chorograph_core.designs.engine.true_shape import spots_in
from chorograph_core.designs.judging import sharp_corners

TOUCH = 0.06
"""Radii apart at which two circles are drawn as touching: the smaller one moves up."""
MOST = 5000
IN_CORNER = 0.75
"""Middle diameters from a corner at which the circle in it lies at most."""
HAIR = 1e-6
"""Inches by which a way may lie in a circle that it passes."""
BRIDGES = 60
"""Ways across between two groups of circles that are looked at, shortest first."""


@dataclass
class Pebble:
    """A circle: *middle* (2,), *radius*, and the numbers of those it touches."""

    middle: np.ndarray
    radius: float
    near: list[int] = field(default_factory=list)


def packed(
    part: Polygon, large: float, small: float, rng: np.random.Generator, over: float = 0.0
) -> list[Pebble]:
    """Circles with radii from *small* to *large* inches in *part*, as close as they go. Between two that do
    not touch one may pass its edge by *over* inches."""
    step = max(small / 2.4, math.sqrt(part.area / 40_000))
    spots = spots_in(part, step)
    if not len(spots):
        return []
    room = shapely.distance(part.boundary, shapely.points(spots))
    free = np.minimum(room, large)
    tree = cKDTree(spots)
    laid = np.empty((MOST, 3))
    count = 0
    for middle, radius in _in_corners(part, large, small):
        if count and (np.hypot(*(laid[:count, :2] - middle).T) < laid[:count, 2] + radius).any():
            continue
        laid[count] = (*middle, radius)
        count += 1
        near = tree.query_ball_point(middle, radius + large)
        free[near] = np.minimum(free[near], np.hypot(*(spots[near] - middle).T) - radius)
    while count < MOST:
        # Only spots where a circle still has room are looked at.
        open_ = np.flatnonzero(free >= small)
        if not len(open_):
            break
        wished = small + (large - small) * float(rng.beta(1.6, 1.5))
        here = free[open_]
        if not count:
            # The first one lies at the edge.
            best = int(np.abs(room[open_] - wished).argmin())
        else:
            # As large as wished for, and close against what is there: where it just fits.
            best = int((np.abs(here - wished) + 0.15 * step * (here < wished)).argmin())
            if here[best] < wished - step and here[best] < large:
                best = int(here.argmax())
        k = open_[best]
        middle, radius = _settled(spots[k], float(min(free[k], large)), laid[:count], part, large)
        laid[count] = (*middle, radius)
        count += 1
        near = tree.query_ball_point(middle, radius + large)
        free[near] = np.minimum(free[near], np.hypot(*(spots[near] - middle).T) - radius)
    found = [Pebble(each[:2].copy(), float(each[2])) for each in laid[:count]]
    _touching(found)
    if found:
        _bridged(found, part, over)
    return found


def _in_corners(part: Polygon, large: float, small: float) -> list[tuple[np.ndarray, float]]:
    """The circle in each sharp corner of *part*, its middle and radius: as large as may be so near to it."""
    found = []
    ring = shapely.get_coordinates(part.exterior.simplify(0.01))[:-1]
    for corner in sharp_corners(part, 120):
        k = int(np.argmin(np.hypot(*(ring - corner).T)))
        ways = ring[[k - 1, (k + 1) % len(ring)]] - ring[k]
        ways /= np.maximum(np.hypot(*ways.T), 1e-9)[:, None]
        half = math.acos(float(np.clip(ways[0] @ ways[1], -1, 1))) / 2
        beyond = 1 / math.sin(half) - 1
        radius = float(np.clip(IN_CORNER * (large + small) / beyond, small, large))
        middle = ring[k] + ways.sum(axis=0) / (2 * math.cos(half)) * radius / math.sin(half)
        room = part.boundary.distance(shapely.points(middle))
        if part.contains(shapely.points(middle)) and room > 0.98 * radius:
            found.append((middle, min(radius, float(room))))
    return found


def _settled(spot, radius: float, laid: np.ndarray, part, large: float) -> tuple[np.ndarray, float]:
    """Moved until it touches the nearest of those *laid* (n, 3), and grown to whatever is next."""
    if len(laid):
        away = np.hypot(laid[:, 0] - spot[0], laid[:, 1] - spot[1]) - laid[:, 2]
        k = int(away.argmin())
        gap = away[k] - radius
        if 0 < gap < 0.6 * radius:
            way = laid[k, :2] - spot
            spot = spot + way / max(float(np.hypot(*way)), 1e-9) * gap
            away = np.hypot(laid[:, 0] - spot[0], laid[:, 1] - spot[1]) - laid[:, 2]
        radius = min(large, float(away.min()))
    return spot, max(0.02, min(radius, float(part.boundary.distance(shapely.points(spot)))))


def _touching(found: list[Pebble]) -> None:
    if len(found) < 2:
        return
    middles, radii = np.array([p.middle for p in found]), np.array([p.radius for p in found])
    for i, j in sorted(cKDTree(middles).query_pairs(2.2 * radii.max() + 0.02)):
        gap = float(np.hypot(*(middles[i] - middles[j]))) - radii[i] - radii[j]
        if gap < TOUCH * min(radii[i], radii[j]) + 0.012:
            found[i].near.append(j)
            found[j].near.append(i)


def _bridged(found: list[Pebble], part: Polygon, over: float) -> None:
    """Groups that touch nowhere are joined where they come nearest, if one gets across within *part*."""
    room = part.buffer(max(over, 1e-6))
    shapely.prepare(room)
    middles, radii = np.array([p.middle for p in found]), np.array([p.radius for p in found])
    while True:
        group = _groups(found)
        ways = (_way_across(middles, radii, group == k, room) for k in range(group.max() + 1))
        way = next(filter(None, ways), None)
        if way is None:
            return
        i, j = way
        found[i].near.append(j)
        found[j].near.append(i)


def _way_across(middles, radii, mine: np.ndarray, room) -> tuple[int, int] | None:
    """The two circles between which it is shortest from those that are *mine* to another, within *room*."""
    one, other = np.flatnonzero(mine), np.flatnonzero(~mine)
    if not len(other):
        return None
    gap = np.hypot(*(middles[one][:, None] - middles[other][None]).transpose(2, 0, 1))
    gap -= radii[one][:, None] + radii[other][None]
    near = np.argsort(gap, axis=None)[:BRIDGES]
    near = near[gap.reshape(-1)[near] <= radii.max()]
    i, j = np.unravel_index(near, gap.shape)
    begin, end = middles[one[i]], middles[other[j]]
    # One goes from rim to rim.
    way = (end - begin) / np.maximum(np.hypot(*(end - begin).T), 1e-9)[:, None]
    rims = [begin + way * radii[one[i]][:, None], end - way * radii[other[j]][:, None]]
    legs = shapely.linestrings(np.stack(rims, axis=1))
    inside = np.flatnonzero(shapely.covers(room, legs)) if len(near) else near
    # Nor does one go through another circle.
    inside = [k for k in inside
              if (shapely.distance(legs[k], shapely.points(middles)) > radii - HAIR).all()]  # fmt: skip
    return (int(one[i[inside[0]]]), int(other[j[inside[0]]])) if len(inside) else None


def _groups(found: list[Pebble]) -> np.ndarray:
    group = np.full(len(found), -1)
    number = 0
    for first in range(len(found)):
        if group[first] >= 0:
            continue
        queue = [first]
        group[first] = number
        for node in queue:
            for other in found[node].near:
                if group[other] < 0:
                    group[other] = number
                    queue.append(other)
        number += 1
    return group


def round_all(found: list[Pebble]) -> list[tuple[np.ndarray, list[int]]]:
    """A closed line round each group of circles that hang together, with the indices at which circles end."""
    left = set(range(len(found)))
    lines = []
    while left:
        first = min(left)
        parent, order = {first: -1}, [first]
        for node in order:
            for other in sorted(found[node].near, key=lambda k: -found[k].radius):
                if other not in parent:
                    parent[other] = node
                    order.append(other)
        left -= set(order)
        children: dict[int, list[int]] = {node: [] for node in order}
        for node in order[1:]:
            children[parent[node]].append(node)
        lines.append(_walk(found, children, first))
    return lines


def _walk(found, children, root) -> tuple[np.ndarray, list[int]]:
    """Depth first without recursion: each circle from where it is entered once round, in turns."""
    points: list[np.ndarray] = []
    stops: list[int] = []
    count = 0
    # A task is a circle, the angle where it goes on, the angle still to go, its sense, and who comes next.
    begin = 0.0 if not children[root] else _angle(found[root], found[children[root][0]]) + 0.8
    stack = [(root, begin, 2 * math.pi, 1, _in_turn(found, children[root], root, begin, 1))]
    while stack:
        node, at, left, sense, waiting = stack.pop()
        circle = found[node]
        if waiting:
            turn, other = waiting[0]
            arc = turn - (2 * math.pi - left)
            piece = _arc(circle, at, sense * max(arc, 0.0))
            points.append(piece)
            count += len(piece)
            stack.append((node, at + sense * arc, left - arc, sense, waiting[1:]))
            entry = _angle(found[other], circle)
            # Meshing like wheels, one goes on without a corner.
            stack.append((other, entry, 2 * math.pi, -sense,
                          _in_turn(found, children[other], other, entry, -sense)))  # fmt: skip
            continue
        piece = _arc(circle, at, sense * left)
        points.append(piece)
        count += len(piece)
        stops.append(count - 1)
    line = np.vstack(points)
    line[-1] = line[0]
    return line, stops


def _angle(one: Pebble, two: Pebble) -> float:
    off = two.middle - one.middle
    return math.atan2(off[1], off[0])


def _in_turn(found, children, node, begin, sense) -> list[tuple[float, int]]:
    """The children of a circle in the order in which one passes them."""
    return sorted(
        ((sense * (_angle(found[node], found[k]) - begin)) % (2 * math.pi), k) for k in children
    )


def _arc(circle: Pebble, at: float, sweep: float) -> np.ndarray:
    count = max(1, math.ceil(abs(sweep) / min(0.3, step_angle(circle.radius))))
    angle = at + np.linspace(0, sweep, count + 1)
    return circle.middle + circle.radius * np.column_stack([np.cos(angle), np.sin(angle)])
