"""Briar coil: an open ring, then short spurs out and back while curling round it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.cells import Cell
from chorograph_core.designs.engine.figures_in_cells import FigureFill, figures_through
from chorograph_core.designs.settings import (
    Settings,
    count_setting,
    length_setting,
    margin_setting,
    share_setting,
)

FINE = math.radians(7)
SPUR = 0.1
"""How much narrower a spur is than its share of the round, in such shares on either side."""


@dataclass(frozen=True)
class BriarSettings(Settings):
    """How large a coil is, its ring and its spurs."""

    size: float = length_setting("Across a coil", 1.75, 0.5, 8.0, 0.125)
    ring: float = share_setting(
        "Ring", 0.4, 0.2, 0.7, 0.05, help="Across the open ring against the coil."
    )
    spurs: int = count_setting("Spurs on a coil", 9, 4, 24)
    margin: float = margin_setting()


class BriarCoil(FigureFill[BriarSettings]):
    """Rings with spurs all round, one after another."""

    key = "briar_coil"
    name = "Briar coil"
    stroke = "round an open ring, then short spurs out and back while curling round it"
    crosses = True
    pointed = True
    undirected = True
    settings_type = BriarSettings
    sized_by = ("size", "Across a coil")

    def spacing(self, space, settings=None):
        """Half a coil."""
        s = self.clean(settings)
        return s.size * 0.42

    def drawn(self, space, s, seed):
        """One line for each part of the zone."""
        return figures_through(
            space, s.margin, s.size, 0.12 * s.size, seed,
            lambda cell, behind, ahead, _: _coil(cell, behind, ahead, s), "coil", 0.6,
            # A spur goes into a tip.
            0.3 * s.size,
        )  # fmt: skip


def _coil(cell: Cell, behind: float, ahead: float, s: BriarSettings) -> np.ndarray:
    """In to the ring, once round it and on to where one will leave; then spur by spur once round to there."""
    inner, least = s.ring, cell.least
    ring = behind + np.arange(0, 2 * math.pi + (ahead - behind) % (2 * math.pi) + FINE / 2, FINE)
    lines = [cell.at(np.array([behind]), 0.0), cell.at(ring, least * (1 - inner))]
    low, high = least * (1 - inner) - 0.12 * least, 0.04 * least
    turn = np.linspace(0, 2 * math.pi, 17)
    for begin, step in _spurs((behind - ahead) % (2 * math.pi), s.spurs):
        # A spur is narrower than its share of the round: out and back nearly on one line.
        at = ahead + begin + step * turn / (2 * math.pi) + SPUR * step * np.sin(turn)
        lines.append(cell.at(at, low + (high - low) * ((1 - np.cos(turn)) / 2) ** 1.3))
    lines.append(cell.at(np.array([ahead]), 0.0))
    return np.vstack(lines)


def _spurs(behind: float, count: int) -> list[tuple[float, float]]:
    """Where each spur begins, from the way out, and its share of the round: so that the way in, which lies
    *behind*, comes between two."""
    first = round(count * behind / (2 * math.pi))
    if not 0 < first < count:
        return [(2 * math.pi * k / count, 2 * math.pi / count) for k in range(count)]
    one, two = behind / first, (2 * math.pi - behind) / (count - first)
    return [(one * k, one) for k in range(first)] + [
        (behind + two * k, two) for k in range(count - first)
    ]
