"""What every design promises: its settings, whether it fits a zone, and its linework."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np
from shapely.geometry import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.measure import LengthError, format_inches, parse_length

TECHNIQUES = ("ditch", "straight", "curved", "large", "medium", "fine", "retrace", "basting")
"""How a line is stitched; each has its own speed. Ruler: ditch, straight, curved. By hand: large
(units of 3″ and more), medium (1″ to 3″), fine (under 1″)."""

SPILL = 0.02
"""Inches a line may stray over the edge of its zone: less than the width of the thread's path."""


class SettingError(ValueError):
    """A setting cannot be used. *field* is its key, the message a sentence for the quilter."""

    def __init__(self, message: str, field: str) -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class Parameter:
    """One setting of a design.

    *kind* is ``"length"`` (inches), ``"angle"`` (degrees), ``"share"`` (a ratio), ``"count"`` or
    ``"choice"``. *low* and *high* are inclusive.
    """

    key: str
    label: str
    kind: str
    default: Any
    low: float = 0.0
    high: float = 0.0
    step: float = 0.0
    choices: tuple[tuple[str, str], ...] = ()
    help: str = ""

    def clean(self, value: Any) -> Any:
        """Return *value* as the right type and within range, or raise `SettingError`."""
        if self.kind == "choice":
            if value not in {key for key, _ in self.choices}:
                names = ", ".join(name for _, name in self.choices)
                raise SettingError(f"{self.label}: choose one of {names}.", self.key)
            return value
        try:
            if self.kind == "length":
                number = parse_length(value) if isinstance(value, str) else float(value)
            else:
                number = float(str(value).strip().rstrip("°%"))
        except (LengthError, ValueError, TypeError) as error:
            what = str(error) if isinstance(error, LengthError) else f"“{value}” is not a number."
            raise SettingError(f"{self.label}: {what}", self.key) from None
        if not self.low <= number <= self.high:
            low, high = self.show(self.low), self.show(self.high)
            raise SettingError(f"{self.label} goes from {low} to {high}.", self.key)
        return round(number) if self.kind == "count" else number

    def show(self, value: Any) -> str:
        """Print *value* for people."""
        if self.kind == "length":
            return format_inches(float(value), 16 if value < 1 else 8)
        if self.kind == "angle":
            return f"{value:g}°"
        if self.kind == "choice":
            return dict(self.choices).get(value, str(value))
        return f"{value:g}"


@dataclass(frozen=True)
class Space:
    """What a design may fill: a polygon in inches, and what surrounds it.

    *raw_edge* is the outline of the top, where there is no ditch; *foot_radius* the distance from
    the ruler's edge to the needle.
    """

    polygon: Polygon
    raw_edge: BaseGeometry | None = None
    foot_radius: float = 0.25

    def inset(self, distance: float) -> list[Polygon]:
        """The parts that remain *distance* inches inside the edge, largest first."""
        if distance <= 0:
            return [self.polygon]
        shape = self.polygon.buffer(-distance, join_style="mitre")
        return polygons(shape)


@dataclass(frozen=True)
class Fit:
    """How well a design suits a zone: *score* from 0 (do not) to 1, and the reasons in words."""

    score: float
    reasons: tuple[str, ...] = ()


@dataclass(frozen=True)
class Span:
    """Part of a run up to the point at index *stop*.

    *kind* is ``"stitch"``, ``"link"`` (along the zone's edge, to reach the next line) or
    ``"retrace"`` (on top of the run's own stitching).
    """

    stop: int
    technique: str
    kind: str = "stitch"


@dataclass(frozen=True)
class Run:
    """An unbroken line to stitch: *points* of shape (n, 2), inches.

    *closed*: it ends where it begins and may be entered at any of its points. *reversible*: it may
    be stitched either way.
    """

    points: np.ndarray
    technique: str = "medium"
    spans: tuple[Span, ...] = ()
    in_ditch: bool = False
    reversible: bool = True
    closed: bool = False

    def pieces(self) -> list[tuple[np.ndarray, str, str]]:
        """The run as (points, technique, kind) pieces in order."""
        if not self.spans:
            return [(self.points, self.technique, "stitch")]
        made, start = [], 0
        for span in self.spans:
            made.append((self.points[start : span.stop + 1], span.technique, span.kind))
            start = span.stop
        return made

    def reversed(self) -> Run:
        """The same line the other way round."""
        last = len(self.points) - 1
        stops = [0, *(span.stop for span in self.spans)]
        spans = tuple(
            replace(span, stop=last - stops[i]) for i, span in reversed(list(enumerate(self.spans)))
        )
        return replace(self, points=self.points[::-1], spans=spans)

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
                    spans.append(replace(span, stop=stop))
                    if span.stop >= high:
                        break
        return replace(self, points=points, spans=tuple(spans))

    def moved(self, placement: Any) -> Run:
        """The run laid elsewhere by a `chorograph_core.chart.Placement`."""
        return replace(self, points=placement.apply(self.points))

    @property
    def inches(self) -> float:
        return length(self.points)


