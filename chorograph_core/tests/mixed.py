"""Jobs put together by chance: any top, its zones cut and joined, any designs at any settings, any way of
working; and all that is done with a job, looked at for faults. No one of these would be anybody's quilt:
together they are what nobody thinks of. ``./chorograph bench mixed`` tries as many as one has time for."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import replace
from random import Random

import numpy as np
import shapely
from shapely.geometry import LineString

from chorograph_core import layouts
from chorograph_core.blocks.library import block_library
from chorograph_core.chart import Chart, ChartError
from chorograph_core.designs import designs
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.figures import wholes
from chorograph_core.designs.legend import Entry, Layer, LayerLinework
from chorograph_core.designs.settings import Parameter, SettingError
from chorograph_core.formats import (
    read_archive,
    read_state,
    route_json,
    run_sheet,
    state_values,
    write_archive,
)
from chorograph_core.formats.route_drawing import route_svg
from chorograph_core.job import Job, job_linework, planned_job, replayed_job
from chorograph_core.reckon import Machine
from chorograph_core.route import Policy, Route, State
from chorograph_core.route.handing_over import Handover
from chorograph_core.route.model import Wish
from chorograph_core.route.passes import OutOfReach
from chorograph_core.route.planner import PlanError
from chorograph_core.route.precedence import contradiction
from chorograph_core.route.progress import cut_off
from chorograph_core.steering.standing import stands_after
from chorograph_core.steering.why import why
from chorograph_core.stitching.legs import route_legs
from chorograph_core.stitching.standing import stands_with
from chorograph_core.tests.shapes import free_chart, irregular_top
from chorograph_core.zones import Zone, negative_space, zones_from_patches
from chorograph_core.zones import cutting as cuts
from chorograph_core.zones.divide import join
from chorograph_core.zones.model import ZoneError

CAN_BE_HELD = "cannot be drawn in this shape", "would leave"
"""What a layer says of itself that is the design's own fault."""
REASONS = 10
"""Steps of a route that are asked for their reason."""


