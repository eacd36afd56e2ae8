"""Plan the route: passes, stations, paths, and the order in which they are gone through."""

from __future__ import annotations

import gc
import time
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace

import shapely

from chorograph_core.chart import Chart
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.drawing import broken_ban
from chorograph_core.designs.figures import figures_in, wholes
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Run
from chorograph_core.reckon import Machine
from chorograph_core.route.choosing import find_ways
from chorograph_core.route.choosing_passes import passes_for, pieces_of
from chorograph_core.route.fewest import Fewest
from chorograph_core.route.floors import floor_of
from chorograph_core.route.following import Follower
from chorograph_core.route.handing_over import ALL_OF_IT, Handover, Turn, in_turn
from chorograph_core.route.holding import Holding, basted_first, hold_lines, taken_out
from chorograph_core.route.keeping import Kept
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.model import Floor, Policy, Route, State
from chorograph_core.route.passes import OutOfReach, Piece
from chorograph_core.route.precedence import unkept
from chorograph_core.route.securing import Tucks, edge_lines, secures, tuck_spots
from chorograph_core.route.stations import stations_of
from chorograph_core.route.steps import StepWriter
from chorograph_core.route.works import Work, works_of
from chorograph_core.zones import Zone, bans_of

ENGINE = 30
"""Version of what plans here. Raise it when the same linework would be planned otherwise."""


class PlanError(ValueError):
    """No route can be planned. The message says why."""


def plan(
    chart: Chart,
    zones: Sequence[Zone],
    drawn: Sequence[LayerLinework],
    machine: Machine,
    policy: Policy,
    cache: DrawingCache | None = None,
    progress: Callable[[float, str], None] | None = None,
    state: State | None = None,
    tucks: Tucks | None = None,
    kept: Kept | None = None,
    bound: bool = True,
    handover: Handover | None = None,
    layings: bool = True,
    found: Callable[[Route], None] | None = None,
) -> Route:
    """Plan a route over all *drawn* linework that *state* does not call done.

    Its stages are those of `stages_of`; *tucks* are laid in the border as it comes.
    The first plan is the plan from an empty state. Deterministic. *kept* holds what plans of the same
    linework share; without *bound* the floor leaves out what travel and cuts lose at least, without *layings*
    those of the ruler. *handover* says what of it is stitched on another machine. *found* is told the route
    as soon as there is one; what travel and cuts lose at least takes as long again.
    Raises `PlanError` for linework in a zone the client has forbidden, and for a machine that reaches
    nothing of the quilt.
    """

    def part(drawn, machine, policy, state, turn: Turn = ALL_OF_IT) -> Route:
        # What is kept is kept by the linework, which is here that of a part.
        keep = kept if handover is None else None

        def by(policy: Policy) -> _Planning:
            return _Planning(
                chart, zones, drawn, machine, policy, cache, progress, state, tucks, keep, turn
            )

        first = by(policy)
        if not first.may_roll_through:
            return first.route(layings)
        # Which of the two loses less is told by all that they lose.
        rolled = by(replace(policy, oversized="roll"))
        return min((first.route(), rolled.route()), key=lambda each: each.lost_minutes)

    with _uncollected():
        try:
            if handover is None:
                route = part(drawn, machine, policy, state)
            else:
                route = in_turn(drawn, machine, handover, policy, state or State(), part)
        except OutOfReach as error:
            raise PlanError(str(error)) from error
        if found is not None:
            found(route)
        return route.bounded() if bound else replace(route, least=None)


