"""Three hundred small tops solved exactly: floor, optimum, plan."""

from __future__ import annotations

import numpy as np

from bench.table import table
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.job import job_linework, planned_job
from chorograph_core.reckon import Machine
from chorograph_core.route import State
from chorograph_core.route.floors import ditch_bound, fill_bound
from chorograph_core.route.ground import Ground
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.pairing import pairs_within
from chorograph_core.route.tours import Item, best_tour
from chorograph_core.route.walks import islands_of, odd_nodes
from chorograph_core.tests.test_floors import CUT, small_job, travel_of
from chorograph_core.tests.test_walks import every_pairing

COUNT = 300
SAME = 1e-3


def main() -> None:
    """Print how many plans are the best there are, and that no floor lies above."""
    fills, ditches = [], []
    for seed in range(COUNT):
        job, cache = small_job(seed), DrawingCache()
        lay = laid_out(job.chart, job.zones, job_linework(job, cache), Machine(), job.policy, State(),
                       cache)  # fmt: skip
        route = planned_job(job, cache)
        trails = lay.network.trails
        if trails and len(trails) <= 8:
            fills.append((fill_bound(lay, list(trails), Machine()), _best(lay, trails),
                          travel_of(route, False)))  # fmt: skip
        required = lay.required.get("clear", [])
        odd = odd_nodes(lay.seams, required) if required else []
        if required and len(odd) <= 10 and len(islands_of(lay.seams, required)) == 1:
            ground = Ground(lay.seams, range(len(lay.seams.links)))
            pairs = pairs_within(ground, odd, CUT)
            best = every_pairing(pairs, len(odd), CUT) if odd else 0.0
            ditches.append((ditch_bound(ground, required, CUT), best, travel_of(route, True)))
    table(
        "Small tops solved exactly",
        [
            "",
            "tops",
            "floor above",
            "plan below",
            "plan is best %",
            "plan, min",
            "best, min",
            "floor, min",
        ],
        [["fillings", *_row(fills)], ["ditches", *_row(ditches)]],
    )


def _best(lay, trails) -> float:
    whole = Ground(lay.network, range(len(lay.network.links)))
    nodes = sorted({n for t in trails for pair in t.options() for n in pair})
    place = {node: k for k, node in enumerate(nodes)}
    items = [
        Item(np.array([place[a] for a, _ in t.options()]), np.array([place[b] for _, b in t.options()]),
             np.zeros(len(t.options())))
        for t in trails
    ]  # fmt: skip
    return best_tour(items, whole.prices(nodes, CUT)).price


def _row(found) -> list:
    floors, best, made = np.array(found).T
    return [
        len(found), int((floors > best + SAME).sum()), int((made < best - SAME).sum()),
        100 * float((made <= best + SAME).mean()), float(made.sum()), float(best.sum()), float(floors.sum()),
    ]  # fmt: skip
