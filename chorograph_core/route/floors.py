"""The floor of a route: what no route over the same linework, in the same order of stages, can do without."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from chorograph_core.reckon import Machine
from chorograph_core.route.bound import path_bound
from chorograph_core.route.bundles import Bundle
from chorograph_core.route.ground import Ground
from chorograph_core.route.laying_out import Layout
from chorograph_core.route.model import Floor, Policy
from chorograph_core.route.network import Trail
from chorograph_core.route.pairing import islands_bound, pairing_bound, pairs_within
from chorograph_core.route.passes import fewest_rolls
from chorograph_core.route.securing import secures
from chorograph_core.route.travel_costs import travel_costs
from chorograph_core.route.walks import fewest_layings, islands_of, odd_nodes


def floor_of(
    lay: Layout, bundles: Mapping[str, Sequence[Bundle]], machine: Machine, policy: Policy, writer
) -> Floor:
    """The floor by kind; *bundles* are those of each kind of stage, *writer* wrote the steps."""
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
    sweeps = len(bundles) if policy.stabilise == "quilt" else 1
    top, bottom = lay.chart.outline.bounds[1::2]
    rolls = (
        fewest_rolls(machine, top, bottom) * sweeps * machine.rates.advance / 60 if stages else 0.0
    )
    if secures(machine, policy) and stages:
        # Each pass is begun with the needle up, since it is basted first: as many starts as passes.
        more = max(0, fewest_rolls(machine, top, bottom) + 1 - len(started | set(threads)))
        stages.append(("edges", more * cut))
    layings = sum(
        fewest_layings(lay.seams, numbers, machine.rates.ruler_reach)
        for numbers in lay.required.values()
    )
    return Floor(
        writer.link_price, writer.least_changes(), tuple(stages), rolls,
        _least_lookups(bundles, machine), layings,
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


def _least_lookups(bundles: Mapping[str, Sequence[Bundle]], machine: Machine) -> float:
    """Every kind of bundle is read once, every other one looked at; seams are read once a thread."""
    seconds = 0.0
    for members in bundles.values():
        kinds = len({bundle.signature for bundle in members})
        places = len({bundle.station.key for bundle in members})
        seconds += kinds * machine.rates.read_path
        seconds += max(0, places - kinds) * machine.rates.place_path
    return seconds / 60
