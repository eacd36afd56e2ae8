"""Figures of one shape put one after another: each turned so that the ways between them flow.

A hand does not stop between two figures. It swings out of the one and into the next, and turns each the
way that swing asks for. So the turns of all figures of a line are chosen together: of all ways to turn
them those whose ways between bend least (dynamic programming along the line; Viterbi 1967).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry import Polygon

from chorograph_core.designs.curves import bezier

TURNS = 24
"""Ways to turn a figure."""
LONG = 2.0
"""What a way as long as a figure is across costs, beside its bending (radians squared)."""
CLOSE = 0.25
"""Figures across: a shorter way has less room to bend than its ends ask for, and bends so much more."""
STEEPEST = math.radians(165)
"""Radians: who turns back farther counts as if she turned so far."""
SLOWEST, FASTEST = 0.3, 1.6
"""How far a curve's handles reach, in thirds of the way."""
NEAR = 1.8
"""Figures across from a way within which others may lie in it."""
LIKELY = 120
"""Ways between two figures that are looked at: those that bend least."""
HIT = 120.0
"""What a way costs that lies outside or on other figures all along."""
CORE = 0.8
"""How much of its radius a figure takes up."""
TRIED = np.arange(1, 8) / 8
"""Where along a way it is looked what it lies on."""


Stroke = np.ndarray
"""A figure as one draws it (n, 2), in the unit circle."""


@dataclass(frozen=True)
class Placed:
    """A figure's place: its *middle*, how far it reaches from there in inches, and the strokes of which it
    may be any, *turned* by any angle or as they are."""

    middle: np.ndarray
    radius: float
    strokes: tuple[Stroke, ...]
    turned: bool = True


class _Turned:
    """All ways to lay one of *strokes*: which of them, turned by which angle; where they begin and end,
    and the headings there."""

    def __init__(self, strokes: Sequence[Stroke], turns: int) -> None:
        angles = np.arange(turns) * 2 * math.pi / turns
        cos, sin = np.cos(angles), np.sin(angles)
        self._turns = np.stack([np.stack([cos, sin], -1), np.stack([-sin, cos], -1)], -2)
        self._strokes = strokes
        self.starts = np.concatenate([each[0] @ self._turns for each in strokes])
        self.ends = np.concatenate([each[-1] @ self._turns for each in strokes])
        self.coming = np.concatenate([_heading(each[1] - each[0]) + angles for each in strokes])
        self.leaving = np.concatenate([_heading(each[-1] - each[-2]) + angles for each in strokes])

    def laid(self, which: int) -> np.ndarray:
        """The stroke (n, 2) as laid in the unit circle."""
        stroke, turn = divmod(which, len(self._turns))
        return self._strokes[stroke] @ self._turns[turn]


def turned_along(
    places: Sequence[Placed], begin: float, end: float, part: Polygon
) -> list[np.ndarray]:
    """The lines (n, 2) of figures at *places*, each turned so that one comes from the last and goes on to
    the next with least bending, within *part* and past the other figures; the first comes from the
    direction *begin*, the last goes on to the direction *end* (radians)."""
    middles = np.array([each.middle for each in places])
    radii = np.array([each.radius for each in places])
    kinds: dict[tuple, _Turned] = {}
    turned = []
    for each in places:
        kind = (*map(id, each.strokes), each.turned)
        if kind not in kinds:
            kinds[kind] = _Turned(each.strokes, TURNS if each.turned else 1)
        turned.append(kinds[kind])
    shapely.prepare(part)
    tree = cKDTree(middles)
    choices: list[np.ndarray] = []
    cost = _from_outside(turned[0].starts, turned[0].coming, begin)
    for k in range(1, len(places)):
        one, two, across = turned[k - 1], turned[k], float(radii[k - 1] + radii[k])
        ways = _Ways(
            middles[k - 1] + radii[k - 1] * one.ends, one.leaving,
            middles[k] + radii[k] * two.starts, two.coming,
        )  # fmt: skip
        price = ways.bending(across)
        near = tree.query_ball_point(middles[k - 1 : k + 1].mean(axis=0), NEAR * across)
        likely = _least(price.ravel(), LIKELY)
        whole = (price + HIT).ravel()
        whole[likely] += HIT * (ways.astray(likely, middles[near], radii[near], part) - 1)
        both = cost[:, None] + whole.reshape(price.shape)
        choices.append(both.argmin(axis=0))
        cost = both.min(axis=0)
    last = cost + _from_outside(turned[-1].ends, turned[-1].leaving + math.pi, end)
    taken = [int(last.argmin())]
    for choice in reversed(choices):
        taken.append(int(choice[taken[-1]]))
    return [
        each.middle + each.radius * kind.laid(which)
        for each, kind, which in zip(places, turned, reversed(taken), strict=True)
    ]


