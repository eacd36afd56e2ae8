"""Rope: S-shaped strands between two guide lines, each touching the last."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.engine.lanes import Lane, along_setting, start_setting
from chorograph_core.designs.engine.passing import passing, passing_setting
from chorograph_core.designs.engine.strip_motifs import StripMotif
from chorograph_core.designs.settings import Settings, choice_setting, margin_setting, share_setting


@dataclass(frozen=True)
class RopeSettings(Settings):
    """How close the strands lie and how far they lean."""

    pitch: float = share_setting("Strand to strand", 0.4, 0.2, 1.2, 0.05,
                         help="Against the width of the rope.")  # fmt: skip
    lean: float = share_setting("Lean", 1.3, 0.4, 2.5, 0.05,
                        help="How far a strand runs along, against the way to the next.")  # fmt: skip
    guides: str = choice_setting(
        "Guide lines", (("both", "stitched on both sides"), ("none", "not stitched"))
    )
    passing: str = passing_setting()
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()


class Rope(StripMotif[RopeSettings]):
    """Strands that are stitched to and fro, along the guide lines from one to the next."""

    key = "rope"
    name = "Rope"
    stroke = "an S across, a step along the guide line, the next S back"
    crosses = True
    pointed = True
    settings_type = RopeSettings
    unit, units = "strand", "strands"
    soft = 0.015

    def fits(self, space, settings=None):
        """It wants a strip that does not turn sharply."""
        fit = super().fits(space, settings)
        if space.polygon.area < 0.85 * space.polygon.convex_hull.area:
            return Fit(min(fit.score, 0.3), (*fit.reasons, "a rope does not turn so sharply"))
        return fit

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One line along each part of the zone, where it shows."""
        s = self.clean(settings)
        return passing(space, super().draw(space, s, seed, doorways), s.passing)

    def corner_figure(self, s):
        """Its lines turn corners themselves."""
        return None

    def stroke_in(self, lane: Lane, s: RopeSettings) -> tuple[np.ndarray, np.ndarray]:
        """As u and v along the lane."""
        t = np.linspace(0, 1, 25)
        # An S: along the rope at both ends, across in its middle.
        across = -np.cos(np.pi * t)
        along = s.lean * (t - 0.55 * np.sin(2 * np.pi * t) / (2 * np.pi) * -1.6)
        room = max(1, lane.count - round(s.lean))
        scale = (lane.count - s.lean) / room if room > 0 else 1.0
        u, v = [], []
        for k in range(room + 1):
            begin = k * scale
            piece_u, piece_v = begin + along, across
            if k % 2:
                piece_u, piece_v = piece_u[::-1], piece_v[::-1]
            u.append(piece_u)
            v.append(piece_v)
        us, vs = np.concatenate(u), np.concatenate(v)
        if s.guides == "both":
            end, side = us[-1], vs[-1]
            # Home along both guide lines: to the far end on this side, across, back on the other, and
            # to the beginning.
            tail = [(lane.count, side), (lane.count, -side), (0.0, -side), (0.0, side), (end, side)]
            stops = np.array([(end, side), *tail])
            fine_u, fine_v = [], []
            for one, two in itertools.pairwise(stops):
                # An end may be bowed: across too a line has points enough to follow it.
                n = max(3, int((abs(two[0] - one[0]) + abs(two[1] - one[1])) * 12) + 1)
                fine_u.append(np.linspace(one[0], two[0], n))
                fine_v.append(np.linspace(one[1], two[1], n))
            us, vs = np.concatenate([us, *fine_u]), np.concatenate([vs, *fine_v])
        return us, vs
