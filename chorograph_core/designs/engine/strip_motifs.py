"""What all motifs for strips share: they suit strips, and are drawn along each part of a zone."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar, TypeVar

import numpy as np
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.contract import Design, Doorways, Fit
from chorograph_core.designs.engine.along import CornerFigure, along_strip
from chorograph_core.designs.engine.corners import swirl_in_corner
from chorograph_core.designs.engine.lanes import (
    END,
    MOST_SLANT,
    OPENS,
    SIZES,
    STRIP,
    Lane,
    how_strip,
    strip_in,
    strip_width,
)
from chorograph_core.designs.engine.leaning import leaning
from chorograph_core.designs.engine.reserving import strip_along_guide
from chorograph_core.designs.engine.tight import least_radius
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.settings import Settings, refuse_thousands
from chorograph_core.designs.space import Space

MOST = 6000
"""Units in a zone: a border of a large quilt has some hundreds."""
APART = 0.1
"""Inches by which an end must lie elsewhere to be another."""

S = TypeVar("S", bound=Settings)


class StripMotif(Design[S]):
    """A motif written once in a lane's own measure (`stroke_in`). Its settings have *pitch* (a unit's length
    against the width of the strip), *margin*, *along* and *begin*; *unit* and *units* are what it
    is counted in, *soft* how far its turns are eased against the width of the strip."""

    family = "freehand"
    guided = True
    goes_behind = True
    grounded = True
    unit: ClassVar[str]
    units: ClassVar[str]
    soft: ClassVar[float] = 0.03
    leaning: ClassVar[float] = 1.0
    """How far its legs lean, where they are told to stand as the strip lies."""
    slant: ClassVar[float] = MOST_SLANT
    """How far its legs slant with ends that are cut slantwise, against the way across, at most."""
    rounds: ClassVar[int] = 1
    """After so many units it is on the side where it began."""
    odd: ClassVar[bool] = False
    """Whether there is an odd number of them, unless it goes all round."""
    sizes: ClassVar[float] = SIZES
    """How many times as large units may be in one place as in another."""
    opens: ClassVar[float] = OPENS
    """How many inches an inch along its strip may open."""
    sharp: ClassVar[bool] = False
    """Whether it turns corners as lines do, right round their inside."""
    leans: ClassVar[bool] = False
    """Whether its lines lean a little into what they leave open."""
    end: ClassVar[float] = END
    """What is narrower against the whole strip is left to a single line into the tip."""

    def fits(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> Fit:
        """It wants a strip."""
        s: Any = self.clean(settings)
        self._refuse_thousands(space, s)
        return how_strip(
            space, s.margin, s.along, self.proportion(s), self.units, self.sizes, self.least_length(s),
            self.opens,
        )  # fmt: skip

    def least_length(self, s: Any) -> float:
        """How many times as long as wide a strip must be."""
        return STRIP

    def proportion(self, s: Any) -> float:
        """Length of a unit against the width of the strip."""
        return float(s.pitch)

    def spacing(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> float:
        """From unit to unit."""
        s: Any = self.clean(settings)
        return float(self.proportion(s) * strip_width(space, s.margin, s.along))

    def draw(
        self, space: Space, settings: Mapping[str, Any] | S | None = None, seed: int = 0,
        doorways: Doorways | None = None,
    ) -> Linework:  # fmt: skip
        """One line along each part of the zone, from the end nearer to the first doorway."""
        s: Any = self.clean(settings)
        self._refuse_thousands(space, s)
        return self._leant(space, s, self._drawn(space, s, seed, doorways))

    def _leant(self, space: Space, s: Any, made: Linework) -> Linework:
        if not self.leans or space.guide is not None:
            # Beside a guide's strip something else lies.
            return made
        spacing = self.spacing(space, s)
        return leaning(made, space, spacing, s.margin, least_radius(spacing))

    def reserves(
        self, space: Space, settings: Mapping[str, Any] | S | None, linework: Linework
    ) -> BaseGeometry | None:
        """The strip along its guide."""
        return strip_along_guide(space, linework)

    def _drawn(
        self, space: Space, s: Any, seed: int = 0, doorways: Doorways | None = None, more: int = 0
    ) -> Linework:  # fmt: skip
        leans = self.leaning if self.lies(s) else 0.0
        return along_strip(
            space, s.margin, s.along, s.begin, self.proportion(s), lambda lane: self.stroke_in(lane, s),
            self.unit, doorways, soft=self.soft, lies=leans, corner=self.corner_figure(s),
            more=more, loose=getattr(s, "loose", 0.0), seed=seed, slant=self.slant,
            least_turn=0.0 if self.pointed else least_radius(self.spacing(space, s)), rounds=self.rounds,
            end=self.end, odd=self.odd, sharp=self.sharp,
        )  # fmt: skip

    def variants(
        self, space: Space, settings: Mapping[str, Any] | S | None = None
    ) -> tuple[Linework, ...]:
        """With one unit more, and begun on the other side: so it ends on either side of either end."""
        s: Any = self.clean(settings)
        first = self._drawn(space, s)
        if len(first.runs) != 1:
            return ()
        over = replace(s, begin="second" if s.begin == "first" else "first")
        made = (
            self._drawn(space, s, more=1),
            self._drawn(space, over),
            self._drawn(space, over, more=1),
        )
        seen = [first.runs[0].points[[0, -1]]]
        found = []
        for each in made:
            if len(each.runs) != 1:
                continue
            ends = each.runs[0].points[[0, -1]]
            if all(abs(ends - other).max() > APART for other in seen):
                seen.append(ends)
                found.append(self._leant(space, s, each))
        return tuple(found)

    def _refuse_thousands(self, space: Space, s: Any) -> None:
        parts = space.inset(s.margin)
        strip = strip_in(space, parts[0], s.along) if parts else None
        if strip is None or strip.mean_width <= 0:
            return
        wide = strip.mean_width
        # Along a guide there are no more than its strip has room for, however large the zone.
        room = strip.length * wide if space.guide is not None else space.polygon.area
        count = room / (wide * wide * self.proportion(s)) * getattr(s, "rows", 1)
        label = next(p.label for p in self.parameters if p.key == "pitch")
        refuse_thousands(count, MOST, label, "pitch", self.units)

    def corner_figure(self, s: S) -> CornerFigure | None:
        """What stands in the corners that a strip turns; None where the motif turns them itself."""
        return swirl_in_corner

    def lies(self, settings: S) -> bool:
        """Where its legs are told to stand as the strip lies on the frame."""
        return getattr(settings, "legs", "square") == "frame"

    @abstractmethod
    def stroke_in(self, lane: Lane, s: S) -> tuple[np.ndarray, np.ndarray]:
        """The stroke as *u* and *v* (n,) along *lane*."""
