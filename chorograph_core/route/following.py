"""Follow the plan and write it down: pass by pass, along the seams, then from station to station."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.redrawing import redraw
from chorograph_core.route.bundles import Bundle
from chorograph_core.route.choosing import rounds_for, toured
from chorograph_core.route.handing_over import ALL_OF_IT, Turn
from chorograph_core.route.holding import Holding, taken_out
from chorograph_core.route.laying_out import Layout
from chorograph_core.route.marker import Marker
from chorograph_core.route.model import TOLERANCE, FollowedPath, State
from chorograph_core.route.moves import CutMove, LinkMove, RunMove
from chorograph_core.route.network import Trail, as_drawn
from chorograph_core.route.passes import Pass
from chorograph_core.route.paths import Option
from chorograph_core.route.seams_in_order import SeamOrders
from chorograph_core.route.stations import Station
from chorograph_core.route.steps import StepWriter
from chorograph_core.route.walks import Pricing, far_end, odd_nodes
from chorograph_core.route.works import Work, path_of

STARTS = 8
"""How often the search for the order of a pass is begun: from one start it may end where none of its changes
helps any more."""


class Follower:
    """Goes where the plan says and has a *writer* note each step. *redrawn* is the linework that was
    drawn again, *edges* what is basted when a pass is first reached, *holds* what is stitched across it
    then and *tucks* what is laid, *holding* what of that is to be taken out, *followed* the paths by
    their letter, in the order they are first met, which are lettered as the *turn* says; *starts* whether
    each stage cannot but begin with the needle up."""

    def __init__(
        self, lay: Layout, writer: StepWriter, cut: float, effort: int, cache: DrawingCache, shapes,
        edges: Mapping[int, Sequence[np.ndarray]], holds: Mapping[int, Sequence[np.ndarray]],
        holding: Holding, tucks: Mapping[int, Sequence[tuple[str, np.ndarray]]],
        drawn: Sequence[LayerLinework] = (), turn: Turn = ALL_OF_IT,
    ) -> None:  # fmt: skip
        self.turn = turn
        self.lay, self.writer, self.cut, self.effort = lay, writer, cut, effort
        self.cache, self.shapes = cache, shapes
        self.redrawn: dict[tuple[str, int], LayerLinework] = {}
        self.followed: dict[str, FollowedPath] = {}
        self._names: dict[tuple, str] = {}
        self._at: int | None = None
        self._last: Station | None = None
        self._reached: Pass | None = None
        self._edges, self._holds, self._tucks = dict(edges), dict(holds), dict(tucks)
        self._holding = holding
        self._own = {node: own for own, node in lay.twins.items()}
        self.starts: list[bool] = []
        self.marker = Marker(writer, drawn)

    def write(self, work: Work, after: Work | None) -> None:
        """Roll to the pass, change the thread, go along the seams, then through the stations, ending
        where *after*, what is done next in the same thread, is near."""
        stage = work.stage
        if stage.through:
            self._baste_ahead(work)
        loads = self._loads(stage.reach)
        # Where the next pass is basted first, the needle is up when it comes.
        waits = after is not None and self._loads(after.stage.reach)
        begun = self.writer.down if not self.starts else self.writer.threaded == stage.thread
        self.starts.append(loads or not begun)
        ahead = {} if after is None or waits else self._ahead(work, after)
        if loads:
            self.writer.cut("the edges of the next pass are basted first")
        elif self.writer.down and self._loads(self.writer.reach):
            # Taken up where the basting was left out: nothing is stitched there before it.
            self.writer.cut("the edges of this pass are not basted yet")
        elif stage.reach != self.writer.reach and self.writer.down:
            self._come_to_the_edge(work)
        self.writer.thread(stage.thread, stage.kind)
        self.writer.roll_under(self.lay.passes if stage.through else ())
        if not stage.through or not self.writer.down:
            self.writer.roll_to(stage.reach)
        self._reached = work.reached
        self._load(stage.reach)
        if not self.writer.down:
            self._at = None
        self._write_seams(work, self._entries(work) or ahead)
        rounds = rounds_for(len(work.bundles), self.effort)
        tour = toured(work, self._start_of(work), self.cut, rounds, self._leaving(work, ahead),
                      self.writer.machine.rates.find_place / 60, STARTS if self.effort else 1)  # fmt: skip
        work.prices.forget()
        self.marker.begin(work, tour)
        ground = self.lay.on_network.ground(work.reached)
        ground.expect(self._known(way.leave, work) for _, way in tour)
        for number, (k, way) in enumerate(tour):
            self.marker.before(number)
            self._visit(work, k, way)
        ground.expect(())
        self.writer.settle()
        self.writer.leave_station()

    def _baste_ahead(self, work: Work) -> None:
        """Baste the passes that are rolled to under the needle: meanwhile it cannot be done."""
        spots = np.concatenate([bundle.trail(n).run.points  # type: ignore[union-attr]
                                for bundle in work.bundles for n in bundle.trails])  # fmt: skip
        low, high = spots[:, 1].min(), spots[:, 1].max()
        for each in self.lay.passes:
            if each.bottom < low or each.top > high or not self._loads(each.number):
                continue
            self.writer.cut("the edges of the next pass are basted first")
            self.writer.thread(work.stage.thread, work.stage.kind)
            self.writer.roll_to(each.number)
            self._load(each.number)

    def _loads(self, reach: int) -> bool:
        """Whether something is to be done before the first stitch of a pass."""
        return any(reach in each for each in (self._edges, self._holds, self._tucks))

    def _load(self, reach: int) -> None:
        """Tucks laid, the edge basted, the layers held: before anything else in a pass."""
        self.writer.tuck(self._tucks.pop(reach, ()))
        self.writer.secure(self._edges.pop(reach, ()), reach)
        self.writer.secure(self._holds.pop(reach, ()), reach, "hold")

    def take_up(self, state: State) -> None:
        """Go on where the needle is down; cut first where nothing that is left begins there."""
        if state.needle is None:
            return
        self.writer.stands_at(np.array(state.needle))
        network = self.lay.network
        if len(network.spots) and state.thread == self.writer.threaded:
            off = np.hypot(*(network.spots - state.needle).T)
            if off.min() <= TOLERANCE:
                self._at = int(off.argmin())
                self._reached = next(
                    (each for each in self.lay.passes if each.number == self.writer.reach), None
                )

    def baste_all(
        self, works: Sequence[Work], passes: Sequence[Pass], state: State, at_first: bool = True
    ) -> None:
        """Baste what is not yet of the whole quilt, pass after pass, before anything else; it lies in its
        first pass, or where it was left. Then go on, from where the needle is down if nothing is basted."""
        thread = works[0].stage.thread if works else self.turn.thread
        if not thread or not (self._edges or self._holds):
            self.take_up(state)
            return
        if at_first:
            self.writer.at_pass(passes[0].number)
        if state.needle is not None:
            self.writer.stands_at(np.array(state.needle))
            self.writer.cut("the rest of the quilt is basted first")
        self.writer.thread(thread, works[0].stage.kind if works else "fill")
        for each in passes:
            if state.fresh or self._loads(each.number):
                self.writer.roll_to(each.number)
                self._load(each.number)

    def finish(self) -> None:
        """Cut, and take out what still holds the layers, and the marks, unless another machine comes next."""
        self.writer.cut("everything is done")
        if self.turn.last:
            self.writer.unpick("", self._holding.take_rest(), taken_out("", self.turn.first))
            self.marker.take_out()

    def _come_to_the_edge(self, work: Work) -> None:
        """Travel to where the needle is still in reach once the quilt is rolled; cut where that, and
        the way on from there, costs as much."""
        over = self.lay.on_network.ground(work.reached)
        if self._at in over:
            return
        self.writer.leave_station()
        way, at = None, self._at
        same = self.writer.threaded == work.stage.thread
        if at is not None and self._reached is not None and same:
            both = self.lay.on_network.ground_of_both(self._reached, work.reached)
            goals = self._all_known(self._goals(work), work)
            best = min(goals, key=lambda goal: (both.price(at, goal), goal), default=None)
            if best is not None and both.price(at, best) < self.cut:
                way = both.way(at, best)
        now = None if self._reached is None else self.lay.on_network.ground(self._reached)
        if way is None or now is None:
            self.writer.cut("the quilt is rolled on")
            return
        mine = set(now.links.tolist())
        gone: list[tuple[int, int]] = []
        for number, start in way:
            if start in over and number not in mine:
                break
            if start in over and gone:
                break
            gone.append((number, start))
        stop = far_end(self.lay.network, *gone[-1]) if gone else self._at
        if stop not in over or any(number not in mine for number, _ in gone):
            self.writer.cut("the quilt is rolled on")
            return
        self.writer.go(gone)
        self._at = stop

    def _goals(self, work: Work) -> list[int]:
        """Nodes of the stage's own network at which something of *work* begins."""
        if work.seams:
            odd = odd_nodes(self.lay.seams, work.seams)
            return odd or np.unique(self.lay.seams.ends[work.seams]).tolist()
        return [way.entry for ways in work.ways for way in ways]

    def _entries(self, work: Work) -> dict[int, float]:
        """For nodes of the network with all doorways, what it costs to go on to a station of *work*."""
        entries = self._all_known([way.entry for ways in work.ways for way in ways], work)
        return self.lay.on_network.ground(work.reached).nearest(entries, self.cut)

    def _write_seams(self, work: Work, ahead: dict[int, float]) -> None:
        orders = SeamOrders(self.writer.machine, self.cut, self.effort)
        order = orders.best(
            work, self._start_of(work), self._coming(work), self._leaving(work, ahead)
        )
        asked = set(work.seams)
        for number, way in enumerate(order):
            self._last = None
            self._come_to(way.entry, work)
            if not number:
                # One map for all the seams of a pass.
                self.writer.look_up("", "seams", "long seams", True, True)
            self.writer.walk(way.links, asked)
            self._at = self._known(way.leave, work)

    def _known(self, node: int, work: Work) -> int | None:
        """A node of the stage's own network as one of the network that has all doorways."""
        return self.lay.with_doorways(node, work.stage.kind)

    def _all_known(self, nodes: Sequence[int], work: Work) -> list[int]:
        """Nodes of the stage's own network as those of the network that has all doorways, sorted."""
        return sorted({k for node in nodes if (k := self._known(node, work)) is not None})

    def _start_of(self, work: Work) -> int | None:
        """Where the needle is, as a node of the stage's own network."""
        if work.stage.kind != "ditch" or self._at is None:
            return self._at
        return self._own.get(self._at)

    def _come_to(self, node: int, work: Work, zone: str = "") -> None:
        """Travel to *node*, or cut and start there when that is cheaper or there is no way."""
        goal = self._known(node, work)
        ground = self.lay.on_network.ground(work.reached)
        other = 0.0
        if self._at is not None and self._at != goal:
            other = math.inf if goal is None else ground.price(self._at, goal)
            if goal is not None and other < self.cut:
                way = ground.way(self._at, goal)
                assert way is not None
                self.writer.go(way, zone)
                self._at = goal
                return
            self._at = None
        if self._at is None:
            self.writer.begin(work.ground.network.spots[node], zone, other)

    def _visit(self, work: Work, k: int, way: Option) -> None:
        """Follow one way through a bundle."""
        bundle = work.bundles[k]
        self.writer.leave_station()
        name = taken_out(bundle.station.key, self.turn.first)
        self.writer.unpick(bundle.station.key, self._holding.take_out(bundle.station), name)
        self._come_to(way.entry, work)
        moves, same = way.laid()
        key = self._name(work, k, way, same or not bundle.links)
        fresh = key not in self.followed
        follows = self._last is None or bundle.station.follows(self._last)
        title = self._title(work, bundle)
        self._follow(key, title, bundle.station.key)
        self.writer.look_up(bundle.station.key, key, title, fresh, follows)
        self._last = bundle.station
        asked = set(bundle.links)
        down = True
        for move in moves:
            if isinstance(move, CutMove):
                down = False
                continue
            start = move.entry if isinstance(move, RunMove) else move.links[0][1]
            if not down:
                self.writer.begin(bundle.network.spots[start])
                down = True
            if isinstance(move, LinkMove) and asked:
                self.writer.walk(move.links, asked)
            elif isinstance(move, LinkMove):
                self.writer.go(move.links)
            else:
                self.marker.before_run(self.lay.network.trails[move.trail].drawn)
                trail = self._as_stitched(self.lay.network.trails[move.trail], move)
                self.writer.stitch(trail, move.entry)
        self._at = self._known(way.leave, work)

    def _follow(self, key: str, title: str, station: str) -> None:
        known = self.followed.get(key, FollowedPath(key, title, ()))
        self.followed[key] = replace(known, stations=(*known.stations, station))

    def _name(self, work: Work, k: int, way: Option, same: bool) -> str:
        """Paths are lettered in the order they are first followed; one that runs otherwise than in its
        sisters has a letter of its own."""
        index = path_of(self.lay, work, k)
        if len(index) == 2:
            own = () if same else (work.bundles[k].station.key,)
            index = (*index, way.path, *own)
        if index not in self._names:
            self._names[index] = _letters(self.turn.paths + len(self._names))
        return self._names[index]

    def _title(self, work: Work, bundle: Bundle) -> str:
        what = self.lay.kind_of(bundle.station)
        if bundle.links:
            return f"{what}: ditches"
        return what

    def _as_stitched(self, trail: Trail, move: RunMove) -> Trail:
        """The run as it is stitched: one that can be drawn from door to door is drawn again."""
        assert trail.drawn is not None
        if not trail.free:
            return trail
        if not trail.closed and {move.entry, move.leave} == set(trail.heads[:2]):
            return as_drawn(trail)
        start, stop = (trail.doors[trail.heads.index(node)] for node in (move.entry, move.leave))
        if move.entry == move.leave:
            return replace(trail, heads=(move.entry,), tails=(move.entry,), closed=True,
                           doors=(start,), free=False)  # fmt: skip
        made = redraw(trail.drawn, start, stop, self.cache, self.shapes.get(trail.zone))
        self.redrawn[trail.drawn.zone, trail.drawn.layer] = made
        return replace(trail, heads=(move.entry,), tails=(move.leave,), run=made.linework.runs[0],
                       drawn=made, free=False)  # fmt: skip

    def _coming(self, work: Work) -> Pricing | None:
        """What it costs to come to a node of the stage's own network from where the needle is."""
        at = self._at
        if at is None:
            return None
        ground = self.lay.on_network.ground(work.reached)

        def price(node: int) -> float:
            known = self._known(node, work)
            return self.cut if known is None else min(self.cut, ground.price(at, known))

        return price

    def _leaving(self, work: Work, ahead: dict[int, float]) -> Pricing | None:
        """What it costs to end at a node of the stage's own network."""
        if not ahead:
            return None

        def price(node: int) -> float:
            known = self._known(node, work)
            return self.cut if known is None else ahead.get(known, self.cut)

        return price

    def _ahead(self, work: Work, after: Work) -> dict[int, float]:
        """For nodes of the network with all doorways, what it costs to go on from there to *after*."""
        both = self.lay.on_network.ground_of_both(work.reached, after.reached)
        return both.nearest(self._all_known(self._goals(after), after), self.cut)


def _letters(number: int) -> str:
    """A, B … Z, AA, AB …"""
    text = ""
    number += 1
    while number:
        number, rest = divmod(number - 1, 26)
        text = chr(65 + rest) + text
    return text
