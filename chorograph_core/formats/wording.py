"""Where things lie and which way a line goes, in words a person at the machine uses."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np
import shapely

from chorograph_core.measure import format_length

CORNER = 0.3
"""Inches by which a line may stray and still be one leg."""
SHORTEST = 0.4
"""Inches of a leg that is worth a word."""


def basting_in(unit: str) -> str:
    """How close one bastes."""
    return "stitches 3 to 4 mm long" if unit == "cm" else "6 to 8 stitches an inch"


def place_in(box: Sequence[float], point: Sequence[float]) -> str:
    """Where *point* lies in the *box* (x0, y0, x1, y1): "upper left", "right", "middle"."""
    x0, y0, x1, y1 = box
    across = (point[0] - x0) / max(x1 - x0, 1e-9)
    down = (point[1] - y0) / max(y1 - y0, 1e-9)
    row = "upper" if down < 0.34 else "lower" if down > 0.66 else ""
    column = "left" if across < 0.34 else "right" if across > 0.66 else ""
    if row and column:
        return f"{row} {column}"
    if row:
        return "top" if row == "upper" else "bottom"
    return column or "middle"


def legs_of(points: np.ndarray) -> list[np.ndarray]:
    """A line (n, 2) as legs (2, 2) from turn to turn; what is too short for a word is left out."""
    if len(points) < 2:
        return []
    corners = shapely.get_coordinates(shapely.simplify(shapely.linestrings(points), CORNER))
    legs: list[np.ndarray] = []
    for one, two in itertools.pairwise(corners):
        if np.hypot(*(two - one)) < SHORTEST:
            continue
        if legs and heading(legs[-1]) == heading(np.array([one, two])):
            legs[-1] = np.array([legs[-1][0], two])
        else:
            legs.append(np.array([one, two]))
    return legs


def heading(leg: np.ndarray) -> str:
    """Which way a leg (2, 2) goes: right, down, or slant down right."""
    dx, dy = leg[-1] - leg[0]
    if abs(dx) > 2.5 * abs(dy):
        return "right" if dx > 0 else "left"
    if abs(dy) > 2.5 * abs(dx):
        return "down" if dy > 0 else "up"
    return f"slant {'down' if dy > 0 else 'up'} {'right' if dx > 0 else 'left'}"


def way_in_words(points: np.ndarray, units: str) -> str:
    """The way in words: right 12, down 6."""
    words = []
    for leg in legs_of(points):
        inches = format_length(float(np.hypot(*(leg[1] - leg[0]))), units)
        words.append(f"{heading(leg)} {inches}")
    return ", ".join(words)


def round_about(middles: np.ndarray, centre: np.ndarray) -> str:
    """How things at *middles* (n, 2) follow each other round a *centre*; empty where they do not."""
    if len(middles) < 3:
        return ""
    away = middles - centre
    if np.hypot(*away.T).min() < 1e-6:
        return ""
    angles = np.unwrap(np.arctan2(away[:, 1], away[:, 0]))
    turns = np.diff(angles)
    # Down is positive, so growing angles go with the clock.
    if (turns > 0.05).all() and turns.max() < 2.8:
        return "clockwise"
    if (turns < -0.05).all() and turns.min() > -2.8:
        return "anticlockwise"
    return ""


def listed(names: Sequence[str], most: int = 40) -> str:
    """Names with commas; what several share at the beginning is said once."""
    names = list(names)[:most]
    stems = [name.rpartition(" ")[0] for name in names]
    if len(names) > 1 and stems[0] and len(set(stems)) == 1:
        ends = [name.rpartition(" ")[2] for name in names]
        return f"{stems[0]} {', '.join(ends)}"
    return ", ".join(names)
