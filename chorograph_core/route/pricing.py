"""What an order of one's own costs, in every place where it would be followed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.reckon import Machine
from chorograph_core.route.bundles import likenesses, sorted_alike
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.model import Policy, RunOrder, State
from chorograph_core.route.paths import best_path, path_in_order
from chorograph_core.route.wishes import filled_before_framed, wished_order
from chorograph_core.route.works import gathered, stages_of


@dataclass(frozen=True)
class OrderPrice:
    """Minutes that travel and cuts take at each of *places* alike stations: *best* as the planner finds
    them, *wished* in the order asked for. *fault* is a sentence where it cannot be followed."""

    best: float
    wished: float
    places: int
    fault: str = ""


def price_of_order(
    chart, zones, drawn: Sequence[LayerLinework], machine: Machine, policy: Policy, order: RunOrder,
    cache: DrawingCache,
) -> OrderPrice:  # fmt: skip
    """What it costs to follow *order*, and in how many places it would be followed."""
    lay = laid_out(chart, zones, drawn, machine, policy, State(), cache)
    cut = machine.cut_seconds / 60
    names = frozenset(order)
    for stage in stages_of(lay, policy):
        work = gathered(lay, stage, policy)
        for k, bundle in enumerate(work.bundles):
            keys = [bundle.trail(number).key for number in bundle.trails]
            if frozenset(keys) != names or len(keys) != len(names) or bundle.links:
                continue
            if zone := filled_before_framed(bundle, order):
                return OrderPrice(0, 0, 0, f"{zone} would be filled before it is framed.")
            # All stations of the quilt in this thread, whatever pass they are in.
            everywhere = [
                each
                for other in stages_of(lay, policy)
                if other.name == stage.name
                for each in gathered(lay, other, policy).bundles
            ]
            place = next(i for i, each in enumerate(everywhere) if each.trails == bundle.trails)
            members = next(m for m in sorted_alike(everywhere) if place in [i for i, _ in m])
            ground = work.grounds[k]
            itself = list(likenesses(bundle, bundle))
            fixed = wished_order([(bundle, itself)], [tuple(order)])
            assert fixed is not None
            return OrderPrice(
                best_path(bundle, ground, cut, policy.effort).price,
                path_in_order(bundle, ground, cut, fixed).price,
                len(members),
            )
    return OrderPrice(
        0, 0, 0, "These runs no longer make up a place of their own; plan the route again."
    )
