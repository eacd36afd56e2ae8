"""Strokes of one's own: drawn once by finger, pen or mouse, or taken from a drawing; cleaned and checked.

A stroke is kept in a unit box, as text that a setting of a design holds: so a job carries what it uses.
Along a strip it begins at x = 0 and ends at x = 1, and y goes from -1 on one side to 1 on the other; a figure
lies in the unit circle.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d

from chorograph_core.designs.curves import resample, tidy
from chorograph_core.designs.settings import (
    MOST_STROKE_POINTS,
    SettingError,
    read_stroke,
    write_stroke,
)

StrokeKind = Literal["strip", "figure"]
MOST_DRAWN = 20_000
"""Points that are looked at; a finger gives a hundred a second."""
MOST_CROSSINGS = 60
STEPS = 160
"""Points of a stroke before it is thinned."""
TREMBLE = 1.3
"""How much of a hand's trembling is smoothed away, in steps."""
CORNER = np.radians(50)
"""A turn within a step or two that is meant: a point of a star stays one."""
LEVEL = 0.12
"""How much higher or lower it may end than it begins to go straight on, against the width of the strip."""


@dataclass(frozen=True)
class Cleaned:
    """A stroke as it is kept: its *text*, how often it crosses itself, whether it *turns* over from unit to
    unit, and what was changed or is to be minded, in sentences."""

    text: str
    crossings: int
    turns: bool
    said: tuple[str, ...]


def cleaned_stroke(points: np.ndarray, kind: StrokeKind) -> Cleaned:
    """A stroke from *points* (n, 2), in any measure, y downwards as on paper.

    Raises `SettingError` at ``stroke``, a sentence, where there is no stroke in them.
    """
    points = np.asarray(points, float).reshape(-1, 2)
    if len(points) > MOST_DRAWN:
        raise SettingError(
            f"Stroke: over {MOST_DRAWN:,} points; draw it once, in one go.", "stroke"
        )
    if not np.isfinite(points).all():
        raise SettingError("Stroke: a number in it is none.", "stroke")
    points = tidy(points)
    size = np.ptp(points, axis=0) if len(points) else np.zeros(2)
    if len(points) < 2 or size.max() < 1e-6:
        raise SettingError("Stroke: one point is no stroke; draw a line.", "stroke")
    line = _steady(points)
    crossings = crossings_of(line)
    if crossings > MOST_CROSSINGS:
        words = f"Stroke: it crosses itself {crossings} times; nobody could follow that. Draw fewer loops."
        raise SettingError(words, "stroke")
    made, turns, said = _in_strip(line) if kind == "strip" else (*_in_circle(line), ())
    if crossings:
        said = (*said, f"It crosses itself {crossings} {'time' if crossings == 1 else 'times'}.")
    return Cleaned(write_stroke(_thinned(made)), crossings, turns, said)


def _steady(points: np.ndarray) -> np.ndarray:
    """The line at even steps, its trembling smoothed away, corners that are meant kept."""
    inches = float(np.hypot(*np.diff(points, axis=0).T).sum())
    even = resample(points, inches / STEPS)
    way = np.diff(even, axis=0)
    heading = np.unwrap(np.arctan2(way[:, 1], way[:, 0]))
    turn = np.abs(np.concatenate([[0, 0], heading[2:] - heading[:-2], [0]]))
    keep = np.clip(gaussian_filter1d((turn > CORNER).astype(float), 1.0) * 2.2, 0, 1)
    keep = np.append(keep, 0.0)[: len(even), None]
    soft = gaussian_filter1d(even, TREMBLE, axis=0, mode="nearest")
    made = soft * (1 - keep) + even * keep
    made[0], made[-1] = even[0], even[-1]
    return made


def crossings_of(line: np.ndarray) -> int:
    """How often a polyline (n, 2) crosses itself."""
    a, b = line[:-1], line[1:]
    i, j = np.triu_indices(len(a), 2)

    def side(p, q, r):
        return (q[:, 0] - p[:, 0]) * (r[:, 1] - p[:, 1]) - (q[:, 1] - p[:, 1]) * (r[:, 0] - p[:, 0])

    one = side(a[i], b[i], a[j]) * side(a[i], b[i], b[j]) < 0
    two = side(a[j], b[j], a[i]) * side(a[j], b[j], b[i]) < 0
    return int((one & two).sum())


def _in_strip(line: np.ndarray) -> tuple[np.ndarray, bool, tuple[str, ...]]:
    """Laid along x from 0 to 1, as wide as the strip."""
    said: list[str] = []
    way = line[-1, 0] - line[0, 0]
    wide = float(np.ptp(line[:, 0]))
    if abs(way) < 0.1 * wide or wide < 1e-9:
        raise SettingError("Stroke: it ends above where it began; along a strip it must end further on.",
                           "stroke")  # fmt: skip
    x = (line[:, 0] - line[0, 0]) / way
    if way < 0:
        said.append("It was drawn from right to left and is turned round.")
    low, high = float(line[:, 1].min()), float(line[:, 1].max())
    y = np.zeros(len(line)) if high - low < 1e-9 else 2 * (line[:, 1] - low) / (high - low) - 1
    rise = float(y[-1] - y[0])
    turns = False
    if abs(rise) > 2 * LEVEL:
        turns = True
        said.append("It ends on another level than it begins: every second one is turned over, so that they "
                    "join.")  # fmt: skip
    elif abs(rise) > 1e-6:
        y = y - rise * np.clip(x, 0, 1)
        said.append("Its ends were brought to one level.")
    return np.column_stack([x, y]), turns, tuple(said)


def _in_circle(line: np.ndarray) -> tuple[np.ndarray, bool]:
    """Laid in the unit circle."""
    circle = shapely.minimum_bounding_circle(shapely.linestrings(line))
    middle = shapely.get_coordinates(shapely.centroid(circle))[0]
    radius = float(np.hypot(*(line - middle).T).max())
    return (line - middle) / max(radius, 1e-9), False


def _thinned(line: np.ndarray) -> np.ndarray:
    for off in (0.004, 0.008, 0.015, 0.03):
        thin = shapely.get_coordinates(
            shapely.simplify(shapely.linestrings(line), off, preserve_topology=False)
        )
        if len(thin) <= MOST_STROKE_POINTS:
            return thin
    return resample(
        line, float(np.hypot(*np.diff(line, axis=0).T).sum()) / (MOST_STROKE_POINTS - 1)
    )


def stroke_points(text: str) -> np.ndarray:
    """Points (n, 2) of a stroke that was kept, fine enough to be bent along a strip."""
    line = np.array(read_stroke(text))
    inches = float(np.hypot(*np.diff(line, axis=0).T).sum())
    return resample(line, inches / max(96, len(line)))


def turned_over(line: np.ndarray) -> bool:
    """Whether every second unit of a stroke along a strip is turned over, so that they join."""
    return abs(float(line[-1, 1] - line[0, 1])) > 2 * LEVEL
