"""The tape beside the sum of the parts: how much is missing, where, and what a block's share of it is."""

from __future__ import annotations

from dataclasses import dataclass, replace

from chorograph_core.estimating.measuring import Measures
from chorograph_core.layouts import Layout
from chorograph_core.layouts.base import MOST_SPREAD
from chorograph_core.measure import format_length

HAIR = 0.1
"""Inches that nobody reads off a tape laid along a whole top."""
FAR = 0.03
"""Share by which a measured edge may miss the one that the layout has there."""


@dataclass(frozen=True)
class Difference:
    """Along one side of a top, in inches: *tape* less *parts*, and how much of that lies within the
    edge that a border is sewn to, None where that was not measured. *inner* is what lies within it,
    in words, *count* how many blocks share the difference."""

    side: str
    tape: float
    parts: float
    body: float | None
    count: int
    inner: str = "the body"

    @property
    def missing(self) -> float:
        """What the tape says beyond the parts; below zero where the top came out smaller."""
        return self.tape - self.parts

    def sentence(self, units: str = "in") -> str:
        """What a quilter would want to know of it."""
        show = lambda inches: format_length(abs(inches), units, 16)  # noqa: E731
        more = "more" if self.missing > 0 else "less"
        said = (f"In {self.side} the tape says {show(self.tape)}, the parts come to "
                f"{show(self.parts)}: {show(self.missing)} {more}.")  # fmt: skip
        if abs(self.missing) > MOST_SPREAD * self.parts:
            return f"{said} Seams and stretch do not explain that much: look at the numbers again."
        if self.body is not None:
            rest = self.missing - self.body
            inside = self.inner[0].upper() + self.inner[1:]
            if abs(self.body) <= HAIR:
                said += f" {inside} is right; what is outside of it has it all ({show(rest)})."
            elif abs(rest) <= HAIR:
                said += f" All of it is in {self.inner}."
            else:
                size = "larger" if self.body > 0 else "smaller"
                width = "wider" if rest > 0 else "narrower"
                said += f" {inside} is {show(self.body)} {size}, the rest {show(rest)} {width}."
        inner = self.missing if self.body is None else self.body
        if self.count > 1 and abs(inner) > HAIR:
            each = abs(inner) / self.count
            said += f" That is {format_length(each, units, 64)} for each of {self.count} blocks."
        return said


def differences(layout: Layout, measures: Measures) -> list[Difference]:
    """Where the tape and the parts of *layout* differ by more than a hair."""
    parts, body = layout.parts(), layout.body()
    counts = (getattr(layout, "columns", 0), getattr(layout, "rows", 0))
    # The edges that borders are sewn to: top and bottom run across, right and left down.
    across = _mean(measures.bodies[0], measures.bodies[2])
    down = _mean(measures.bodies[1], measures.bodies[3])
    found = []
    for side, tape, whole, measured, inner, count in (
        ("width", measures.width, parts[0], across, body[0], counts[0]),
        ("height", measures.height, parts[1], down, body[1], counts[1]),
    ):
        if tape is None or abs(tape - whole) <= HAIR:
            continue
        off, name = _within(layout, measured, inner, side)
        number = count if isinstance(count, int) else 0
        found.append(Difference(side, tape, whole, off, number, name))
    return found


def _within(layout: Layout, measured: float | None, body: float, side: str):
    """How much larger than charted the measured inner edge is, and what lies within it.

    The tape was laid along some border's inner edge: the one that is nearest in length.
    """
    if measured is None or not layout.borders:
        return None, ""
    edges, length = [], body
    for border in layout.borders:
        edges.append(length)
        top, right, bottom, left = border.widths
        length += left + right if side == "width" else top + bottom
    k = min(range(len(edges)), key=lambda n: abs(edges[n] - measured))
    if abs(edges[k] - measured) > FAR * edges[k]:
        return None, ""
    return measured - edges[k], "the body" if k == 0 else f"what lies within border {k + 1}"


def spread(layout: Layout, measures: Measures) -> Layout:
    """The layout stretched evenly to what the tape says; a side not measured stays as it is."""
    parts = layout.parts()
    size = (measures.width or parts[0], measures.height or parts[1])
    return replace(layout, fitted=size)  # type: ignore[type-var]


def in_the_border(layout: Layout, measures: Measures) -> Layout:
    """The layout with all of the difference in its outermost border, half on either side."""
    if not layout.borders:
        return layout
    parts = layout.parts()
    dx = ((measures.width or parts[0]) - parts[0]) / 2
    dy = ((measures.height or parts[1]) - parts[1]) / 2
    last = layout.borders[-1]
    top, right, bottom, left = last.widths
    fresh = replace(last, sides=(top + dy, right + dx, bottom + dy, left + dx))
    return replace(layout, borders=(*layout.borders[:-1], fresh), fitted=())  # type: ignore[type-var]


def _mean(*values: float | None) -> float | None:
    known = [value for value in values if value is not None]
    return sum(known) / len(known) if known else None
