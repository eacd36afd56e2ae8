"""A whole job as the core sees it: what is stored as truth, and how to work from it."""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Annotated

from msgspec import Meta

from chorograph_core.blocks import Block
from chorograph_core.chart import Chart
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.drawing import draw_legend
from chorograph_core.designs.legend import Entry, LayerLinework, Thread, ZoneId
from chorograph_core.estimating import Intake, fullness
from chorograph_core.layouts import Layout
from chorograph_core.reckon import Machine
from chorograph_core.route import Policy, Route, State, plan, replay
from chorograph_core.route.handing_over import Handover
from chorograph_core.route.keeping import Kept
from chorograph_core.route.pricing import OrderPrice, price_of_order
from chorograph_core.rulers import STARTING_RULERS, Ruler, reach_of, straight_ruler
from chorograph_core.zones import Zone, bans_of

STARTING_THREADS = (
    Thread("clear", "clear, fine", "#8fa3a8", 100, 1500),
    Thread("indigo", "indigo 40", "#2b3a55", 40, 1100),
    Thread("bracken", "bracken 40", "#9a5b2e", 40, 1100),
)


@dataclass(frozen=True)
class Named:
    """Zones that were given a name of their own, such as corner triangles."""

    name: Annotated[str, Meta(min_length=1, max_length=60)]
    zones: Annotated[tuple[ZoneId, ...], Meta(max_length=20_000)]


@dataclass(frozen=True)
class Job:
    """Title, client and everything the computation needs. All lengths in inches. *handover* is what of it is
    stitched on another machine than *machine*.

    *changes* are sentences about what was read otherwise than it was written, *own* the drafted
    blocks its survey speaks of, kept so that they can be found; neither is a part of the job.
    """

    title: str
    chart: Chart
    zones: tuple[Zone, ...]
    client: str = ""
    due: str = ""
    survey: Layout | None = None
    legend: tuple[Entry, ...] = ()
    threads: tuple[Thread, ...] = STARTING_THREADS
    machine: Machine = field(default_factory=Machine)
    policy: Policy = field(default_factory=Policy)
    intake: Intake = field(default_factory=Intake)
    groups: tuple[Named, ...] = ()
    rulers: tuple[Ruler, ...] = STARTING_RULERS
    handover: Handover | None = None
    changes: tuple[str, ...] = field(default=(), compare=False)
    own: tuple[Block, ...] = field(default=(), compare=False, repr=False)

    @property
    def loaded_machine(self) -> Machine:
        """The machine with this job's batting under the foot, whose loft counts for thread, and with
        the studio's rulers beside it. By eye no ruler is laid, and straight lines take as long as fine
        work."""
        return self._loaded(self.machine)

    @property
    def loaded_handover(self) -> Handover | None:
        """What is stitched on another machine, and that machine as `loaded_machine` is loaded; its zones as
        far as they are there."""
        if self.handover is None:
            return None
        there = {zone.id for zone in self.zones}
        zones = tuple(zone for zone in self.handover.zones if zone in there)
        machine = self._loaded(self.machine_in(True))
        return replace(self.handover, machine=machine, zones=zones) if zones else None

    def machine_in(self, another: bool) -> Machine:
        """The machine of a pass: the first, or the one that part of the quilt is handed over to. Hands are as
        fast there, and hide their ends alike."""
        if not another or self.handover is None:
            return self.machine
        return replace(self.handover.machine, rates=self.machine.rates, bury=self.machine.bury)

    def _loaded(self, machine: Machine) -> Machine:
        reach = reach_of(self.rulers, straight_ruler(self.rulers).usable, machine.foot_radius)
        rates = replace(machine.rates, ruler_reach=reach.straight, edges=reach.edges,
                        lock=self.policy.straight == "lock" and machine.kind == "frame")  # fmt: skip
        if self.policy.straight == "eye":
            slow = min(rates.speeds.get("fine", 50.0), rates.speeds.get("straight", 70.0))
            rates = replace(rates, ruler_move=0.0, speeds={**rates.speeds, "straight": slow})
        machine = replace(machine, rates=rates)
        batting = self.intake.batting
        return machine if batting is None else replace(machine, loft=batting.loft * batting.layers)

    @property
    def size(self) -> tuple[float, float]:
        """Width and height in inches, as measured where the tape was laid, else as charted."""
        measures = self.intake.measures
        return (measures.width or self.chart.width, measures.height or self.chart.height)

    @property
    def extent(self) -> tuple[float, float]:
        """The greatest width and height that were measured, else as charted: what backing and batting
        must reach beyond."""
        measures = self.intake.measures
        return (measures.widest or self.chart.width, measures.tallest or self.chart.height)

    @property
    def tucks(self) -> dict[str, int]:
        """How many tucks each side of the border takes, by what the tape said."""
        return {each.side: each.tucks for each in fullness(self.intake.measures) if each.tucks}

    @property
    def untouchable(self) -> set[str]:
        """The zones, by id, in which the client wants nothing stitched at all."""
        bans = bans_of(self.zones, self.chart, self.policy.applique)
        return {zone for zone, ban in bans.items() if ban == "leave"}

    def zone(self, zone_id: str) -> Zone:
        """Return the zone called *zone_id*; KeyError if there is none."""
        for zone in self.zones:
            if zone.id == zone_id:
                return zone
        raise KeyError(zone_id)

    def entry_of(self) -> dict[str, str]:
        """Which entry of the legend each assigned zone belongs to."""
        return {zone: entry.id for entry in self.legend for zone in entry.zones}

    def settled(self) -> Job:
        """The job with its groups, and what is handed over, as the zones now are: what is gone is left out,
        the pieces of a zone that was cut take its place, groups without zones are gone."""
        if not self.groups and self.handover is None:
            return self
        there = {zone.id for zone in self.zones}
        pieces: dict[str, list[str]] = {}
        for zone in self.zones:
            for mark in ("/", "~"):
                stem = zone.id.rpartition(mark)[0]
                if stem and stem not in there:
                    pieces.setdefault(stem, []).append(zone.id)

        def now(zones: tuple[ZoneId, ...]) -> tuple[ZoneId, ...]:
            each = ([zone] if zone in there else pieces.get(zone, []) for zone in zones)
            return tuple(name for names in each for name in names)

        groups = tuple(replace(group, zones=now(group.zones)) for group in self.groups)
        away = self.handover and replace(self.handover, zones=now(self.handover.zones))
        return replace(self, groups=tuple(group for group in groups if group.zones),
                       handover=away if away and away.zones else None)  # fmt: skip

    def with_legend(self, legend: tuple[Entry, ...]) -> Job:
        """The same job with another legend; entries left without zones are kept out."""
        return replace(self, legend=tuple(entry for entry in legend if entry.zones))


