"""Needles: where a line goes out and back so closely beside itself that no hand turns round there.

One ends a little sooner, where it is wide enough for a round turn. One that is slim for longer is drawn apart
instead, on the side on which there is room, as far as such a turn needs: a hand would come back a little
beside. Where there is none, it ends much sooner.
"""

from __future__ import annotations

import math

import numpy as np
from scipy.ndimage import gaussian_filter1d

from chorograph_core.designs.engine.patches import Patch

SHORTER, LONGER, BLUNT = 3.0, 16.0, 2.3
"""Inches that a needle may lose so that it ends round, how far from its point it is drawn apart at most, and
how wide it is where it ends, in radii."""
MISSED = 9.0
"""Radii that a needle may lose before it is rather drawn apart: what it would have filled would be missed."""
APART = 2.5
"""How far its sides are drawn apart, in radii."""
SIDES = ((0.0, 1.0), (1.0, 0.0), (0.5, 0.5))
"""How much of the way its two sides move that is drawn apart."""
RETRACED = 0.004
"""Inches from one side to the other of what goes back over its own line: that is meant."""
SLIM = 0.5
"""How wide a needle is at most, over the way round its point: what opens more is a corner."""
CAP = 16
"""Legs of a round turn."""
EASE = 0.35
"""Inches over which a side that moves away swings out, next to where it does not."""


def rounder(line: np.ndarray, tip: int, radius: float, step: float) -> list[Patch]:
    """What might stand for the needle with its point at station *tip* of a *line* (n, 2) whose stations lie
    *step* inches apart, so that it turns in no less than *radius* inches: cut short or drawn apart, the
    better way first. None where its sides do not run along with each other, or it goes back over its own
    line."""
    apart, end = _measured(line, tip, radius, step)
    least = math.ceil(BLUNT / 2 * radius / step)
    found, wide = [], bool(apart[end] >= BLUNT * radius)
    if wide and apart[end] > SLIM * 2 * end * step:
        return []
    if wide and 4 <= end < round(SHORTER / step):
        turn = _turn(line, tip - end, tip + end, step)
        found = [Patch(tip - end, tip + end, turn)] if len(turn) else []
    retraced = np.median(apart[least : end + 1]) < RETRACED if end > least else True
    if retraced or end < 2 * least or (not wide and end * step < LONGER / 2):
        return found
    wider = [
        patch for shares in SIDES for patch in _drawn_apart(line, tip, end, shares, radius, step)
    ]
    return [*found, *wider] if end * step < MISSED * radius else [*wider, *found]


def _measured(line: np.ndarray, tip: int, radius: float, step: float) -> tuple[np.ndarray, int]:
    """How far the two sides are apart so many stations from the *tip*, and where they are wide enough; where
    that is nowhere, the last station looked at."""
    far = min(tip, len(line) - 1 - tip, round(LONGER / step))
    apart = np.hypot(*(line[tip - far : tip + 1][::-1] - line[tip : tip + far + 1]).T)
    wide = np.flatnonzero(apart >= BLUNT * radius)
    return apart, int(wide[0]) if len(wide) else far


def _turn(line: np.ndarray, first: int, last: int, step: float) -> np.ndarray:
    """Half a round from station *first* to *last*, onwards as the line comes; (0, 2) where its sides do not
    run along with each other there."""
    on = line[first] - line[first - 1] + line[last] - line[min(last + 1, len(line) - 1)]
    size = float(np.hypot(*on))
    if size < step:
        return np.zeros((0, 2))
    return _half_round(line[first], line[last], on / size)


def _half_round(one: np.ndarray, other: np.ndarray, on: np.ndarray) -> np.ndarray:
    half = (other - one) / 2
    angles = np.linspace(-math.pi / 2, math.pi / 2, CAP)[:, None]
    return one + half + np.sin(angles) * half + np.cos(angles) * (on * math.hypot(*half))


def _drawn_apart(
    line: np.ndarray, tip: int, end: int, shares: tuple[float, float], radius: float, step: float
) -> list[Patch]:
    """The needle from *end* stations before its *tip* to as many after it, its sides moved away from each
    other by *shares* of what it wants of its width, and a round turn at its end."""
    back, on = line[tip - end : tip + 1][::-1], line[tip : tip + end + 1]
    least = math.ceil(BLUNT / 2 * radius / step)
    middle = (back + on) / 2
    way = gaussian_filter1d(np.gradient(middle, axis=0), least, axis=0, mode="nearest")
    size = np.hypot(*way.T)
    if (size < 0.3 * step)[least:].any():
        return []
    aside = np.column_stack([-way[:, 1], way[:, 0]]) / np.maximum(size, 1e-9)[:, None]
    off = ((on - back) * aside).sum(axis=1)
    aside *= np.sign(off.sum()) or 1.0
    off = ((on - back) * aside).sum(axis=1)
    wanted = gaussian_filter1d(
        np.maximum(APART * radius - off, 0.0), EASE / step / 2, mode="nearest"
    )
    wanted *= np.minimum(1.0, (end - np.arange(end + 1)) * step / EASE)
    one = (back - aside * (shares[0] * wanted)[:, None])[least:]
    other = (on + aside * (shares[1] * wanted)[:, None])[least:]
    turn = _half_round(one[0], other[0], -way[least] / size[least])
    return [Patch(tip - end, tip + end, np.concatenate([one[:0:-1], turn, other[1:]]))]
