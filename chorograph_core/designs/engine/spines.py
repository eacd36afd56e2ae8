"""A spine: the line from which plumes and leaves grow."""

from __future__ import annotations

import math

import numpy as np

from chorograph_core.designs.curves import resample, tidy

STEEPEST = 0.5
"""How steeply a spine may swing, rise over run: plumes lean by an angle from it, and on a steeper one those
of one swing would lie across those of the next."""
CLOSE, FINEST = 0.9, 0.2
"""Inches to either side over which the heading of a long spine is taken, and from point to point of it."""


class Spine:
    """A line with places along it: ``at`` gives points, ``way`` headings."""

    def __init__(self, points: np.ndarray, closed: bool = False) -> None:
        self.points = tidy(points, 1e-6)
        self.closed = closed
        self.along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(self.points, axis=0).T))])

    @property
    def length(self) -> float:
        return float(self.along[-1])

    def at(self, s: np.ndarray | float) -> np.ndarray:
        """Points (n, 2) at places *s*."""
        s = np.asarray(s, float) % self.length if self.closed else np.asarray(s, float)
        return np.stack([np.interp(s, self.along, self.points[:, k]) for k in (0, 1)], axis=-1)

    def way(self, s: np.ndarray | float) -> np.ndarray:
        """Unit headings (n, 2) at places *s*."""
        near = min(0.02 * self.length, CLOSE)
        s = np.asarray(s, float)
        if self.closed:
            ahead = self.at(s + near) - self.at(s - near)
        else:
            ahead = self.at(np.minimum(s + near, self.length)) - self.at(np.maximum(s - near, 0))
        return ahead / np.maximum(np.hypot(ahead[..., 0], ahead[..., 1])[..., None], 1e-12)

    def course(self, s: np.ndarray, far: float) -> np.ndarray:
        """Unit headings (n, 2) at places *s* of where the spine goes on the whole: its headings over *far*
        inches to either side, or as far as it goes on both."""
        steps = np.linspace(-1, 1, 17)[:, None]
        reach = (
            np.full(len(s), min(far, self.length / 4))
            if self.closed
            else np.minimum(far, np.minimum(s, self.length - s))
        )
        places = s + steps * reach
        ways = self.way(places if self.closed else np.clip(places, 0, self.length))
        mean = ways.mean(axis=0)
        return mean / np.maximum(np.hypot(*mean.T), 1e-9)[:, None]

    def bend(self, s: np.ndarray, far: float) -> np.ndarray:
        """How many radians an inch (n,) it bends at places *s*, over up to *far* inches to either side; to
        the right on paper is positive."""
        near = min(0.05 * self.length, far)
        low, high = s - near, s + near
        if not self.closed:
            low, high = np.maximum(low, 0), np.minimum(high, self.length)
        one, two = self.way(low), self.way(high)
        turn = np.arctan2(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0], (one * two).sum(axis=1))
        return turn / np.maximum(high - low, 1e-6)

    def between(self, one: float, two: float) -> np.ndarray:
        """The spine's own points from place *one* to place *two*, either way."""
        low, high = min(one, two), max(one, two)
        if self.closed:
            count = max(2, math.ceil((high - low) / 0.05))
            line = self.at(np.linspace(low, high, count))
        else:
            inner = self.points[(self.along > low + 1e-6) & (self.along < high - 1e-6)]
            line = np.vstack([self.at(low), inner, self.at(high)])
        return line if one <= two else line[::-1]


def even_spine(points: np.ndarray, closed: bool = False) -> Spine:
    """A spine of even points."""
    inches = float(np.hypot(*np.diff(points, axis=0).T).sum())
    return Spine(resample(points, min(max(0.04, inches / 240), FINEST)), closed)
