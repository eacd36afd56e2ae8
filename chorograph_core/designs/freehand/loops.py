"""Loops: a wandering line with a loop now and then."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import cKDTree

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.curves import Turn, bezier, resample, tangent_chain, tidy
from chorograph_core.designs.doors import corner_doors
from chorograph_core.designs.engine.cells import ANGLES, Cell
from chorograph_core.designs.engine.spots import open_spots
from chorograph_core.designs.engine.strokes import bent_inwards, finished, slack
from chorograph_core.designs.engine.tight import tight_turns
from chorograph_core.designs.engine.true_shape import sites_in
from chorograph_core.designs.keeping import pushed_back
from chorograph_core.designs.linework import Linework, Run, size_of_hand
from chorograph_core.designs.settings import Settings, length_setting, margin_setting, share_setting
from chorograph_core.designs.strip import strip
from chorograph_core.designs.wander import open_way, round_trip

MOST_LOOPS = 6000
"""Loops in one line: a field of 90″ at their usual distance."""
SMALLEST, OPEN = 0.74, 0.48
"""The smallest loop against the others, and the distances between loops that are open round one of those."""
REACHED = 0.93
"""How much of a zone is to lie near where loops have room."""
JUMP = 1.9
"""Ways from loop to loop, in which there is none, from which on the line does not come back."""
SIDES = ((1, 1), (1, -1), (-1, 1), (-1, -1))
"""On which side the loops at the ends of a line lie: as it bends, or the other one."""
FEW = 150
"""Loops up to which both sides are tried."""
TURN = 0.5
"""Loop radii of the tightest turn that looks well."""
EASY = math.radians(40)
"""A bend at which a loop may lie on either side."""
SOFT = 0.55
"""How far turns between loops are eased, in loop radii."""
LOOSE = 0.5
"""Least radius of a turn between loops, in loop radii."""
HELD = 0.3
"""Loop radii inside the edge at which a way is held that would leave the zone."""
HELD_ON = 0.5
"""Loop radii of the smallest loop that easing must not undo: one that small is a wriggle."""
STILL = 1.6
"""Loop radii from its middle within which a loop lies."""
AIRY, FULL, TIGHTEST = 0.75, 0.9, 0.58
"""How much of the room round its middle a loop takes; and at most, so that it is not tighter than so many
radii of the others."""
FOOT = 1.28
"""Distance of a loop's foot, where it crosses itself, from its middle, in loop radii."""


@dataclass(frozen=True)
class LoopsSettings(Settings):
    """How far apart the loops are and how large."""

    spacing: float = length_setting("Loop to loop", 1.25, 0.375, 8.0, 0.125)
    size: float = share_setting("Loop size", 0.5, 0.2, 0.7, 0.02,
                        help="Width of a loop against the distance between loops.")  # fmt: skip
    margin: float = margin_setting()


