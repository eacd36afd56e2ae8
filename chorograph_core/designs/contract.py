"""What every design promises: its settings, whether it fits a zone, and its linework."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Generic, Literal, TypeVar

import numpy as np
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.settings import Parameter, Settings
from chorograph_core.designs.space import Space
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

SCALED = ("spacing", "cell", "width", "pitch", "period", "height", "gap", "chord")
"""Length settings that say how large a pattern is."""
ROOMY = 0.7
"""Spacing over the radius of the widest circle, up to which a pattern reads."""
SPILL = 0.02
"""Inches a line may stray over the edge of its zone: less than the width of the thread's path."""


@dataclass(frozen=True)
class Fit:
    """How well a design suits a zone: *score* from 0 (do not) to 1, and the reasons in words."""

    score: float
    reasons: tuple[str, ...] = ()


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


@dataclass(frozen=True)
class Unit:
    """What a hand stitches without a thought of stopping (a plume, a swirl, a line of a crosshatch):
    its name, and the index *stop* of the point where it ends and one can stop."""

    name: str
    stop: int


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
        first = [replace(span, stop=min(span.stop, stop)) for span in _until(spans, stop)]
        rest = [replace(span, stop=span.stop - stop) for span in spans if span.stop > stop]
        before = tuple(unit for unit in self.units if unit.stop <= stop)
        after = tuple(replace(u, stop=u.stop - stop) for u in self.units if u.stop > stop)
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
            replace(span, stop=last - stops[i]) for i, span in reversed(list(enumerate(self.spans)))
        )
        ends = [0, *(unit.stop for unit in self.units)]
        units = tuple(
            replace(unit, stop=last - ends[i]) for i, unit in reversed(list(enumerate(self.units)))
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
                    spans.append(replace(span, stop=stop))
                    if span.stop >= high:
                        break
        return replace(self, points=points, spans=tuple(spans), units=self._turned(index, last))

    def _turned(self, index: int, last: int) -> tuple[Unit, ...]:
        """The units of a closed run that begins at *index*: the one begun in its middle ends it."""
        after = [replace(u, stop=u.stop - index) for u in self.units if u.stop > index]
        before = [replace(u, stop=u.stop + last - index) for u in self.units if u.stop <= index]
        units = after + before
        if units and units[-1].stop < last:
            units.append(replace(units[0], stop=last))
        return tuple(units)

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


Doorways = tuple[tuple[float, float] | None, tuple[float, float] | None]


Role = Literal["ditch", "frame", "fill", "motif", "figure"]
"""What a design is in a zone: the seams round it; a line that frames it; what fills it; a drawing
with a shape of its own, round which something else is laid; one that runs through many zones."""

S = TypeVar("S", bound=Settings)


class Design(ABC, Generic[S]):
    """A way to fill a zone. Subclass it in a file of its own; the registry finds it.

    `draw` must be a function of its arguments alone: the same zone, settings and seed give the same
    points, byte for byte. When the meaning or the range of a setting changes, raise *version* and say
    in `upgrade` what becomes of what was stored. A design that *looks_round* is drawn zone by zone
    and told the seams and neighbours; all others are drawn once for all alike zones. A *divisible* one
    may be drawn part by part where a zone is too deep to be reached at once: nobody sees where two
    parts meet. A *guided* one follows the guide of its space; round a *grounded* one that follows it at a
    width of its own a ground may lie. *own* says how one lays a stroke of one's own. *pointed*, *crosses*,
    *retraces*: its stroke has points, crosses itself, goes over its own line on purpose; a drawing that
    does so otherwise is judged the worse for it (`chorograph_core.designs.judging`).
    """

    key: ClassVar[str]
    name: ClassVar[str]
    family: ClassVar[str]
    stroke: ClassVar[str]
    role: ClassVar[Role] = "fill"
    version: ClassVar[int] = 1
    looks_round: ClassVar[bool] = False
    divisible: ClassVar[bool] = False
    pointed: ClassVar[bool] = False
    crosses: ClassVar[bool] = False
    retraces: ClassVar[bool] = False
    guided: ClassVar[bool] = False
    grounded: ClassVar[bool] = False
    own: ClassVar[str] = ""
    settings_type: ClassVar[type[Settings]] = Settings

    @property
    def parameters(self) -> tuple[Parameter, ...]:
        """Its settings, as a page asks for them."""
        return self.settings_type.parameters()

    @abstractmethod
    def fits(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> Fit:
        """Say how well the design suits *space*, with reasons and numbers."""

    @abstractmethod
    def draw(
        self,
        space: Space,
        settings: Mapping[str, Any] | S | None = None,
        seed: int = 0,
        doorways: Doorways | None = None,
    ) -> Linework:
        """Draw it. Nothing leaves the space by more than `SPILL` inches.

        Raises `SettingError`, a sentence that names the setting, where a zone so large cannot be drawn so
        finely.
        """

    def spacing(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> float:
        """Inches between neighbouring lines that the settings ask for, by which gaps are judged; 0 for
        a design that does not fill."""
        return 0.0

    def proposed(self, space: Space) -> S:
        """Settings to begin with in *space*: the defaults, drawn in where the zone is too small for them.

        Lengths that grow with the lines' distance shrink with it to eighths of an inch, until three lines or
        so have room; margins stay.
        """
        settings = self.clean()
        known = {p.key: p for p in self.parameters if p.kind == "length" and p.key in SCALED}
        apart = self.spacing(space, settings)
        room = ROOMY * space.widest[1]
        if not known or apart <= room or room <= 0:
            return settings
        made: dict[str, Any] = {}
        for key, parameter in known.items():
            if not getattr(settings, key):
                # Nothing asked for stays nothing asked for.
                continue
            wanted = math.floor(getattr(settings, key) * room / apart * 8) / 8
            made[key] = min(max(wanted, parameter.low, 1 / 8), parameter.high)
        return self.clean(made)

    def doors(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> np.ndarray:
        """Points (n, 2) at which `draw` can begin or end when asked by *doorways*, in any pairing; of a
        design with `variants` the beginning and end of each, one after the other.

        Empty for a design that cannot choose.
        """
        ends = [run.points[[0, -1]] for made in self.variants(space, settings) for run in made.runs]
        return np.concatenate(ends) if ends else np.empty((0, 2))

    def variants(
        self, space: Space, settings: Mapping[str, Any] | S | None = None
    ) -> tuple[Linework, ...]:
        """Other drawings that nobody can tell from what `draw` draws, each in one run, which begin and end
        elsewhere: from the other side, the other way round. None for most designs."""
        return ()

    def lies(self, settings: S) -> bool:
        """Whether it is drawn for the way a zone lies on the frame, and so anew for one that is turned."""
        return False

    def alongside(self, settings: S) -> S:
        """Settings for a figure that lies in several regions apart: all of it must run the same way."""
        return settings

    def remaining(
        self, space: Space, settings: Mapping[str, Any] | S | None = None
    ) -> list[Polygon]:
        """What is left inside for the next layer: all of it, less what the design `reserves`."""
        return [space.polygon]

    def reserves(
        self, space: Space, settings: Mapping[str, Any] | S | None, linework: Linework
    ) -> BaseGeometry | None:
        """What a motif keeps free of the fill round it; None when it keeps nothing free."""
        return None

    def clean(self, settings: Mapping[str, Any] | S | None = None, unit: str = "in") -> S:
        """All settings with defaults filled in; raises `SettingError` for one that cannot be.

        Settings that were cleaned before are taken as they are. *unit* is what bare numbers mean among
        lengths that a person wrote.
        """
        if isinstance(settings, Settings):
            return settings
        return self.settings_type.cleaned(settings or {}, self.name, unit)  # type: ignore[return-value]

    def upgrade(self, settings: Mapping[str, Any], from_version: int) -> dict[str, Any]:
        """Settings stored under an older version, in the words of this one."""
        return dict(settings)

    def settled(
        self, settings: Mapping[str, Any], from_version: int
    ) -> tuple[dict[str, Any], tuple[str, ...]]:
        """Stored settings as ones that can be used, and a sentence for each that was changed."""
        if from_version < self.version:
            settings = self.upgrade(settings, from_version)
        kept, said = self.settings_type.settled(settings)
        return kept, tuple(f"{self.name}: {each}." for each in said)


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
