"""Pearls at the foot of a feather: touching circles, each smaller than the last, out on one side and home on
the other, so that nothing is stitched twice."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.engine.plume_stroke import Thread
from chorograph_core.designs.engine.plumes import Side
from chorograph_core.designs.settings import count_setting

ACROSS = 0.46
"""Diameter of the first pearl, in widths of a plume."""
SMALLER = 0.84
"""From pearl to pearl."""
LEAST = 0.1
"""Inches across under which a pearl is a dot."""
CLEAR_OF_PEARLS = math.radians(112)
"""How far back plumes may look where pearls lie behind them."""
HALF = 12
"""Points of half a pearl."""


def pearls_setting(default: int):
    """How many pearls lie at the foot."""
    return count_setting("Pearls at the foot", default, 0, 12)


def string_pearls(
    thread: Thread, back: np.ndarray, pitch: float, count: int, room: Polygon, sides: Sequence[Side]
) -> None:
    """Pearls along *back* (n, 2), a line that leads away from a feather whose plumes are *pitch* inches
    wide, begun and ended where that begins: as many of *count* as have *room* beside its plumes."""
    plumes = shapely.union_all(
        [shapely.linestrings(line) for side in sides for line in (*side.ribs, *side.heads)]
    )
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(back, axis=0).T))])
    spots, gone, across = [back[0]], 0.0, ACROSS * pitch
    while len(spots) <= count and across >= LEAST and gone + across <= along[-1]:
        gone += across
        spot = np.array([np.interp(gone, along, back[:, k]) for k in (0, 1)])
        middle, radius = (spots[-1] + spot) / 2, float(np.hypot(*(spot - spots[-1]))) / 2
        disc = shapely.points(middle).buffer(radius)
        near = shapely.points(spots[0]).buffer(1e-3)
        if not room.covers(disc) or disc.buffer(-0.02 * radius).intersects(plumes.difference(near)):
            break
        spots.append(spot)
        across *= SMALLER
    if len(spots) < 2:
        return
    halves = [_halves(one, two) for one, two in itertools.pairwise(spots)]
    for out, _ in halves:
        thread.add(out)
    for _, home in reversed(halves):
        thread.add(home)
    thread.unit("pearl" if len(halves) == 1 else "pearls")


def _halves(one: np.ndarray, two: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Both halves of the circle across from *one* to *two*: out, and home."""
    middle, arm = (one + two) / 2, (one - two) / 2
    turn = np.linspace(0, 2 * np.pi, 2 * HALF + 1)
    aside = np.array([-arm[1], arm[0]])
    ring = middle + np.cos(turn)[:, None] * arm + np.sin(turn)[:, None] * aside
    ring[[0, -1]], ring[HALF] = one, two
    return ring[: HALF + 1], ring[HALF:]