class _Ways:
    """All ways from one of *ends* (n, 2), left by the headings *leaving*, to one of *starts* (m, 2), come
    to by the headings *coming*."""

    def __init__(
        self, ends: np.ndarray, leaving: np.ndarray, starts: np.ndarray, coming: np.ndarray
    ) -> None:
        chord = starts[None] - ends[:, None]
        self.ends, self.starts, self.leaving, self.coming = ends, starts, leaving, coming
        self.far = np.hypot(chord[..., 0], chord[..., 1])
        self.along = np.arctan2(chord[..., 1], chord[..., 0])

    def bending(self, across: float) -> np.ndarray:
        """What each costs (n, m): how much it bends and how long it is. With θ and φ the angles between
        its chord and its ends a cubic bends by 4 (θ² + θφ + φ²) over its length."""
        # A chord of hardly any length has no direction of its own.
        between = self.leaving[:, None] + _wrapped(self.coming[None] - self.leaving[:, None]) / 2
        along = np.where(self.far < 0.02 * across, between, self.along)
        one, two = _steep(self.leaving[:, None] - along), _steep(self.coming[None] - along)
        bent = one**2 + one * two + two**2
        close = CLOSE * across / np.maximum(self.far, 0.1 * across)
        return bent * (1 + close) + LONG * self.far / across

    def astray(
        self, which: np.ndarray, middles: np.ndarray, radii: np.ndarray, part: Polygon
    ) -> np.ndarray:
        """The share of each of *which* that lies on figures, or twice that of what leaves *part*."""
        i, j = np.unravel_index(which, self.far.shape)
        far, along = self.far[i, j], self.along[i, j]
        one, two = _wrapped(self.leaving[i] - along), _wrapped(along - self.coming[j])
        a, b = self.ends[i], self.starts[j]
        p = a + _towards(self.leaving[i], far / 3 * _speed(one, two))
        q = b - _towards(self.coming[j], far / 3 * _speed(two, one))
        t = TRIED[:, None, None]
        spots = (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * p + 3 * (1 - t) * t * t * q + t**3 * b
        out = ~shapely.contains_xy(part, spots[..., 0], spots[..., 1])
        apart = spots[..., None, :] - middles
        on = ((apart * apart).sum(axis=-1) < (CORE * radii) ** 2).any(axis=-1)
        return (on + 2.0 * out).mean(axis=0)


def _least(prices: np.ndarray, count: int) -> np.ndarray:
    """Which are the *count* least."""
    return np.argpartition(prices, count)[:count] if len(prices) > count else np.arange(len(prices))


def _towards(heading: np.ndarray, inches: np.ndarray) -> np.ndarray:
    return np.column_stack([np.cos(heading), np.sin(heading)]) * inches[:, None]


def _heading(step: np.ndarray) -> float:
    return math.atan2(float(step[1]), float(step[0]))


def _from_outside(ends: np.ndarray, inward: np.ndarray, side: float) -> np.ndarray:
    """What it costs that an end looks elsewhere than to *side*."""
    place = _wrapped(np.arctan2(ends[:, 1], ends[:, 0]) - side)
    way = _wrapped(inward + math.pi - side)
    return (place**2 + way**2) / 4


def _steep(angle: np.ndarray) -> np.ndarray:
    """An angle as it is where it is small; one that leads back counts many times: who turns round swings far
    out."""
    return 2 * np.tan(_wrapped(angle).clip(-STEEPEST, STEEPEST) / 2)


def _wrapped(angle: np.ndarray) -> np.ndarray:
    return (angle + math.pi) % (2 * math.pi) - math.pi


def way_between(before: np.ndarray, after: np.ndarray) -> np.ndarray:
    """A way from the end of one line to the beginning of the next that bends as evenly as one curve can,
    without either end (its handles: Hobby 1986)."""
    a, b = before[-1], after[0]
    far = float(np.hypot(*(b - a)))
    if far < 1e-9:
        return np.empty((0, 2))
    into, onto = before[-1] - before[-2], after[1] - after[0]
    into, onto = into / max(np.hypot(*into), 1e-9), onto / max(np.hypot(*onto), 1e-9)
    along = _heading(b - a)
    one = _wrapped(np.array([_heading(into) - along]))
    two = _wrapped(np.array([along - _heading(onto)]))
    reach = far / 3 * np.concatenate([_speed(one, two), _speed(two, one)])
    return bezier(a, a + into * reach[0], b - onto * reach[1], b, 14)[1:-1]


def _speed(here: np.ndarray, there: np.ndarray) -> np.ndarray:
    """How far a handle reaches, in thirds of the way, where the curve turns by *here* at its own end and by
    *there* at the other."""
    lean = np.sin(here) - np.sin(there) / 16
    lean *= np.sin(there) - np.sin(here) / 16
    lean *= math.sqrt(2) * (np.cos(here) - np.cos(there))
    room = 1 + (math.sqrt(5) - 1) / 2 * np.cos(here) + (3 - math.sqrt(5)) / 2 * np.cos(there)
    return np.clip((2 + lean) / np.maximum(room, 1e-6), SLOWEST, FASTEST)