@dataclass(frozen=True)
class Mark:
    """Something to draw on the top first: a ``"line"`` or ``"dot"``, points (n, 2), and what for."""

    kind: str
    points: np.ndarray
    label: str


@dataclass(frozen=True)
class RulerMove:
    """One laying of the ruler: which *edge*, the line its edge lies on (2, 2), and what to align."""

    edge: str
    line: np.ndarray
    align: str


@dataclass(frozen=True)
class Linework:
    """What a design draws in one zone. *kept_doorways*: it begins and ends where it was asked to."""

    runs: tuple[Run, ...] = ()
    marks: tuple[Mark, ...] = ()
    ruler_moves: tuple[RulerMove, ...] = ()
    notes: tuple[str, ...] = ()
    kept_doorways: bool = False

    def moved(self, placement: Any) -> Linework:
        """The same linework laid on an alike zone."""
        return Linework(
            tuple(run.moved(placement) for run in self.runs),
            tuple(replace(mark, points=placement.apply(mark.points)) for mark in self.marks),
            tuple(replace(move, line=placement.apply(move.line)) for move in self.ruler_moves),
            self.notes,
            False,
        )

    @property
    def inches(self) -> float:
        return sum(run.inches for run in self.runs)


Doorways = tuple[tuple[float, float] | None, tuple[float, float] | None]


class Design(ABC):
    """A way to fill a zone. Subclass it in a file of its own; the registry finds it.

    `draw` must be a function of its arguments alone: the same zone, settings and seed give the same
    points, byte for byte.
    """

    key: ClassVar[str]
    name: ClassVar[str]
    family: ClassVar[str]
    stroke: ClassVar[str]
    frames: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = ()

    @abstractmethod
    def fits(self, space: Space, settings: Mapping[str, Any] | None = None) -> Fit:
        """Say how well the design suits *space*, with reasons and numbers."""

    @abstractmethod
    def draw(
        self,
        space: Space,
        settings: Mapping[str, Any],
        seed: int = 0,
        doorways: Doorways | None = None,
    ) -> Linework:
        """Draw it. Nothing leaves the space by more than `SPILL` inches."""

    def doors(self, space: Space, settings: Mapping[str, Any]) -> np.ndarray:
        """Points (n, 2) at which `draw` can begin or end when asked by *doorways*, in any pairing.

        Empty for a design that cannot choose.
        """
        return np.empty((0, 2))

    def remaining(self, space: Space, settings: Mapping[str, Any]) -> list[Polygon]:
        """What is left inside for the next layer, when the design frames the zone."""
        return [space.polygon]

    def clean(self, settings: Mapping[str, Any] | None) -> dict[str, Any]:
        """All settings with defaults filled in; raises `SettingError` for one that cannot be."""
        given = dict(settings or {})
        known = {parameter.key for parameter in self.parameters}
        for key in given:
            if key not in known:
                raise SettingError(f"{self.name} has no setting called “{key}”.", key)
        return {p.key: p.clean(given.get(p.key, p.default)) for p in self.parameters}


def length(points: np.ndarray) -> float:
    """Length of a polyline, shape (n, 2), in its own units."""
    if len(points) < 2:
        return 0.0
    step = points[1:] - points[:-1]
    return float(np.hypot(step[:, 0], step[:, 1]).sum())


def polygons(shape: BaseGeometry) -> list[Polygon]:
    """The polygon parts of *shape*, largest first, slivers left out."""
    parts = shape.geoms if isinstance(shape, MultiPolygon) else [shape]
    whole = [p for p in parts if isinstance(p, Polygon) and p.area > 1e-4]
    return sorted(whole, key=lambda p: -p.area)


def size_of_hand(unit: float) -> str:
    """Freehand technique for units of *unit* inches."""
    return "large" if unit >= 3 else "medium" if unit >= 1 else "fine"


def corner_doors(part: Polygon, most: int = 4) -> np.ndarray:
    """Corners of *part*, at most *most* of them spread round it: seams meet there."""
    ring = np.asarray(part.exterior.simplify(0.05).coords)[:-1]
    if len(ring) <= most:
        return ring
    chosen = [int(np.argmax(np.hypot(*(ring - ring.mean(axis=0)).T)))]
    while len(chosen) < most:
        apart = np.hypot(*(ring[:, None] - ring[chosen][None]).transpose(2, 0, 1)).min(axis=1)
        chosen.append(int(np.argmax(apart)))
    return ring[sorted(chosen)]


MARGIN = Parameter(
    "margin", "Room to the seam", "length", 0.125, 0.0, 2.0, 0.0625,
    help="How far the stitching stays inside the seam.",
)  # fmt: skip