def job_linework(
    job: Job, cache: DrawingCache | None = None, only: set[str] | None = None
) -> list[LayerLinework]:
    """Draw the legend of *job*; *only* some entries by id."""
    policy, foot = job.policy, job.machine.foot_radius

    def draw() -> list[LayerLinework]:
        return draw_legend(job.chart, job.zones, job.legend, policy.edge_finish, foot, only, cache,
                           policy.applique, job.rulers, policy.retrace)  # fmt: skip

    if cache is None or only is not None:
        return draw()
    words = (policy.edge_finish, policy.applique, policy.retrace)
    parts = (job.chart, job.zones, job.legend, job.rulers, sys.intern(" ".join(words)), foot)
    return cache.whole(parts, draw)


def planned_job(
    job: Job,
    cache: DrawingCache | None = None,
    progress: Callable[[float, str], None] | None = None,
    state: State | None = None,
    kept: Kept | None = None,
    bound: bool = True,
    layings: bool = True,
    found: Callable[[Route], None] | None = None,
) -> Route:
    """Draw *job* and plan its route, from what is done already if *state* says so; *kept* is for jobs that
    differ in nothing but how they are worked; without *bound* the floor says nothing of travel and cuts,
    without *layings* nothing of those of the ruler; *found* is told the route before its floor is known."""
    cache = cache if cache is not None else DrawingCache()
    if kept is None:
        drawn = job_linework(job, cache)
    else:
        looks = (job.policy.applique, job.policy.retrace)
        drawn = kept.drawn(looks, lambda: job_linework(job, cache))
    return plan(
        job.chart,
        job.zones,
        drawn,
        job.loaded_machine,
        job.policy,
        cache,
        progress,
        state,
        job.tucks,
        kept,
        bound,
        job.loaded_handover,
        layings,
        found,
    )


def order_price(job: Job, order: tuple[str, ...], cache: DrawingCache) -> OrderPrice:
    """What it costs to do the runs at a station, and at all that are alike, in this order."""
    return price_of_order(
        job.chart, job.zones, job_linework(job, cache), job.loaded_machine, job.policy, order, cache
    )


_REPLAYED = DrawingCache(200)
"""What replays drew for themselves. Nothing that a planner drew comes in here."""


def replayed_job(job: Job, route: Route, state: State | None = None) -> list[str]:
    """The faults of *route*, replayed over linework that is drawn from the document apart from all that the
    planner drew."""
    asked = job_linework(job, _REPLAYED)
    state = state or State()
    return replay(
        job.chart, job.zones, asked, job.policy, route.steps, job.loaded_machine, state.done,
        state.thread, route.passes, job.tucks, state, tuple(route.notes), route.thread_inches,
        job.loaded_handover,
    )  # fmt: skip
