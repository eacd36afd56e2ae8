"""Three levels of work: how closely they are stitched, and how a design is begun at each."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from chorograph_core.designs import Design, Settings, Space
from chorograph_core.designs.contract import SCALED
from chorograph_core.designs.settings import SettingError

SIZES = (*SCALED, "size", "bundle", "first", "parallel", "pointed")
"""Settings that grow and shrink with the level."""


@dataclass(frozen=True)
class Level:
    """A level: inches stitched a square inch from *low* to *high*, how much larger than usual its units are
    (*scale*), the design of the ground round a motif, and how many designs a quilt has at such work
    (*kinds*), after which each new one has to earn its learning."""

    key: str
    name: str
    low: float
    high: float
    scale: float
    ground: str
    kinds: int


LEVELS = (
    Level("light", "light", 0.6, 2.2, 1.5, "", 3),
    Level("custom", "custom", 1.4, 4.0, 1.0, "echo_fill", 5),
    Level("heirloom", "heirloom", 2.4, 6.5, 0.75, "swirls", 7),
)


def level_of(key: str) -> Level:
    """The level called *key*; custom for one that is not known."""
    return next((level for level in LEVELS if level.key == key), LEVELS[1])


def begun_at(design: Design, space: Space, level: Level) -> Settings:
    """The settings a design proposes for *space*, larger or smaller as the level wants it, to eighths."""
    settings = design.proposed(space)
    if level.scale == 1.0:
        return settings
    known = {p.key: p for p in design.parameters if p.kind == "length" and p.key in SIZES}
    made: dict[str, Any] = vars(settings).copy()
    for key, parameter in known.items():
        if made[key] > 0:
            wished = max(0.125, math.floor(made[key] * level.scale * 8 + 0.5) / 8)
            made[key] = min(max(wished, parameter.low), parameter.high)
    try:
        return design.clean(made)
    except SettingError:
        return settings
