"""A strip as two rails, matched station by station, and the way its ends go across.

Rails that are alike are gone along in step; others are matched point by point so that the lines across
are short (dynamic time warping), which carries motifs round bends and into tapering tips.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.ndimage import uniform_filter1d

from chorograph_core.designs.curves import resample

MOST_STATIONS = 110
WINDOW = 7
"""Stations on either side over which a station's place is smoothed, at most."""
BOWED = 0.02
"""Inches by which an end must lie off the straight line across for lines along the strip to heed it."""
DEEPEST = 0.35
"""How deep against its width an end may be for that: a head on a neck is no end of a strip."""
LEGGED = 7
"""Points by which a bent way across is told."""
BOWS = 25
"""Places across at which the way of an end is kept."""
GRADUAL = 4.0
"""Over so many times its depth a bowed end is made up for: no unit is longer by more than a quarter."""
ALMOST = 0.01
"""Share of its length by which sides of a strip may be unlike each other's mirror image."""

Bow = np.ndarray | None
"""How far an end lies off the straight way across (m, 2); None where it does not."""


@dataclass(frozen=True)
class Strip:
    """Matched stations along a strip: *left* and *right* rail points, each (n, 2), inches.

    *along* (n,) is the distance along the centre line. Where an end is no straight line across, its *bow*
    (m, 2) is how far off that it lies, at even shares of the way from the left to the right.
    """

    left: np.ndarray
    right: np.ndarray
    along: np.ndarray
    bows: tuple[Bow, Bow] = (None, None)

    @property
    def length(self) -> float:
        return float(self.along[-1])

    @property
    def mean_width(self) -> float:
        """Area over length."""
        return float(np.trapezoid(self.widths, self.along) / max(self.length, 1e-9))

    @property
    def widths(self) -> np.ndarray:
        return np.hypot(*(self.right - self.left).T)

    def width(self, s: float) -> float:
        """Width at distance *s* along the centre."""
        return float(np.interp(s, self.along, self.widths))

    def at(self, s: float, v: float) -> np.ndarray:
        """Point at distance *s* along the strip; *v* is -1 on the left rail, 1 on the right."""
        share = (v + 1) / 2
        left = [np.interp(s, self.along, self.left[:, k]) for k in (0, 1)]
        right = [np.interp(s, self.along, self.right[:, k]) for k in (0, 1)]
        straight = np.array(left) * (1 - share) + np.array(right) * share
        return straight + self.bent(s, v)

    def at_all(self, v: float) -> np.ndarray:
        """The points (n, 2) at *v* across at each station."""
        share = (v + 1) / 2
        return self.left * (1 - share) + self.right * share + self.bent(self.along, v)

    def bent(self, s: np.ndarray | float, v: np.ndarray | float) -> np.ndarray:
        """How far (n, 2) what is *s* inches along and *v* across lies off the straight way across there, so
        that lines along the strip end where it does (a patch of Coons, 1967)."""
        if not self.bowed:
            return np.zeros((*np.broadcast_shapes(np.shape(s), np.shape(v)), 2))
        s, share = np.broadcast_arrays(np.asarray(s, float), (np.asarray(v, float) + 1) / 2)
        off = np.zeros((*s.shape, 2))
        for bow, gone, reach in zip(self.bows, (s, self.length - s), self._reaches, strict=True):
            if bow is not None:
                off += _off(bow, share) * np.clip(1 - gone / reach, 0, 1)[..., None]
        return off

    @property
    def bowed(self) -> bool:
        """Whether an end is no straight line across."""
        return any(bow is not None for bow in self.bows)

    def legs(self) -> np.ndarray:
        """The way across at each station (n, m, 2), from the left to the right."""
        v = np.array([-1.0, 1.0]) if not self.bowed else np.linspace(-1, 1, LEGGED)
        return np.stack([self.at_all(each) for each in v], axis=1)

    @cached_property
    def _reaches(self) -> tuple[float, float]:
        depths = (0.0 if bow is None else float(np.hypot(*bow.T).max()) for bow in self.bows)
        one, two = (min(self.length, max(GRADUAL * depth, 1e-9)) for depth in depths)
        return one, two

    def flipped(self) -> Strip:
        """The other rail first."""
        one, two = (None if bow is None else bow[::-1] for bow in self.bows)
        return Strip(self.right, self.left, self.along, (one, two))

    def part(self, first: int, stop: int) -> Strip:
        """The stations from *first* up to *stop*, counted from 0 inches on."""
        some = slice(first, stop)
        whole = len(self.along)
        bows = (self.bows[0] if first == 0 else None, self.bows[1] if stop >= whole else None)
        return Strip(self.left[some], self.right[some], self.along[some] - self.along[first], bows)

    def reversed(self) -> Strip:
        """From the other end; left and right change sides so the way still faces forward."""
        last, first = (None if bow is None else bow[::-1] for bow in self.bows)
        turned = self.along[-1] - self.along[::-1]
        return Strip(self.right[::-1], self.left[::-1], turned, (first, last))


def _off(bow: Bow, share: np.ndarray) -> np.ndarray:
    """A bow (..., 2) at each *share* of the way across."""
    if bow is None:
        return np.zeros((*share.shape, 2))
    even = np.linspace(0, 1, len(bow))
    return np.stack([np.interp(share, even, bow[:, k]) for k in (0, 1)], axis=-1)


