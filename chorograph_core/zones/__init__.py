"""Zones: the areas of a top that each get one design."""

from chorograph_core.zones.applied import under_shapes
from chorograph_core.zones.bans import APPLIQUE, LIGHT, bans_of, in_words
from chorograph_core.zones.behind import in_front, run_behind
from chorograph_core.zones.divide import (
    join,
    negative_space,
    relabelled,
    touching,
    zones_from_patches,
)
from chorograph_core.zones.following import Followed, follow
from chorograph_core.zones.model import KINDS, Zone, ZoneError

__all__ = [
    "APPLIQUE",
    "KINDS",
    "LIGHT",
    "Followed",
    "Zone",
    "ZoneError",
    "bans_of",
    "follow",
    "in_front",
    "in_words",
    "join",
    "negative_space",
    "relabelled",
    "run_behind",
    "touching",
    "under_shapes",
    "zones_from_patches",
]
