"""Rows that part and close again round small islands, as wind does round a stone: a figure stands in each.

Rows are the streamlines of a flow about a round (the closed form for a cylinder, Milne-Thomson, Theoretical
Hydrodynamics, 1938): far from it they keep their distance, beside it they are half as far apart, none
crosses another. The row that comes straight upon one turns aside into its figure and goes on behind it.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

HALVINGS = 34
REACH = 9.0
"""Radii within which an island moves rows: beyond, by less than a tenth of its radius."""
AIMED = 2.6
"""Radii before an island from which the row that meets it draws near to its middle."""


@dataclass(frozen=True)
class Island:
    """A round in the frame of rows: where it lies along (*x*) and across (*y*) them, its *radius*, and
    its *number* among them."""

    x: float
    y: float
    radius: float
    number: int = 0


def scattered(
    part: Polygon, along: np.ndarray, across: np.ndarray, origin: tuple[float, float], radius: float,
    apart: float, rng: np.random.Generator,
) -> list[Island]:  # fmt: skip
    """Islands of *radius* inches at least *apart* from each other, with as much room to the edge again."""
    room = part.buffer(-2.1 * radius)
    if room.is_empty:
        return []
    spots = shapely.get_coordinates(shapely.segmentize(room.boundary, radius))
    x0, y0, x1, y1 = room.bounds
    tried = rng.uniform((x0, y0), (x1, y1), (400, 2))
    tried = tried[shapely.contains_xy(room, tried)]
    middle = np.array([shapely.get_coordinates(room.representative_point())[0]])
    found: list[np.ndarray] = []
    for spot in np.vstack([tried, middle, spots[:1]]):
        if all(np.hypot(*(spot - other)) >= apart for other in found):
            found.append(spot)
    return [
        Island(float(spot @ along) - origin[0], float(spot @ across) - origin[1], radius, k)
        for k, spot in enumerate(found)
    ]


def parted(
    x: np.ndarray, rows: np.ndarray, islands: list[Island]
) -> tuple[np.ndarray, list[list[Island]]]:
    """Places across (rows, n) of rows at places *x* along once they have parted round all islands, and for
    each row the islands it comes straight upon: its middle row bends to each, the others pass beside."""
    mine: list[list[Island]] = [[] for _ in rows]
    for island in islands:
        at = int(np.searchsorted(x, island.x).clip(0, len(x) - 1))
        k = int(np.abs(rows[:, at] - island.y).argmin())
        near = np.clip(np.abs(x - island.x) / (AIMED * island.radius), 0, 1)
        bent = island.y + (rows[k] - island.y) * near**2 * (3 - 2 * near)
        # What passes far away lies as it did: beyond so many radii nothing is moved.
        far = REACH * island.radius
        low, high = np.searchsorted(x, (island.x - far, island.x + far))
        here, off = slice(low, high), rows[:, low:high] - rows[k, low:high]
        close = np.flatnonzero((np.abs(off) < far).any(axis=1))
        away = np.hypot(x[here] - island.x, off[close]) / far
        fade = np.clip(1 - away, 0, 1)
        fade = np.clip(fade * fade * (3 - 2 * fade) * 4, 0, 1)
        passing = bent[here] + _streamline(x[here] - island.x, off[close], island.radius)
        rows = rows.copy()
        rows[close, low:high] += (passing - rows[close, low:high]) * fade
        rows[k] = bent
        mine[k].append(island)
    return rows, mine


def _streamline(x: np.ndarray, psi: np.ndarray, radius: float) -> np.ndarray:
    """Where the line that lies *psi* off far away passes a round of *radius* at *x*: the outer root of
    y (1 - r² / (x² + y²)) = psi, found by halving."""
    low, high = np.abs(psi), np.abs(psi) + radius
    low = np.maximum(low, np.sqrt(np.maximum(radius**2 - x**2, 0)))
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        below = middle * (1 - radius**2 / np.maximum(x**2 + middle**2, 1e-12)) < np.abs(psi)
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    return np.where(psi < 0, -1.0, 1.0) * (low + high) / 2


Drawn = Callable[[Island], np.ndarray]
"""What stands on an island: points (n, 2) relative to its middle, from its side towards lesser x to the
other."""


def with_figures(x: np.ndarray, y: np.ndarray, mine: list[Island], draw: Drawn) -> np.ndarray:
    """A row (n, 2) through the figures of the islands it comes upon."""
    pieces, begun = [], 0
    for island in sorted(mine, key=lambda island: island.x):
        first = int(np.searchsorted(x, island.x - island.radius))
        last = int(np.searchsorted(x, island.x + island.radius))
        pieces.append(np.column_stack([x[begun:first], y[begun:first]]))
        pieces.append(draw(island) + (island.x, island.y))
        begun = last
    pieces.append(np.column_stack([x[begun:], y[begun:]]))
    return np.vstack(pieces)


def plume(island: Island) -> np.ndarray:
    """A plume with one inside it: round the rim and home to its foot, a smaller one, and on over the rim."""
    r = 0.86 * island.radius
    turn = np.linspace(0, 2 * math.pi, 49)

    def drop(size: float) -> np.ndarray:
        # From the foot at the left round a head at the right.
        wide = np.sin(turn / 2) ** 0.7
        return np.column_stack(
            [-r + size * r * (1 - np.cos(turn)), -size * r * np.sin(turn) * wide]
        )

    rim, inner = drop(1.0), drop(0.62)
    return np.vstack([rim, inner[1:], rim[1 : len(rim) // 2 + 1]])
