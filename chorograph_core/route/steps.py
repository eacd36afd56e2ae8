"""Read a planned walk as steps a quilter can follow, with inches, seconds, thread and reasons."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from chorograph_core.designs.contract import length
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.reckon import Machine, thread_inches
from chorograph_core.route.model import TOLERANCE, Policy, State, Step
from chorograph_core.route.network import Network, Trail
from chorograph_core.rulers import count_placements

NOWHERE = np.empty((0, 2))
BEGINNING = State()
_WHY = {
    "ditch": "hidden in the seam",
    "edge": "along the raw edge, under the binding",
    "open": "a short step across",
}


class StepWriter:
    """Walks stage by stage and writes down each step."""

    def __init__(
        self, network: Network, machine: Machine, policy: Policy, drawn: Sequence[LayerLinework],
        state: State = BEGINNING,
    ) -> None:  # fmt: skip
        self.network = network
        self.machine = machine
        self.policy = policy
        self.steps: list[Step] = []
        self.link_price = 0.0
        self._drawn = drawn
        self._thread = self._first_thread = state.thread
        self._spi = 11.0
        self._done: set[int] = set()
        full = machine.bobbin_yards * 36
        self._on_bobbin = full if state.bobbin is None else min(state.bobbin, full)
        self._begun_with = self._on_bobbin
        self.used: dict[str, float] = {}
        self._bare: dict[str, float] = {}
        self._bobbins = 0
        self._mark_all()

    def _mark_all(self) -> None:
        """Marks come first, as one step for each entry and layer that needs any."""
        groups: dict[tuple[str, int], list] = {}
        for one in self._drawn:
            if one.linework.marks:
                groups.setdefault((one.entry, one.layer), []).append(one)
        rates = self.machine.rates
        for (entry, _), members in groups.items():
            marks = [mark for one in members for mark in one.linework.marks]
            dots = sum(len(mark.points) for mark in marks if mark.kind == "dot")
            inches = sum(length(mark.points) for mark in marks if mark.kind == "line")
            what = ", ".join(dict.fromkeys(mark.label for mark in marks))
            self.steps.append(
                Step("mark", NOWHERE, dots * rates.mark_dot + inches * rates.mark_inch,
                     entry=entry, how=members[0].design, count=len(marks),
                     reason=f"{what}, in {len(members)} zones: {inches:.0f}″ of line")
            )  # fmt: skip

    def stage(
        self, kind: str, thread: str, trails: Sequence[Trail], doors: Sequence[tuple]
    ) -> None:
        """Stitch *trails* in this order, each entered and left at its *doors* nodes."""
        if not trails:
            return
        self._change_thread(thread, kind)
        cut = self.machine.cut_seconds / 60
        at = None
        for trail, (entry, leave) in zip(trails, doors, strict=True):
            way = None
            if at is not None:
                way = self.network.path(at, entry, cut)
                if way is not None and sum(self.network.links[n].price for n, _ in way) >= cut:
                    way = None
            if way is None:
                if at is not None:
                    self._tie_off("nothing near is left that a hidden way leads to")
                self._start(entry, thread, trail)
            else:
                self._travel(way, trail)
            self._stitch(trail, entry)
            at = leave
        self._tie_off("this thread has nothing left to do here")

    def _change_thread(self, thread: str, kind: str) -> None:
        if thread == self._thread:
            return
        rates = self.machine.rates
        seconds = rates.thread_change
        why = "everything that can be done in one colour, then the next"
        if kind == "ditch":
            why = "ditches first, so that nothing shifts"
        price = seconds / 60 if self._thread else 0.0
        self.steps.append(Step("thread", NOWHERE, seconds, thread=thread, price=price, reason=why))
        self._thread = thread

    def _start(self, node: int, thread: str, trail: Trail) -> None:
        spot = np.array([self.network.nodes[node]])
        seconds = self.machine.cut_seconds
        self._use(0.0, 1)
        self.steps.append(
            Step("start", spot, seconds, thread=thread, zone=trail.zone, price=seconds / 60,
                 reason="lock the start in the seam or in earlier stitching")
        )  # fmt: skip

    def _tie_off(self, why: str) -> None:
        last = self._position()
        self.steps.append(
            Step("tie_off", last, 0.0, thread=self._thread, reason=f"tie off and cut: {why}")
        )

    def _position(self) -> np.ndarray:
        for step in reversed(self.steps):
            if len(step.points):
                return step.points[-1:]
        return NOWHERE

    def _travel(self, way: list[tuple[int, int]], trail: Trail) -> None:
        """Go along links; neighbours of one kind become one step."""
        pieces: list[tuple[str, list[np.ndarray], float]] = []
        for number, start in way:
            link = self.network.links[number]
            if link.inches <= 1e-9:
                continue
            kind = link.kind
            if pieces and pieces[-1][0] == kind:
                pieces[-1][1].append(link.way(start))
                pieces[-1] = (kind, pieces[-1][1], pieces[-1][2] + link.price)
            else:
                pieces.append((kind, [link.way(start)], link.price))
        for kind, parts, price in pieces:
            points = _joined(parts)
            self._add_travel(points, kind, price, trail.zone, _WHY[kind])

    def _add_travel(self, points, kind: str, price: float, zone: str, why: str, run="") -> None:
        inches = length(points)
        self._use(inches)
        self.steps.append(
            Step("travel", points, self.machine.rates.travel_seconds(inches, kind), inches,
                 self._thread, zone, run=run, how=kind, price=price, reason=why)
        )  # fmt: skip

    def _stitch(self, trail: Trail, entry: int) -> None:
        if trail.run is None:
            self._stitch_walk(trail, entry)
        else:
            self._stitch_run(trail, entry)

    def _stitch_walk(self, trail: Trail, entry: int) -> None:
        """A walk through ditches: required links once, everything else is travel."""
        walk = list(trail.walk)
        if trail.closed:
            k = next(i for i, (_, node) in enumerate(walk) if node == entry)
            walk = walk[k:] + walk[:k]
        elif walk[0][1] != entry:
            flipped = []
            for number, start in reversed(walk):
                link = self.network.links[number]
                flipped.append((number, link.b if start == link.a else link.a))
            walk = flipped
        for fresh, members in self._grouped(walk):
            if fresh:
                self._stitch_ditches(members)
                continue
            price = sum(self.network.links[n].price for n, _ in members)
            why = "back along the ditch to where the next one begins"
            kind = self.network.links[members[0][0]].kind
            self._add_travel(self._way(members), kind, price, "", why)

    def _way(self, members) -> np.ndarray:
        return _joined([self.network.links[n].way(start) for n, start in members])

    def _stitch_ditches(self, members) -> None:
        """One stretch of ditches; parted at the last junction that the bobbin still reaches."""
        links = [self.network.links[number] for number, _ in members]
        self._spi = links[0].spi
        first, junction, need = 0, 0, 0.0
        for k, link in enumerate(links):
            if k and link.seam != links[k - 1].seam:
                junction = k
            more = thread_inches(link.inches, self._spi, self.machine.loft)
            if junction > first and need + more > self._on_bobbin:
                self._stitch_stretch(members[first:junction])
                first = junction
                need = sum(
                    thread_inches(each.inches, self._spi, self.machine.loft)
                    for each in links[first:k]
                )
            need += more
        self._stitch_stretch(members[first:])

    def _stitch_stretch(self, members) -> None:
        points = self._way(members)
        links = [self.network.links[number] for number, _ in members]
        seams = tuple(dict.fromkeys(link.seam for link in links))
        self._add_stitch(points, "ditch", links[0].entry, "", f"ditch:{seams[0]}",
                         "the seam holds before anything fills beside it",
                         count_placements(points, self.machine.rates.ruler_reach), seams)  # fmt: skip

    def _grouped(self, walk):
        """Stretches of the walk that are stitched for the first time, or travelled."""
        groups: list[tuple[bool, str, list]] = []
        for number, start in walk:
            link = self.network.links[number]
            fresh = link.thread == self._thread and number not in self._done
            if fresh:
                self._done.add(number)
            label = f"{link.entry}{link.spi}" if fresh else link.kind
            if groups and groups[-1][0] == fresh and groups[-1][1] == label:
                groups[-1][2].append((number, start))
            else:
                groups.append((fresh, label, [(number, start)]))
        return [(fresh, members) for fresh, _, members in groups]

    def _stitch_run(self, trail: Trail, entry: int) -> None:
        one, run = trail.drawn, trail.run
        assert one is not None and run is not None
        self._spi = one.spi
        if trail.closed:
            run = run.begun_at(trail.doors[trail.heads.index(entry)])
        elif entry != trail.heads[0]:
            run = run.reversed()
        rates = self.machine.rates
        layings = run.count_placements(rates.ruler_reach)
        if layings:
            positions = [span.position for span in run.spans if span.position] or [run.position]
            self.steps.append(
                Step("ruler", NOWHERE, layings * rates.ruler_move, thread=self._thread,
                     zone=one.zone, entry=one.entry, run=trail.key, how="straight edge",
                     count=layings, reason=positions[min(1, len(positions) - 1)])
            )  # fmt: skip
        for points, technique, kind in run.pieces():
            if len(points) < 2:
                continue
            if kind == "stitch":
                self._add_stitch(points, technique, one.entry, one.zone, trail.key, one.design)
            else:
                price = rates.seconds(length(points), technique) / 60
                self.link_price += price
                why = "along the seam to the next line" if kind == "link" else "back over the line"
                self._add_travel(points, kind, price, one.zone, why, trail.key)

    def _add_stitch(self, points, technique, entry, zone, run, why, layings: int = 0,
                    seams: tuple[str, ...] = ()) -> None:  # fmt: skip
        inches = length(points)
        rates = self.machine.rates
        seconds = rates.seconds(inches, technique) + layings * rates.ruler_move
        need = thread_inches(inches, self._spi, self.machine.loft)
        full = self.machine.bobbin_yards * 36
        if need > self._on_bobbin and self._on_bobbin < full:
            self._change_bobbin("would run out in the next stretch")
        self._use(inches)
        self._bare[self._thread] = self._bare.get(self._thread, 0.0) + need
        self.steps.append(
            Step("stitch", points, seconds, inches, self._thread, zone, entry, run, technique,
                 layings, reason=why, seams=seams)
        )  # fmt: skip
        while self._on_bobbin < 0:
            self._change_bobbin("ran out on this stretch")

    def _change_bobbin(self, why: str) -> None:
        seconds = self.machine.rates.bobbin
        self._bobbins += 1
        left = max(self._on_bobbin, 0.0)
        self._on_bobbin = self.machine.bobbin_yards * 36 + min(self._on_bobbin, 0.0)
        self.steps.append(
            Step("bobbin", NOWHERE, seconds, thread=self._thread, price=seconds / 60,
                 reason=f"{left / 36:.0f} yd left: {why}" if left else why)
        )  # fmt: skip

    def _use(self, inches: float, starts: int = 0) -> None:
        used = thread_inches(inches, self._spi, self.machine.loft, starts, self.machine.tail)
        self.used[self._thread] = self.used.get(self._thread, 0.0) + used
        self._on_bobbin -= used

    def least_changes(self) -> float:
        """Minutes of thread and bobbin changes that no route over this linework can avoid.

        Counts the thread of the stitched lines alone, against bobbins that are emptied to the end.
        """
        rates = self.machine.rates
        # The first thread costs nothing where none is in the needle yet.
        free = 1 if not self._first_thread or self._first_thread in self._bare else 0
        threads = max(0, len(self._bare) - free)
        need = sum(self._bare.values())
        later = max(0.0, need - self._begun_with)
        bobbins = math.ceil(later / (self.machine.bobbin_yards * 36) - 1e-9)
        return (threads * rates.thread_change + bobbins * rates.bobbin) / 60

    def finish(self) -> list[Step]:
        """All steps in order."""
        return self.steps

    def end(self, before: State) -> State:
        """Where the work stands once all steps are done."""
        done = {step.run for step in self.steps if step.kind == "stitch" and not step.seams}
        seams = {seam for step in self.steps for seam in step.seams}
        return State(before.done | done | seams, self._thread, max(self._on_bobbin, 0.0))


def _joined(parts: Sequence[np.ndarray]) -> np.ndarray:
    """Polylines end to end without doubled points."""
    made = [parts[0]]
    for part in parts[1:]:
        near = np.hypot(*(part[0] - made[-1][-1])) < TOLERANCE
        made.append(part[1:] if near else part)
    return np.concatenate(made)
