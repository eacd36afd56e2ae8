"""Read a planned walk as steps a quilter can follow, with inches, seconds, thread and reasons."""

from __future__ import annotations

from collections.abc import Iterator, Sequence, Set

import numpy as np

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import length
from chorograph_core.reckon import Machine
from chorograph_core.route.model import TOLERANCE, Policy, State, Step
from chorograph_core.route.network import Network, Trail, along, joined
from chorograph_core.route.one_way import parts_of
from chorograph_core.route.passes import Pass
from chorograph_core.route.progress import ended
from chorograph_core.route.rolling import parts_in_reach
from chorograph_core.route.securing import SPI
from chorograph_core.route.spool import Spool
from chorograph_core.route.stopping import WORTH, as_laid, last_stop, stops_within
from chorograph_core.route.thread_turns import least_turns
from chorograph_core.rulers import count_placements

NOWHERE = np.empty((0, 2))
BEGINNING = State()
EMPTY = "the thread shreds this way, so the machine returns empty"
"""Why a line is cut off before one that is stitched from its other end."""
_WHY = {
    "ditch": "hidden in the seam",
    "edge": "along the raw edge, under the binding",
    "open": "a short step across",
}


class StepWriter:
    """Walks stage by stage and writes down each step."""

    def __init__(
        self, network: Network, seams: Network, machine: Machine, policy: Policy,
        drawn: Sequence[LayerLinework], state: State = BEGINNING,
    ) -> None:  # fmt: skip
        self.network, self.seams = network, seams
        self.machine = machine
        self.policy = policy
        self.steps: list[Step] = []
        self.link_price = 0.0
        self._drawn = drawn
        self.done = state.done
        self._thread = self._first_thread = state.thread
        self._done: set[int] = set()
        self.spool = Spool(machine, state.thread, state.bobbin, dict(state.aside))
        self.reach = 1
        self.station = self.path = ""
        self.down = False
        self.rolling: dict[int, Pass] = {}
        self._waiting: np.ndarray | None = None
        self._stood = NOWHERE

    def roll_to(self, reach: int, under: bool = False) -> None:
        """Roll the quilt on, or back, to another pass; the first is where it lies at the start. *under*:
        the needle stays down in the line it is stitching."""
        if reach == self.reach:
            return
        count = abs(reach - self.reach)
        seconds = self.machine.roll_seconds * count
        way = "on" if reach > self.reach else "back"
        self.reach = reach
        self._add("roll", NOWHERE, seconds, count=count, how="under" if under else way,
                  price=seconds / 60, reason=f"roll {way} to pass {reach}")  # fmt: skip

    def roll_under(self, passes: Sequence[Pass]) -> None:
        """From now on the quilt is rolled on and back under the needle, to whichever of *passes* a line
        leads; with none it is not."""
        self.rolling = {each.number: each for each in passes}

    def _reached(self, points: np.ndarray) -> Iterator[np.ndarray]:
        """The parts of a line (n, 2), the quilt rolled before each to where it is reached."""
        if not self.rolling or not len(points):
            yield points
            return
        for reach, part in parts_in_reach(points, self.rolling, self.reach):
            self.roll_to(reach, under=self.down)
            yield part

    def secure(self, lines: Sequence[np.ndarray], reach: int, what: str = "edge") -> None:
        """Baste along the edge, or across to *hold* the layers: each line by itself, begun and ended with
        a few stitches."""
        rates = self.machine.rates
        spi, self.spool.spi = self.spool.spi, SPI
        for number, line in enumerate(lines, 1):
            inches = length(line)
            seconds = rates.seconds(inches, "basting") + rates.tack
            self.spool.use(self._thread, inches)
            self.spool.must(self._thread, inches)
            why = "so that the edge is not drawn in" if what == "edge" else "so that nothing shifts"
            self._add("secure", line, seconds, inches, run=f"{what}:{reach}.{number}", how="basting",
                      reason=why)  # fmt: skip
        self.spool.spi = spi

    def tuck(self, spots: Sequence[tuple[str, np.ndarray]]) -> None:
        """Lay tucks where a side is fuller than what it is sewn to: each as (its name, where (1, 2))."""
        for name, spot in spots:
            self._add("tuck", spot, self.machine.rates.tuck, run=name, count=1,
                      reason="the border is fuller than what texture eases")  # fmt: skip

    def unpick(self, station: str, inches: float, name: str) -> None:
        """Take out the basting at a *station*, before it is stitched; *name*: what is then done."""
        if inches <= 0:
            return
        self.station = station
        self._add("unpick", NOWHERE, inches / self.machine.rates.unpick * 60, inches, run=name,
                  reason="basting comes out before it is stitched over")  # fmt: skip
        self.station = ""

    def at_pass(self, reach: int) -> None:
        """Where the quilt lies when the work begins."""
        self.reach = reach

    def stands_at(self, spot: np.ndarray) -> None:
        """The needle is down at *spot* (2,) when the work begins."""
        self.down, self._stood = True, spot.reshape(1, 2)

    def look_up(self, station: str, path: str, title: str, fresh: bool, follows: bool) -> None:
        """Read *path* and see how it lies at *station*; what comes next is done there."""
        rates = self.machine.rates
        seconds = rates.read_path if fresh else rates.place_path
        seconds += 0.0 if follows else rates.find_place
        self.station, self.path = station, path
        self._add("path", NOWHERE, seconds, price=seconds / 60, reason=title)

    def leave_station(self) -> None:
        """What comes next belongs to no station."""
        self.station = self.path = ""

    def begin(self, spot, zone: str = "", instead: float = 0.0) -> None:
        """Begin at *spot* (2,) with a new start, after a cut if the needle is down; *instead* is what the
        best way there would have lost, in minutes."""
        self.cut("nothing near is left that a hidden way leads to", instead)
        self._waiting = None
        self._start(np.asarray(spot, float).reshape(1, 2), zone)

    def cut(self, why: str, instead: float = 0.0) -> None:
        """Tie off and cut if the needle is down."""
        if self.down:
            self._tie_off(why, instead)
            self.down = False

    def _return_empty(self, points: np.ndarray, zone: str) -> np.ndarray:
        """Lift the needle and start at the far end of a line that shreds the thread the way it was to be
        stitched; the line turned round. What comes after it begins at that end again."""
        self.cut(EMPTY)
        self._start(points[-1:], zone)
        self._waiting = points[-1:]
        return points[::-1]

    def settle(self) -> None:
        """Lift the needle if it stands at the wrong end of a line: what comes next begins elsewhere."""
        if self._waiting is not None:
            self.cut(EMPTY)
            self._waiting = None

    def _resume(self, zone: str) -> None:
        """Start where the last line would have ended, unless the needle is down."""
        if self._waiting is not None:
            spot, self._waiting = self._waiting, None
            self.cut(EMPTY)
            self._start(spot, zone)

    def go(self, way: Sequence[tuple[int, int]], zone: str = "") -> None:
        """Travel along links."""
        self._travel(list(way), zone)

    def stitch(self, trail: Trail, entry: int) -> None:
        """Stitch a run from its door at the node *entry*."""
        self._stitch_run(trail, entry)

    def walk(self, links: Sequence[tuple[int, int]], asked: Set[int]) -> None:
        """Go along links; those that are *asked* for are stitched, once."""
        for fresh, members in self._grouped(links, asked):
            if fresh:
                self._stitch_ditches(members)
                continue
            price = sum(self.seams.links[n].price for n, _ in members)
            kind = self.seams.links[members[0][0]].kind
            why = (
                "back along the ditch to where the next one begins"
                if kind == "ditch"
                else _WHY[kind]
            )
            self._add_travel(along(self.seams, members), kind, price, "", why)

    @property
    def threaded(self) -> str:
        """The thread in the needle."""
        return self._thread

    def thread(self, thread: str, kind: str) -> None:
        """Change to *thread* unless it is in the needle."""
        if thread != self._thread:
            self.cut("this thread has nothing left to do here")
        self._change_thread(thread, kind)

    def add(self, kind: str, seconds: float, **more) -> None:
        """Something to do at which nothing moves."""
        self._add(kind, NOWHERE, seconds, **more)

    def _add(self, kind: str, points, seconds: float, inches: float = 0.0, **more) -> None:
        more.setdefault("thread", self._thread)
        self.steps.append(
            Step(kind, points, seconds, inches, reach=self.reach, station=self.station,
                 path=self.path, **more)
        )  # fmt: skip

    def _change_thread(self, thread: str, kind: str) -> None:
        if thread == self._thread:
            return
        rates = self.machine.rates
        seconds = rates.thread_change
        why = "everything that can be done in one colour, then the next"
        if kind == "ditch":
            why = "ditches first, so that nothing shifts"
        price = seconds / 60 if self._thread else 0.0
        self._add("thread", NOWHERE, seconds, thread=thread, price=price, reason=why)
        self._thread = thread
        self.spool.put_in(thread)

    def _start(self, spot: np.ndarray, zone: str) -> None:
        seconds = self.machine.cut_seconds
        self.spool.use(self._thread, 0.0, 1)
        self.down = True
        (spot,) = self._reached(spot)
        self._add("start", spot, seconds, zone=zone, price=seconds / 60,
                  reason="lock the start in the seam or in earlier stitching")  # fmt: skip

    def _tie_off(self, why: str, instead: float) -> None:
        self._add(
            "tie_off", self._position(), 0.0, reason=f"tie off and cut: {why}", instead=instead
        )

    def _position(self) -> np.ndarray:
        for step in reversed(self.steps):
            if len(step.points):
                return step.points[-1:]
        return self._stood

    def _travel(self, way: list[tuple[int, int]], zone: str) -> None:
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
            points = joined(parts)
            self._add_travel(points, kind, price, zone, _WHY[kind])

    def _add_travel(
        self, points, kind: str, price: float, zone: str, why: str, run="",
        inches: float | None = None,
    ) -> None:  # fmt: skip
        if self._waiting is not None:
            # The needle is up: the machine goes there empty.
            self._waiting = points[-1:]
            return
        whole = length(points) if inches is None else inches
        for part in self._reached(points):
            own = whole if part is points else length(part)
            self.spool.use(self._thread, own)
            share = own / whole if whole > 0 else 1.0
            self._add("travel", part, self.machine.rates.travel_seconds(own, kind), own,
                      zone=zone, run=run, how=kind, price=price * share, reason=why)  # fmt: skip

    def _stitch_ditches(self, members) -> None:
        """One stretch of ditches; parted at the last junction that the bobbin still reaches."""
        links = [self.seams.links[number] for number, _ in members]
        self.spool.spi = links[0].spi
        first, junction, need = 0, 0, 0.0
        for k, link in enumerate(links):
            if k and link.seam != links[k - 1].seam:
                junction = k
            more = self.spool.need(link.inches)
            if junction > first and need + more > self.spool.on_bobbin:
                self._stitch_stretch(members[first:junction])
                first = junction
                need = sum(self.spool.need(each.inches) for each in links[first:k])
            need += more
        self._stitch_stretch(members[first:])

    def _stitch_stretch(self, members) -> None:
        """Stretches of ditch one after the other, long lines the way they do not shred the thread."""
        links = [self.seams.links[number] for number, _ in members]
        ends = np.cumsum([link.inches for link in links])
        at = 0.0
        for part, wrong in parts_of(along(self.seams, members), self.machine.directions):
            first, at = at, at + length(part)
            there = [link.seam for link, end in zip(links, ends.tolist(), strict=True)
                     if end > first + TOLERANCE and end - link.inches < at - TOLERANCE]  # fmt: skip
            seams = tuple(dict.fromkeys(there or [links[0].seam]))
            if wrong:
                part = self._return_empty(part, "")
            else:
                self._resume("")
            self._add_stitch(part, "ditch", links[0].entry, "", f"ditch:{seams[0]}",
                             "the seam holds before anything fills beside it",
                             count_placements(part, self.machine.rates.reach), seams)  # fmt: skip

    def _grouped(self, walk, asked: Set[int]):
        """Stretches of the walk that are stitched for the first time, or travelled."""
        groups: list[tuple[bool, str, list]] = []
        for number, start in walk:
            link = self.seams.links[number]
            fresh = number in asked and number not in self._done
            if fresh:
                self._done.add(number)
            label = f"{link.spi}" if fresh else link.kind
            if groups and groups[-1][0] == fresh and groups[-1][1] == label:
                groups[-1][2].append((number, start))
            else:
                groups.append((fresh, label, [(number, start)]))
        return [(fresh, members) for fresh, _, members in groups]

    def _stitch_run(self, trail: Trail, entry: int) -> None:
        one = trail.drawn
        assert one is not None
        self.spool.spi = one.spi
        rates = self.machine.rates
        if (entry, rates.reach) not in trail.kept:
            trail.kept[entry, rates.reach] = as_laid(trail.begun_at(entry), rates.reach)
        layings, how, where, pieces, stops = trail.kept[entry, rates.reach]
        if layings:
            self._add("ruler", NOWHERE, layings * rates.ruler_move, zone=one.zone, entry=one.entry,
                      run=trail.key, how=how, count=layings, reason=where)  # fmt: skip
        for (points, technique, kind, inches), ends in zip(pieces, stops, strict=True):
            if kind == "stitch":
                self._add_stitch(points, technique, one.entry, one.zone, trail.key, one.design,
                                 inches=inches, stops=ends)  # fmt: skip
            else:
                price = rates.seconds(inches, technique) / 60
                if self._waiting is None:
                    self.link_price += price
                    if self.machine.directions == "all":  # No route goes there empty.
                        self.spool.must(self._thread, inches)
                why = "along the seam to the next line" if kind == "link" else "back over the line"
                self._add_travel(points, kind, price, one.zone, why, trail.key, inches)

    def _add_stitch(self, points, technique, entry, zone, run, why, layings: int = 0,
                    seams: tuple[str, ...] = (), inches: float | None = None,
                    stops: Sequence[int] = ()) -> None:  # fmt: skip
        begun = 0
        for line, wrong in (
            [(points, False)] if seams else parts_of(points, self.machine.directions)
        ):
            whole = len(line) == len(points) and not wrong
            ends = stops if whole else stops_within(stops, begun, len(line) - 1, wrong)
            begun += len(line) - 1
            laid = line
            if wrong:
                laid = self._return_empty(line, zone)
            elif not seams:
                self._resume(zone)
            for part in self._reached(laid):
                own = inches if part is points and inches is not None else length(part)
                self._add_stretch(part, own, technique, entry, zone, run, why, layings, seams,
                                  ends if part is laid else ())  # fmt: skip

    def _add_stretch(
        self, points, inches: float, technique, entry, zone, run, why, layings, seams, stops
    ) -> None:
        spool = self.spool
        while spool.need(inches) > spool.on_bobbin:
            at = None
            if spool.on_bobbin >= WORTH * spool.full:
                at = last_stop(points, stops, spool.on_bobbin / spool.need(1.0))
            if at is not None:
                self._stitched(points[: at + 1], length(points[: at + 1]), technique, entry, zone, run, why,
                               0, seams)  # fmt: skip
                points, stops = points[at:], [stop - at for stop in stops if stop > at]
                inches = length(points)
            elif spool.on_bobbin >= spool.full:
                break
            self._change_bobbin("would run out in the next stretch")
        self._stitched(points, inches, technique, entry, zone, run, why, layings, seams)
        while spool.on_bobbin < 0:
            self._change_bobbin("ran out on this stretch")

    def _stitched(
        self, points, inches: float, technique, entry, zone, run, why, layings, seams
    ) -> None:
        rates = self.machine.rates
        seconds = rates.seconds(inches, technique) + layings * rates.ruler_move
        self.spool.use(self._thread, inches)
        self.spool.must(self._thread, inches)
        self._add("stitch", points, seconds, inches, zone=zone, entry=entry, run=run, how=technique,
                  count=layings, reason=why, seams=seams)  # fmt: skip

    def _change_bobbin(self, why: str) -> None:
        seconds = self.machine.rates.bobbin
        left = self.spool.refill()
        self._add("bobbin", NOWHERE, seconds, price=seconds / 60,
                  reason=f"{left / 36:.0f} yd left: {why}" if left >= 18 else why)  # fmt: skip

    def least_changes(self, turns: Sequence[frozenset[str]] = ()) -> float:
        """Minutes of thread and bobbin changes that no route over this linework can avoid that stitches all
        threads of each of the *turns* before those of the next."""
        first = self._first_thread
        return self.spool.least_changes(first, least_turns(turns, first))

    def finish(self) -> list[Step]:
        """All steps in order."""
        return self.steps

    def end(self, before: State) -> State:
        """Where the work stands once all steps are done."""
        return ended(self.steps, before, max(self.spool.on_bobbin, 0.0), self.spool.aside)
