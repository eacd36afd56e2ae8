"""What the finish of the edge leaves for stitching."""

from __future__ import annotations

from dataclasses import dataclass

from chorograph_core.designs.drawing import EDGE_FINISHES
from chorograph_core.measure import format_inches, in_units

_WORDS = {
    "binding": ("binding", "covers 1/4″; lines may run off the edge, points stay {keep} inside"),
    "turned": (
        "backing turned to the front",
        "no stitch may leave the top; designs stay {keep} in",
    ),
    "faced": ("facing", "keep clear of the seam allowance: {keep} in"),
    "knife": (
        "knife edge",
        "both layers are turned in: keep {keep} clear, and stitch up to it last",
    ),
}


@dataclass(frozen=True)
class EdgeEffect:
    """*name* of the finish, what it *asks* for, inches it *keeps*, and the stitchable size left."""

    name: str
    asks: str
    keeps: float
    width: float
    height: float


def finish_in_words(finish: str, unit: str = "in") -> tuple[str, str]:
    """The name of a *finish* and what it asks for, told in *unit*. KeyError for an unknown finish."""
    name, asks = _WORDS[finish]
    return name, in_units(asks.format(keep=format_inches(EDGE_FINISHES[finish])), unit)


def edge_effect(finish: str, width: float, height: float, unit: str = "in") -> EdgeEffect:
    """What *finish* does to a top *width* by *height* inches, told in *unit*. KeyError for an unknown
    finish."""
    keep = EDGE_FINISHES[finish]
    name, asks = finish_in_words(finish, unit)
    return EdgeEffect(name, asks, keep, width - 2 * keep, height - 2 * keep)
