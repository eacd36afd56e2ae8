"""The guide of a motif, as the drawer asks for it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs import Design
from chorograph_core.designs.drawing import stitchable
from chorograph_core.designs.engine.guides import IN_SEAM
from chorograph_core.designs.guiding import (
    GuideError,
    circle_guide,
    drawn_guide,
    points_guides,
    seam_guide,
    shape_guide,
)
from chorograph_core.designs.legend import Guide, Layer
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import format_length
from chorograph_core.zones import Zone
from studio.asking import EditError, length_from, points_from
from studio.jobs.asked import ids_of

KINDS = (("", "none"), ("drawn", "drawn on the sheet"), ("circle", "a circle"),
         ("seam", "along a seam"), ("round", "round the shape on it"),
         ("points", "swinging with the points beside it"))  # fmt: skip

WIDEST, CIRCLE = 48.0, (0.5, 200.0)
"""Inches that a motif may be wide along a guide, and a circle across."""
LEAST = 0.5
"""Inches of a guide that are followed."""


def guides_from(
    values: Mapping[str, Any], drawing: Design, core: CoreJob, unit: str
) -> tuple[tuple[Guide, ...], float]:
    """The guides in the top's inches, and how wide the motif is along them (0: to the edge).

    Raises `EditError` at ``guide``, ``guide_circle`` or ``guide_width``.
    """
    kind = values.get("guide_kind", "")
    if not kind or not drawing.guided:
        return (), 0.0
    wide = 0.0
    if str(values.get("guide_width", "")).strip():
        most = format_length(WIDEST, unit)
        wide = length_from(
            values, "guide_width", unit, 0, WIDEST, f"A motif along a guide is up to {most} wide."
        )
    by_id = {zone.id: zone for zone in core.zones}
    members = [by_id[name] for name in ids_of(values) if name in by_id]
    zones = [zone.polygon for zone in members]
    if not zones:
        raise EditError("Choose zones first, then their guide.", "guide")
    try:
        guides = _guides(kind, values, core, members, unit)
    except GuideError as error:
        raise EditError(str(error), "guide") from None
    limit = stitchable(core.chart, core.policy.edge_finish)
    lines = shapely.multilinestrings([shapely.linestrings(guide) for guide in guides])
    if sum(_inches_in(zone.intersection(limit), lines) for zone in zones) < LEAST:
        raise EditError(
            "The guide lies where nothing is stitched, for the sake of the edge; lay it further in.",
            "guide",
        )
    return guides, wide


def as_drawn(layer: Layer) -> str:
    """The guides of a layer as a field holds them: ``x,y x,y …; x,y …``."""
    return "; ".join(" ".join(f"{x:g},{y:g}" for x, y in guide) for guide in layer.guides)


def _inches_in(shape: BaseGeometry, line: BaseGeometry) -> float:
    return float(shape.buffer(IN_SEAM).intersection(line).length)


def _guides(
    kind: str, values: Mapping[str, Any], core: CoreJob, members: list[Zone], unit: str
) -> tuple[Guide, ...]:
    if kind == "points":
        patches = [patch.polygon for patch in core.chart.patches]
        return points_guides(members, values.get("over", ""), patches)
    # What lies there already stays as it is, to the last digit: only what a hand has drawn is steadied.
    given = str(values.get("guide", "")).strip()
    if kind == "drawn" and given:
        for layer in (layer for entry in core.legend for layer in entry.layers):
            if layer.guides and as_drawn(layer) == given:
                return layer.guides
    return (_guide(kind, values, core, [zone.polygon for zone in members], unit),)


def _guide(
    kind: str, values: Mapping[str, Any], core: CoreJob, zones: list[Polygon], unit: str
) -> Guide:
    if kind == "circle":
        low, high = (format_length(each, unit) for each in CIRCLE)
        across = length_from(values, "guide_circle", unit, *CIRCLE,
                             f"A circle for a guide is between {low} and {high} across.")  # fmt: skip
        return circle_guide(max(zones, key=lambda zone: zone.area), across)
    if kind == "seam":
        return seam_guide(zones, core.chart.outline.boundary)
    if kind == "round":
        return shape_guide(zones)
    # Of several lines the first: a hand draws one.
    return drawn_guide(points_from(values.get("guide", "").split(";")[0], "guide"), zones)
