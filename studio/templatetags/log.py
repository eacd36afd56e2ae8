"""Template filters of the log: seconds as hours, bars, and taps in words."""

from __future__ import annotations

import math
from collections.abc import Iterable

from django import template

from chorograph_core.estimating.learning import Factor
from chorograph_core.stitching.log import Sum
from studio.stitching.models import Tap
from studio.templatetags.measures import hours

register = template.Library()
WIDE = 300.0
"""Width of a bar's picture."""


@register.filter
def seconds_as_hours(seconds: float) -> str:
    """Seconds as hours and minutes; what is less than a minute in seconds."""
    if 0 < seconds < 59.5:
        return f"{seconds:.0f} s"
    return hours(seconds / 60)


@register.filter
def hours_of(number: float) -> str:
    """Hours with a fraction as hours and minutes."""
    return hours(60 * number)


@register.filter
def longest_of(sums: Iterable[Sum]) -> float:
    """The longest bar among sums, in seconds."""
    return max((max(each.took, each.foretold) for each in sums), default=1.0) or 1.0


@register.filter
def share_of(seconds: float, most: float) -> str:
    """The width of a bar."""
    return f"{WIDE * min(1.0, seconds / most):.1f}"


@register.filter
def plus(one: float, two: float) -> float:
    """The sum."""
    return one + two


@register.filter
def percent(share: float) -> str:
    """A share in per cent."""
    return f"{100 * share:.0f}%"


@register.filter
def without_minus(number: int) -> int:
    """A number without its sign."""
    return abs(number)


@register.filter
def on_scale(factor: float) -> str:
    """Where a factor stands on a scale from half to double."""
    return f"{_spot(factor):.1f}"


@register.filter
def wide_on_scale(factor: Factor) -> str:
    """How wide its range is on that scale."""
    return f"{max(2.0, _spot(factor.high) - _spot(factor.low)):.1f}"


def _spot(factor: float) -> float:
    return min(WIDE, max(0.0, WIDE / 2 * (1 + math.log2(max(factor, 0.01)))))


@register.filter
def tap_in_words(kind: str) -> str:
    """What was tapped, in words."""
    return dict(Tap.KINDS).get(kind, kind).capitalize()
