"""Motifs of very many like things: nobody draws thousands of them."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping
from typing import Any, ClassVar, TypeVar

from chorograph_core.designs.contract import Design, Doorways
from chorograph_core.designs.engine.leaning import leaning
from chorograph_core.designs.engine.pockets import pocketed
from chorograph_core.designs.engine.tight import least_radius
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.settings import Settings
from chorograph_core.designs.space import Space

S = TypeVar("S", bound=Settings)


class CountedMotif(Design[S]):
    """A motif that counts what it would draw first (`refuse`), and then draws it (`drawn`)."""

    family = "freehand"
    rounds_pockets: ClassVar[bool] = False
    """Whether what lies behind a neck too narrow for its figures is gone round."""

    def draw(
        self, space: Space, settings: Mapping[str, Any] | S | None = None, seed: int = 0,
        doorways: Doorways | None = None,
    ) -> Linework:  # fmt: skip
        """All of it."""
        s: Any = self.clean(settings)
        self.refuse(space, s)
        made = self.drawn(space, s, seed)
        spacing = self.spacing(space, s)
        least = 0.0 if self.pointed else least_radius(spacing)
        if self.rounds_pockets:
            made = pocketed(made, space, spacing, s.margin, least)
        return leaning(made, space, spacing, s.margin, least) if self.leans(s) else made

    def leans(self, s: Any) -> bool:
        """Whether its lines may lean into what they leave open: not what is drawn with regular figures."""
        return False

    @abstractmethod
    def refuse(self, space: Space, s: Any) -> None:
        """Raise `SettingError` where there would be thousands."""

    @abstractmethod
    def drawn(self, space: Space, s: Any, seed: int) -> Linework:
        """All of it, with cleaned settings."""
