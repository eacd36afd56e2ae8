"""What an order of one's own costs, in every place where it would be followed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.figures import wholes
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.reckon import Machine
from chorograph_core.route.bundles import likenesses, sorted_alike
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.model import Policy, RunOrder, State
from chorograph_core.route.paths import best_path, path_in_order
from chorograph_core.route.wishes import filled_before_framed, wished_order
from chorograph_core.route.works import works_of


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
    lay = laid_out(chart, zones, wholes(drawn), machine, policy, State(), cache)
    cut = machine.cut_seconds / 60
    names = frozenset(order)
    works = works_of(lay, policy)
    for work in works:
        for bundle, ground in zip(work.bundles, work.grounds, strict=True):
            keys = [bundle.trail(number).key for number in bundle.trails]
            if frozenset(keys) != names or len(keys) != len(names):
                continue
            if zone := filled_before_framed(bundle, order):
                return OrderPrice(0, 0, 0, f"{zone} would be filled before it is framed.")
            fixed = wished_order([(bundle, list(likenesses(bundle, bundle)))], [tuple(order)])
            assert fixed is not None
            # In whatever pass they lie.
            everywhere = [b for other in works if other.stage.name == work.stage.name
                          for b in other.bundles]  # fmt: skip
            return OrderPrice(
                best_path(bundle, ground, cut, policy.effort).price,
                path_in_order(bundle, ground, cut, fixed).price,
                next(len(each) for each in sorted_alike(everywhere)
                     if any(everywhere[place] is bundle for place, _ in each)),
            )  # fmt: skip
    return OrderPrice(
        0, 0, 0, "These runs no longer make up a place of their own; plan the route again."
    )