def mixed_job(seed: int) -> Job:
    """The job numbered *seed*; the same each time."""
    chance = Random(seed)
    chart = _chart(chance)
    zones = list(zones_from_patches(chart))
    if Random(f"{seed}, background").random() < 0.15:
        zones = negative_space(chart, zones)
    zones = _joined(chance, _cut(chance, zones))
    zones = _let_in(Random(f"{seed}, a shape"), zones)
    job = Job(f"Mixed {seed}", chart, tuple(zones), legend=_legend(chance, zones),
              policy=_policy(chance), machine=_machine(chance))  # fmt: skip
    names = [zone.id for zone in zones]
    if chance.random() < 0.15 and len(names) > 3:
        away = Machine("sit-down machine", "sit-down", throat=18, bobbin_yards=35)
        some = tuple(chance.sample(names, len(names) // 2))
        job = replace(job, handover=Handover(away, some, "Imke"))
    wishes = tuple(_wish(chance, names) for _ in range(chance.choice((0, 0, 1, 3))))
    if len(names) > 3 and not contradiction(wishes):
        job = replace(job, policy=replace(job.policy, wishes=wishes))
    # As it is kept and read back.
    return read_archive(write_archive(job))


def faults_of(job: Job, seed: int) -> list[str]:
    """What is wrong with how *job* is drawn, planned, replayed, told, left twice in the middle of the work
    and taken up again; nothing for one that the planner refuses with a sentence."""
    chance, cache = Random(-seed), DrawingCache()
    drawn = job_linework(job, cache)
    faults = [f"{one.design} in {one.zone}: {one.fault}" for one in drawn
              if any(word in one.fault for word in CAN_BE_HELD)]  # fmt: skip
    if job.policy.retrace == "on":
        faults += _without_their_piece(drawn)
    if write_archive(read_archive(write_archive(job))) != write_archive(job):
        faults.append("the archive reads back as another job")
    try:
        route = planned_job(job, cache)
    except (PlanError, OutOfReach) as refused:
        return faults if str(refused).endswith(".") else [*faults, f"no sentence: {refused}"]
    faults += replayed_job(job, route)
    if route.avoidable < route.floor.avoidable - 1e-6:
        faults.append(f"{route.avoidable} lost where {route.floor.avoidable} are the least")
    document = json.loads(route_json(job, route, []))
    for units in ("in", "cm"):
        run_sheet(job, document, units)
        legs = route_legs(job, document, units)
        if not all(leg.title for leg in legs):
            faults.append("a leg without words")
        if legs and legs[-1].stop != len(route.steps):
            faults.append("steps in no leg")
    route_svg(job, route.steps)
    for number in chance.sample(range(len(route.steps)), min(REASONS, len(route.steps))):
        why(job, route.steps, number)
    return (
        faults
        + _taken_up_by_taps(job, route, legs, chance, cache)
        + _taken_up(job, route, chance, cache)
    )


def _without_their_piece(drawn: Sequence[LayerLinework]) -> list[str]:
    """The figures of which less is counted in the zones than is stitched, but for what lies between them."""
    found = []
    for whole in (one for one in wholes(drawn) if one.figure is not None):
        pieces = [one for one in drawn if one.figure is whole.figure and one.layer == whole.layer]
        counted, laid = stitched(pieces), stitched([whole])
        if counted < 0.95 * laid - 0.5:
            found.append(f"{whole.design}: {counted:.1f} of {laid:.1f} inches in the zones")
    return found


def stitched(drawn: Sequence[LayerLinework]) -> float:
    """Inches of stitching in linework, ways along an edge left out."""
    return sum(
        float(np.hypot(*np.diff(points, axis=0).T).sum())
        for one in drawn
        for run in one.linework.runs
        for points, _, kind in run.pieces()
        if kind == "stitch"
    )


def _taken_up_by_taps(
    job: Job, route: Route, legs, chance: Random, cache: DrawingCache
) -> list[str]:
    """What is wrong once some legs were tapped as done, for the most part in their order, some left out."""
    stop = chance.randint(0, len(legs))
    done = {leg.number for leg in legs[:stop] if chance.random() < 0.95}
    done |= {leg.number for leg in legs[stop:] if chance.random() < 0.03}
    passes = {each.number: (each.top, each.bottom) for each in route.passes}
    state = stands_with(job, route.steps, legs, done, passes, State())
    rest = planned_job(job, cache, state=read_state(state_values(state)))
    return [f"after {len(done)} legs: {fault}" for fault in replayed_job(job, rest, state)]


def _taken_up(job: Job, route: Route, chance: Random, cache: DrawingCache) -> list[str]:
    """What is wrong when the work is left twice in its middle and taken up again."""
    state = State()
    for _ in range(2):
        share, tops = chance.uniform(0.02, 0.97), {each.number: each.top for each in route.passes}
        seconds = share * sum(step.seconds for step in route.steps)
        state = stands_after(job, route.steps, tops, seconds, state)
        state = read_state(state_values(cut_off(state) if chance.random() < 0.4 else state))
        route = planned_job(job, cache, state=state)
        found = replayed_job(job, route, state)
        if found:
            return [f"from {share:.2f}: {fault}" for fault in found]
    return []


def _chart(chance: Random) -> Chart:
    blocks = tuple(chance.sample(sorted(block_library()), chance.randint(1, 3)))
    borders = tuple(layouts.Border(chance.choice((2, 3, 4.5)), chance.choice(("butted", "mitred")))
                    for _ in range(chance.randint(0, 2)))  # fmt: skip
    set_of = layouts.StraightSet
    strips = tuple(layouts.Strip(chance.choice((2, 3, 5, 8)), "abc"[k % 3]) for k in range(4))
    rows = (layouts.BlockRow(8, blocks[0]), layouts.BlockRow(6, blocks[-1]))
    placed = (layouts.Placed(16, 16, 10, blocks[0]), layouts.Placed(2, 3, 8, blocks[-1]))
    ways: Sequence[Callable[[], Chart]] = (
        lambda: set_of(chance.randint(1, 2), chance.randint(1, 3), chance.choice((6, 8, 9.5, 12)),
                       blocks, chance.choice((0, 1, 1.5)), False, True, borders).chart(),
        lambda: layouts.OnPoint(2, 2, chance.choice((6, 8)), blocks, "plain").chart(),
        lambda: layouts.OffsetRows(2, 2, 8, blocks, chance.choice((0, 1)), borders).chart(),
        lambda: layouts.BlockRows(24, rows).chart(),
        lambda: layouts.Strips(30, strips).chart(),
        lambda: layouts.Medallion(12, blocks[0], borders, borders).chart(),
        lambda: layouts.OpenField(30, 30, placed).chart(),
        free_chart,
        lambda: irregular_top(chance.randint(5, 20), (30.0, 36.0), chance.randrange(1000)),
    )  # fmt: skip
    try:
        return chance.choice(ways)()
    except ChartError:
        # Not every block has room everywhere.
        return free_chart()


def _cut(chance: Random, zones: list[Zone]) -> list[Zone]:
    for _ in range(chance.randint(0, 4)):
        zone = chance.choice(zones)
        way = [(chance.uniform(0, 30), chance.uniform(0, 30)) for _ in range(3)]
        tool = chance.choice(
            (cuts.centre_line(chance.random() < 0.5), cuts.diagonal(chance.random() < 0.5),
             cuts.circle(chance.uniform(1, 5)), cuts.inset(chance.uniform(0.3, 1.5)),
             cuts.band(chance.uniform(0.5, 2)), cuts.beside(0, chance.uniform(0.5, 2)), cuts.along(way))
        )  # fmt: skip
        try:
            pieces = cuts.cut([zone], tool)
        except ZoneError:
            continue
        zones = [*(other for other in zones if other.id != zone.id), *pieces]
    return zones


def _let_in(chance: Random, zones: list[Zone]) -> list[Zone]:
    """Now and then a shape drawn by hand, some of its edges close to where the piecing has its own."""
    if chance.random() > 0.2:
        return zones
    at = [tuple(point) for zone in zones for point in zone.polygon.exterior.coords]
    (left, top), (right, bottom) = chance.choice(at), chance.choice(at)
    sides = [
        side + chance.choice((0, 0.02, -0.03, 0.05, 0.3)) for side in (left, top, right, bottom)
    ]
    shape = (
        shapely.box(*sides)
        if chance.random() < 0.6
        else LineString([sides[:2], sides[2:]]).buffer(1.5)
    )
    try:
        return cuts.let_in(zones, shape, "f:1", "drawn by hand")
    except ZoneError:
        return zones


def _joined(chance: Random, zones: list[Zone]) -> list[Zone]:
    for _ in range(chance.randint(0, 2)):
        one = chance.choice(zones)
        beside = [zone for zone in zones if zone.id != one.id
                  and zone.polygon.intersection(one.polygon).length > 0.1]  # fmt: skip
        if not beside:
            continue
        other = chance.choice(beside)
        try:
            both = join([one, other], f"{one.id}+")
        except ZoneError:
            continue
        zones = [*(zone for zone in zones if zone.id not in (one.id, other.id)), both]
    return zones


def _legend(chance: Random, zones: Sequence[Zone]) -> tuple[Entry, ...]:
    count, threads = chance.randint(1, 6), ("clear", "indigo", "bracken")[: chance.randint(1, 3)]
    alike = chance.random() < 0.6
    groups: dict[int, list[str]] = {}
    for zone in zones:
        # By what they were made from, as a rule; else as they come.
        group = len(zone.patches[0]) if alike and zone.patches else chance.randrange(count)
        groups.setdefault(group % count, []).append(zone.id)
    made = []
    for group, names in sorted(groups.items()):
        layers = [Layer("ditch", {}, threads[0], 10.0)] if chance.random() < 0.7 else []
        for _ in range(chance.choice((1, 1, 1, 2))):
            key = chance.choice(sorted(designs()))
            over = chance.choice(("zone",) * 6 + ("varied", "region"))
            over = "sides" if over == "region" and group % 2 else over
            layers.append(
                Layer(key, _settings(chance, key), chance.choice(threads), chance.choice((8.0, 11.0, 14.0)),
                      chance.choice((1,) * 8 + (2, 3)), chance.randrange(50), designs()[key].version, over)
            )  # fmt: skip
        if chance.random() < 0.9:
            made.append(Entry(f"e{group}", f"group {group}", tuple(names), tuple(layers)))
    return tuple(made)


def _settings(chance: Random, key: str) -> dict:
    chosen = {each.key: _value(chance, each) for each in designs()[key].parameters
              if each.kind != "stroke" and chance.random() < 0.55}  # fmt: skip
    try:
        designs()[key].clean(chosen)
    except SettingError:
        return {}
    return chosen


def _value(chance: Random, parameter: Parameter):
    low, high = parameter.low, parameter.high
    if parameter.kind == "choice":
        return chance.choice([key for key, _ in parameter.choices])
    if parameter.kind == "count":
        return min(int(high), int(low) + chance.randint(0, 6))
    return chance.choice((low, high, chance.uniform(low, high), low + 0.3 * (high - low)))


def _policy(chance: Random) -> Policy:
    return Policy(
        stabilise=chance.choice(("quilt", "pass", "zone", "free")),
        technique=chance.choice(("mixed", "ruler", "design")),
        edges=chance.choice(("baste", "float", "border")),
        days=chance.choice(("passes", "basted")),
        oversized=chance.choice(("less", "split", "roll")),
        straight=chance.choice(("ruler", "ruler", "lock", "eye")),
        marking=chance.choice(("all", "spines", "none")),
        pen=chance.choice(("chalk", "soluble", "fading", "humid", "crease")),
        retrace=chance.choice(("on", "beside")),
        edge_finish=chance.choice(("binding", "turned", "faced", "knife")),
        whole_runs=chance.random() < 0.7,
        effort=chance.choice((0, 0, 1)),
    )


def _machine(chance: Random) -> Machine:
    return Machine(
        kind=chance.choice(("frame", "frame", "sit-down")), throat=chance.choice((16.0, 20.0, 24.0)),
        bobbin_yards=chance.choice((20.0, 85.0)), bury=chance.random() < 0.3,
        directions=chance.choice(("all", "all", "right", "left", "up", "down")),
        ruler_base=chance.random() < 0.3, seated=chance.random() < 0.2,
    )  # fmt: skip


def _wish(chance: Random, names: Sequence[str]) -> Wish:
    kind = chance.choice(("before", "first", "last", "kept", "around", "drawn"))
    zones = tuple(chance.sample(names, min(3, len(names))))
    if kind != "before" or len(zones) < 3:
        return Wish("first" if kind == "before" else kind, zones)
    return Wish("before", zones[:2], zones[2:])
