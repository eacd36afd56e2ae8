"""Measuring a top: is it square, does it lean, and which border is longer than its edge."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, fields

from chorograph_core.measure import format_inches

SIDES = ("top", "right", "bottom", "left")
LARGEST = 144.0
"""Inches. No quilt on any bed or wall is wider: four yards."""
SMALLEST = 1.0
EVEN = 0.25
"""Inches by which two measures of one top may differ without anybody seeing it."""
FLAT, EASE, TUCK = 0.02, 0.05, 0.08
"""Fullness up to which nothing is done, texture eases it, a tuck takes it; above, one talks."""
TUCK_TAKES = 0.5
"""Inches one tuck of 1/4″ depth takes up."""


Three = tuple[float | None, float | None, float | None]
Four = tuple[float | None, float | None, float | None, float | None]


class MeasuringError(ValueError):
    """A measure cannot be right. *field* names it, the message is a sentence."""

    def __init__(self, message: str, field: str) -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class Measures:
    """What the tape said, in inches; None where it was not laid.

    *widths* at the top, the middle, the bottom; *heights* at the left, the middle, the right;
    *diagonals* from the top left corner down, then from the top right; *borders* and *bodies*, one
    for each of `SIDES`: the border where it is sewn on, and the edge of the body it is sewn to.
    """

    widths: Three = (None, None, None)
    heights: Three = (None, None, None)
    diagonals: tuple[float | None, float | None] = (None, None)
    borders: Four = (None, None, None, None)
    bodies: Four = (None, None, None, None)

    def check(self) -> None:
        """Raise `MeasuringError` for a measure that no quilt has, naming it as ``widths.0``."""
        for each in fields(self):
            most = LARGEST * math.sqrt(2) if each.name == "diagonals" else LARGEST
            for k, value in enumerate(getattr(self, each.name)):
                if value is None:
                    continue
                if not math.isfinite(value) or value < SMALLEST:
                    raise MeasuringError(
                        f"A top is at least {format_inches(SMALLEST)} wide.", f"{each.name}.{k}"
                    )
                if value > most:
                    raise MeasuringError(
                        f"{format_inches(value)} is wider than any quilt: the most is "
                        f"{format_inches(most)}.",
                        f"{each.name}.{k}",
                    )

    @property
    def width(self) -> float | None:
        """The mean of the widths that were measured."""
        return _mean(self.widths)

    @property
    def height(self) -> float | None:
        """The mean of the heights that were measured."""
        return _mean(self.heights)

    @property
    def widest(self) -> float | None:
        """The greatest width."""
        return greatest(self.widths)

    @property
    def tallest(self) -> float | None:
        """The greatest height."""
        return greatest(self.heights)


def greatest(values: Sequence[float | None]) -> float | None:
    """The greatest that was measured: what lies under or behind a top must reach beyond it there."""
    return max((value for value in values if value is not None), default=None)


@dataclass(frozen=True)
class Shape:
    """How far a top is from a rectangle. Lengths in inches, angles in degrees; None if unknown.

    *spread*: largest less smallest width, and height. *belly*: the middle less the mean of the two
    edges (positive: the middle is fuller). *diagonals*: their difference. *lean*: how far the sides
    stand from a right angle, positive when the bottom is shifted to the right; *shift* the same as
    inches from top to bottom. *slip*: how far the diagonals miss what the sides ask for, which a
    tape read wrongly does at once.
    """

    width_spread: float | None
    height_spread: float | None
    width_belly: float | None
    height_belly: float | None
    diagonals: float | None
    lean: float | None
    shift: float | None
    slip: float | None


def shape_of(measures: Measures) -> Shape:
    """The shape that *measures* describe.

    For a parallelogram with sides w, h and the angle θ between them d₁² = w² + h² + 2wh cos θ and
    d₂² = w² + h² − 2wh cos θ, so cos θ = (d₁² − d₂²) / 4wh; and d₁² + d₂² = 2w² + 2h² whatever θ
    is, which checks the tape.
    """
    width, height = measures.width, measures.height
    one, two = measures.diagonals
    lean = shift = slip = difference = None
    if one is not None and two is not None:
        difference = abs(one - two)
        if width and height:
            cosine = (one * one - two * two) / (4 * width * height)
            lean = math.degrees(math.asin(max(-1.0, min(1.0, cosine))))
            shift = height * math.sin(math.radians(lean))
            slip = math.sqrt((one * one + two * two) / 2) - math.hypot(width, height)
    return Shape(
        _spread(measures.widths), _spread(measures.heights),
        _belly(measures.widths), _belly(measures.heights),
        difference, lean, shift, slip,
    )  # fmt: skip


@dataclass(frozen=True)
class Fullness:
    """How much longer one border is than the edge it is sewn to.

    *advice* is ``"none"``, ``"ease"``, ``"tuck"``, ``"talk"`` or ``"short"`` (the border is the
    shorter one and pulls). *parts* marks divide both; every *body_part* inches of the body then
    takes *border_part* inches of border. *tucks* is how many tucks take what easing cannot.
    """

    side: str
    inches: float
    share: float
    advice: str
    parts: int
    body_part: float
    border_part: float
    tucks: int = 0


def fullness(measures: Measures) -> list[Fullness]:
    """The fullness of every side for which border and body were measured."""
    found = []
    for side, border, body in zip(SIDES, measures.borders, measures.bodies, strict=True):
        if border is None or body is None:
            continue
        extra = border - body
        share = extra / body
        parts = 2 ** max(1, round(math.log2(max(body / 9, 2))))
        tucks = 0
        if share < -FLAT / 2:
            advice = "short"
        elif share <= FLAT:
            advice = "none"
        elif share <= EASE:
            advice = "ease"
        elif share <= TUCK:
            # Texture eases what it can; tucks take the rest.
            advice, tucks = "tuck", max(1, math.ceil((extra - EASE * body) / TUCK_TAKES - 1e-9))
        else:
            advice = "talk"
        found.append(
            Fullness(side, extra, share, advice, parts, body / parts, border / parts, tucks)
        )
    return found


def _mean(values: Sequence[float | None]) -> float | None:
    known = [value for value in values if value is not None]
    return sum(known) / len(known) if known else None


def _spread(values: Sequence[float | None]) -> float | None:
    known = [value for value in values if value is not None]
    return max(known) - min(known) if len(known) > 1 else None


def _belly(values: Sequence[float | None]) -> float | None:
    first, middle, last = values
    if first is None or middle is None or last is None:
        return None
    return middle - (first + last) / 2
