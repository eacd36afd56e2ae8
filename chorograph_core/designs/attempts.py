"""How even an attempt at a motif is: drawn on a screen, or stitched or drawn on paper and pictured.

Judged by its own closeness, not by the one asked for: who stitches wider than the sheet, but evenly, is even.
The machine's own drawing is measured in the same way beside it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from scipy.ndimage import distance_transform_edt, gaussian_filter1d, uniform_filter
from scipy.signal import find_peaks
from shapely.geometry import Polygon

from chorograph_core.designs.curves import resample, tidy

STEP = 1 / 40
"""Inches between the spots of a drawn attempt."""
TREMBLE = math.radians(28)
"""A turn against the one before within `SHORT` inches that is no curve but a tremble."""
REACHED = 0.7
"""Share of a zone that an attempt reaches over to count in full."""
SHORT = 0.06
PIECE, FEWEST = 1.0, 4
"""Inches that are timed against each other, and how many there must be."""
WINDOW = 3.0
"""Side of the windows in which closeness is compared, in mean distances of lines."""
LEAST_INK, MOST_INK = 0.002, 0.5
"""Share of a picture that is lines, for it to be a picture of lines."""
LARGEST = 1600
"""Pixels of the longer side of a picture that are looked at."""


class AttemptError(ValueError):
    """An attempt that cannot be measured; a sentence."""


@dataclass(frozen=True)
class Evenness:
    """What an attempt comes to. *apart*: mean inches from line to line. *gap*: the largest open round over
    that. *varies*: variation of the closeness from place to place (standard deviation over mean).
    *trembles*: against-turns on 10 inches, None for a picture. *units*: variation of the way from crest to
    crest along a strip, None where there are too few. *filled*: how much of the zone it reaches over, None
    for a picture. *pace*: variation of the time that each inch took, None where no clock ran. *direction*:
    which way it went on the whole, ``"right"``, ``"left"``, ``"up"``, ``"down"``, or empty for none of
    them."""

    apart: float
    gap: float
    varies: float
    trembles: float | None = None
    units: float | None = None
    filled: float | None = None
    pace: float | None = None
    direction: str = ""

    @property
    def pace_percent(self) -> int:
        """How much the time that an inch takes varies, in percent."""
        return round(100 * (self.pace or 0.0))

    @property
    def varies_percent(self) -> int:
        """How much the closeness varies, in percent."""
        return round(100 * self.varies)

    @property
    def units_percent(self) -> int:
        """How much the way from crest to crest varies, in percent."""
        return round(100 * (self.units or 0.0))

    @property
    def advice(self) -> str:
        """The one thing that would gain most."""
        losses = {
            "Fill all of it: a part is soon even.": 100 * max(0.0, REACHED - (self.filled or 1.0)),
            "Slower and from the shoulder: it trembles.": 1.6 * (self.trembles or 0.0),
            "Look at where the next one ends, not at the needle: crests come at uneven distances.":
                70 * max(0.0, (self.units or 0.0) - 0.05),
            "Fill as you go: it is closer in one place than in another.":
                55 * max(0.0, self.varies - 0.1),
            "Find a beat and keep it: some inches take far longer than others.":
                20 * max(0.0, (self.pace or 0.0) - 0.6),
            "Mind the largest gap; an echo would close it.": 12 * max(0.0, self.gap - 1.4),
        }  # fmt: skip
        worst = max(losses, key=lambda each: losses[each])
        return worst if losses[worst] >= 3 else "Even. Try it smaller, or in the other direction."

    @property
    def marks(self) -> int:
        """Of a hundred: what is as even as the machine's best has nearly all of them."""
        off = 55 * max(0.0, self.varies - 0.1) + 12 * max(0.0, self.gap - 1.4)
        off += 1.6 * (self.trembles or 0.0) + 70 * max(0.0, (self.units or 0.0) - 0.05)
        # What fills only a corner is no attempt at the whole.
        reached = 1.0 if self.filled is None else min(1.0, self.filled / REACHED)
        return round(max(0.0, min(100.0, 100 - off)) * reached)


def drawn_attempt(
    points: np.ndarray, zone: Polygon, along: bool, times: np.ndarray | None = None
) -> Evenness:
    """Evenness of one stroke (n, 2), inches, drawn in *zone*; *along*: it is one along a lying strip; *times*
    (n,): seconds at its points.

    Raises `AttemptError`.
    """
    line = tidy(np.asarray(points, float).reshape(-1, 2), 1e-4)
    inches = float(np.hypot(*np.diff(line, axis=0).T).sum()) if len(line) > 1 else 0.0
    if inches < 2.0:
        raise AttemptError("There is hardly a line; draw some more of it.")
    x0, y0, x1, y1 = zone.bounds
    xs, ys = np.arange(x0, x1 + STEP, STEP), np.arange(y0, y1 + STEP, STEP)
    grid = np.meshgrid(xs, ys)
    inside = shapely.contains_xy(zone, *(g.ravel() for g in grid)).reshape(grid[0].shape)
    dense = resample(line, STEP / 2)
    where = np.rint((dense - (x0, y0)) / STEP).astype(int)
    held = ((where >= 0) & (where < (len(xs), len(ys)))).all(axis=1)
    if held.mean() < 0.5:
        raise AttemptError("Most of it lies outside the drawing; draw within the line.")
    stitched = np.zeros(inside.shape)
    np.add.at(stitched, (where[held, 1], where[held, 0]), STEP / 2)
    # What was drawn so far: an attempt that stops half way is judged as far as it went.
    reached = shapely.convex_hull(shapely.multipoints(dense[held])).buffer(0.1)
    filled = reached.intersection(zone).area / zone.area
    inside &= shapely.contains_xy(reached, *(g.ravel() for g in grid)).reshape(inside.shape)
    found = _spread(stitched, inside, STEP)
    units = _crests(line) if along else None
    pace = _pace(np.asarray(points, float).reshape(-1, 2), times) if times is not None else None
    return Evenness(
        *found, _trembles(line, inches), units, min(1.0, filled), pace, _direction(line)
    )