class Loops(Design[LoopsSettings]):
    """Loops spread evenly, joined by easy curves; comes back to where it began."""

    key = "loops"
    name = "Loops"
    family = "freehand"
    stroke = "wander, loop, wander; can be left anywhere"
    crosses = True
    divisible = True
    undirected = True
    settings_type = LoopsSettings

    def fits(self, space, settings=None):
        """At least one whole loop must have room."""
        s = self.clean(settings)
        room = s.margin + s.spacing * s.size / 2
        parts = space.inset(room)
        if not parts:
            return Fit(0.1, ("not one whole loop has room: echo instead",))
        radius = s.spacing * s.size / 2
        if not any(p.area > s.spacing**2 * 0.12 or _single(p, radius) is not None for p in parts):
            return Fit(0.1, ("a loop has room, its way in has none",))
        reached = sum(p.buffer(0.8 * s.spacing).intersection(space.polygon).area for p in parts)
        if reached < REACHED * space.polygon.area:
            return Fit(0.3, ("parts of it are too narrow for a loop",))
        units = sum(part.area for part in parts) / (s.spacing**2 * 0.87)
        return Fit(0.7 if units >= 2 else 0.4, (f"about {max(1, units):.0f} loops",))

    def spacing(self, space, settings=None):
        """As set."""
        return self.clean(settings).spacing

    def draw(self, space, settings=None, seed=0, doorways=None):
        """A closed run for each part; between two doorways, one open run from one to the other."""
        s = self.clean(settings)
        rng = np.random.default_rng(seed)
        runs = []
        parts = space.inset(s.margin)
        if doorways and len(parts) == 1 and None not in doorways:
            start, stop = (np.asarray(door, float) for door in doorways)
            line = _between(parts[0], s.spacing, s.size, rng, start, stop, slack(s.margin))
            if line is not None:
                return Linework((Run(line, size_of_hand(s.spacing)),), kept_doorways=True)
        for part in parts:
            line = _wander(part, s.spacing, s.size, rng, slack(s.margin))
            if line is not None and len(line) > 3:
                runs.append(Run(line, size_of_hand(s.spacing), closed=_closes(line)))
        return Linework(tuple(runs))

    def doors(self, space, settings=None):
        """The corners, when the zone is in one part."""
        parts = space.inset(self.clean(settings).margin)
        return corner_doors(parts[0]) if len(parts) == 1 else np.empty((0, 2))


def _between(
    part, spacing: float, size: float, rng, start: np.ndarray, stop: np.ndarray, over: float
):
    """From *start* through all loops to *stop*; None where not one loop has room. It may leave *part* by
    *over* inches."""
    radius = spacing * size / 2
    lobes = [p for p in shapely.get_parts(part.buffer(-radius * 1.15)) if p.area > 1e-3]
    if not lobes:
        return None
    points = np.vstack([start, stop, *[_spread(lobe, spacing, rng) for lobe in lobes]])
    order = round_trip(points, part, together=(0, 1))
    k = order.index(0)
    order = order[k:] + order[:k]
    if order[-1] != 1:
        order = [order[0], *reversed(order[1:])]
    return _through(points[order], part, radius, over, closed=False, bare_ends=True)


def _closes(line: np.ndarray) -> bool:
    return bool(np.hypot(*(line[0] - line[-1])) < 1e-6)


def _wander(part, spacing: float, size: float, rng, over: float) -> np.ndarray | None:
    """Through all loops of *part*, which it may leave by *over* inches; None where not one has room."""
    radius = spacing * size / 2
    core = part.buffer(-radius * 1.15)
    lobes = [p for p in shapely.get_parts(core) if p.area > spacing * spacing * 0.12]
    if not lobes:
        return _single(part, radius)
    points = _apart(np.vstack([_spread(lobe, spacing, rng) for lobe in lobes]), 1.9 * radius)
    points = np.vstack([points, _smaller(points, part, spacing, radius)])
    if len(points) < 3:
        one = len(points) == 1
        return _single(part, radius) if one else _through(points, part, radius, over, closed=False)
    lane = strip(part)
    if lane.mean_width < 1.6 * spacing and lane.length > 2 * spacing:
        # One row of loops: from end to end, not out and back on the same ground.
        apart = np.hypot(*(points[:, None] - (lane.left + lane.right)[None] / 2).transpose(2, 0, 1))
        return _through(
            points[np.argsort(apart.argmin(axis=1), kind="stable")], part, radius, over, False
        )
    order = round_trip(points, part)
    legs = points[order] - np.roll(points[order], 1, axis=0)
    if np.hypot(*legs.T).max() <= JUMP * spacing:
        return _through(points[order], part, radius, over)
    # Nobody goes back along an arm only to end where she began.
    return _through(points[open_way(points, part)], part, radius, over, closed=False)


def _spread(lobe, spacing: float, rng) -> np.ndarray:
    """Even sites whose outer ones lie on the edge of *lobe* and in its corners."""
    if lobe.area > MOST_LOOPS * spacing * spacing:
        spacing = math.sqrt(lobe.area / MOST_LOOPS)
    return sites_in(lobe, spacing, rng)


