"""Curls: a waving line into a spiral and back out beside itself, like a ribbon; the next to the
other side."""

from __future__ import annotations

from dataclasses import dataclass

from chorograph_core.designs.engine.figures_in_cells import FigureFill, spirals_through
from chorograph_core.designs.engine.tight import least_radius
from chorograph_core.designs.engine.turning import Spiral, round_middle
from chorograph_core.designs.settings import Settings, length_setting, margin_setting, share_setting


@dataclass(frozen=True)
class CurlSettings(Settings):
    """How large, how open, how narrow the ribbon."""

    size: float = length_setting("Across a curl", 2.25, 0.5, 12.0, 0.125)
    pitch: float = length_setting("From turn to turn", 0.625, 0.25, 3.0)
    ribbon: float = share_setting("Ribbon", 0.4, 0.15, 0.5, 0.05,
                           help="Width of the ribbon against the way from turn to turn.")  # fmt: skip
    margin: float = margin_setting()


class Curls(FigureFill[CurlSettings]):
    """Ribbons that curl up, one out of the other."""

    key = "curls"
    name = "Curls"
    stroke = "a waving stem into a spiral, back out beside itself; the next curl to the other side"
    undirected = True
    settings_type = CurlSettings
    sized_by = ("size", "Across a curl")

    def spacing(self, space, settings=None):
        """From turn to turn."""
        return self.clean(settings).pitch

    def leans(self, s):
        """As a hand does that sees a gap come."""
        return True

    def drawn(self, space, s, seed):
        """One line for each part of the zone."""
        pitch = min(s.pitch, s.size / 2)
        kind = Spiral(pitch, pitch * s.ribbon, 0.3, round_middle)
        gap = pitch * (1 - s.ribbon)
        return spirals_through(
            space,
            s.margin,
            s.size,
            gap * 0.8,
            kind,
            seed,
            "curl",
            0.6,
            even=False,
            echo=pitch,
            at_edge=0.55,
            least_turn=least_radius(pitch),
        )
