"""The stroke of a motif along a strip: fitted to it, eased, drawn in where it would leave its zone."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Doorways
from chorograph_core.designs.engine.corners import CLOSED, one_after, sides_and_corners
from chorograph_core.designs.engine.figures_in_cells import units_at
from chorograph_core.designs.engine.lanes import (
    END,
    LEAST_UNIT,
    MOST_SLANT,
    NARROWEST,
    Lane,
    lane_in,
    lean_of,
    strays,
    strip_in,
    tips_of,
)
from chorograph_core.designs.engine.strokes import finished, slack
from chorograph_core.designs.engine.turning import joined
from chorograph_core.designs.keeping import pushed_back
from chorograph_core.designs.linework import Linework, Run, Unit, size_of_hand
from chorograph_core.designs.rails import Strip
from chorograph_core.designs.space import Space

FURTHER, LOWER = 0.16, 0.16
"""How much further along or less high a unit of a loose hand may be, in units and shares."""
TURNED = 1.6
"""Units that a stroke goes back for it to have turned round: a loop or a bulb is less."""
SHORTEST = 0.05
"""Inches of line that are one."""
NARROWER = (1.0, 0.96, 0.9, 0.8, 0.65)
"""Shares of the width to which a motif is drawn in where it would leave its zone."""
CornerFigure = Callable[[Polygon, np.ndarray, np.ndarray, float], np.ndarray | None]
"""Draws what stands in a corner: its room, where one comes from, where one goes on, inches of the tightest
turn."""
Stroke = Callable[[Lane], tuple[np.ndarray, np.ndarray]]
"""What a motif is: *u* and *v* (n,) along a lane."""


def along_strip(
    space: Space, margin: float, along: str, begin: str, proportion: float, stroke: Stroke, name: str,
    doorways: Doorways | None = None, soft: float = 0.12, least: float = LEAST_UNIT, lies: float = 0.0,
    corner: CornerFigure | None = None, more: int = 0, loose: float = 0.0, seed: int = 0,
    slant: float = MOST_SLANT, least_turn: float = 0.0, rounds: int = 1, end: float = END,
    odd: bool = False, sharp: bool = False,
) -> Linework:  # fmt: skip
    """One line along each part of a zone; *soft* is how far turns are eased, against the width of
    the strip; *lies*: how far legs are drawn for the way the strip lies on the frame; *corner* is
    what stands in the corners that it turns. *more* units than fit best.
    *loose*: how uneven, 0 as if drafted. *slant*: how far legs slant with ends cut slantwise, at most;
    *least_turn*: inches of the tightest turn; *rounds*: after so many units a stroke is where it began,
    so that one which goes all round closes; *odd*: of one that does not there are 1, 3, 5 …; what is
    narrower than *end* of the whole is left to the tips; *sharp*: it goes right round the inside of
    corners."""
    runs = []
    for part in space.inset(margin):
        strip = strip_in(space, part, along, begin)
        if strip.mean_width < NARROWEST or strays(strip, part):
            continue
        # On a slant legs lie closer to each other than along the strip.
        wider = math.hypot(1.0, lies * float(np.mean(np.abs(lean_of(strip)))))
        if doorways and doorways[0] is not None:
            near = np.asarray(doorways[0])
            ends = (strip.at(0, 0), strip.at(strip.length, 0))
            if np.hypot(*(ends[1] - near)) < np.hypot(*(ends[0] - near)) - 1e-6:
                strip = strip.reversed()
        if corner is not None:
            hand = loose, seed
            turned = _with_corners(
                strip, proportion, stroke, corner, part, margin, name, hand, least_turn, odd
            )
            if turned is not None:
                runs.append(turned)
                continue
        guided = space.guide is not None
        ring = _goes_round(strip)
        lane = lane_in(strip, proportion * wider, least, guided, more, rounds if ring else 1, end,
                       odd and not ring, sharp)  # fmt: skip
        lane = replace(lane, slant=slant)
        u, v = by_hand(*stroke(lane), loose, seed, lane.count if ring else 0)
        if lies:
            u = u + lies * lane.leaning(u, v)
        u = _drawn_in(u, lane)
        tips = None if guided else tips_of(strip, end)
        if tips is not None and u[-1] < lane.count / 2:
            # What comes back ends beside the tip it came from; to the far one it would go over all it drew.
            tips = (tips[0], tips[1][:0])
        easing = soft * min(strip.mean_width, 2.0)
        if np.hypot(*np.diff(lane.points(u, v), axis=0).T).sum() < SHORTEST:
            continue
        for share in NARROWER:
            line = lane.points(u, v * share)
            whole = line if tips is None else _into_tips(line, tips)
            closed = ring and float(np.hypot(*(whole[0] - whole[-1]))) < CLOSED
            if closed:
                whole[-1] = whole[0]
            made = finished(whole, easing, part, closed, slack(margin), least_turn)
            if made is not None:
                break
        if made is None:
            continue
        closed = closed and bool(np.array_equal(made[0], made[-1]))
        units = _units(made, line, u, name)
        runs.append(Run(made, size_of_hand(strip.mean_width), units=units, closed=closed))
    return Linework(tuple(runs), kept_doorways=bool(doorways) and len(runs) == 1)


def _into_tips(line: np.ndarray, tips: tuple[np.ndarray, np.ndarray]) -> np.ndarray:
    """A line that comes out of the *tips* of its strip, and runs out into them."""
    before, after = tips
    if len(before):
        line = np.vstack([before, joined(before, line), line])
    if len(after):
        line = np.vstack([line, joined(line, after), after])
    return line


def _goes_round(strip: Strip) -> bool:
    return bool(np.hypot(*(strip.left[0] - strip.left[-1])) < CLOSED)


def by_hand(
    u: np.ndarray, v: np.ndarray, loose: float, seed: int, count: int = 0
) -> tuple[np.ndarray, np.ndarray]:
    """A stroke a little less even than if drafted, of units slightly longer and lower, as a hand makes
    them; 0 leaves it as it is. It never reaches farther across. One of *count* units that goes all round
    ends as it begins."""
    if loose <= 0:
        return u, v
    rng = np.random.default_rng(seed)
    knots = np.arange(math.floor(u.min()) - 1, math.ceil(u.max()) + 2)
    further, lower = rng.uniform(-1, 1, (2, len(knots)))
    base = np.floor(u).astype(int)
    share = (u - base) ** 2 * (3 - 2 * (u - base))
    at = base - knots[0]
    if count:
        ends = np.array([0, count]) - knots[0]
        further[ends], lower[ends] = 0.0, lower[ends[0]]
    soft = [values[at] * (1 - share) + values[at + 1] * share for values in (further, lower)]
    return u + FURTHER * loose * soft[0], v * (1 - LOWER * loose * np.abs(soft[1]))


def _drawn_in(u: np.ndarray, lane: Lane) -> np.ndarray:
    """What reaches past the ends is drawn in: a lean, a loop back."""
    return np.interp(u, (min(0.0, u.min()), max(lane.count, u.max())), (0.0, lane.count))


def _with_corners(
    strip: Strip, proportion: float, stroke: Stroke, corner: CornerFigure, part: Polygon, margin: float,
    name: str, hand: tuple[float, int], least_turn: float, odd: bool,
) -> Run | None:  # fmt: skip
    """Side after side, with a figure in each corner between; None where the strip turns none."""
    sides, rooms = sides_and_corners(strip)
    if not rooms:
        return None
    ring = _goes_round(strip)
    if ring:
        # The first side goes on where the last one ends.
        sides, rooms = [*sides[1:-1], one_after(sides[-1], sides[0])], [*rooms[1:], rooms[0]]
    lines: list[np.ndarray] = []
    ends: list[list[np.ndarray]] = []
    for k, side in enumerate(sides):
        lane = lane_in(side, proportion, odd=odd)
        # From a corner one comes, and to one goes, as out of a tip.
        lane = replace(lane, tipped=(k > 0 or lane.tipped[0], k < len(rooms) or lane.tipped[1]))
        u, v = by_hand(*stroke(lane), *hand)
        line = lane.points(_drawn_in(u, lane), v * NARROWER[1])
        lines.append(line)
        top = np.maximum.accumulate(u)
        ends.append(
            [line[int(np.searchsorted(top, k))] for k in range(1, math.ceil(top[-1] - 1e-6))]
        )
    for k, room in enumerate(rooms):
        middle = shapely.get_coordinates(room.centroid)[0]
        lines[k] = _facing(lines[k], middle)
        if ring or k + 1 < len(lines):
            then = (k + 1) % len(lines)
            lines[then] = _facing(lines[then][::-1], middle)[::-1]
    pieces, stops = [lines[0]], [*ends[0], lines[0][-1]]
    for k, room in enumerate(rooms):
        following = lines[k + 1] if k + 1 < len(lines) else None
        onto = lines[0][0] if following is None else following[0]
        figure = corner(room, pieces[-1][-1], onto, least_turn)
        if figure is not None:
            pieces += [joined(pieces[-1], figure), figure]
            stops.append(figure[-1])
        if following is not None:
            pieces += [joined(pieces[-1], following), following]
            stops += [*ends[k + 1], following[-1]]
    if ring:
        # Out of the last corner one comes to where one began.
        pieces += [joined(pieces[-1], lines[0]), lines[0][:1]]
        stops.append(lines[0][0])
    whole, last = np.vstack(pieces), np.array(stops)
    over = slack(margin)
    inside = part.buffer(over).covers(shapely.linestrings(whole))
    held = whole if inside else pushed_back(whole, part)
    soft = 0.02 * strip.mean_width
    made = None if held is None else finished(held, soft, part, ring, over, least_turn)
    if made is None:
        return None
    closed = bool(np.array_equal(made[0], made[-1]))
    units = units_at(made, last, name)
    return Run(made, size_of_hand(strip.mean_width), units=units, closed=closed)


def _facing(line: np.ndarray, spot: np.ndarray) -> np.ndarray:
    """A line less what of its end looks back, away from *spot*: a loop is not begun before a corner."""
    way = np.diff(line, axis=0)
    ahead = (way * (spot - line[:-1])).sum(axis=1) > 0
    last = int(np.flatnonzero(ahead)[-1]) + 1 if ahead.any() else len(line) - 1
    return line[: last + 1] if last > len(line) / 2 else line


def _units(made: np.ndarray, line: np.ndarray, u: np.ndarray, name: str) -> tuple[Unit, ...]:
    """Where each unit of a stroke ends that goes along a lane, and perhaps back and along it again."""
    ends: list[int] = []
    for first, stop, way in _ways_along(u):
        gone = np.maximum.accumulate(way * u[first:stop])
        counts = np.arange(math.floor(gone[0] + 1e-6) + 1, math.ceil(gone[-1] - 1e-6))
        ends += (first + np.searchsorted(gone, counts)).tolist()
    found, begun = [], 0
    # Where a stroke comes by the same place again the next unit is not looked for there.
    reach = max(60, 4 * len(made) // (len(ends) + 1))
    for k, at in enumerate(ends, 1):
        ahead = np.hypot(*(made[begun + 1 : min(begun + reach, len(made) - 1)] - line[at]).T)
        if len(ahead) < 2:
            break
        begun = begun + 1 + int(ahead.argmin())
        found.append(Unit(f"{name} {k}", begun))
    return (*found, Unit(f"{name} {len(found) + 1}", len(made) - 1)) if found else ()


def _ways_along(u: np.ndarray) -> list[tuple[int, int, int]]:
    """From where to where a stroke goes along its lane (1) and back along it (-1): a loop back is no turn."""
    found: list[tuple[int, int, int]] = []
    first, way, top = 0, 1, 0
    for k in range(len(u)):
        if way * (u[k] - u[top]) > 0:
            top = k
        elif way * (u[top] - u[k]) > TURNED:
            found.append((first, top + 1, way))
            first, way, top = top, -way, k
    return [*found, (first, len(u), way)]
