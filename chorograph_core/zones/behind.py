"""Zones that run behind what lies on them: appliqué, blocks, or other zones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import shapely
from shapely.geometry import Polygon

from chorograph_core.zones.model import Zone, ZoneError


def run_behind(zone: Zone, shapes: Sequence[Polygon]) -> Zone:
    """The zone, its design drawn as if it went on behind *shapes*; those that do not touch it do
    not count. Without any, behind whatever fills its holes.

    Raises `ZoneError` where nothing lies on the zone.
    """
    near = [shape for shape in shapes if shape.distance(zone.polygon) < 1e-3]
    whole: Polygon = zone.polygon
    if near:
        # LayerLinework out by a hair and in again: two edges cut apart before may not meet to the last digit.
        grown = shapely.union_all([zone.polygon, *near]).buffer(1e-4, join_style="mitre")
        parts = grown.buffer(-1e-4, join_style="mitre")
        if not isinstance(parts, Polygon):
            raise ZoneError(f"{zone.label or zone.id} and what lies on it do not make one shape.")
        whole = parts
    elif zone.polygon.interiors:
        whole = Polygon(zone.polygon.exterior)
    if whole.area < zone.polygon.area + 0.01:
        raise ZoneError(f"Nothing that was chosen lies on {zone.label or zone.id}.")
    return replace(zone, whole=whole)


def in_front(zone: Zone) -> Zone:
    """The zone with its design in its own shape again."""
    return replace(zone, whole=None)
