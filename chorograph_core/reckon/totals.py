"""Minutes, inches and thread of linework before any route is planned."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import length
from chorograph_core.reckon.rates import Machine
from chorograph_core.reckon.thread import thread_inches


@dataclass
class Reckoning:
    """Sums over some linework: inches and minutes in all and by technique, thread by key.

    *minutes* also holds ruler layings and marking, which belong to no technique.
    *thread_inches* is top thread; the bobbin takes as much again.
    """

    inches: float = 0.0
    minutes: float = 0.0
    by_technique: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    minutes_by_technique: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    thread_inches: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    ruler_moves: int = 0
    marked_inches: float = 0.0
    dots: int = 0

    def add(self, one: LayerLinework, machine: Machine) -> None:
        """Add the linework of one layer of one zone."""
        rates = machine.rates
        layings = sum(run.count_placements(rates.reach) for run in one.linework.runs)
        seconds = layings * rates.ruler_move
        self.ruler_moves += layings
        for run in one.linework.runs:
            for points, technique, _ in run.pieces():
                inches = length(points)
                self.inches += inches
                self.by_technique[technique] += inches
                seconds += rates.seconds(inches, technique)
                self.minutes_by_technique[technique] += rates.seconds(inches, technique) / 60
                self.thread_inches[one.thread] += thread_inches(inches, one.spi, machine.loft)
        for mark in one.linework.marks:
            if mark.kind == "dot":
                self.dots += len(mark.points)
                seconds += len(mark.points) * rates.mark_dot
            else:
                self.marked_inches += length(mark.points)
                seconds += length(mark.points) * rates.mark_inch
        self.minutes += seconds / 60


def reckon(
    drawn: Sequence[LayerLinework], machine: Machine
) -> tuple[Reckoning, dict[str, Reckoning]]:
    """Sums over everything, and for each zone by id.

    Ditches count as often as they are in *drawn*: give it what `stitched_once` made of them.
    """
    whole = Reckoning()
    zones: dict[str, Reckoning] = {}
    for one in drawn:
        whole.add(one, machine)
        zones.setdefault(one.zone, Reckoning()).add(one, machine)
    return whole, zones
