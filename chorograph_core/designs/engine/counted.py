"""Motifs of very many like things: nobody draws thousands of them."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping
from typing import Any, TypeVar

from chorograph_core.designs.contract import Design, Doorways
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.settings import Settings
from chorograph_core.designs.space import Space

S = TypeVar("S", bound=Settings)


class CountedMotif(Design[S]):
    """A motif that counts what it would draw first (`refuse`), and then draws it (`drawn`)."""

    family = "freehand"

    def draw(
        self, space: Space, settings: Mapping[str, Any] | S | None = None, seed: int = 0,
        doorways: Doorways | None = None,
    ) -> Linework:  # fmt: skip
        """All of it."""
        s: Any = self.clean(settings)
        self.refuse(space, s)
        return self.drawn(space, s, seed)

    @abstractmethod
    def refuse(self, space: Space, s: Any) -> None:
        """Raise `SettingError` where there would be thousands."""

    @abstractmethod
    def drawn(self, space: Space, s: Any, seed: int) -> Linework:
        """All of it, with cleaned settings."""
