"""Marks as the route makes them: all at first, or, with a pen that fades, just before they are used."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import length
from chorograph_core.route.marking import PENS, ahead_of, batches
from chorograph_core.route.paths import Option
from chorograph_core.route.steps import StepWriter
from chorograph_core.route.works import Work

OUT = "unmark"
"""What the step is called in which marks are taken out."""


class Marker:
    """Has a *writer* note what is marked of the *drawn* layers, and when."""

    def __init__(self, writer: StepWriter, drawn: Sequence[LayerLinework]) -> None:
        self.writer, self.policy = writer, writer.policy
        self.pen, self.rates = PENS[writer.policy.pen], writer.machine.rates
        self._whole = {(one.zone, one.layer): one for one in drawn}
        # What was marked before with a pen that fades is taken for gone.
        fades = self.pen.life is not None
        self._marked = {n for n in writer.done if n.startswith("mark:") and not fades}
        self._members: list[list[LayerLinework]] = []
        self._minutes: list[float] = []
        if self.pen.life is None:
            self._mark(drawn)

    def begin(self, work: Work, tour: Sequence[tuple[int, Option]]) -> None:
        """What is marked ahead in a tour of places depends on how long each takes."""
        if self.pen.life is None:
            return
        self._members = [self._layers_of(work, k) for k, _ in tour]
        self._minutes = [self._about(work, k, marked)
                         for (k, _), marked in zip(tour, self._members, strict=True)]  # fmt: skip

    def before(self, number: int) -> None:
        """Before place *number* of the tour: it, and as much after it as will not have faded when it is come
        to, is marked, unless it is already."""
        if self.pen.life is None or not any(True for _ in self._open(self._members[number])):
            return
        count = ahead_of(self._minutes, number, self.pen.life)
        ahead = {(one.zone, one.layer): one
                 for members in self._members[number : number + count] for one in members}  # fmt: skip
        self.writer.leave_station()
        self._mark(ahead.values())

    def take_out(self) -> None:
        """Take out what was marked, when all is done."""
        if self._marked and OUT not in self.writer.done:
            seconds = self.rates.unmark * 60 if self.pen.wetted else 0.0
            self.writer.add(OUT, seconds, run=OUT, reason=self.pen.out)

    def _open(self, drawn: Iterable[LayerLinework]):
        """What of some layers is still to be marked."""
        return batches(drawn, self.policy, self.rates, self._marked)

    def _mark(self, drawn: Iterable[LayerLinework]) -> None:
        """A step for each entry and layer that needs any."""
        for each in self._open(drawn):
            self._marked |= {f"mark:{name}" for name in each.members}
            self.writer.add(
                "mark", each.seconds, entry=each.entry, run=f"mark:{each.entry}/{each.layer}",
                how=each.design, count=each.count, reason=each.reason, marks=tuple(each.members),
            )  # fmt: skip

    def _layers_of(self, work: Work, k: int) -> list[LayerLinework]:
        trails = map(work.bundles[k].trail, work.bundles[k].trails)
        found = {(one.zone, one.layer): one for t in trails if (one := t.drawn) is not None}
        return [self._whole.get(key, one) for key, one in found.items()]

    def _about(self, work: Work, k: int, marked: Sequence[LayerLinework]) -> float:
        """About how many minutes a place takes, its marks included."""
        seconds = self.rates.read_path
        for trail in map(work.bundles[k].trail, work.bundles[k].trails):
            assert trail.run is not None
            seconds += trail.run.count_placements(self.rates.reach) * self.rates.ruler_move
            seconds += sum(self.rates.seconds(length(points), technique)
                           for points, technique, _ in trail.run.pieces())  # fmt: skip
        seconds += sum(each.seconds for each in batches(marked, self.policy, self.rates))
        return seconds / 60
