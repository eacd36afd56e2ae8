"""Spirals in the cells of a walk: in to the middle and out between the lines, the next from the
last one's back.

The line out lies beside the line in; where it comes to the rim, at any angle asked for, the line
in has made way for it. So all lines keep their distance, and nothing is crossed.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.curves import bezier
from chorograph_core.designs.engine.cells import Cell, Walk

FINE = math.radians(6)
EASE = 0.75
"""How much quicker a spiral leaves its rim than it goes on: from outside it looks round."""
ROUND = 0.75
"""Reach of the turn in the middle, in ways across it: two thirds are half a circle."""
BESIDE = 0.22
"""How far from the middle of a neck one goes in and out, in its widths."""
LEAST = 1.7
"""Gaps along the rim from the way in to the way out."""


@dataclass(frozen=True)
class Spiral:
    """A kind of spiral: inches from turn to turn (*pitch*) and from the line in to the line out beside it
    (*beside*); how much of the middle stays free (*core*, in pitches); how the middle is drawn; whether
    each turns the other way than the last, so that one goes into the next in an S."""

    pitch: float
    beside: float
    core: float
    middle: Middle
    swings: bool = False

    def depth(self, turned: np.ndarray, alpha: float) -> np.ndarray:
        """Depth of the line in after *turned* radians, when the way out lies *alpha* before the way in."""
        turns, rest = np.divmod(turned, 2 * math.pi)
        first, room = 2 * math.pi - alpha, self.pitch - self.beside
        one = _eased(np.clip(rest / max(first, 1e-9), 0, 1)) * room
        two = _eased(np.clip((rest - first) / max(alpha, 1e-9), 0, 1)) * self.beside
        return self.pitch * turns + one + two

    def lasting(self, cell: Cell, alpha: float) -> float:
        """Radians after which the line in has come as near to the middle as it goes."""
        free = cell.least - self.core * self.pitch
        if free <= self.beside:
            return 0.0
        turned = np.arange(0, 40 * math.pi, FINE)
        inside = self.depth(turned, alpha) + self.beside <= free
        return float(turned[inside][-1]) if inside.any() else 0.0


def _eased(share: np.ndarray) -> np.ndarray:
    return share + EASE * np.sin(2 * math.pi * share) / (2 * math.pi)


Middle = Callable[[Cell, np.ndarray, np.ndarray, np.ndarray], np.ndarray]
"""Draws the middle of a spiral: cell, end of the line in, beginning of the line out, heading there."""


def round_middle(cell: Cell, a: np.ndarray, b: np.ndarray, way: np.ndarray) -> np.ndarray:
    """A round turn from the line in to the line out: half a circle, or hardly longer."""
    reach = ROUND * float(np.hypot(*(b - a)))
    return bezier(a, a + way * reach, b + way * reach, b, 14)[1:-1]


def pointed_middle(cell: Cell, a: np.ndarray, b: np.ndarray, way: np.ndarray) -> np.ndarray:
    """Both lines run into one point beyond the middle: a hook."""
    inward = (b - a) / max(float(np.hypot(*(b - a))), 1e-9)
    free = float(np.hypot(*(cell.middle - b)))
    tip = cell.middle + 0.35 * free * way + 0.75 * free * inward
    far = float(np.hypot(*(tip - a)))
    into = bezier(a, a + way * 0.75 * far, tip + 0.35 * far * way, tip, 14)
    near = float(np.hypot(*(tip - b)))
    out = bezier(tip, tip - 0.1 * near * way - 0.35 * near * inward, b + way * 0.45 * near, b, 10)
    return np.vstack([into[1:], out[1:-1]])


def pieces_of(
    cell: Cell, kind: Spiral, begin: float, sense: int, alpha: float
) -> tuple[np.ndarray, np.ndarray]:
    """One spiral as points (n, 2), and the angle turned at each that lies on the outermost turn,
    negative on the last stretch out; others are no numbers.

    It enters at angle *begin*, turning by *sense*, and ends at *begin* - sense * alpha.
    """
    turned = kind.lasting(cell, alpha)
    into = np.arange(0, turned + FINE / 2, FINE)
    out = np.arange(turned, -alpha - FINE / 2, -FINE)
    first = cell.at(begin + sense * into, kind.depth(into, alpha))
    deep = np.where(
        out >= 0, kind.depth(np.maximum(out, 0), alpha) + kind.beside,
        kind.depth(out + 2 * math.pi, alpha) - (kind.pitch - kind.beside),
    )  # fmt: skip
    last = cell.at(begin + sense * out, deep)
    angle = begin + sense * float(into[-1])
    way = np.array([-math.sin(angle), math.cos(angle)]) * sense
    centre = kind.middle(cell, first[-1], last[0], way)
    places = np.concatenate([into, np.full(len(centre), np.nan), np.where(out >= 0, np.nan, out)])
    return np.vstack([first, centre, last]), places


def walked(
    cells: list[Cell], walk: Walk, kind: Spiral, outward: Callable[[Cell], float], first: int = 1
) -> tuple[np.ndarray, list[int]]:
    """The whole walk as one line (n, 2), and the indices at which each figure of its path ends.

    *outward* is the angle from a cell's middle to the nearest edge: there the line begins and ends. *first*
    is the sense in which it turns in its first cell, 1 or -1.
    """
    path = walk.path
    points: list[np.ndarray] = []
    stops: list[int] = []
    count = 0
    for k, index in enumerate(path):
        cell = cells[index]
        sense = -first if kind.swings and k % 2 else first
        ahead = cell.facing(path[k + 1], cells) if k + 1 < len(path) else outward(cell)
        behind = cell.facing(path[k - 1], cells) if k else outward(cell) + sense * 0.6
        alpha = (sense * (behind - ahead)) % (2 * math.pi)
        alpha = min(max(alpha, slit_of(cell, kind)), 2 * math.pi - 0.3)
        lag = 0.45 * kind.pitch / max(cell.least, kind.pitch / 2)
        line = with_asides(cells, walk, index, kind, behind + sense * lag, sense, alpha)
        if points:
            necks = cells[path[k - 1]].necks.get(index)
            points.append(
                joined(points[-1], line) if necks is None else through(necks, 0.0, points[-1], line)
            )
            count += len(points[-1])
        points.append(line)
        count += len(line)
        stops.append(count - 1)
    return np.vstack(points), stops


def slit_of(cell: Cell, kind: Spiral) -> float:
    """The angle between the way in and the way out where both lie side by side."""
    return min(LEAST * kind.pitch / 2 / cell.least, 1.5)


def joined(before: np.ndarray, after: np.ndarray) -> np.ndarray:
    """A smooth way from the end of one line to the beginning of the next, without either."""
    a, b = before[-1], after[0]
    into, onto = before[-1] - before[-2], after[1] - after[0]
    reach = 0.45 * float(np.hypot(*(b - a)))
    into, onto = into / max(np.hypot(*into), 1e-9), onto / max(np.hypot(*onto), 1e-9)
    return bezier(a, a + into * reach, b - onto * reach, b, 8)[1:-1]


def through(
    necks: Sequence[np.ndarray], off: float, before: np.ndarray, after: np.ndarray
) -> np.ndarray:
    """The same through *necks*, each from where to where (2, 2) it reaches across, *off* their middles by so
    much of their widths (to the right of how one goes)."""
    middles = [neck.mean(axis=0) for neck in necks]
    made, last = [], before
    for k, neck in enumerate(necks):
        way = neck[1] - neck[0]
        ahead = np.array([way[1], -way[0]])
        goal = middles[k + 1] if k + 1 < len(necks) else after[0]
        if ahead @ (goal - last[-1]) < 0:
            way, ahead = -way, -ahead
        size = max(float(np.hypot(*ahead)), 1e-9)
        # One goes across, never past its sides.
        spot, stub = middles[k] + off * way, ahead / size * 0.02
        here = np.array([spot - stub, spot + stub])
        made += [joined(last, here), here]
        last = here
    return np.vstack([*made, joined(last, after)])


def with_asides(
    cells: list[Cell], walk: Walk, index: int, kind: Spiral, begin: float, sense: int, alpha: float
) -> np.ndarray:
    """The spiral of a cell, turning aside into those that hang on it."""
    cell = cells[index]
    line, places = pieces_of(cell, kind, begin, sense, alpha)
    cuts = []
    for other in walk.aside.get(index, ()):
        angle = cell.facing(other, cells)
        ahead = (sense * (angle - begin)) % (2 * math.pi)
        if ahead < 2 * math.pi - alpha:
            cuts.append((int(np.nanargmin(np.abs(places - ahead))), other, sense))
        else:
            cuts.append((int(np.nanargmin(np.abs(places - (ahead - 2 * math.pi)))), other, -sense))
    made, begun = [], 0
    for at, other, way in sorted(cuts):
        at = min(max(at, begun), len(line) - 1)
        made.append(line[begun : at + 1])
        child = cells[other]
        necks = cell.necks.get(other)
        facing = child.towards(necks[-1].mean(axis=0) if necks else line[at])
        inner = with_asides(cells, walk, other, kind, facing, way, slit_of(child, kind))
        if necks:
            # In on one side of the neck, out on the other.
            last = line[max(at - 1, 0) : max(at, 1) + 1]
            begun = min(at + 1, len(line) - 2)
            while begun < len(line) - 2 and np.hypot(*(line[begun] - line[at])) < 0.45 * kind.pitch:
                begun += 1
            off = -way * BESIDE
            made += [
                through(necks, off, last, inner),
                inner,
                through(necks[::-1], off, inner, line[begun:]),
            ]
            continue
        # Round back into the cell aside, and on from it where the line goes on.
        step = line[min(at + 1, len(line) - 1)] - line[max(at - 1, 0)]
        step /= max(float(np.hypot(*step)), 1e-9)
        reach = 0.66 * float(np.hypot(*(inner[0] - line[at])))
        made.append(
            bezier(line[at], line[at] + step * reach, inner[0] + step * reach, inner[0], 10)[1:-1]
        )
        made.append(inner)
        begun = at + 1
        near = 0.8 * kind.pitch
        while (begun < len(line) - 1 and begun - at < 20
               and np.hypot(*(line[begun] - inner[-1])) < near
               and np.dot(line[begun] - inner[-1], step) < 0.45 * kind.pitch):  # fmt: skip
            begun += 1
        made.append(joined(inner, line[begun:]) if len(line) - begun > 1 else line[-1:])
    made.append(line[begun:])
    return np.vstack([piece for piece in made if len(piece)])
