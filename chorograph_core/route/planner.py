"""Plan the route: stages, trails, order, and the walk read off as steps."""

from __future__ import annotations

import gc
import time
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace

import numpy as np

from chorograph_core.chart import Chart
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.drawing import broken_ban
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.redrawing import redraw
from chorograph_core.reckon import Machine
from chorograph_core.route.bound import path_bound
from chorograph_core.route.ditches import ditch_trails, with_ends
from chorograph_core.route.model import Floor, Policy, Route, Stage, State
from chorograph_core.route.network import Network, Trail, build
from chorograph_core.route.order import best_order, choose_doors, settle, total
from chorograph_core.route.steps import StepWriter
from chorograph_core.route.travel_costs import narrowed, travel_costs
from chorograph_core.zones import Zone, bans_of

ENGINE = 2
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
) -> Route:
    """Plan a route over all *drawn* linework that *state* does not call done.

    Its stages are those of `stages_of`. The first plan is the plan from an empty state. Deterministic.
    Raises `PlanError` for linework in a zone the client has forbidden.
    """
    with _uncollected():
        return _plan(chart, zones, drawn, machine, policy, cache, progress, state or State())


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


def _plan(chart, zones, drawn, machine, policy, cache, progress, state) -> Route:
    began = time.perf_counter()
    cache = cache if cache is not None else DrawingCache()
    tell = progress or (lambda share, what: None)
    _refuse_banned(chart, zones, drawn, policy)
    tell(0.05, "laying out the seams")
    drawn = [_left_of(one, state) for one in drawn]
    network = build(chart, zones, drawn, policy, machine.rates, cache)
    for link in network.links:
        if link.thread and link.seam in state.done:
            link.thread = ""
    matrix = network.matrix()
    cut = machine.cut_seconds / 60
    writer = StepWriter(network, machine, policy, drawn, state)
    floors: list[tuple[str, float]] = []
    redrawn: dict[tuple[str, int], LayerLinework] = {}
    stages = stages_of(network, drawn, policy)
    for number, stage in enumerate(stages):
        kind, thread = stage.kind, stage.thread
        tell(0.1 + 0.85 * number / len(stages), f"{kind} in {thread}")
        if kind == "ditch":
            required = [k for k, link in enumerate(network.links) if link.thread == thread]
            trails, bound = ditch_trails(network, required, cut, f"ditch:{thread}")
            trails = [with_ends(network, trail) for trail in trails]
        else:
            trails = [t for t in network.trails if t.drawn and t.drawn.thread == thread]
            bound = None
        trails, order, doors, costs = _ordered(
            network, matrix, trails, machine, policy.effort, cache
        )
        if bound is None:
            bound = cut + path_bound(trails, costs, total(order, costs)) if trails else 0.0
        floors.append((stage.name, bound))
        writer.stage(kind, thread, [trails[end >> 1] for end in order], doors)
        redrawn.update({(t.drawn.zone, t.drawn.layer): t.drawn for t in trails if t.drawn})
    tell(0.97, "writing the steps")
    steps = writer.finish()
    floor = Floor(writer.link_price, writer.least_changes(), tuple(floors))
    worked = len({one.zone for one in drawn})
    final = [redrawn.get((one.zone, one.layer), one) for one in drawn]
    return Route(
        steps, floor, worked, time.perf_counter() - began, drawn=final,
        thread_inches=writer.used, end=writer.end(state),
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
    if not state.done or not any(one.key(k) in state.done for k in range(len(one.linework.runs))):
        return one
    runs = tuple(
        replace(run, figure=run.figure or str(k))
        for k, run in enumerate(one.linework.runs)
        if one.key(k) not in state.done
    )
    # With single runs gone the design is not drawn again: it would bring them back.
    return replace(one, linework=replace(one.linework, runs=runs), pattern=None)


def stages_of(network: Network, drawn: Sequence[LayerLinework], policy: Policy) -> list[Stage]:
    """What is done one after the other, as data: ditches, thread by thread, then fillings.

    Ditches come first so that nothing shifts; a thread already in the needle goes on into the
    fillings. One pass: the quilt is reached as a whole.
    """
    asked = list(dict.fromkeys(one.thread for one in drawn if one.role == "ditch"))
    ditches = [t for t in asked if any(link.thread == t for link in network.links)]
    depth: dict[str, list[int]] = defaultdict(list)
    for trail in network.trails:
        if trail.drawn is not None:
            depth[trail.drawn.thread].append(trail.layer)
    # Outer layers come first where threads differ: what frames a zone is stitched before its fill.
    fills = sorted(depth, key=lambda t: (np.mean(depth[t]), list(depth).index(t)))
    shared = [t for t in ditches if t in fills]
    if shared:
        ditches.sort(key=lambda t: t == shared[-1])
        fills.sort(key=lambda t: t != shared[-1])
    return [Stage("ditch", t) for t in ditches] + [Stage("fill", t) for t in fills]


def _ordered(network, matrix, trails: list[Trail], machine, effort: int, cache: DrawingCache):
    """Order and doorways of *trails*, with free ones drawn again between their doorways."""
    if not trails:
        return [], [], [], None
    rate = machine.rates.travel_seconds(1.0, "ditch") / 60
    costs = travel_costs(network, matrix, trails, machine.cut_seconds / 60, rate)
    kicks = int(min(8, 12_000 / len(trails)) * effort)
    order, doors, _ = settle(costs, trails, best_order(costs, len(trails)), kicks)
    framed = _outer_layers_first(order, trails)
    if framed != order:
        order, doors = framed, choose_doors(framed, trails, costs)
    if any(trail.free for trail in trails):
        trails, order = _redrawn(trails, order, doors, cache)
        costs = narrowed(costs, trails)
        doors = choose_doors(order, trails, costs)
    return trails, order, doors, costs


def _redrawn(trails: list[Trail], order: list[int], doors, cache: DrawingCache):
    """Trails with every free one drawn from its entry to its exit, or closed where those are one."""
    trails, order = list(trails), list(order)
    for place, (end, (entry, leave)) in enumerate(zip(order, doors, strict=True)):
        trail = trails[end >> 1]
        if not trail.free:
            continue
        start, stop = (trail.doors[trail.heads.index(node)] for node in (entry, leave))
        order[place] = end & ~1
        if entry == leave:
            trails[end >> 1] = replace(
                trail, heads=(entry,), tails=(entry,), closed=True, doors=(start,), free=False
            )
            continue
        assert trail.drawn is not None
        made = redraw(trail.drawn, start, stop, cache)
        trails[end >> 1] = replace(
            trail, heads=(entry,), tails=(leave,), run=made.linework.runs[0], drawn=made, free=False
        )
    return trails, order


def _outer_layers_first(order: list[int], trails: list[Trail]) -> list[int]:
    """Where a zone's inner layer came before its outer one, pull the outer one in front of it."""
    layers: dict[str, set[int]] = defaultdict(set)
    for trail in trails:
        layers[trail.zone].add(trail.layer)
    if all(len(found) < 2 for found in layers.values()):
        return order
    waiting: dict[str, list[int]] = defaultdict(list)
    for end in order:
        waiting[trails[end >> 1].zone].append(end)
    done: set[int] = set()
    sorted_order: list[int] = []
    for end in order:
        if end in done:
            continue
        trail = trails[end >> 1]
        if trail.zone:
            early = [
                e
                for e in waiting[trail.zone]
                if e not in done and trails[e >> 1].layer < trail.layer
            ]
            sorted_order += sorted(early, key=lambda e: trails[e >> 1].layer)
            done.update(early)
        sorted_order.append(end)
        done.add(end)
    return sorted_order