def across(strip: Strip) -> Strip:
    """The same room the short way: between its ends, which become the sides."""
    n = len(strip.left)
    share = np.linspace(0, 1, n)
    rails = [
        one + (two - one) * share[:, None] + _off(bow, share)
        for one, two, bow in zip(strip.left[[0, -1]], strip.right[[0, -1]], strip.bows, strict=True)
    ]
    centre = (rails[0] + rails[1]) / 2
    inches = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(centre, axis=0).T))])
    bows = bow_of(strip.left), bow_of(strip.right)
    return Strip(rails[0], rails[1], inches + np.linspace(0, 1e-9, n), bows)


def bow_of(end: np.ndarray | None) -> Bow:
    """How far an end of a strip (n, 2), from its left to its right, lies off the straight way across."""
    if end is None or len(end) < 3:
        return None
    long = length_of(end)
    share = np.linspace(0, 1, BOWS)
    straight = end[0] + (end[-1] - end[0]) * share[:, None]
    off = points_at(end, share * long) - straight
    depth, wide = float(np.hypot(*off.T).max()), float(np.hypot(*(end[-1] - end[0])))
    return off if BOWED < depth < DEEPEST * wide else None


def mirrored(left: np.ndarray, right: np.ndarray) -> bool:
    """Whether two rails are each other's mirror images, across the line between the middles of their ends."""
    ends = (left[[0, -1]] + right[[0, -1]]) / 2
    long = float(np.hypot(*(ends[1] - ends[0])))
    if long < 1e-6 or abs(length_of(left) - length_of(right)) > ALMOST * long:
        return False
    share = np.linspace(0, 1, LEGGED)
    way = (ends[1] - ends[0]) / long
    one, two = (points_at(rail, share * length_of(rail)) - ends[0] for rail in (left, right))
    along, aside = one @ way - two @ way, (one + two) @ np.array([-way[1], way[0]])
    return bool(max(np.abs(along).max(), np.abs(aside).max()) < ALMOST * long)


def in_step(left: np.ndarray, right: np.ndarray) -> Strip:
    """Rails matched by how much of each is gone."""
    count = int(np.clip(max(length_of(left), length_of(right)) / 0.25, 16, MOST_STATIONS))
    share = np.linspace(0, 1, count + 1)
    left_at = points_at(left, share * length_of(left))
    right_at = points_at(right, share * length_of(right))
    centre = (left_at + right_at) / 2
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(centre, axis=0).T))])
    return Strip(left_at, right_at, along + np.linspace(0, 1e-9, len(along)))


def matched_by_point(
    left: np.ndarray, right: np.ndarray, most: int = MOST_STATIONS, near: int = WINDOW
) -> Strip:
    longest = max(length_of(left), length_of(right))
    count = int(np.clip(longest / 0.25, 16, most))
    a = resample(left, length_of(left) / count)
    b = resample(right, length_of(right) / count)
    pairs = _warp(np.hypot(*(a[:, None] - b[None, :]).transpose(2, 0, 1)))
    share_a = np.linspace(0, length_of(left), len(a))[pairs[:, 0]]
    share_b = np.linspace(0, length_of(right), len(b))[pairs[:, 1]]
    # Even stations by the mean of both rails, then smoothed so that no cross line jumps.
    mean = (share_a + share_b) / 2
    at = np.linspace(0, mean[-1], count + 1)
    pos_a, pos_b = np.interp(at, mean, share_a), np.interp(at, mean, share_b)
    window = 1 + 2 * min(near, max(1, count // 16))
    for values in (pos_a, pos_b):
        drift = values - np.linspace(0, values[-1], count + 1)
        values[:] = values - drift + uniform_filter1d(drift, window, mode="nearest") * _ease(count)
    left_at = points_at(left, np.maximum.accumulate(pos_a))
    right_at = points_at(right, np.maximum.accumulate(pos_b))
    centre = (left_at + right_at) / 2
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(centre, axis=0).T))])
    along += np.linspace(0, 1e-9, len(along))
    return Strip(left_at, right_at, along)


def _ease(count: int) -> np.ndarray:
    """0 at both ends, where the rails' ends belong together, 1 between."""
    k = np.arange(count + 1)
    return np.clip(np.minimum(k, count - k) / 2.0, 0, 1)


def _warp(cost: np.ndarray) -> np.ndarray:
    """Cheapest monotone way through a cost matrix: index pairs (m, 2)."""
    n, m = cost.shape
    total = [[0.0] * m for _ in range(n)]
    rows = cost.tolist()
    for i in range(n):
        for j in range(m):
            if i and j:
                before = min(total[i - 1][j - 1] + rows[i][j], total[i - 1][j], total[i][j - 1])
            elif i:
                before = total[i - 1][j]
            elif j:
                before = total[i][j - 1]
            else:
                before = 0.0
            total[i][j] = before + rows[i][j]
    i, j, back = n - 1, m - 1, []
    while i or j:
        back.append((i, j))
        if not i:
            j -= 1
        elif not j:
            i -= 1
        else:
            options = (
                (total[i - 1][j - 1] + rows[i][j], 0), (total[i - 1][j], 1), (total[i][j - 1], 2)
            )  # fmt: skip
            way = min(options)[1]
            i, j = (i - 1, j - 1) if way == 0 else (i - 1, j) if way == 1 else (i, j - 1)
    back.append((0, 0))
    return np.array(back[::-1])


def points_at(line: np.ndarray, at: np.ndarray) -> np.ndarray:
    """The points (m, 2) of a line (n, 2) at so many inches along it."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    return np.column_stack([np.interp(at, along, line[:, 0]), np.interp(at, along, line[:, 1])])


def length_of(line: np.ndarray) -> float:
    """Inches along a line (n, 2)."""
    return float(np.hypot(*np.diff(line, axis=0).T).sum())
