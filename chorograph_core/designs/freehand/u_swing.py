"""U-swing: from edge to edge of a border in deep curves with a tuck at each edge."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.engine.lanes import Lane, along_setting, start_setting, steps_to
from chorograph_core.designs.engine.strip_motifs import StripMotif
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    hand_setting,
    margin_setting,
    share_setting,
)

FEW = 6
"""Swings up to which half a one cannot be spread over the others."""


@dataclass(frozen=True)
class SwingSettings(Settings):
    """How wide a swing is, how deep the tuck, and where swings cross back into lens shapes."""

    pitch: float = share_setting("Swing to swing", 0.75, 0.3, 2.0, 0.05,
                         help="Against the width of the border.")  # fmt: skip
    tuck: float = share_setting("Tuck", 0.14, 0.0, 0.25, 0.01,
                        help="How far a swing turns in at the edge, against its width.")  # fmt: skip
    lenses: str = choice_setting("Crossing back", (
        ("none", "not at all"), ("middle", "at the middle"), ("half", "from the middle on"),
        ("all", "all the way home")))  # fmt: skip
    corners: str = choice_setting(
        "Corners", (("swirl", "a swirl in each"), ("round", "swings go round"))
    )
    loose: float = hand_setting()
    margin: float = margin_setting()
    along: str = along_setting()
    begin: str = start_setting()


class Swing(StripMotif[SwingSettings]):
    """Deep swings; crossing back makes lens shapes of them."""

    key = "u_swing"
    name = "U-swing"
    stroke = "swing to one edge, tuck, swing to the other; back over them where lenses are wanted"
    crosses = True
    retraces = True
    settings_type = SwingSettings
    unit, units = "swing", "swings"
    soft = 0.05
    rounds = 2

    def corner_figure(self, s):
        """A swirl, where swings do not go round."""
        return super().corner_figure(s) if s.corners == "swirl" else None

    def stroke_in(self, lane: Lane, s: SwingSettings) -> tuple[np.ndarray, np.ndarray]:
        """As u and v along the lane."""
        count = lane.count
        # Crossing back begins and ends on the middle line: there both ways meet in the tip of a lens. Then
        # one goes on over the first swings: any other way would be seen across the lenses.
        end, middle = count - 0.5, math.ceil(count / 2)
        if s.lenses == "all":
            return _stretched(_joined(_swings(0, end, s), _swings(end, 0, s, -1.0)), count)
        if s.lenses == "half" and count > 1:
            first = middle - 0.5
            there = _joined(
                _swings(0, end, s), _swings(end, first, s, -1.0), _swings(first, end, s)
            )
            if count < FEW:
                return _stretched(there, count)
            # From the middle of the border on, however many swings there are: half a swing is spread over one
            # half of them.
            return np.interp(there[0], (0, first, end), (0, count / 2, count)), there[1]
        if s.lenses == "middle" and count > 2:
            first, last = count / 2 - _reach(count), count / 2 + _reach(count)
            return _joined(
                _swings(0, last, s), _swings(last, first, s, -1.0), _swings(first, count, s)
            )
        return _swings(0, count, s)


def _reach(count: int) -> float:
    """Swings from the middle of *count* to either end of the lenses, so that they lie in the middle: an odd
    number of them where two swings meet there, an even one where a swing crosses it."""
    if count % 2:
        return 2.0 if count > 6 else 1.0
    return 1.5 if count > 5 else 0.5


def _stretched(pieces, count: int):
    u, v = pieces
    return u * count / (count - 0.5), v


def _swings(first: float, last: float, s: SwingSettings, side: float = 1.0):
    t = (
        first + np.sign(last - first) * steps_to(abs(last - first))
        if last != first
        else np.array([first])
    )
    return t + s.tuck * np.sin(2 * np.pi * t), -np.cos(np.pi * t) * side


def _joined(*pieces):
    u, v = zip(*pieces, strict=True)
    first = [0, *([1] * (len(pieces) - 1))]
    return (np.concatenate([piece[k:] for piece, k in zip(u, first, strict=True)]),
            np.concatenate([piece[k:] for piece, k in zip(v, first, strict=True)]))  # fmt: skip
