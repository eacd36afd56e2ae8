"""Hook drift: half an S into a pointed centre and out, echoed; the hooks nest."""

from __future__ import annotations

from dataclasses import dataclass

from chorograph_core.designs.engine.figures_in_cells import TRUE, FigureFill, spirals_through
from chorograph_core.designs.engine.turning import Spiral, pointed_middle
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    count_setting,
    length_setting,
    margin_setting,
)

OPEN = 0.75
"""Share of the way between lines from which a spot between hooks is open, and echoed: they nest closely."""


@dataclass(frozen=True)
class HookSettings(Settings):
    """How often a hook is echoed, how close, which way round."""

    echoes: int = count_setting("Echoes", 1, 1, 4)
    gap: float = length_setting("Between lines", 0.375, 0.125, 2.0)
    margin: float = margin_setting()
    turning: str = choice_setting("In", (("right", "to the right"), ("left", "to the left")))


class HookDrift(FigureFill[HookSettings]):
    """Hooks with a pointed centre, each echoed, that drift through the zone."""

    key = "hook_drift"
    name = "Hook drift"
    stroke = "half an S into a point, out again, echoed; the next hook nests in its back"
    pointed = True
    undirected = True
    settings_type = HookSettings
    sized_by = ("gap", "Between lines")

    def size_of(self, s):
        """A hook with all its echoes."""
        return s.gap * (2.3 + 2 * s.echoes)

    def spacing(self, space, settings=None):
        """Between lines."""
        return self.clean(settings).gap

    def leans(self, s):
        """As a hand does that sees a gap come."""
        return True

    def drawn(self, space, s, seed):
        """One line for each part of the zone."""
        gap = s.gap * TRUE
        kind = Spiral(2 * gap, gap, 0.3, pointed_middle, swings=True)
        sense = 1 if s.turning == "right" else -1
        return spirals_through(
            space,
            s.margin,
            self.size_of(s),
            gap,
            kind,
            seed,
            "hook",
            0.5,
            sense,
            echo=OPEN * s.gap,
        )
