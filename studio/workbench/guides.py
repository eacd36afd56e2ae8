"""The guide of a motif, as the drawer asks for it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from chorograph_core.designs import Design
from chorograph_core.designs.guiding import (
    Guide,
    GuideError,
    circle_guide,
    drawn_guide,
    points_guide,
    seam_guide,
    shape_guide,
)
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import format_length
from studio.asking import EditError, length_from, points_from
from studio.jobs.asked import ids_of

KINDS = (("", "none"), ("drawn", "drawn on the sheet"), ("circle", "a circle"),
         ("seam", "along a seam"), ("round", "round the shape on it"),
         ("points", "swinging with the points beside it"))  # fmt: skip

WIDEST, CIRCLE = 48.0, (0.5, 200.0)
"""Inches that a motif may be wide along a guide, and a circle across."""


def guide_from(
    values: Mapping[str, Any], drawing: Design, core: CoreJob, unit: str
) -> tuple[Guide, float]:
    """The guide in the top's inches, and how wide the motif is along it (0: to the edge).

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
    zones = [by_id[name].polygon for name in ids_of(values) if name in by_id]
    if not zones:
        raise EditError("Choose zones first, then their guide.", "guide")
    try:
        if kind == "circle":
            low, high = (format_length(each, unit) for each in CIRCLE)
            across = length_from(values, "guide_circle", unit, *CIRCLE,
                                 f"A circle for a guide is between {low} and {high} across.")  # fmt: skip
            return circle_guide(max(zones, key=lambda zone: zone.area), across), wide
        if kind == "points":
            patches = [patch.polygon for patch in core.chart.patches]
            return points_guide(max(zones, key=lambda zone: zone.area), patches), wide
        if kind in ("seam", "round"):
            return (seam_guide if kind == "seam" else shape_guide)(zones), wide
        return drawn_guide(points_from(values.get("guide", ""), "guide"), zones), wide
    except GuideError as error:
        raise EditError(str(error), "guide") from None
