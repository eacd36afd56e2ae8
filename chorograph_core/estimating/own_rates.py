"""Rates of a studio's own: the defaults, each multiplied by what its log taught."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from chorograph_core.reckon import Rates

SECONDS = {
    "ruler_move": ("ruler_move",), "cut": ("cut",), "bobbin": ("bobbin",),
    "thread_change": ("thread_change",), "advance": ("advance", "turn"),
    "look_up": ("read_path", "place_path", "find_place"), "mark": ("mark_dot", "mark_inch"),
    "unmark": ("unmark",), "tuck": ("tuck",), "move": ("move",),
}  # fmt: skip
"""What a factor multiplies that is told in seconds (minutes for *unmark*)."""
NAMES = {
    "ditch": "in the ditch", "straight": "straight ruler lines", "curved": "curved ruler work",
    "large": "large freehand", "medium": "medium freehand", "fine": "fine freehand",
    "retrace": "retracing", "open": "crossing open fabric", "basting": "basting",
    "unpick": "taking out basting", "ruler_move": "laying the ruler", "cut": "a cut and a new start",
    "bobbin": "a bobbin", "thread_change": "another thread", "advance": "rolling on",
    "look_up": "looking up a path", "mark": "marking", "unmark": "marks out", "tuck": "a tuck",
    "move": "carrying the quilt to another machine",
}  # fmt: skip
"""What is learned, in words."""
LEAST, MOST = 0.2, 5.0
"""Factors beyond which nobody's hand goes; what lies there is a mistake in a log."""


def rates_with(factors: Mapping[str, float], rates: Rates | None = None) -> Rates:
    """The rates in which everything named takes *factor* times as long as by *rates* (the defaults)."""
    rates = rates or Rates()
    speeds = dict(rates.speeds)
    changed: dict[str, Any] = {}
    for name, factor in factors.items():
        factor = min(max(float(factor), LEAST), MOST)
        if name in speeds:
            speeds[name] = round(speeds[name] / factor, 2)
        elif name == "unpick":
            changed["unpick"] = round(rates.unpick / factor, 2)
        for field in SECONDS.get(name, ()):
            changed[field] = round(getattr(rates, field) * factor, 2)
    return replace(rates, speeds=speeds, **changed)


def by_default(parts: Mapping[str, float], rates: Rates) -> dict[str, float]:
    """Seconds foretold by *rates*, technique by technique, as the defaults would foretell them: what is
    learned is always told against the defaults, whatever a job was foretold by.

    >>> by_default({"cut": 90.0}, rates_with({"cut": 1.5}))
    {'cut': 60.0}
    """
    plain = Rates()
    found = {}
    for name, seconds in parts.items():
        if name in plain.speeds and name in rates.speeds:
            factor = plain.speeds[name] / rates.speeds[name]
        elif name == "unpick":
            factor = plain.unpick / rates.unpick
        elif name in SECONDS:
            now, usual = (getattr(each, SECONDS[name][0]) for each in (rates, plain))
            # What was foretold as nothing says nothing of how long it takes.
            factor = now / usual if now > 0 else 1.0
        else:
            factor = 1.0
        found[name] = round(seconds / factor, 2)
    return found


def same_hand(one: Rates, two: Rates) -> bool:
    """Whether two sets of rates are those of the same hand; the rulers in them are the job's own."""
    bare = replace(one, ruler_reach=two.ruler_reach, edges=two.edges, lock=two.lock)
    return bare == two
