"""Template filters: lengths, times and counts the way a quilter reads them."""

from __future__ import annotations

from django import template

from chorograph_core.measure import format_length, format_yards

register = template.Library()


@register.filter
def inches(value: float, units: str = "in") -> str:
    """A length in the studio's units."""
    return format_length(float(value), units or "in")


@register.filter
def yards(value: float) -> str:
    """A long length in whole yards."""
    return format_yards(float(value))


@register.filter
def hours(minutes: float) -> str:
    """Minutes as hours and minutes: ``1 h 05`` or ``34 min``."""
    whole = round(float(minutes))
    if whole < 60:
        return f"{whole} min"
    return f"{whole // 60} h {whole % 60:02}"
