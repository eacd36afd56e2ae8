"""The floor of a route: what no route over the same linework, in the same passes and order of stages, can
do without."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from chorograph_core.reckon import Machine
from chorograph_core.route.bound import path_bound
from chorograph_core.route.ground import Ground
from chorograph_core.route.holding import basted_first
from chorograph_core.route.laying_out import Layout
from chorograph_core.route.model import Floor, Policy
from chorograph_core.route.network import Trail
from chorograph_core.route.pairing import islands_bound, pairing_bound, pairs_within
from chorograph_core.route.passes import holding
from chorograph_core.route.securing import secures
from chorograph_core.route.steps import StepWriter
from chorograph_core.route.travel_costs import travel_costs
from chorograph_core.route.walks import fewest_layings, islands_of, odd_nodes
from chorograph_core.route.works import BORDER, Work, path_of

Bound = Callable[[Any], float]


def floor_of(
    lay: Layout, works: Sequence[Work], machine: Machine, policy: Policy, writer: StepWriter,
    travel: bool = True,
) -> Floor:  # fmt: skip
    """The floor by kind; *works* is all that is done, *writer* wrote the steps. Without *travel* nothing is
    said of what travel and cuts lose at least, which takes longest to find."""
    cut = machine.cut_seconds / 60
    held = _passes_held(lay, works)
    if policy.stabilise != "quilt":
        held = {"": [each for members in held.values() for each in members]}
    quick = policy.effort == 0
    stages: list[tuple[str, float]] = []
    if policy.stabilise == "quilt" and machine.roll_seconds / 60 >= cut and not quick and travel:
        by_pass = _by_pass(lay, works, cut)
        if secures(machine, policy) and by_pass and not basted_first(machine, policy):
            # Each pass is begun with the needle up, since it is basted first: as many starts as passes.
            # Over the whole quilt those would be counted twice, as ways from one pass to the next.
            visited = _passes_visited([each for members in held.values() for each in members])
            threads = {name.partition(":")[2] for name, _ in by_pass}
            by_pass.append(("edges", max(0, visited - len(threads)) * cut))
        stages = by_pass
    # Where passes bound it, looking at the whole quilt once more hardly does and takes as long again.
    bound = len(lay.passes) > 1 and any(
        name.startswith("fill") and minutes > 2 * cut for name, minutes in stages
    )
    whole = _whole(lay, works, machine, quick or bound) if travel else []
    stages = max(stages, whole, key=lambda each: sum(minutes for _, minutes in each))
    rolls = sum(_rolls_through(members) for members in held.values())
    if basted_first(machine, policy) and works:
        rolls += len(lay.passes) - 1
    layings = sum(
        fewest_layings(lay.seams, numbers, machine.rates.ruler_reach, lay.passes)
        for numbers in lay.required.values()
    )
    return Floor(
        writer.link_price, writer.least_changes(), tuple(stages),
        rolls * machine.roll_seconds / 60, _least_lookups(lay, works, machine), layings,
    )  # fmt: skip


def _stages(
    lay: Layout, works: Sequence[Work], cut: float, ditches: Bound, fills: Bound, apart: bool
) -> list[tuple[str, float]]:
    """What each kind of stage loses at least in travel and cuts. *ditches* and *fills* are bounds for some
    links and some runs; *apart*: the seams are walked in one go, so that they and what lies inside the
    places may be counted by themselves."""
    ground = Ground(lay.seams, range(len(lay.seams.links)))
    stages: list[tuple[str, float]] = []
    for thread, required in lay.required.items():
        bound = ditches(required)
        if apart:
            inside, seams = _places_of(works, thread)
            by_place = sum(
                # Where two passes part a place it is gone to twice, which saves a cut at most.
                max(0.0, ditch_bound(ground, links, cut) - (goes - 1) * cut)
                for links, goes in inside
            )
            bound = max(bound, ditches(seams) + by_place)
        stages.append((f"ditch:{thread}", bound + cut))
    for thread, trails in _fills(lay).items():
        # A thread that is in the needle already need not be started again.
        start = 0.0 if thread in lay.required else cut
        stages.append((f"fill:{thread}", fills(trails) + start))
    return stages


def _whole(lay: Layout, works: Sequence[Work], machine: Machine, quick: bool):
    """The stages over the whole quilt at once."""
    cut = machine.cut_seconds / 60
    ground = Ground(lay.seams, range(len(lay.seams.links)))
    return _stages(
        lay, works, cut, lambda links: ditch_bound(ground, links, cut),
        lambda trails: fill_bound(lay, trails, machine, quick), apart=len(lay.passes) == 1,
    )  # fmt: skip


def _by_pass(lay: Layout, works: Sequence[Work], cut: float):
    """The stages pass by pass."""
    return _stages(
        lay, works, cut, lambda links: ditches_by_pass(lay, links, cut),
        lambda trails: fills_by_pass(lay, trails, cut), apart=True,
    )  # fmt: skip


def _fills(lay: Layout) -> dict[str, list[Trail]]:
    """The runs that are no ditches, by thread."""
    found: dict[str, list[Trail]] = defaultdict(list)
    for trail in lay.network.trails:
        assert trail.drawn is not None
        found[trail.drawn.thread].append(trail)
    return found


def _places_of(works: Sequence[Work], thread: str) -> tuple[list[tuple[list[int], int]], list[int]]:
    """The ditches inside each place and how often it is gone to, and the seams between: those come first
    in a pass, and a place is done in one go, so that neither is a way for the other."""
    inside: dict[str, tuple[list[int], int]] = {}
    seams: list[int] = []
    for work in works:
        if work.stage.kind == "ditch" and work.stage.thread == thread:
            seams += work.seams
            for bundle in work.bundles:
                links, goes = inside.get(bundle.station.key, ([], 0))
                inside[bundle.station.key] = ([*links, *bundle.links], goes + 1)
    return list(inside.values()), seams


def ditch_bound(ground: Ground, required: Sequence[int], cut: float) -> float:
    """Lower bound in minutes on travel and cuts, the first start left out, of any walks over the
    *required* links of *ground*: odd ends must be paired, islands must be reached."""
    if not required:
        return 0.0
    odd = odd_nodes(ground.network, required)
    pairs = pairs_within(ground, odd, cut)
    islands = islands_of(ground.network, required)
    return max(pairing_bound(pairs, len(odd), cut), islands_bound(ground, islands, cut))


def fill_bound(lay: Layout, trails: list[Trail], machine: Machine, quick: bool = False) -> float:
    """Lower bound in minutes on what joins *trails*, the first start left out."""
    if len(trails) < 2:
        return 0.0
    cut = machine.cut_seconds / 60
    costs = travel_costs(lay.network, lay.network.matrix(), trails, cut)
    return path_bound(trails, costs, quick)


def ditches_by_pass(lay: Layout, required: Sequence[int], cut: float) -> float:
    """The same, pass by pass: what only one pass holds is stitched when the quilt lies there.

    What another pass holds too is there for nothing, as a way. To lie there once more saves a cut at
    most, and rolling the quilt back costs more than that.
    """
    seams = lay.seams
    only: dict[int, list[int]] = defaultdict(list)
    free = np.zeros(len(seams.links), bool)
    for number in required:
        held = holding(lay.passes, seams.tops[number], seams.bottoms[number])
        if len(held) == 1:
            only[held[0]].append(number)
        free[number] = len(held) > 1
    if len(only) < 2:
        return 0.0
    total = 0.0
    for each in lay.passes:
        if each.number in only:
            ground = Ground(seams, lay.on_seams.ground(each).links, free)
            total += ditch_bound(ground, only[each.number], cut)
    return total


def fills_by_pass(lay: Layout, trails: list[Trail], cut: float) -> float:
    """The same for runs."""
    network = lay.network
    only: dict[int, list[Trail]] = defaultdict(list)
    shared: list[tuple[int, int]] = []
    for trail in trails:
        assert trail.run is not None
        levels = trail.run.points[:, 1]
        held = holding(lay.passes, levels.min(), levels.max())
        if len(held) == 1:
            only[held[0]].append(trail)
        else:
            shared += [pair for pair in trail.options() if pair[0] != pair[1]]
    if len(only) < 2:
        return 0.0
    total = 0.0
    for each in lay.passes:
        if len(only.get(each.number, ())) > 1:
            matrix = network.matrix(lay.on_network.ground(each).links, shared)
            costs = travel_costs(network, matrix, only[each.number], cut)
            total += path_bound(only[each.number], costs)
    return total


def _passes_held(lay: Layout, works: Sequence[Work]) -> dict[str, list[tuple[int, int]]]:
    """For each kind of stage the first and last pass that holds each thing in it."""
    found: dict[str, list[tuple[int, int]]] = defaultdict(list)
    for work in works:
        stage = work.stage
        if stage.technique == BORDER:
            # The seam of the border is locked in the same passes as the other ditches: no rolling for it.
            stage = replace(stage, technique="")
        seams = [*work.seams, *(number for bundle in work.bundles for number in bundle.links)]
        spans = [(lay.seams.tops[number], lay.seams.bottoms[number]) for number in seams]
        for bundle in work.bundles:
            levels = [bundle.trail(n).run.points[:, 1] for n in bundle.trails]  # type: ignore[union-attr]
            spans += [(each.min(), each.max()) for each in levels]
        for span in spans:
            held = holding(lay.passes, *span)
            if held:
                found[stage.name].append((held[0], held[-1]))
    return dict(found)


def _rolls_through(held: Sequence[tuple[int, int]]) -> int:
    """Rolls between the passes in which everything *held* by (first, last) passes can be done: who does
    it all comes at least as far as each first one, and at least as far back as each last one."""
    return max(
        0, max((first for first, _ in held), default=0) - min((last for _, last in held), default=0)
    )


def _passes_visited(held: Sequence[tuple[int, int]]) -> int:
    """Fewest passes in which all can be done: the next one as late as what is left allows."""
    count, at = 0, 0
    for first, last in sorted(held, key=lambda each: each[1]):
        if first > at:
            count, at = count + 1, last
    return count


def _least_lookups(lay: Layout, works: Sequence[Work], machine: Machine) -> float:
    """In each kind of stage every kind of place is read once and every other place looked at; what no
    station holds is read in as many passes as it takes. Whoever goes to no place twice knows a place by
    the same path as another only where all its work lies alike."""
    rates = machine.rates
    goes: dict[str, dict[str, list[tuple]]] = defaultdict(lambda: defaultdict(list))
    between: dict[str, list[tuple[int, int]]] = defaultdict(list)
    for work in works:
        for number in work.seams:
            held = holding(lay.passes, lay.seams.tops[number], lay.seams.bottoms[number])
            if held:
                between[work.stage.name].append((held[0], held[-1]))
        for k, bundle in enumerate(work.bundles):
            goes[work.stage.name][bundle.station.key].append(path_of(lay, work, k))
    seconds = sum(_passes_visited(held) * rates.read_path for held in between.values())
    for places in goes.values():
        kinds = max(1, len({each[0] for each in places.values() if len(each) == 1}))
        seconds += kinds * rates.read_path + (len(places) - kinds) * rates.place_path
    return seconds / 60
