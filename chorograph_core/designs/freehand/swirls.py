"""Swirls: in to the centre, round, and out between the lines; the next grows from the last one's back."""

from __future__ import annotations

from dataclasses import dataclass, replace

from chorograph_core.designs.engine.figures_in_cells import TRUE, FigureFill, spirals_through
from chorograph_core.designs.engine.tight import least_radius
from chorograph_core.designs.engine.turning import Spiral, round_middle
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    length_setting,
    margin_setting,
)
from chorograph_core.measure import format_inches

ROUND = 0.85
"""How round the cells of swirls are: rounder ones leave spots between them that are echoed like bricks."""
OPEN = 0.9
"""Share of the way between lines from which a spot between swirls is echoed."""
LINES = 5
"""Lines across a swirl at least: one that winds in has two on either side, and its middle."""


@dataclass(frozen=True)
class SwirlSettings(Settings):
    """How large, how close, which way round."""

    size: float = length_setting("Across a swirl", 2.0, 0.5, 12.0, 0.125)
    gap: float = length_setting("Between lines", 0.3125, 0.125, 2.0)
    margin: float = margin_setting()
    turning: str = choice_setting("In", (("right", "to the right"), ("left", "to the left")))


class Swirls(FigureFill[SwirlSettings]):
    """Round spirals of about one size, smaller where the zone is narrow."""

    key = "swirls"
    name = "Swirls"
    stroke = "spiral right in, turn round, out between the lines; the next from its back"
    undirected = True
    settings_type = SwirlSettings
    sized_by = ("size", "Across a swirl")

    def spacing(self, space, settings=None):
        """Between lines: closer than asked for where a swirl that small would have no turn."""
        s = self.clean(settings)
        return min(s.gap, s.size / LINES)

    def leans(self, s):
        """As a hand does that sees a gap come."""
        return True

    def drawn(self, space, s, seed):
        """One line for each part of the zone."""
        closer = self.spacing(space, s)
        gap = closer * TRUE
        kind = Spiral(2 * gap, gap, 0.15, round_middle)
        sense = 1 if s.turning == "right" else -1
        made = spirals_through(
            space, s.margin, s.size, gap, kind, seed, "swirl", ROUND, sense, echo=OPEN * closer,
            least_turn=least_radius(closer),
        )  # fmt: skip
        if closer < s.gap - 1e-9:
            across, lines = format_inches(s.size), format_inches(closer, 32)
            note = f"swirls {across} across have their lines {lines} apart"
            made = replace(made, notes=(*made.notes, note))
        return made
