"""A ruler: its edges, its etched lines, and how much of it is stitched along at once."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Literal

from msgspec import Meta

from chorograph_core.measure.limits import Key, Name, NotNegative, Positive

THINNEST = 0.235
"""Inches. A ruler foot rides over or under anything thinner: a 1/4″ ruler, less what it is short."""
EXACT = 1 / 64
"""Inches within which an etched line is the one that is wanted."""

EdgeKind = Literal["straight", "convex", "concave", "s", "inside", "outside"]


@dataclass(frozen=True)
class Edge:
    """One edge of a ruler, with the foot against it.

    *radius* is that of the line that is stitched beside it, not of the edge itself; None for a straight
    and an S-shaped one. *reach*: inches from end to end that one laying stitches, as the crow flies; of a
    circle template it is the whole way round. Of an S, *period* and *height* are those of the stitched line.
    """

    ruler: Key
    kind: EdgeKind
    reach: float
    radius: float | None = None
    period: float | None = None
    height: float | None = None

    @property
    def name(self) -> str:
        """What it is called in an instruction."""
        return {
            "straight": "straight edge", "convex": "outer edge", "concave": "inner edge",
            "s": "S-edge", "inside": "inside of the circle", "outside": "outside of the circle",
        }[self.kind]  # fmt: skip

    @property
    def bend(self) -> float | None:
        """Radius of the arcs of the stitched line: of an S, of each of its half waves.

        >>> Edge("a", "s", 10.0, None, 4.0, 1.0).bend
        1.25
        """
        if self.kind != "s" or not self.period or not self.height:
            return self.radius
        chord, high = self.period / 2, self.height / 2
        return chord * chord / (8 * high) + high / 2

    def along(self) -> float:
        """Inches of line that one laying stitches.

        >>> round(Edge("a", "convex", 8.0, 5.0).along(), 3)
        9.273
        """
        if self.kind == "s" and self.period and self.bend:
            # Whole half waves only: the next laying begins where one ended.
            half = self.period / 2
            chord = min(half, 2 * self.bend)
            return max(1, math.floor(self.reach / half + 1e-9)) * (
                2 * self.bend * math.asin(chord / (2 * self.bend))
            )
        if self.radius is None:
            return self.reach
        if self.kind == "inside":
            return 2 * math.pi * self.radius
        if self.kind == "outside":
            return math.pi * self.radius
        chord = min(self.reach, 2 * self.radius)
        return 2 * self.radius * math.asin(chord / (2 * self.radius))


@dataclass(frozen=True)
class Ruler:
    """A ruler of the studio. Inches.

    *etched* are the lines parallel to the edge, by their distance from it, *taped* marks of one's own.
    An arc has a *convex* and a *concave* radius, an S-edge a *period* and a *height* (those of the line it
    stitches), a circle template the radius of its rim (*convex*) and of its hole (*concave*). *margin* is
    kept free at each end, since a long ruler tips when it is used to its tips. *centred*: it has a mark in
    its middle.
    """

    key: Key
    name: Name
    shape: Literal["straight", "arc", "s", "circle"] = "straight"
    length: Annotated[float, Meta(gt=0, le=60)] = 12.0
    thickness: Positive = 0.25
    etched: Annotated[tuple[Positive, ...], Meta(max_length=40)] = (0.25, 0.5, 0.75, 1.0, 1.5, 2.0)
    convex: Positive | None = None
    concave: Positive | None = None
    period: Positive | None = None
    height: Positive | None = None
    margin: NotNegative = 1.0
    taped: Annotated[tuple[Positive, ...], Meta(max_length=20)] = ()
    centred: bool = True

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

    @property
    def lines(self) -> tuple[float, ...]:
        """What a distance can be read by: etched lines and tape, nearest first."""
        return tuple(sorted({*self.etched, *self.taped}))

    @lru_cache(maxsize=512)  # noqa: B019 - rulers are few, and values
    def edges(self, foot_radius: float) -> tuple[Edge, ...]:
        """Its edges as what they stitch: convex R gives R + foot, concave R − foot.

        An edge whose foot does not fit inside it is left out, as all are of a ruler too thin.

        >>> [e.radius for e in Ruler("a", "arc", "arc", convex=5.0, concave=5.5).edges(0.25)]
        [5.25, 5.25]
        """
        if not self.safe:
            return ()
        if self.shape == "straight":
            return (Edge(self.key, "straight", self.usable),)
        if self.shape == "s":
            if not self.period or not self.height:
                return ()
            return (Edge(self.key, "s", self.usable, None, self.period, self.height),)
        kinds: tuple[EdgeKind, EdgeKind] = ("convex", "concave")
        if self.shape == "circle":
            kinds = ("outside", "inside")
        found = []
        if self.convex:
            found.append(Edge(self.key, kinds[0], self.usable, self.convex + foot_radius))
        if self.concave and self.concave > foot_radius + EXACT:
            found.append(Edge(self.key, kinds[1], self.usable, self.concave - foot_radius))
        return tuple(found)

    def etched_line(self, spacing: float, foot_radius: float) -> float | None:
        """The line of the ruler that goes on the last stitching so that the next is *spacing* from it.

        The needle runs *foot_radius* from the edge, so the line lies spacing − foot radius from it;
        0 is the edge itself. None where the ruler has no such line.

        >>> Ruler("a", "straight").etched_line(0.75, 0.25)
        0.5
        """
        wanted = spacing - foot_radius
        lines = (0.0, *self.lines)
        best = min(lines, key=lambda line: abs(line - wanted))
        return best if abs(best - wanted) <= EXACT else None


STARTING_RULERS = (
    Ruler("straight-12", "straight, 12″"),
    Ruler("straight-6", "straight, 6″", length=6.0, etched=(0.25, 0.5, 0.75, 1.0)),
    Ruler("arc-wide", "arc, wide", "arc", 10.0, etched=(), convex=12.0, concave=12.5),
    Ruler("arc-close", "arc, close", "arc", 7.0, etched=(), convex=5.0, concave=5.5),
    Ruler("arc-deep", "arc, deep", "arc", 6.0, etched=(), convex=3.0625, concave=5.5, margin=0.25),
    Ruler("wave-4", "wave, 4″", "s", 12.0, etched=(), period=4.0, height=1.0),
)


def straight_ruler(rulers: Sequence[Ruler]) -> Ruler:
    """The straight ruler that takes fewest layings; a plain 12″ one where the studio has none."""
    known = [ruler for ruler in rulers if ruler.shape == "straight" and ruler.safe]
    return max(known, key=lambda ruler: (ruler.usable, ruler.key), default=STARTING_RULERS[0])
