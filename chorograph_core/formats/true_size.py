"""Templates true to size: lines over as many sheets of paper as they take, with marks to join them by."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import box

PAPERS = {"letter": (8.5, 11.0), "a4": (210 / 25.4, 297 / 25.4)}
"""Width and height in inches."""
MARGIN = 0.6
"""Inches of a sheet that no printer is asked for."""
OVERLAP = 0.5
"""Inches that two sheets share, so that one is laid on the other's marks."""
MOST_SHEETS = 60


@dataclass(frozen=True)
class Sheet:
    """One sheet: its name (row by letter, column by number), the view box of its part in inches, path data
    of the lines in it, and its marks: crosses where a neighbour's lie, (x, y)."""

    name: str
    frame: tuple[float, float, float, float]
    paths: tuple[tuple[str, str], ...]
    crosses: tuple[tuple[float, float], ...]
    square: tuple[float, float] | None


class TooLarge(ValueError):
    """More sheets than anybody joins."""


def sheets_of(
    lines: Sequence[tuple[str, np.ndarray]], paper: str = "letter", landscape: bool = False
) -> list[Sheet]:
    """*lines*, each a kind and points (n, 2) in inches, over sheets of *paper*.

    Each sheet shows its part at 1:1; on the first there is a square of one inch to measure. Raises
    `TooLarge` for more than `MOST_SHEETS`.
    """
    wide, tall = PAPERS[paper]
    if landscape:
        wide, tall = tall, wide
    # A strip at the foot is kept for the name of the sheet and the test square.
    room = wide - 2 * MARGIN, tall - 2 * MARGIN - 1.3
    points = np.concatenate([line for _, line in lines])
    low, high = points.min(axis=0) - 0.1, points.max(axis=0) + 0.1
    columns, rows = (_count(high[k] - low[k], room[k]) for k in (0, 1))
    if columns * rows > MOST_SHEETS:
        raise TooLarge(f"It would take {columns * rows} sheets of paper.")
    step = room[0] - OVERLAP, room[1] - OVERLAP
    made: list[Sheet] = []
    for row in range(rows):
        for column in range(columns):
            x, y = low[0] + column * step[0], low[1] + row * step[1]
            part = box(x, y, x + room[0], y + room[1])
            paths = [
                (kind, _path(shapely.get_coordinates(piece)))
                for kind, line in lines
                for piece in shapely.get_parts(
                    shapely.intersection(shapely.linestrings(line), part)
                )
                if piece.geom_type == "LineString"
            ]
            if not paths:
                continue
            at = OVERLAP / 2
            crosses = [
                (cx, cy)
                for cx, beside in ((x + at, column > 0), (x + room[0] - at, column < columns - 1))
                for cy, above in ((y + at, row > 0), (y + room[1] - at, row < rows - 1))
                if beside or above
            ]
            made.append(Sheet(f"{chr(65 + row)}{column + 1}", (x, y, *room), tuple(paths), tuple(crosses),
                              (x, y) if not made else None))  # fmt: skip
    return made


def _count(inches: float, room: float) -> int:
    return max(1, math.ceil((inches - OVERLAP) / (room - OVERLAP) - 1e-9))


def _path(points: np.ndarray) -> str:
    return "M" + " ".join(f"{x:.4f},{y:.4f}" for x, y in points)
