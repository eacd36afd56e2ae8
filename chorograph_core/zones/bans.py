"""What the client forbids: zones nobody stitches in, and appliqué stitched little or not at all."""

from __future__ import annotations

from collections.abc import Iterable

from chorograph_core.chart import Chart
from chorograph_core.zones.model import Zone

APPLIQUE = ("leave", "outline", "light", "full")
"""What may be stitched in appliqué: nothing, ditches only, a few holding lines, anything."""
LIGHT = 0.75
"""Inches a square inch that still count as a few holding lines: about one every 1 1/4 inches."""


def bans_of(zones: Iterable[Zone], chart: Chart, applique: str = "full") -> dict[str, str]:
    """The ban on each zone that has one: ``"leave"``, ``"outline"`` or ``"light"``, by zone id.

    A zone of several patches counts as appliqué if any of them is.
    """
    shapes = {patch.id for patch in chart.patches if patch.role == "applique"}
    bans = {}
    for zone in zones:
        if zone.forbidden:
            bans[zone.id] = "leave"
        elif applique != "full" and not shapes.isdisjoint(zone.patches):
            bans[zone.id] = applique
    return bans


def in_words(ban: str) -> str:
    """What a ban leaves, as half a sentence."""
    return {
        "leave": "The client has forbidden stitching there",
        "outline": "The client wants appliqué outlined in the ditch and nothing else",
        "light": f"The client wants no more than a few holding lines in appliqué "
                 f"({LIGHT:g} inches a square inch)",
    }[ban]  # fmt: skip