def _smaller(points: np.ndarray, part, spacing: float, radius: float) -> np.ndarray:
    """Where smaller loops have room, in what is too narrow for the others: their middles (n, 2)."""
    loops = [Cell(point, np.full(ANGLES, radius)) for point in points]
    least = SMALLEST * radius
    spots = open_spots(part, loops, 1.0, (least, least, radius), OPEN * spacing)
    return np.array([spot.middle for spot in spots]).reshape(-1, 2)


def _apart(points: np.ndarray, least: float) -> np.ndarray:
    """Those that keep so many inches from all before: where two rooms meet two loops may lie together."""
    if len(points) > 1 and (near := cKDTree(points).query_pairs(least)):
        points = np.delete(points, sorted({max(pair) for pair in near}), axis=0)
    return points


def _single(part, radius: float) -> np.ndarray | None:
    """One ring where one ring is all that fits."""
    centre = shapely.maximum_inscribed_circle(part, tolerance=0.02)
    cx, cy = centre.coords[0]
    radius = min(radius, centre.length)
    if radius < 0.06:
        return None
    t = np.linspace(0, 2 * math.pi, 33)
    ring = np.column_stack([cx + radius * np.cos(t), cy + radius * np.sin(t)])
    ring[-1] = ring[0]
    return ring


def _through(
    points: np.ndarray,
    part,
    radius: float,
    over: float,
    closed: bool = True,
    bare_ends: bool = False,
) -> np.ndarray | None:
    """Line through *points* with a loop at each, bending the way the line bends there; eased,
    it may leave *part* by *over* inches. Loops at its ends lie on the side on which no turn is too tight."""
    found, least = None, math.inf
    tried = SIDES if not closed and not bare_ends and len(points) <= FEW else SIDES[:1]
    for sides in tried:
        line = _with_loops(points, part, radius, over, closed, bare_ends, sides)
        if line is None:
            continue
        tight = tight_turns(line, TURN * radius, _closes(line))
        if tight < least:
            found, least = line, tight
        if not tight:
            break
    return found


def _with_loops(
    points: np.ndarray, part, radius: float, over: float, closed: bool, bare_ends: bool,
    sides: tuple[int, int],
) -> np.ndarray | None:  # fmt: skip
    """As `_through`, with the first and the last loop on these *sides*, if it is open."""
    n = len(points)
    into, onto = points - np.roll(points, 1, axis=0), np.roll(points, -1, axis=0) - points
    if not closed:
        into[0], onto[-1] = onto[0], into[-1]
    heading = _unit(_unit(into) + _unit(onto) + 1e-9)
    bend = into[:, 0] * onto[:, 1] - into[:, 1] * onto[:, 0]
    # A loop lies on the outside of its bend, so that the line crosses itself on the inside; at a
    # turn back it points straight out.
    turn = np.arctan2(bend, (into * onto).sum(axis=1))
    hand = np.where(bend >= 0, -1.0, 1.0)
    # Where it goes nearly straight on, loops lie on one side and then the other: so the line waves.
    for k in np.flatnonzero(np.abs(turn) < EASY):
        hand[k] = -hand[k - 1]
    hand[[0, -1]] *= sides
    outward = _unit(_unit(into) - _unit(onto) + 1e-9)
    across = np.column_stack([outward[:, 1], -outward[:, 0]]) * hand[:, None]
    sharp = (_unit(into) * _unit(onto)).sum(axis=1) < 0.5
    heading = np.where(sharp[:, None], across, heading)
    room = shapely.distance(part.boundary, shapely.points(points))
    least = np.minimum(TIGHTEST * radius, FULL * room)
    size = np.minimum(radius, np.maximum(np.maximum(AIRY * room, least), 0.05))
    made = [_loop(*each) for each in zip(points, heading, size, hand, strict=True)]
    if bare_ends:
        made[0] = (points[:1], heading[0], heading[0])
        made[-1] = (points[-1:], heading[-1], heading[-1])
    pieces = [made[0][0]]
    for i in range(n if closed else n - 1):
        loop, _, leaving = made[i]
        following, arriving, _ = made[(i + 1) % n]
        apart = float(np.hypot(*(following[0] - loop[-1])))
        reach = float(np.clip(apart * 0.45, 0.5 * radius, 3.0 * radius))
        way = bezier(
            loop[-1], loop[-1] + leaving * reach, following[0] - arriving * reach, following[0], 14
        )
        pieces.append(_held(way, part, radius)[1:])
        if i < n - 1:
            pieces.append(following)
    line = pushed_back(tidy(np.vstack(pieces)), part)
    if line is None:
        return None
    if closed and np.hypot(*(line[0] - line[-1])) < 1e-3:
        line[-1] = line[0]
    # Where it was held at the edge a hand goes round; loops stay as they are.
    least_turn = 0.8 * min(LOOSE * radius, float(size.min()))
    round_ = closed and _closes(line)
    looped = np.flatnonzero(size >= HELD_ON * radius)
    looped = looped[(looped > 0) & (looped < n - 1)] if bare_ends else looped
    for least in (LOOSE * radius, least_turn, 0.6 * least_turn, 0.0):
        eased = finished(line, SOFT * radius, part, closed=round_, over=over, least_turn=least)
        if eased is not None and _all_loop(eased, points[looped], size[looped]):
            return eased
    return line