def pictured_attempt(picture: np.ndarray, wide: float) -> Evenness:
    """Evenness of lines in a *picture* (grey, 0 to 255), darker or lighter than what they lie on, that shows
    *wide* inches. Raises `AttemptError`."""
    if picture.ndim != 2 or min(picture.shape) < 60:
        raise AttemptError("The picture is too small; take one of at least 300 dots across.")
    scale = min(1.0, LARGEST / max(picture.shape))
    small = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    soft = cv2.GaussianBlur(small, (0, 0), 1.2)
    block = max(15, (min(small.shape) // 12) | 1)
    masks = [
        cv2.adaptiveThreshold(way, 255, cv2.ADAPTIVE_THRESH_MEAN_C, cv2.THRESH_BINARY_INV, block, 9)
        > 0
        for way in (soft, 255 - soft)
    ]
    lines = max(masks, key=lambda mask: float(np.abs(_contrast(soft, mask))))
    share = float(lines.mean())
    if not LEAST_INK < share < MOST_INK:
        raise AttemptError(
            "No lines are found in the picture; take one with the light from the side."
        )
    step = wide / small.shape[1]
    # Ink over the width of a line is its length: from the edge of a line to its middle one goes a quarter
    # of its width in the mean.
    width = 4 * float(distance_transform_edt(lines)[lines].mean())
    stitched = lines.astype(float) * step / max(width, 1.0)
    spots = np.column_stack(np.nonzero(lines)[::-1]).astype(float)
    hull = cv2.convexHull(spots.astype(np.float32))
    inside = np.zeros(lines.shape, np.uint8)
    cv2.fillConvexPoly(inside, hull.astype(np.int32), 1)
    return Evenness(*_spread(stitched, inside > 0, step))


def _contrast(grey: np.ndarray, mask: np.ndarray) -> float:
    if not mask.any() or mask.mean() > MOST_INK:
        return 0.0
    return float(grey[~mask].mean() - grey[mask].mean())


def _spread(stitched: np.ndarray, inside: np.ndarray, step: float) -> tuple[float, float, float]:
    """Mean distance of lines, largest gap over that, and variation of the closeness."""
    area, inches = float(inside.sum()) * step * step, float(stitched[inside].sum())
    if inches <= 0 or area <= 0:
        raise AttemptError("There is hardly a line; draw some more of it.")
    apart = area / inches
    open_ = distance_transform_edt(inside & (stitched == 0)) * step
    size = max(3, round(WINDOW * apart / step))
    varies = 0.0
    if size < min(inside.shape):
        room = uniform_filter(inside.astype(float), size, mode="constant")
        held = room > 0.85
        if held.sum() > 9:
            density = uniform_filter(stitched, size, mode="constant")[held] / room[held]
            varies = float(density.std() / max(density.mean(), 1e-9))
    return apart, float(2 * open_.max() / apart), varies


def _trembles(line: np.ndarray, inches: float) -> float:
    """Turns to one side and back at once, on 10 inches."""
    even = resample(line, SHORT)
    way = np.diff(even, axis=0)
    heading = np.unwrap(np.arctan2(way[:, 1], way[:, 0]))
    turn = np.diff(heading)
    back = (
        (np.abs(turn[1:]) > TREMBLE / 2)
        & (np.abs(turn[:-1]) > TREMBLE / 2)
        & (turn[1:] * turn[:-1] < 0)
    )
    return float(back.sum()) / inches * 10


def _pace(points: np.ndarray, times: np.ndarray) -> float | None:
    """Variation (standard deviation over mean) of the seconds that each inch takes; None for too short a line
    or a clock that did not run."""
    gone = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    inches = int(gone[-1] // PIECE)
    if len(times) != len(points) or inches < FEWEST or not np.all(np.diff(times) >= 0):
        return None
    stops = np.interp(np.arange(inches + 1) * PIECE, gone, times)
    took = np.diff(stops)
    return float(took.std() / took.mean()) if took.mean() > 0 else None


def _direction(line: np.ndarray) -> str:
    """Which way a stroke goes on the whole; empty where it comes back to about where it began."""
    dx, dy = line[-1] - line[0]
    size = float(np.ptp(line, axis=0).max())
    if math.hypot(dx, dy) < 0.4 * size:
        return ""
    if abs(dx) >= abs(dy):
        return "right" if dx > 0 else "left"
    return "down" if dy > 0 else "up"


def _crests(line: np.ndarray) -> float | None:
    """Variation of the way along from crest to crest."""
    even = resample(line, 0.03)
    across = gaussian_filter1d(even[:, 1], 3)
    high = float(np.ptp(across))
    peaks, _ = find_peaks(-across, prominence=0.25 * high)
    if len(peaks) < 4:
        return None
    steps = np.abs(np.diff(even[peaks, 0]))
    return float(steps.std() / max(steps.mean(), 1e-9))
