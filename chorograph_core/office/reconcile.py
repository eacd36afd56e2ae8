"""The tape beside the sum of the parts: how much is missing, where, and what a block's share of it is."""

from __future__ import annotations

from dataclasses import dataclass, replace

from chorograph_core.chart import Layout
from chorograph_core.measure import format_length
from chorograph_core.office.measuring import Measures

HAIR = 1 / 16
"""Inches that nobody reads off a tape."""


@dataclass(frozen=True)
class Difference:
    """Along one side of a top, in inches: *tape* less *parts*, and how much of that lies in the body
    of the top, None where the body was not measured. *count* is how many blocks share it."""

    side: str
    tape: float
    parts: float
    body: float | None
    count: int

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
        if self.body is not None:
            rest = self.missing - self.body
            if abs(self.body) <= HAIR:
                said += f" The body is right; the borders have all of it ({show(rest)})."
            elif abs(rest) <= HAIR:
                said += " All of it is in the body; the borders are right."
            else:
                size = "larger" if self.body > 0 else "smaller"
                width = "wider" if rest > 0 else "narrower"
                said += f" The body is {show(self.body)} {size}, the borders {show(rest)} {width}."
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
        off = None if measured is None or not layout.borders else measured - inner
        number = count if isinstance(count, int) else 0
        found.append(Difference(side, tape, whole, off, number))
    return found


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
