"""Lines that lean into what they leave open, a little and all of them that lie round it: as a hand does that
sees a gap come, swings wider at the edge and reaches into the corner.

Round the middle of an opening the plane is drawn together, all that lies on it with it, the less the farther
off, so that nothing comes to cross what it did not cross before: along every ray from the middle what was
farther out stays farther out.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
import shapely
from scipy.ndimage import distance_transform_edt, maximum_filter
from scipy.spatial import cKDTree

from chorograph_core.designs.contract import SPILL
from chorograph_core.designs.engine.redrawn_runs import dense, eased, finer, thinned
from chorograph_core.designs.engine.tight import tight_turns
from chorograph_core.designs.judging import BARS, sharp_corners
from chorograph_core.designs.linework import Linework, Run
from chorograph_core.designs.space import Space

ALLOWED = 0.97
"""Of what a drawing may leave open at most: so much where lines have leaned."""
JUST = 0.995 / ALLOWED
"""How many times as wide as it should be something may be that nobody sees."""
FAR_TOO_WIDE = 1.45
"""What is open so many times as wide as it may be is no matter of leaning: something is missing there."""
REACH = 2.2
"""How far round an opening lines lean, in its radii."""
MOST_DRAWN = 0.5
"""How much of the way to the middle goes at most."""
ROUNDS, CYCLES = 4, 8
"""How often lines lean, and how often that is begun after turns grown too tight were eased."""
FINE, SPOTS, COARSE = 8, 60_000, 4
"""Spots looked at across the way from line to line, how many in all, and across that way at least."""
LEGS, MOST_LEGS = 6, 60_000
"""Legs of a line along the way from line to line, if it is to lean, and how many in all."""
ALONG = 0.1
"""Inches along the edge from spot to spot."""


class Opening(NamedTuple):
    """What is open round a *middle*: inches to the nearest line, and how many there should be at most."""

    middle: tuple[float, float]
    radius: float
    allowed: float
    counts: float
    """What is told of the drawing by it: by most openings themselves, by those along the edge what 19 of 20
    spots have at most, over what they should."""

    @property
    def too_wide(self) -> float:
        """How many times as wide as it should be."""
        return self.radius / self.allowed


def leaning(
    made: Linework, space: Space, spacing: float, margin: float, least_turn: float = 0.0
) -> Linework:
    """A drawing whose lines are *spacing* inches apart, leaning into what it leaves open in *space*, beside
    its *margin* and in its corners. Nothing turns in less than *least_turn* inches that did not before. As it
    was where nothing is open, or leaning does not make it fuller."""
    runs = [run for run in made.runs if len(run.points) > 2]
    if spacing <= 0 or not runs or len(runs) < len(made.runs):
        return made
    if sum(run.inches for run in runs) > MOST_LEGS * spacing / LEGS:
        return made
    room = _Room(space, spacing, margin)
    open_ = room.openings([run.points for run in runs])
    if _worth(open_)[0] < JUST:
        return made
    best, least, now = made, _worth(open_), runs
    found = least
    tight = [tight_turns(run.points, least_turn, run.closed) if least_turn else 0 for run in runs]
    for _ in range(CYCLES):
        now = [finer(run, spacing / LEGS) for run in now]
        lines = room.leaned([run.points for run in now])
        now = [replace(run, points=line) for run, line in zip(now, lines, strict=True)]
        if least_turn:
            now = [eased(run, least_turn, space, most)
                   for run, most in zip(now, tight, strict=True)]  # fmt: skip
        was, found = found, _worth(room.openings([run.points for run in now]))
        if found < least:
            # What a point less makes look tight keeps it.
            for some in (tuple(map(thinned, now)), tuple(now)):
                if _still_fine(runs, some, tight, least_turn, space):
                    best, least = replace(made, runs=some), found
                    break
        if least[0] < JUST or found == was:
            break
    return best


def left_beside(made: Linework, space: Space, spacing: float, margin: float) -> tuple[float, float]:
    """How far a drawing stays away from the edge of *space* and from its corners: of what counts for most, in
    what it may, then all of it; nothing where it reaches both. Infinite for none."""
    if not made.runs:
        return math.inf, math.inf
    room = _Room(space, spacing, margin)
    near = np.concatenate([dense(run.points, room.step)[0] for run in made.runs])
    return _worth(room.beside(cKDTree(near)))


def _worth(open_: Sequence[Opening]) -> tuple[float, float]:
    """How much is open: what counts for most, then all of it."""
    return max((each.counts for each in open_), default=0.0), sum(each.too_wide for each in open_)


def _still_fine(
    before: Sequence[Run], now: Sequence[Run], tight: Sequence[int], least_turn: float, space: Space
) -> bool:
    """Whether lines stay in their zone, cross nowhere that they did not, and turn no tighter."""
    room = space.polygon.buffer(SPILL / 2)
    shapely.prepare(room)
    for was, run, most in zip(before, now, tight, strict=True):
        old, line = shapely.linestrings(was.points), shapely.linestrings(run.points)
        if not room.covers(line) and room.covers(old):
            return False
        if old.is_simple and not line.is_simple:
            return False
        if least_turn and tight_turns(run.points, least_turn, run.closed) > most:
            return False
    return True


class _Room:
    """What is to be filled: spots all over a zone, along its margin, and its corners."""

    def __init__(self, space: Space, spacing: float, margin: float) -> None:
        self.zone, self.spacing = space.polygon, spacing
        self.parts = space.inset(margin) or [space.polygon]
        self.step = max(spacing / FINE, math.sqrt(self.zone.area / SPOTS))
        self.tips = np.array(sharp_corners(self.zone, 60)).reshape(-1, 2)
        self.corners = np.array(
            [corner for part in self.parts for corner in sharp_corners(part, 120)]
        ).reshape(-1, 2)
        rims = [shapely.segmentize(part.exterior, ALONG) for part in self.parts]
        self.rim = shapely.get_coordinates(rims)

    @cached_property
    def _spots(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Where spots stand across and down, and which of them (rows, columns) lie in the zone."""
        x0, y0, x1, y1 = self.zone.bounds
        xs = np.arange(x0 - self.step, x1 + 2 * self.step, self.step)
        ys = np.arange(y0 - self.step, y1 + 2 * self.step, self.step)
        across, down = np.meshgrid(xs, ys)
        inside = shapely.contains_xy(self.zone, across.ravel(), down.ravel())
        return xs, ys, inside.reshape(across.shape)

    def openings(self, lines: Sequence[np.ndarray]) -> list[Opening]:
        """What is open wider than it may be, the widest first."""
        near = np.concatenate([dense(line, self.step)[0] for line in lines])
        tree = cKDTree(near)
        return sorted(
            [*self._inside(near, tree), *self.beside(tree)], key=lambda each: -each.too_wide
        )

    def beside(self, tree: cKDTree) -> list[Opening]:
        """What is farther than it may be from the points of a *tree* in corners and along the edge."""
        found = self._beyond(tree, self.corners, ALLOWED * self.spacing)
        edge = ALLOWED * BARS["edge"] * self.spacing
        apart = tree.query(self.rim)[0]
        if np.percentile(apart, 95) > edge:
            some = apart > edge
            most = float(np.percentile(apart, 95)) / edge
            found += [Opening(tuple(spot), gap, edge, most) for spot, gap in
                      zip(self.rim[some].tolist(), apart[some].tolist(), strict=True)]  # fmt: skip
        return found

    def _beyond(self, tree: cKDTree, spots: np.ndarray, allowed: float) -> list[Opening]:
        if not len(spots):
            return []
        pairs = zip(spots.tolist(), tree.query(spots)[0].tolist(), strict=True)
        return [
            Opening(tuple(spot), gap, allowed, gap / allowed)
            for spot, gap in pairs
            if gap > allowed
        ]

    def _inside(self, near: np.ndarray, tree: cKDTree) -> list[Opening]:
        """The widest circles between lines, where they are too wide."""
        if self.step > self.spacing / COARSE:
            return []
        xs, ys, inside = self._spots
        hit = np.zeros(inside.shape, bool)
        column, row = np.rint((near - (xs[0], ys[0])) / self.step).astype(int).T
        hit[row.clip(0, len(ys) - 1), column.clip(0, len(xs) - 1)] = True
        free = distance_transform_edt(inside & ~hit) * self.step
        gap = ALLOWED * BARS["gap"] * self.spacing / 2
        rows, columns = np.nonzero((free == maximum_filter(free, 3)) & (free > gap - self.step))
        if not len(rows):
            return []
        # The middle of a circle lies between spots: those round the widest one are looked at too.
        around = self.step / 2 * np.array([(x, y) for x in (-1, 0, 1) for y in (-1, 0, 1)])
        spots = np.column_stack([xs[columns], ys[rows]])[:, None] + around
        rim = shapely.distance(shapely.points(spots), self.zone.boundary)
        rim[~shapely.contains_xy(self.zone, spots[..., 0], spots[..., 1])] = 0.0
        apart = np.minimum(tree.query(spots)[0], rim)
        widest = apart.argmax(axis=1)
        picked = np.arange(len(spots)), widest
        spots, apart = spots[picked], apart[picked]
        bars = np.full(len(spots), gap)
        if len(self.tips):
            in_tip = np.hypot(*(spots[:, None] - self.tips).transpose(2, 0, 1)).min(axis=1)
            bars[in_tip < 2 * self.spacing] = ALLOWED * BARS["tip"] * self.spacing / 2
        return [Opening(tuple(spot), radius, bar, radius / bar) for spot, radius, bar in
                zip(spots.tolist(), apart.tolist(), bars.tolist(), strict=True) if radius > bar]  # fmt: skip

    def leaned(self, lines: Sequence[np.ndarray]) -> list[np.ndarray]:
        """The *lines*, leaning into what they leave open, again and again."""
        best, least = list(lines), (math.inf, math.inf)
        lines = [line.copy() for line in lines]
        for _ in range(ROUNDS):
            open_ = self.openings(lines)
            if _worth(open_) < least:
                best, least = [line.copy() for line in lines], _worth(open_)
            taken: list[Opening] = []
            for each in open_:
                reach = REACH * each.radius
                if each.too_wide < FAR_TOO_WIDE and all(
                    math.dist(each.middle, other.middle) >= reach + REACH * other.radius
                    for other in taken
                ):
                    taken.append(each)
            if not taken:
                break
            for each in taken:
                for line in lines:
                    _draw_together(line, each)
        return best


def _draw_together(line: np.ndarray, opening: Opening) -> None:
    """Move what of *line* (n, 2) lies round an *opening* towards its middle, so far that what bounds it comes
    to lie as near as it should.

    A point *r* from the middle comes to r (1 - a (1 - (r / R)²)²): what is farther out stays so as long as a
    is less than 1, and from R on nothing moves.
    """
    reach = REACH * opening.radius
    off = line - opening.middle
    far = np.hypot(*off.T) / reach
    some = far < 1
    share = (1 - 1 / REACH**2) ** 2
    much = min((1 - opening.allowed / opening.radius) / share, MOST_DRAWN)
    line[some] -= off[some] * (much * (1 - far[some] ** 2) ** 2)[:, None]
