"""Zones: the areas of a top that each get one design."""

from chorograph_core.zones.divide import join, negative_space, zones_from_patches
from chorograph_core.zones.model import KINDS, Zone, ZoneError

__all__ = ["KINDS", "Zone", "ZoneError", "join", "negative_space", "zones_from_patches"]
