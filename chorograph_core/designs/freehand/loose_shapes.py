"""Loose shapes: large round outlines one after another, as a hand draws round the shapes of a print."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.curves import bezier
from chorograph_core.designs.engine.cells import Cell
from chorograph_core.designs.engine.figures_in_cells import FigureFill, figures_through
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    length_setting,
    margin_setting,
    share_setting,
)

FINE = math.radians(6)
TIP, SHARP = 0.24, 0.42
"""How much narrower than its room a shape with two tips is, and within which angle it draws in to one."""


@dataclass(frozen=True)
class LooseSettings(Settings):
    """How large the shapes are, how loosely drawn, and whether a line goes on through them."""

    size: float = length_setting("Across a shape", 4.0, 1.0, 24.0, 0.25,
                         help="About as large as the shapes of the print.")  # fmt: skip
    loose: float = share_setting("Loose", 0.5, 0.0, 1.0, 0.1,
                         help="How uneven the outlines are; 0 as round as there is room.")  # fmt: skip
    shape: str = choice_setting("Shapes", (("leaf", "drawn out at both ends, a line through the middle"),
                                           ("round", "round")))  # fmt: skip
    margin: float = margin_setting()


class LooseShapes(FigureFill[LooseSettings]):
    """A few large outlines: enough to hold, too open to flatten."""

    key = "loose_shapes"
    name = "Loose shapes"
    stroke = "all round a large shape, through its middle to the far end, round the next"
    crosses = True
    pointed = True
    retraces = True
    undirected = True
    of_print = True
    settings_type = LooseSettings
    sized_by = ("size", "Across a shape")

    def spacing(self, space, settings=None):
        """From outline to outline."""
        return self.clean(settings).size * 0.8

    def proposed(self, space):
        """Shapes of which a few have room."""
        s = self.clean()
        return self.clean(
            {"size": min(s.size, max(1.0, math.floor(1.3 * space.widest[1] * 4) / 4))}
        )

    def drawn(self, space, s, seed):
        """One line for each part of the zone."""
        rng = np.random.default_rng(seed + 17)

        def figure(cell: Cell, behind: float, ahead: float, number: int) -> np.ndarray:
            return _shape(cell, behind, ahead, s, rng.uniform(0, 2 * math.pi, 2))

        return figures_through(space, s.margin, s.size, 0.22 * s.size, seed, figure, "shape", 0.55)


def _shape(cell: Cell, behind: float, ahead: float, s: LooseSettings, phases) -> np.ndarray:
    """The outline all round from where one comes, and on to where one goes."""
    bend = (ahead - behind + math.pi) % (2 * math.pi) - math.pi
    sense = 1 if bend >= 0 else -1
    turn = np.arange(0, 2 * math.pi + FINE / 2, FINE)
    # The outline breathes inwards only: outwards it has no room. It ends where it began.
    uneven = 0.11 * s.loose * cell.least * (
        1.6 + np.sin(2 * turn + phases[0]) + 0.6 * np.sin(3 * turn + phases[1])
    ) / 2  # fmt: skip
    if s.shape == "round":
        rest = np.linspace(0, abs(bend), max(4, int(abs(bend) / FINE)))
        outline = cell.at(behind + sense * turn, uneven)
        return np.vstack(
            [outline, cell.at(behind + sense * rest, np.interp(rest, turn, uneven))[1:]]
        )
    # Two tips, where one comes in and where one leaves.
    near = np.minimum(_off(turn, 0.0), _off(turn, abs(bend)))
    drawn_in = TIP * cell.least * (1 - np.exp(-near / SHARP))
    outline = cell.at(behind + sense * turn, uneven * np.clip(near / 0.5, 0, 1) + drawn_in)
    first, last = outline[0], outline[int(np.argmin(_off(turn, abs(bend))))]
    into, onto = 0.62 * (cell.middle - first), 0.62 * (cell.middle - last)
    sway = 0.25 * s.loose * np.array([-into[1], into[0]]) * sense
    return np.vstack(
        [outline, bezier(first, first + into + sway, last + onto - sway, last, 24)[1:]]
    )


def _off(turn: np.ndarray, place: float) -> np.ndarray:
    return np.abs((turn - place + math.pi) % (2 * math.pi) - math.pi)
