"""How lines are fitted across a width: even, from the seam, from the centre, with the rest at both ends."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.measure import format_inches

FITTINGS = (
    ("even", "come out even"),
    ("start", "start at the seam"),
    ("middle", "from the centre"),
    ("centre", "leave the remainder at both ends"),
)
RHYTHMS = (
    ("even", "all alike"),
    ("wide", "wide, narrow, narrow"),
    ("double", "double lines"),
    ("plaid", "three close, then a gap"),
)
MOST_LINES = 4000
"""Lines of one family at most: finer than any thread in any zone."""


@dataclass(frozen=True)
class Places:
    """Where lines lie across a width: inches from its beginning, and the real gaps in their order."""

    at: np.ndarray
    gaps: tuple[float, ...]

    @property
    def spacing(self) -> float:
        """The widest gap that comes again and again."""
        return max(self.gaps)

    def sentence(self, lines: int) -> str:
        """How many lines, and how far apart, as fractions."""
        gaps = dict.fromkeys(format_inches(gap, 16) for gap in self.gaps)
        return f"{lines} line{'' if lines == 1 else 's'}, {' and '.join(gaps)} apart"


def gaps_of(spacing: float, rhythm: str) -> tuple[float, ...]:
    """The gaps of a rhythm, wished *spacing* inches wide at the widest.

    >>> gaps_of(1.0, "wide")
    (1.0, 0.5, 0.5)
    """
    if rhythm == "wide":
        return (spacing, spacing / 2, spacing / 2)
    if rhythm == "double":
        return (spacing, spacing / 4)
    if rhythm == "plaid":
        return (spacing, spacing / 3, spacing / 3)
    return (spacing,)


def places(width: float, spacing: float, fitting: str, rhythm: str = "even") -> Places:
    """Lines across *width* inches, none on either edge.

    Even: the rhythm, of period P, is repeated n = round(W / P) times and P becomes W / n; of a rhythm of
    several gaps the widest is halved onto both edges, so that it looks alike from either side.
    From the centre: a line, or the middle of a group, lies in the middle. A width too small for any
    line gets one in its middle.
    """
    gaps = gaps_of(spacing, rhythm)
    period = sum(gaps)
    if width / period * len(gaps) > MOST_LINES:
        raise ValueError("There would be thousands of lines.")
    if fitting == "even":
        count = max(1, round(width / period))
        gaps = tuple(gap * width / count / period for gap in gaps)
        period = width / count
    group = np.cumsum([0.0, *gaps[1:]])
    breadth = float(group[-1])
    if fitting == "even":
        first = period if len(gaps) == 1 else gaps[0] / 2
    elif fitting == "start":
        first = gaps[0]
    elif fitting == "middle":
        first = (width - breadth) / 2 % period - period
    else:
        count = max(1, math.floor((width - breadth) / period + 1 + 1e-9))
        if len(gaps) == 1:
            count = max(1, math.floor(width / period + 1e-9))
        first = (width - (count - 1) * period - breadth) / 2
    rounds = np.arange(first, width + period, period)
    at = (rounds[:, None] + group[None]).ravel()
    at = at[(at > 1e-6) & (at < width - 1e-6)]
    return Places(at if len(at) else np.array([width / 2]), gaps)
