"""Settings by which a quilter says how lines are fitted (`chorograph_core.rulers.rows`)."""

from __future__ import annotations

from typing import Any

from chorograph_core.designs.settings import choice_setting
from chorograph_core.rulers.rows import FITTINGS, RHYTHMS, Places, gaps_of, places

__all__ = [
    "FITTINGS",
    "RHYTHMS",
    "Places",
    "fitting_setting",
    "gaps_of",
    "places",
    "rhythm_setting",
]


def fitting_setting() -> Any:
    """How lines are fitted across a zone."""
    return choice_setting("Fitting", FITTINGS,
                          help="Even changes the spacing a little so that no odd gap is left.")  # fmt: skip


def rhythm_setting() -> Any:
    """How gaps follow one another."""
    return choice_setting("Rhythm", RHYTHMS, help="Narrow gaps are half of the wide one.")
