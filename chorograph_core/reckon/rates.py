"""Speeds and prices in time: defaults that a studio learns better from its own log."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from chorograph_core.designs.placing import AT_ONCE


def _speeds() -> dict[str, float]:
    return {
        "ditch": 45.0, "straight": 70.0, "curved": 45.0, "large": 130.0, "medium": 90.0,
        "fine": 50.0, "retrace": 60.0, "basting": 150.0, "open": 50.0,
    }  # fmt: skip


@dataclass(frozen=True)
class Rates:
    """Inches a minute by technique, and seconds for everything that is not stitching."""

    speeds: Mapping[str, float] = field(default_factory=_speeds)
    ruler_move: float = 7.0
    cut: float = 60.0
    bury: float = 90.0
    bobbin: float = 75.0
    thread_change: float = 120.0
    advance: float = 150.0
    mark_dot: float = 4.0
    mark_inch: float = 0.5

    def seconds(self, inches: float, technique: str) -> float:
        """Seconds to stitch *inches* with *technique*."""
        return inches / self.speeds.get(technique, self.speeds["medium"]) * 60.0

    def travel_seconds(self, inches: float, kind: str) -> float:
        """Seconds to travel *inches*; *kind* as in the steps of a route.

        In a ditch the ruler is laid as it is for stitching one, so many inches at once.
        """
        if kind == "ditch":
            return self.seconds(inches, "ditch") + inches / AT_ONCE * self.ruler_move
        return self.seconds(inches, "ditch" if kind in ("edge", "link") else kind)


@dataclass(frozen=True)
class Machine:
    """The machine as far as the sums need it. Lengths in inches, bobbin in yards.

    *bury*: tails are left long and buried by hand, which makes every cut dearer. The allowances are
    what backing and batting must reach beyond the top on every side.
    """

    name: str = "frame machine"
    kind: str = "frame"
    throat: float = 24.0
    foot_radius: float = 0.25
    bobbin_yards: float = 85.0
    loft: float = 0.09
    tail: float = 6.0
    reserve: float = 0.10
    bury: bool = False
    backing_allowance: float = 4.0
    batting_allowance: float = 2.0
    rates: Rates = field(default_factory=Rates)

    @property
    def cut_seconds(self) -> float:
        """What one cut and new start costs, burying included where tails are buried."""
        return self.rates.cut + (self.rates.bury if self.bury else 0.0)
