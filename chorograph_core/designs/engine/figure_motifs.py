"""What motifs with a shape of their own share: feathers, vines, flowers."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping
from typing import Any, TypeVar

from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.contract import Design
from chorograph_core.designs.engine.reserving import covered_by
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.settings import Settings, choice_setting
from chorograph_core.designs.space import Space

S = TypeVar("S", bound=Settings)


def growing_setting():
    """From which end a spine or a stem grows."""
    return choice_setting("Growing", (("forward", "one way"), ("back", "the other way")))


class FigureMotif(Design[S]):
    """A motif that keeps what it covers free of the ground round it. Its stroke has points, meets itself, and
    goes back over its own lines on purpose."""

    family = "freehand"
    role = "motif"
    pointed = True
    crosses = True
    retraces = True

    @abstractmethod
    def closing(self, space: Space, s: Any) -> float:
        """Inches between two of its lines up to which what lies between them is its own."""

    def reserves(
        self, space: Space, settings: Mapping[str, Any] | S | None, linework: Linework
    ) -> BaseGeometry | None:
        """What it covers."""
        return covered_by(linework, self.closing(space, self.clean(settings)))
