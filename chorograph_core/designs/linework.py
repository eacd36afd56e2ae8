"""Linework: what a design draws, as unbroken lines made of units."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from chorograph_core.rulers import (
    Reach,
    Ruler,
    RulerPlacement,
    count_placements,
    placements_along,
    settled_sides,
)

TECHNIQUES = ("ditch", "straight", "curved", "large", "medium", "fine", "retrace", "basting")
"""How a line is stitched; each has its own speed. Ruler: ditch, straight, curved. By hand: large
(units of 3″ and more), medium (1″ to 3″), fine (under 1″)."""
RULED = ("ditch", "straight", "curved")
"""Techniques for which a ruler is laid."""


@dataclass(frozen=True)
class Span:
    """Part of a run up to the point at index *stop*.

    *kind* is ``"stitch"``, ``"link"`` (along the zone's edge, to reach the next line) or
    ``"retrace"`` (on top of the run's own stitching). *position* is the reference by which a ruler is
    laid at the right distance.
    """

    stop: int
    technique: str
    kind: str = "stitch"
    position: str = ""

    def ending(self, stop: int) -> Span:
        """The same up to another point."""
        return Span(stop, self.technique, self.kind, self.position)


@dataclass(frozen=True)
class Unit:
    """What a hand stitches without a thought of stopping (a plume, a swirl, a line of a crosshatch):
    its name, and the index *stop* of the point where it ends and one can stop."""

    name: str
    stop: int

    def ending(self, stop: int) -> Unit:
        """The same that ends elsewhere."""
        return Unit(self.name, stop)


@dataclass(frozen=True)
class Run:
    """An unbroken line to stitch: *points* of shape (n, 2), inches.

    *closed*: it ends where it begins and may be entered at any of its points. *reversible*: it may
    be stitched either way. *units* are where a hand can stop, be cut, be rolled on; without any, each
    span that is stitched is one. *figure* names what the run is a piece of, so that pieces in several
    zones know that they are one; *position* is how a ruler is laid where a span does not say it.
    """

    points: np.ndarray
    technique: str = "medium"
    spans: tuple[Span, ...] = ()
    in_ditch: bool = False
    reversible: bool = True
    closed: bool = False
    units: tuple[Unit, ...] = ()
    figure: str = ""
    position: str = ""

    def pieces(self) -> list[tuple[np.ndarray, str, str]]:
        """The run as (points, technique, kind) pieces in order."""
        return [piece[:3] for piece in self._pieces()]

    def _pieces(self) -> list[tuple[np.ndarray, str, str, str]]:
        if not self.spans:
            return [(self.points, self.technique, "stitch", self.position)]
        made, start = [], 0
        for span in self.spans:
            points = self.points[start : span.stop + 1]
            made.append((points, span.technique, span.kind, span.position or self.position))
            start = span.stop
        return made

    def stops(self) -> tuple[Unit, ...]:
        """Its units; those that stand for spans are called by their number."""
        if self.units:
            return self.units
        spans = self.spans or (Span(len(self.points) - 1, self.technique),)
        stitched = [span.stop for span in spans if span.kind == "stitch"]
        return tuple(Unit(str(k), stop) for k, stop in enumerate(stitched, 1))

    def split(self, at: int) -> tuple[Run, Run]:
        """Two open runs that meet where unit number *at* (from 0) ends.

        Raises ValueError where nothing would be left on one side.
        """
        units = self.stops()
        if not 0 <= at < len(units) or not 0 < units[at].stop < len(self.points) - 1:
            raise ValueError("A run is split between two of its units.")
        return self.cut(units[at].stop)

    def cut(self, stop: int) -> tuple[Run, Run]:
        """Two open runs that meet at the point with index *stop*, which is neither end."""
        spans = self.spans or (Span(len(self.points) - 1, self.technique),)
        first = [span.ending(min(span.stop, stop)) for span in _until(spans, stop)]
        rest = [span.ending(span.stop - stop) for span in spans if span.stop > stop]
        before = tuple(unit for unit in self.units if unit.stop <= stop)
        after = tuple(u.ending(u.stop - stop) for u in self.units if u.stop > stop)
        return (
            replace(self, points=self.points[: stop + 1], spans=tuple(first), units=before,
                    closed=False),
            replace(self, points=self.points[stop:], spans=tuple(rest), units=after, closed=False),
        )  # fmt: skip

    def placements(
        self, rulers: Sequence[Ruler], foot_radius: float, machine: str = "frame"
    ) -> list[RulerPlacement]:
        """How the ruler is laid for what is stitched of it by ruler, in order; *machine* is its kind."""
        found = [
            laid
            for points, technique, kind, position in self._pieces()
            if kind == "stitch" and technique in RULED and len(points) > 1
            for laid in placements_along(points, rulers, foot_radius, position)
        ]
        return settled_sides(found, foot_radius, machine)

    def count_placements(self, reach: Reach | float) -> int:
        """How many placements there are, without working out where each lies."""
        return sum(
            count_placements(points, reach)
            for points, technique, kind, _ in self._pieces()
            if kind == "stitch" and technique in RULED and len(points) > 1
        )

    def reversed(self) -> Run:
        """The same line the other way round."""
        last = len(self.points) - 1
        stops = [0, *(span.stop for span in self.spans)]
        spans = tuple(
            span.ending(last - stops[i]) for i, span in reversed(list(enumerate(self.spans)))
        )
        ends = [0, *(unit.stop for unit in self.units)]
        units = tuple(
            unit.ending(last - ends[i]) for i, unit in reversed(list(enumerate(self.units)))
        )
        return replace(self, points=self.points[::-1], spans=spans, units=units)

    def begun_at(self, index: int) -> Run:
        """A closed run that begins, and ends, at one of its own points."""
        last = len(self.points) - 1
        if not self.closed or index % last == 0:
            return self
        points = np.vstack([self.points[index:], self.points[1 : index + 1]])
        spans: list[Span] = []
        for base, low, high in ((-index, index, last), (last - index, 0, index)):
            for span in self.spans:
                if span.stop > low:
                    stop = min(span.stop, high) + base
                    spans.append(span.ending(stop))
                    if span.stop >= high:
                        break
        return replace(self, points=points, spans=tuple(spans), units=self._turned(index, last))

    def _turned(self, index: int, last: int) -> tuple[Unit, ...]:
        """The units of a closed run that begins at *index*: the one begun in its middle ends it."""
        after = [u.ending(u.stop - index) for u in self.units if u.stop > index]
        before = [u.ending(u.stop + last - index) for u in self.units if u.stop <= index]
        units = after + before
        if units and units[-1].stop < last:
            units.append(units[0].ending(last))
        return tuple(units)

    def moved(self, placement: Any) -> Run:
        """The run laid elsewhere by a `chorograph_core.chart.Placement`."""
        return replace(self, points=placement.apply(self.points))

    @cached_property
    def inches(self) -> float:
        return length(self.points)

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """From where to where it reaches: left, top, right, bottom."""
        (left, top), (right, bottom) = self.points.min(axis=0), self.points.max(axis=0)
        return float(left), float(top), float(right), float(bottom)

    @property
    def levels(self) -> tuple[float, float]:
        """From where to where down the quilt it reaches."""
        return self.bounds[1], self.bounds[3]


@dataclass(frozen=True)
class Mark:
    """Something to draw on the top first: a ``"line"`` or ``"dot"``, points (n, 2), and what for."""

    kind: str
    points: np.ndarray
    label: str


@dataclass(frozen=True)
class Linework:
    """What a design draws in one zone. *kept_doorways*: it begins and ends where it was asked to."""

    runs: tuple[Run, ...] = ()
    marks: tuple[Mark, ...] = ()
    notes: tuple[str, ...] = ()
    kept_doorways: bool = False

    def moved(self, placement: Any) -> Linework:
        """The same linework laid on an alike zone."""
        return Linework(
            tuple(run.moved(placement) for run in self.runs),
            tuple(replace(mark, points=placement.apply(mark.points)) for mark in self.marks),
            self.notes,
            False,
        )

    @property
    def inches(self) -> float:
        return sum(run.inches for run in self.runs)

    def placements(
        self, rulers: Sequence[Ruler], foot_radius: float, machine: str = "frame"
    ) -> list[RulerPlacement]:
        """Every laying of the ruler, run by run."""
        return [laid for run in self.runs for laid in run.placements(rulers, foot_radius, machine)]


def _until(spans: Sequence[Span], stop: int) -> list[Span]:
    """The spans that begin before the point at index *stop*."""
    found, start = [], 0
    for span in spans:
        if start < stop:
            found.append(span)
        start = span.stop
    return found


def length(points: np.ndarray) -> float:
    """Length of a polyline, shape (n, 2), in its own units."""
    if len(points) < 2:
        return 0.0
    step = points[1:] - points[:-1]
    return float(np.hypot(step[:, 0], step[:, 1]).sum())


def size_of_hand(unit: float) -> str:
    """Freehand technique for units of *unit* inches."""
    return "large" if unit >= 3 else "medium" if unit >= 1 else "fine"
