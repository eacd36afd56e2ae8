"""The floor of a route: what no route over the same linework, in the same passes and order of stages, can
do without."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence

from chorograph_core.reckon import Machine
from chorograph_core.route.bound import path_bound
from chorograph_core.route.ground import Ground
from chorograph_core.route.laying_out import Layout
from chorograph_core.route.model import Floor, Policy
from chorograph_core.route.network import Trail
from chorograph_core.route.pairing import islands_bound, pairing_bound, pairs_within
from chorograph_core.route.passes import holding
from chorograph_core.route.securing import secures
from chorograph_core.route.steps import StepWriter
from chorograph_core.route.travel_costs import travel_costs
from chorograph_core.route.walks import fewest_layings, islands_of, odd_nodes
from chorograph_core.route.works import Work


def floor_of(
    lay: Layout, works: Sequence[Work], machine: Machine, policy: Policy, writer: StepWriter
) -> Floor:
    """The floor by kind; *works* is all that is done, *writer* wrote the steps."""
    cut = machine.cut_seconds / 60
    whole = Ground(lay.seams, range(len(lay.seams.links)))
    stages: list[tuple[str, float]] = []
    started: set[str] = set()
    for thread, required in lay.required.items():
        bound = ditch_bound(whole, required, cut)
        stages.append((f"ditch:{thread}", bound + cut))
        started.add(thread)
    threads = list(dict.fromkeys(t.drawn.thread for t in lay.network.trails if t.drawn))
    for thread in threads:
        trails = [t for t in lay.network.trails if t.drawn and t.drawn.thread == thread]
        bound = fill_bound(lay, trails, machine)
        # A thread that is in the needle already need not be started again.
        stages.append((f"fill:{thread}", bound + (0.0 if thread in started else cut)))
    held = _passes_held(lay, works)
    if policy.stabilise != "quilt":
        held = {"": [each for members in held.values() for each in members]}
    rolls = sum(_rolls_through(members) for members in held.values())
    if secures(machine, policy) and stages:
        # Each pass is begun with the needle up, since it is basted first: as many starts as passes.
        visited = _passes_visited([each for members in held.values() for each in members])
        stages.append(("edges", max(0, visited - len(started | set(threads))) * cut))
    layings = sum(
        fewest_layings(lay.seams, numbers, machine.rates.ruler_reach)
        for numbers in lay.required.values()
    )
    return Floor(
        writer.link_price, writer.least_changes(), tuple(stages),
        rolls * machine.rates.advance / 60, _least_lookups(lay, works, machine), layings,
    )  # fmt: skip


def ditch_bound(ground: Ground, required: Sequence[int], cut: float) -> float:
    """Lower bound in minutes on travel and cuts, the first start left out, of any walks over the
    *required* links of *ground*: odd ends must be paired, islands must be reached."""
    odd = odd_nodes(ground.network, required)
    pairs = pairs_within(ground, odd, cut)
    islands = islands_of(ground.network, required)
    return max(pairing_bound(pairs, len(odd), cut), islands_bound(ground, islands, cut))


def fill_bound(lay: Layout, trails: list[Trail], machine: Machine) -> float:
    """Lower bound in minutes on what joins *trails*, the first start left out."""
    if len(trails) < 2:
        return 0.0
    cut = machine.cut_seconds / 60
    costs = travel_costs(lay.network, lay.network.matrix(), trails, cut)
    return path_bound(trails, costs, (len(trails) - 1) * cut)


def _passes_held(lay: Layout, works: Sequence[Work]) -> dict[str, list[tuple[int, int]]]:
    """For each kind of stage the first and last pass that holds each thing in it."""
    found: dict[str, list[tuple[int, int]]] = defaultdict(list)
    for work in works:
        seams = [*work.seams, *(number for bundle in work.bundles for number in bundle.links)]
        spans = [(lay.seams.tops[number], lay.seams.bottoms[number]) for number in seams]
        for bundle in work.bundles:
            levels = [bundle.trail(n).run.points[:, 1] for n in bundle.trails]  # type: ignore[union-attr]
            spans += [(each.min(), each.max()) for each in levels]
        for span in spans:
            held = holding(lay.passes, *span)
            if held:
                found[work.stage.name].append((held[0], held[-1]))
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
    """Every kind of place is read once, every other place looked at, in each kind of stage. Places are of
    one kind when they have the same designs and as many inner seams, whatever pass they are in."""
    contents: dict[str, dict[str, set]] = defaultdict(lambda: defaultdict(set))
    for work in works:
        for bundle in work.bundles:
            there = contents[work.stage.name][bundle.station.key]
            for trail in map(bundle.trail, bundle.trails):
                assert trail.drawn is not None
                there.add((trail.drawn.design, trail.layer, trail.key))
            there |= {("", 0, lay.seams.links[number].seam) for number in bundle.links}
    seconds = 0.0
    for places in contents.values():
        kinds = len({tuple(sorted(Counter(each[:2] for each in there).items()))
                     for there in places.values()})  # fmt: skip
        seconds += kinds * machine.rates.read_path
        seconds += (len(places) - kinds) * machine.rates.place_path
    return seconds / 60