def _all_loop(line: np.ndarray, sites: np.ndarray, radii: np.ndarray) -> bool:
    """Whether a line (n, 2) still goes round all *sites*: easing may undo the smallest loop."""
    near = cKDTree(line).query_ball_point(sites, STILL * radii, return_sorted=True)
    return all(
        _loops_at(line, site, float(radius), np.array(some, int))
        for site, radius, some in zip(sites, radii, near, strict=True)
    )


def _loops_at(
    line: np.ndarray, site: np.ndarray, radius: float, near: np.ndarray | None = None
) -> bool:
    """Whether a line (n, 2) goes round a *site*, by its points that are *near* to it, in their order."""
    if near is None:
        near = np.flatnonzero(np.hypot(*(line - site).T) < STILL * radius)
    off = line[near] - site
    angle = np.arctan2(off[:, 1], off[:, 0])
    turned = (np.diff(angle) + math.pi) % (2 * math.pi) - math.pi
    # Each time that it comes by for itself: another way that passes may turn the other way.
    leaves = np.diff(near) > 1
    times = np.cumsum(leaves)[~leaves]
    return bool(len(times)) and bool(np.abs(np.bincount(times, turned[~leaves])).max() > math.pi)


def _loop(site: np.ndarray, ahead: np.ndarray, radius: float, hand: float):
    """A loop about *site* that crosses itself at its foot: points, arriving and leaving heading."""
    normal = np.array([-ahead[1], ahead[0]]) * hand
    foot = site - normal * radius * FOOT
    slant = math.asin(1 / FOOT)
    rise, run = math.cos(slant), math.sin(slant)
    tip = Turn(tuple(foot), 0.0, 1)
    loop = tangent_chain([tip, Turn(tuple(site), radius, int(hand)), tip])
    return loop, ahead * run + normal * rise, ahead * run - normal * rise


def _held(way: np.ndarray, part, radius: float) -> np.ndarray:
    """A way between two loops, straightened where its swing would leave the zone, else bent inwards."""
    if shapely.covers(part, shapely.linestrings(way)):
        return way
    straight = np.linspace(way[0], way[-1], len(way))
    for share in (0.5, 0.8, 1.0):
        held = way * (1 - share) + straight * share
        if shapely.covers(part, shapely.linestrings(held)):
            return held
    return bent_inwards(resample(way, radius / 4), part, HELD * radius, radius)


def _unit(vectors: np.ndarray) -> np.ndarray:
    return vectors / np.maximum(np.hypot(vectors[:, 0], vectors[:, 1])[:, None], 1e-12)
