"""Small tops solved exactly: the floor lies under the optimum, the optimum under the plan."""

import itertools
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job, job_linework, planned_job, replayed_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.route import State
from chorograph_core.route.floors import ditch_bound, fill_bound, least_rolls
from chorograph_core.route.ground import Ground
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.pairing import pairs_within
from chorograph_core.route.tours import Item, best_tour
from chorograph_core.route.walks import islands_of, odd_nodes
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import designed
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


class KindTests(TestCase):
    """The floor of every kind lies under what the route loses to it, and their sum with what not all can
    be least at once."""

    def check(self, job: Job) -> None:
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        kinds, floor = route.lost_by_kind, route.floor
        self.assertLessEqual(floor.rolls, kinds["rolls"] + 1e-6)
        self.assertLessEqual(floor.lookups, kinds["lookups"] + 1e-6)
        self.assertLessEqual(floor.changes, kinds["changes"] + 1e-6)
        self.assertLessEqual(floor.travel + floor.links, kinds["travel"] + kinds["cuts"] + 1e-4)
        self.assertLessEqual(floor.layings, route.layings)
        self.assertLessEqual(floor.avoidable, route.avoidable + 1e-4)

    @long
    @settings(max_examples=examples(5), deadline=None)
    @given(
        some.integers(1, 3), some.integers(1, 2), some.sampled_from([0, 1.25]), some.booleans(),
        some.sampled_from(["quilt", "pass", "zone", "free"]), some.sampled_from(["mixed", "ruler", "design"]),
        some.booleans(), some.sampled_from(["baste", "float", "border"]),
        some.sampled_from(["passes", "basted"]), some.integers(17, 30),
    )  # fmt: skip
    def test_whatever_the_top_the_school_and_the_machine(
        self, rows, columns, sashing, bordered, stabilise, technique, sitting, edges, days, throat
    ):
        borders = (Border(3, "mitred"),) if bordered else ()
        job = designed(StraightSet(rows, columns, 7, ("sawtooth_star", "nine_patch"), sashing,
                                   borders=borders))  # fmt: skip
        policy = replace(job.policy, stabilise=stabilise, technique=technique, edges=edges,
                         days=days, effort=1)  # fmt: skip
        kind = "sit-down" if sitting else "frame"
        self.check(replace(job, policy=policy, machine=Machine(kind=kind, throat=throat)))

    @long
    def test_whatever_things_take(self):
        """Rates at either end: a cut for nothing, a laying for very long, a known path longer than to
        read it."""
        blocks, borders = ("sawtooth_star", "nine_patch"), (Border(3, "mitred"),)
        job = designed(StraightSet(2, 2, 7, blocks, 1.25, borders=borders))
        policy = replace(job.policy, effort=1)
        for rate, seconds in (("cut", 0.0), ("ruler_move", 1200.0), ("place_path", 120.0)):
            machine = Machine(kind="sit-down", throat=20)
            machine = replace(machine, rates=replace(machine.rates, **{rate: seconds}))
            with self.subTest(rate=rate, seconds=seconds):
                self.check(replace(job, policy=policy, machine=machine))

    @long
    def test_the_seam_of_the_border_is_no_rolling_of_its_own(self):
        job = designed(StraightSet(3, 1, 7, ("sawtooth_star",), borders=(Border(3, "mitred"),)))
        policy = replace(job.policy, stabilise="quilt", edges="border", effort=1)
        self.check(replace(job, policy=policy, machine=Machine(kind="frame", throat=17)))

    @long
    def test_a_thread_in_one_corner_only_need_not_roll_through_the_quilt(self):
        job = designed(StraightSet(6, 2, 8, ("nine_patch",)))
        zones = (job.zones[0].id, job.zones[-1].id)
        for zone in zones:
            rest = tuple(
                replace(e, zones=tuple(z for z in e.zones if z != zone)) for e in job.legend
            )
            alone = Entry("alone", "", (zone,), (Layer("meander", {}, "bracken"),))
            self.check(job.with_legend((*rest, alone)))

    def test_work_in_the_first_and_the_last_row_alone(self):
        chart = StraightSet(6, 2, 8, ("plain",)).chart()
        zones = tuple(zones_from_patches(chart))
        ends = tuple(z.id for z in zones[:2]) + tuple(z.id for z in zones[-2:])
        layers = (Layer("ditch", {}, "clear"), Layer("crosshatch", {}, "indigo"))
        self.check(Job("Ends", chart, zones, legend=(Entry("e", "", ends, layers),)))


@long
class ExactTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.tops = []
        for seed in range(40):
            job, cache = small_job(seed), DrawingCache()
            lay = laid_out(job.chart, job.zones, job_linework(job, cache), Machine(), job.policy,
                           State(), cache)  # fmt: skip
            cls.tops.append((seed, job, lay, planned_job(job, cache)))

    @long
    def test_the_floor_is_under_the_optimum_and_the_optimum_under_the_plan(self):
        at_best = 0
        for seed, job, lay, route in self.tops:
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
        self.assertGreater(at_best, 30)

    def test_ditches_against_every_pairing(self):
        for seed, _, lay, route in self.tops:
            required = lay.required.get("clear", [])
            ground = Ground(lay.seams, range(len(lay.seams.links)))
            odd = odd_nodes(lay.seams, required) if required else []
            if not required or len(odd) > 10 or len(islands_of(lay.seams, required)) > 1:
                continue
            pairs = pairs_within(ground, odd, CUT)
            best = every_pairing(pairs, len(odd), CUT) if odd else 0.0
            made = travel_of(route, True)
            with self.subTest(seed):
                self.assertAlmostEqual(ditch_bound(ground, required, CUT), best, places=5)
                self.assertGreaterEqual(made, best - 1e-4)


class RollTests(TestCase):
    @settings(max_examples=examples(60), deadline=None)
    @given(
        some.lists(
            some.lists(some.tuples(some.integers(1, 5), some.integers(0, 2)), max_size=4),
            max_size=4,
        )
    )
    def test_the_fewest_rolls_of_all_ways_to_visit_the_passes(self, kinds):
        """Each thing in one of the passes that hold it, kind after kind, by going through all orders."""
        held = [[(first, min(5, first + more)) for first, more in members] for members in kinds]
        reached = dict.fromkeys(range(1, 6), 0)
        for members in held:
            after: dict[int, int] = {}
            for chosen in itertools.product(*(range(first, last + 1) for first, last in members)):
                for order in itertools.permutations(sorted(set(chosen))):
                    for at, rolls in reached.items():
                        way = [at, *order]
                        more = rolls + sum(abs(a - b) for a, b in itertools.pairwise(way))
                        after[way[-1]] = min(more, after.get(way[-1], more))
            reached = after
        self.assertEqual(least_rolls(held), min(reached.values()))
