"""Speeds and prices in time: defaults that a studio learns better from its own log."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Annotated, Literal

from msgspec import Meta

from chorograph_core.measure.limits import Key, Name, NotNegative, Positive
from chorograph_core.rulers import Edge, Reach


def _speeds() -> dict[str, float]:
    return {
        "ditch": 45.0, "straight": 70.0, "curved": 45.0, "large": 130.0, "medium": 90.0,
        "fine": 50.0, "retrace": 60.0, "basting": 150.0, "open": 50.0,
    }  # fmt: skip


@dataclass(frozen=True)
class Rates:
    """Inches a minute by technique, and seconds for everything that is not stitching.

    *ruler_reach* is how many inches one laying of a straight ruler takes, *edges* are the curved ones that
    are owned: a job sets both to what its rulers can do, and *lock* where its straight lines are stitched
    with the channel locked.
    *unmark*: minutes to wet out the marks of a quilt.
    Looking up: *read_path* to read a path for the first time, *place_path* to see how it lies in the
    next place, *find_place* to find one that does not follow from the last. *tack*: to begin and end a
    line of basting, which is not knotted; *unpick*: inches a minute at which basting is taken out.
    *tuck*: to lay one in a seam and pin it; *turn*: to turn a quilt round under a sit-down machine, its other
    part bundled into the throat; *move*: to take a quilt from one machine and lay it under another.
    """

    speeds: Mapping[str, Positive] = field(default_factory=_speeds)
    ruler_move: NotNegative = 7.0
    ruler_reach: Positive = 10.0
    edges: tuple[Edge, ...] = ()
    lock: bool = False
    cut: NotNegative = 60.0
    bury: NotNegative = 90.0
    bobbin: NotNegative = 75.0
    thread_change: NotNegative = 120.0
    advance: NotNegative = 150.0
    mark_dot: NotNegative = 4.0
    mark_inch: NotNegative = 0.5
    unmark: NotNegative = 10.0
    read_path: NotNegative = 20.0
    place_path: NotNegative = 3.0
    find_place: NotNegative = 8.0
    tack: NotNegative = 15.0
    unpick: Positive = 90.0
    tuck: NotNegative = 60.0
    turn: NotNegative = 120.0
    move: NotNegative = 900.0

    @cached_property
    def reach(self) -> Reach:
        """What one laying of a ruler stitches."""
        return Reach(self.ruler_reach, self.edges, self.lock)

    def seconds(self, inches: float, technique: str) -> float:
        """Seconds to stitch *inches* with *technique*."""
        return inches / self.speeds.get(technique, self.speeds["medium"]) * 60.0

    def travel_seconds(self, inches: float, kind: str) -> float:
        """Seconds to travel *inches*; *kind* as in the steps of a route.

        In a ditch the ruler is laid as it is for stitching one, so many inches at once.
        """
        if kind == "ditch":
            return self.seconds(inches, "ditch") + inches / self.ruler_reach * self.ruler_move
        return self.seconds(inches, "ditch" if kind in ("edge", "link") else kind)


@dataclass(frozen=True)
class Machine:
    """The machine as far as the sums need it. Lengths in inches, bobbin in yards.

    *bury*: tails are left long and buried by hand, which makes every cut dearer. The allowances are
    what backing and batting must reach beyond the top on every side. *take_up* is the diameter of the
    bar that the quilt is rolled on, *clearance* what of the throat cannot be used beside the roll, or beside
    the bundle of a sit-down machine,
    *directions* those that stitch well (``"all"``, or the one that does, such as ``"right"``). A
    *ruler_base* round the needle plate takes 2″ of the depth that is reached, sitting (*seated*) half.
    """

    name: Name = "frame machine"
    kind: Literal["frame", "sit-down"] = "frame"
    throat: Annotated[float, Meta(gt=0, le=60)] = 24.0
    foot_radius: Annotated[float, Meta(gt=0, le=1)] = 0.25
    bobbin_yards: Annotated[float, Meta(ge=5, le=2000)] = 85.0
    loft: Annotated[float, Meta(ge=0, le=2)] = 0.09
    tail: Annotated[float, Meta(ge=0, le=36)] = 6.0
    reserve: Annotated[float, Meta(ge=0, le=2)] = 0.10
    bury: bool = False
    backing_allowance: Annotated[float, Meta(ge=0, le=24)] = 4.0
    batting_allowance: Annotated[float, Meta(ge=0, le=24)] = 2.0
    take_up: Annotated[float, Meta(gt=0, le=24)] = 3.0
    clearance: Annotated[float, Meta(ge=0, le=24)] = 4.0
    directions: Key = "all"
    ruler_base: bool = False
    seated: bool = False
    rates: Rates = field(default_factory=Rates)

    @property
    def roll_seconds(self) -> float:
        """What it takes to roll on, or to turn the quilt where it is not on a frame."""
        return self.rates.advance if self.kind == "frame" else self.rates.turn

    @property
    def cut_seconds(self) -> float:
        """What one cut and new start costs, burying included where tails are buried."""
        return self.rates.cut + (self.rates.bury if self.bury else 0.0)
