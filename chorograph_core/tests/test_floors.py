"""Small tops solved exactly: the floor lies under the optimum, the optimum under the plan."""

from unittest import TestCase

import numpy as np
from shapely.geometry import box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job, job_linework, planned_job, replayed_job
from chorograph_core.reckon import Machine
from chorograph_core.route import State
from chorograph_core.route.floors import ditch_bound, fill_bound
from chorograph_core.route.ground import Ground
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.pairing import pairs_within
from chorograph_core.route.tours import Item, best_tour
from chorograph_core.route.walks import islands_of, odd_nodes
from chorograph_core.tests.test_walks import every_pairing
from chorograph_core.zones import zones_from_patches

FILLS = ("crosshatch", "inset_echo", "loops", "parallel", "ribbon_candy", "meander")
CUT = 1.0


def small_job(seed: int) -> Job:
    """Two to seven fields of random sizes, each with a fill in one thread, some with ditches."""
    rng = np.random.default_rng(seed)
    columns, rows = int(rng.integers(1, 4)), int(rng.integers(1, 3))
    xs = np.concatenate([[0], np.cumsum(rng.integers(2, 6, columns))]).astype(float)
    ys = np.concatenate([[0], np.cumsum(rng.integers(2, 6, rows))]).astype(float)
    patches = tuple(
        Patch(f"p{r}{c}", box(xs[c], ys[r], xs[c + 1], ys[r + 1]), "field")
        for r in range(rows)
        for c in range(columns)
    )
    chart = Chart(box(0, 0, xs[-1], ys[-1]), patches)
    zones = tuple(zones_from_patches(chart))
    legend = tuple(
        Entry(f"e{k}", "", (zone.id,),
              (*((Layer("ditch", {}, "clear"),) if rng.random() < 0.7 else ()),
               Layer(FILLS[int(rng.integers(len(FILLS)))], {}, "indigo", seed=seed)))
        for k, zone in enumerate(zones)
    )  # fmt: skip
    return Job(f"Small {seed}", chart, zones, legend=legend)


def travel_of(route, ditches: bool) -> float:
    """What a route loses between things of one thread, the first start left out."""
    thread = "clear" if ditches else "indigo"
    lost = sum(
        s.price for s in route.steps if s.kind == "travel" and s.thread == thread and not s.run
    )
    starts = [s.price for s in route.steps if s.kind == "start" and s.thread == thread]
    return lost + sum(starts[1:])


class ExactTests(TestCase):
    def test_the_floor_is_under_the_optimum_and_the_optimum_under_the_plan(self):
        at_best = 0
        for seed in range(60):
            job = small_job(seed)
            cache = DrawingCache()
            lay = laid_out(job.chart, job.zones, job_linework(job, cache), Machine(), job.policy,
                           State(), cache)  # fmt: skip
            route = planned_job(job, cache)
            trails = lay.network.trails
            whole = Ground(lay.network, range(len(lay.network.links)))
            nodes = sorted({n for t in trails for pair in t.options() for n in pair})
            place = {node: k for k, node in enumerate(nodes)}
            items = [
                Item(np.array([place[a] for a, _ in t.options()]),
                     np.array([place[b] for _, b in t.options()]), np.zeros(len(t.options())))
                for t in trails
            ]  # fmt: skip
            if len(items) > 8:
                continue
            best = best_tour(items, whole.prices(nodes, CUT)).price
            floor = fill_bound(lay, list(trails), Machine())
            made = travel_of(route, False)
            with self.subTest(seed):
                self.assertEqual(replayed_job(job, route), [])
                self.assertLessEqual(floor, best + 1e-4)
                self.assertGreaterEqual(made, best - 1e-3)
            at_best += made <= best + 1e-3
        # In most small tops no better order exists at all.
        self.assertGreater(at_best, 45)

    def test_ditches_against_every_pairing(self):
        for seed in range(60):
            job = small_job(seed)
            cache = DrawingCache()
            lay = laid_out(job.chart, job.zones, job_linework(job, cache), Machine(), job.policy,
                           State(), cache)  # fmt: skip
            required = lay.required.get("clear", [])
            ground = Ground(lay.seams, range(len(lay.seams.links)))
            odd = odd_nodes(lay.seams, required) if required else []
            if not required or len(odd) > 10 or len(islands_of(lay.seams, required)) > 1:
                continue
            pairs = pairs_within(ground, odd, CUT)
            best = every_pairing(pairs, len(odd), CUT) if odd else 0.0
            made = travel_of(planned_job(job, cache), True)
            with self.subTest(seed):
                self.assertAlmostEqual(ditch_bound(ground, required, CUT), best, places=5)
                self.assertGreaterEqual(made, best - 1e-4)