@contextmanager
def _uncollected() -> Iterator[None]:
    """No search for unused cycles meanwhile: a plan makes none, and hundreds of thousands of small
    things, for each few of which all of the process would be looked through (a sixth of the time)."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


class _Planning:
    def __init__(
        self, chart, zones, drawn, machine, policy, cache, progress, state, tucks, kept,
        turn: Turn = ALL_OF_IT,
    ) -> None:  # fmt: skip
        self.began = time.perf_counter()
        self.machine, self.policy = machine, policy
        self.tell = progress or (lambda share, what: None)
        self.state = state or State()
        self.turn = turn
        cache = cache if cache is not None else DrawingCache()
        _refuse_banned(chart, zones, drawn, policy)
        self.tell(0.05, "laying out the seams")
        asked = drawn
        drawn = wholes(drawn)
        self.drawn = [_left_of(one, self.state) for one in drawn]
        keeps = kept is not None and self.state.fresh

        def pieces() -> list[Piece]:
            return pieces_of(chart, zones, drawn)

        # Wherever the work stands, the quilt is rolled on at the same places.
        there = kept.pieces(asked, pieces) if keeps else pieces()
        passes = passes_for(chart, zones, drawn, machine, policy, there)

        def lay(seams=None):
            return laid_out(
                chart, zones, self.drawn, machine, policy, self.state, cache, passes, seams
            )

        self.lay = kept.laid(asked, machine, policy, passes, lay) if keeps else lay()
        self.cut = machine.cut_seconds / 60
        self.writer = StepWriter(
            self.lay.network, self.lay.seams, machine, policy, self.drawn, self.state
        )
        edges = edge_lines(chart, self.lay.passes) if secures(machine, policy) else {}
        edges = {reach: lines for reach, lines in edges.items()
                 if f"edge:{reach}.1" not in self.state.done}  # fmt: skip
        holds = hold_lines(chart, self.lay.passes, machine, policy)
        done = {name.rsplit("/", 2)[0] for name in self.state.done if "/" in name}
        holding = self._holding(chart, zones, holds, done)
        holds = {reach: lines for reach, lines in holds.items()
                 if f"hold:{reach}.1" not in self.state.done}  # fmt: skip
        spots = tuck_spots(chart, self.lay.passes, tucks or {})
        laid = {reach: left for reach, each in spots.items()
                if (left := [one for one in each if one[0] not in self.state.done])}  # fmt: skip
        self.follower = Follower(
            self.lay,
            self.writer,
            self.cut,
            policy.effort,
            cache,
            self.lay.shapes,
            edges,
            holds,
            holding,
            laid,
            self.drawn,
            turn,
        )

    def _holding(self, chart, zones, holds, done: set[str]) -> Holding:
        """What holds the layers still, where something is *done*; of a quilt that was basted on another
        machine what was left there."""
        first, stays, out = self.turn.first, set[str](), []
        shapes = [zone.polygon for zone in zones if zone.id in set(self.turn.keep)]
        keep = shapely.union_all(shapes) if shapes else None
        if first is not None:
            theirs = wholes(self.turn.stays)
            passes = passes_for(chart, zones, theirs, first, self.policy)
            holds = hold_lines(chart, passes, first, self.policy)
            stays = {one.zone for one in theirs}
            for each in stations_of(chart, zones, passes):
                there = taken_out(each.key, None) in self.state.done
                if there or not (done & stays).isdisjoint(each.zones):
                    out.append(each.shape)
            out = [shape.difference(keep) for shape in out] if keep is not None else out
            out += [one.space.polygon for key, one in figures_in(theirs).items() if key in done]
        gone = [each for each in self.lay.stations
                if taken_out(each.key, first) in self.state.done
                or not (done - stays).isdisjoint(each.zones)]  # fmt: skip
        lines = [line for each in holds.values() for line in each]
        return Holding(lines, gone, out, keep if first is None else None)

    @property
    def may_roll_through(self) -> bool:
        """Whether rolling the quilt under the needle may lose less than cutting what no pass holds: a
        roll costs less than a cut, and something was cut."""
        quick = (
            self.machine.kind == "frame" and self.machine.roll_seconds < self.machine.cut_seconds
        )
        before = sum(len(one.linework.runs) for one in self.drawn)
        after = sum(len(one.linework.runs) for one in self.lay.drawn)
        return self.policy.oversized == "less" and quick and after > before

    def _lies(self) -> int:
        """The number of the pass that is under the machine; 0 where the quilt is loaded as the work asks."""
        down = self.state.lies
        if down is None:
            return 0
        return min(self.lay.passes, key=lambda each: abs(each.top - down)).number

    def route(self, layings: bool = True) -> Route:
        lies = self._lies()
        works = works_of(self.lay, self.policy, lies)
        kinds: dict[str, list[Work]] = defaultdict(list)
        for work in works:
            kinds[work.stage.name].append(work)
        for number, (name, members) in enumerate(kinds.items()):
            what = name.replace(":", " in ").replace("_", " ")
            self.tell(0.15 + 0.5 * number / len(kinds), f"paths for {what}")
            find_ways(members, self.machine, self.policy.effort, self.policy.orders)
        if lies:
            self.writer.at_pass(lies)
        if basted_first(self.machine, self.policy):
            self.follower.baste_all(works, self.lay.passes, self.state, at_first=not lies)
        else:
            if works and not lies:
                self.writer.at_pass(works[0].stage.reach)
            self.follower.take_up(self.state)
        for number, work in enumerate(works):
            stage = work.stage
            self.tell(0.65 + 0.25 * number / len(works),
                      f"{stage.kind} in {stage.thread}, pass {stage.reach}")  # fmt: skip
            after = works[number + 1] if number + 1 < len(works) else None
            same = after is not None and after.stage.thread == stage.thread
            self.follower.write(work, after if same else None)
            # Hundreds of ways through hundreds of stations are a third of what a plan takes up.
            work.ways, work.grounds = [], []
        self.follower.finish()

        fewest = Fewest(self.lay.seams, self.machine.rates.reach, self.lay.passes)

        def floor(travel: bool) -> Floor:
            return floor_of(self.lay, works, self.machine, self.policy, self.writer, self.follower.starts,
                            travel, layings, fewest)  # fmt: skip

        def least() -> Floor:
            self.tell(0.92, "the floor")
            return floor(True)

        redrawn = self.follower.redrawn
        figures = {key: one.zones for key, one in figures_in(self.drawn).items()}
        wishes = self.policy.wishes
        notes = unkept(works, self.writer.steps, wishes, self.lay.shapes, figures)
        zones = {name for one in self.drawn for name in figures.get(one.zone, (one.zone,))}
        return Route(
            self.writer.finish(), floor(False), len(zones),
            time.perf_counter() - self.began,
            drawn=[redrawn.get((one.zone, one.layer), one) for one in self.lay.drawn],
            thread_inches=self.writer.spool.used, end=self.writer.end(self.state), passes=self.lay.passes,
            paths=tuple(self.follower.followed.values()), laying=self.machine.rates.ruler_move / 60,
            figures=figures, notes=notes,
            redrawn=tuple(sorted({zone for zone, _ in redrawn})), least=least,
        )  # fmt: skip


def _refuse_banned(
    chart: Chart, zones: Sequence[Zone], drawn: Sequence[LayerLinework], policy
) -> None:
    bans = bans_of(zones, chart, policy.applique)
    by_id = {zone.id: zone for zone in zones if zone.id in bans}
    for one in drawn:
        if one.zone in by_id and (broken := broken_ban(one, by_id[one.zone], bans)):
            raise PlanError(f"{broken}: {one.zone}.")


def _left_of(one: LayerLinework, state: State) -> LayerLinework:
    """What of some linework is still to be stitched; its runs keep the names they had."""
    begun = {each.run: each.rest for each in state.begun}
    names = [one.key(k) for k in range(len(one.linework.runs))]
    if state.fresh or not any(name in state.done or name in begun for name in names):
        return one
    runs: list[Run] = []
    for k, (name, run) in enumerate(zip(names, one.linework.runs, strict=True)):
        if name not in state.done:
            left = begun.get(name, (run,))
            runs += [replace(each, figure=run.figure or str(k)) for each in left]
    # With single runs gone the design is not drawn again: it would bring them back.
    return replace(one, linework=replace(one.linework, runs=tuple(runs)), pattern=None)
