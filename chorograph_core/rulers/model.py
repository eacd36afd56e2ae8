"""A ruler: its edges, its etched lines, and how much of it is stitched along at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from msgspec import Meta

from chorograph_core.measure.limits import Key, Name, NotNegative, Positive

THINNEST = 0.235
"""Inches. A ruler foot rides over or under anything thinner: a 1/4″ ruler, less what it is short."""
EXACT = 1 / 64
"""Inches within which an etched line is the one that is wanted."""


@dataclass(frozen=True)
class Ruler:
    """A ruler of the studio. Inches.

    *etched* are the lines parallel to the edge, by their distance from it. An arc has a *convex*
    and a *concave* radius, an S-edge a *period* and a *height*. *margin* is kept free at each end,
    since a long ruler tips when it is used to its tips.
    """

    key: Key
    name: Name
    shape: Literal["straight", "arc", "s"] = "straight"
    length: Annotated[float, Meta(gt=0, le=60)] = 12.0
    thickness: Positive = 0.25
    etched: Annotated[tuple[Positive, ...], Meta(max_length=40)] = (0.25, 0.5, 0.75, 1.0, 1.5, 2.0)
    convex: Positive | None = None
    concave: Positive | None = None
    period: Positive | None = None
    height: Positive | None = None
    margin: NotNegative = 1.0

    @property
    def usable(self) -> float:
        """Inches stitched for one laying: the length less what is kept free at both ends.

        >>> Ruler("a", "straight, 12 inches").usable
        10.0
        """
        return max(self.length - 2 * self.margin, min(self.length, 1.0))

    @property
    def safe(self) -> bool:
        """Whether it is thick enough for a ruler foot."""
        return self.thickness >= THINNEST

    def etched_line(self, spacing: float, foot_radius: float) -> float | None:
        """The etched line that goes on the last stitching so that the next is *spacing* from it.

        The needle runs *foot_radius* from the edge, so the line lies spacing − foot radius from it;
        0 is the edge itself. None where the ruler has no such line.

        >>> Ruler("a", "straight").etched_line(0.75, 0.25)
        0.5
        """
        wanted = spacing - foot_radius
        lines = (0.0, *self.etched)
        best = min(lines, key=lambda line: abs(line - wanted))
        return best if abs(best - wanted) <= EXACT else None


STARTING_RULERS = (
    Ruler("straight-12", "straight, 12″"),
    Ruler("straight-6", "straight, 6″", length=6.0, etched=(0.25, 0.5, 0.75, 1.0)),
    Ruler("arc-wide", "arc, wide", "arc", 10.0, etched=(), convex=12.0, concave=12.5),
    Ruler("arc-close", "arc, close", "arc", 7.0, etched=(), convex=5.0, concave=5.5),
    Ruler("wave-4", "wave, 4″", "s", 12.0, etched=(), period=4.0, height=1.0),
)


def straight_ruler(rulers: Sequence[Ruler]) -> Ruler:
    """The straight ruler that takes fewest layings; a plain 12″ one where the studio has none."""
    known = [ruler for ruler in rulers if ruler.shape == "straight" and ruler.safe]
    return max(known, key=lambda ruler: (ruler.usable, ruler.key), default=STARTING_RULERS[0])
