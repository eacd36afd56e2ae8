"""Marks as the route makes them: all at first, or, with a pen that fades, just before they are used."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import length
from chorograph_core.reckon import thread_inches
from chorograph_core.route.marking import PENS, ahead_of, batches, name_of
from chorograph_core.route.moves import LinkMove, RunMove
from chorograph_core.route.paths import Option
from chorograph_core.route.rolling import rolls_on
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
        self._coming: list[list[tuple[LayerLinework, float]]] = []
        self._number = 0
        if self.pen.life is None:
            self._mark(drawn)

    def begin(self, work: Work, tour: Sequence[tuple[int, Option]]) -> None:
        """What is marked ahead in a tour of places depends on how long each takes."""
        if self.pen.life is None:
            return
        self._coming = [self._things(work, k, way) for k, way in tour]

    def before(self, number: int) -> None:
        """Before place *number* of the tour: it, and as much after it as will not have faded when it is come
        to, is marked, unless it is already."""
        if self.pen.life is None:
            return
        self._number = number
        if any(True for _ in self._open(one for one, _ in self._coming[number])):
            self.writer.leave_station()
            self._mark_ahead()

    def before_run(self, drawn: LayerLinework | None) -> None:
        """Before a run of the layer *drawn*, in a place that takes longer than a mark lasts."""
        if self.pen.life is None or drawn is None:
            return
        things = self._coming[self._number]
        at = next(k for k, (one, _) in enumerate(things) if name_of(one) == name_of(drawn))
        if any(True for _ in self._open([things[at][0]])):
            self._coming[self._number] = things[at:]
            self._mark_ahead()

    def _mark_ahead(self) -> None:
        places = self._coming[self._number :]
        whole, first = ahead_of(
            [[each for _, each in place] for place in places], self.pen.life or 0.0
        )
        things = [
            *places[0][:first],
            *(thing for place in places[1 : whole + 1] for thing in place),
        ]
        self._mark({name_of(one): one for one, _ in things}.values())

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

    def _things(self, work: Work, k: int, way: Option) -> list[tuple[LayerLinework, float]]:
        """What is stitched at a place in turn: the layer, and about how many minutes it takes from there to
        the next: its marks, the ways before it, a new start at the place, rolls and full bobbins included."""
        bundle, rates, machine = work.bundles[k], self.rates, self.writer.machine
        things: list[tuple[LayerLinework, float]] = []
        seconds, inches = rates.read_path + machine.cut_seconds, 0.0
        for move in way.laid()[0]:
            if isinstance(move, LinkMove):
                gone = sum(bundle.network.links[number].inches for number, _ in move.links)
                seconds, inches = seconds + rates.travel_seconds(gone, "ditch"), inches + gone
            if not isinstance(move, RunMove):
                continue
            trail = work.ground.network.trails[move.trail]
            assert trail.run is not None and trail.drawn is not None
            one = self._whole.get((trail.drawn.zone, trail.drawn.layer), trail.drawn)
            seconds += trail.run.count_placements(rates.reach) * rates.ruler_move
            for points, technique, _ in trail.run.pieces():
                seconds += rates.seconds(length(points), technique)
                inches += length(points)
            rolls = rolls_on(trail.run.points, self.writer.rolling, self.writer.reach)
            seconds += rolls * machine.roll_seconds
            if all(name_of(one) != name_of(known) for known, _ in things):
                seconds += sum(each.seconds for each in batches([one], self.policy, rates))
            thread = thread_inches(inches, one.spi, machine.loft)
            seconds += thread / (machine.bobbin_yards * 36) * rates.bobbin
            things.append((one, seconds / 60))
            seconds, inches = 0.0, 0.0
        return things
