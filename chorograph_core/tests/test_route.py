"""Routes: replayed clean, never below the floor, near the optimum where that can be known."""

from dataclasses import replace
from itertools import combinations
from unittest import TestCase, mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some
from ortools.sat.python import cp_model
from shapely.geometry import box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job, job_linework, planned_job, replayed_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.reckon import Machine, Rates
from chorograph_core.route import PlanError, Policy
from chorograph_core.route.bound import path_bound
from chorograph_core.route.ditches import ditch_trails
from chorograph_core.route.network import Link, Network, build
from chorograph_core.route.order import best_order, settle
from chorograph_core.route.pairing import (
    _by_windows,
    _cost,
    _half_assignment,
    _near_odd,
    pair_odd_ends,
)
from chorograph_core.route.travel_costs import travel_costs
from chorograph_core.tests.shapes import designed, free_chart, small_top
from chorograph_core.zones import zones_from_patches


def faults_of(job: Job, route) -> list[str]:
    return replayed_job(job, route)


class PlanTests(TestCase):
    def test_a_whole_top_is_stitched_and_replays_clean(self):
        job = designed(small_top(2, 3))
        route = planned_job(job)
        self.assertEqual(faults_of(job, route), [])
        self.assertLessEqual(route.floor.lost_minutes, route.lost_minutes + 1e-6)
        self.assertLess(route.gap, 0.6)
        asked = {one.key(k) for one in route.drawn for k, r in enumerate(one.linework.runs)
                 if not r.in_ditch}  # fmt: skip
        stitched = {
            s.run for s in route.steps if s.kind == "stitch" and not s.run.startswith("ditch")
        }
        self.assertEqual(asked, stitched)

    def test_the_same_job_gives_the_same_route(self):
        job = designed(small_top(1, 2))
        one, two = planned_job(job), planned_job(job, DrawingCache())
        self.assertEqual(len(one.steps), len(two.steps))
        for a, b in zip(one.steps, two.steps, strict=True):
            self.assertEqual(a.points.tobytes(), b.points.tobytes())

    @settings(max_examples=6, deadline=None)
    @given(
        some.integers(1, 2), some.integers(1, 2), some.sampled_from([0, 1.0, 1.5]),
        some.sampled_from(["binding", "turned", "faced"]), some.booleans(),
    )  # fmt: skip
    def test_any_small_top_and_edge_finish(self, rows, columns, sashing, finish, bordered):
        borders = (Border(3, "mitred"),) if bordered else ()
        job = designed(StraightSet(rows, columns, 6, ("sawtooth_star", "pinwheel"), sashing,
                                   borders=borders), finish)  # fmt: skip
        route = planned_job(job)
        self.assertEqual(faults_of(job, route), [])
        self.assertLessEqual(route.floor.lost_minutes, route.lost_minutes + 1e-6)

    def test_a_chart_of_any_polygons(self):
        chart = free_chart()
        zones = tuple(zones_from_patches(chart))
        layers = (Layer("ditch", {}, "clear"), Layer("meander", {"gap": 0.5}, "indigo"))
        job = Job("Odd", chart, zones, legend=(Entry("e", "", tuple(z.id for z in zones), layers),))
        route = planned_job(job)
        self.assertEqual(faults_of(job, route), [])

    def test_layers_of_a_zone_come_in_their_order(self):
        chart = StraightSet(1, 2, 8, ("plain",), borders=(Border(2),)).chart()
        zones = tuple(zones_from_patches(chart))
        layers = (Layer("inset_echo", {}, "indigo"), Layer("meander", {}, "indigo"))
        job = Job(
            "Framed", chart, zones, legend=(Entry("e", "", tuple(z.id for z in zones[:2]), layers),)
        )
        route = planned_job(job)
        self.assertEqual(faults_of(job, route), [])

    def test_nothing_to_stitch_is_an_empty_route(self):
        chart = small_top().chart()
        route = planned_job(Job("Bare", chart, tuple(zones_from_patches(chart))))
        self.assertEqual([s for s in route.steps if s.kind != "mark"], [])

    def test_a_forbidden_zone_is_refused_and_left_empty(self):
        job = designed(small_top(1, 1))
        zones = (replace(job.zones[0], forbidden=True), *job.zones[1:])
        banned = replace(job, zones=zones)
        self.assertFalse([d for d in job_linework(banned) if d.zone == zones[0].id])
        self.assertEqual(faults_of(banned, planned_job(banned)), [])
        from chorograph_core.route import plan

        with self.assertRaises(PlanError):
            plan(banned.chart, banned.zones, job_linework(job), job.machine, job.policy)

    def test_bobbins_are_changed_before_they_run_out(self):
        job = replace(designed(small_top(1, 2)), machine=Machine(bobbin_yards=12))
        route = planned_job(job)
        self.assertEqual(faults_of(job, route), [])
        self.assertGreater(sum(s.kind == "bobbin" for s in route.steps), 3)

    def test_dearer_cuts_make_fewer_of_them(self):
        job = designed(small_top(2, 2))
        cheap = planned_job(replace(job, machine=Machine(rates=Rates(cut=4))))
        dear = planned_job(replace(job, machine=Machine(bury=True)))
        self.assertLess(dear.cuts, cheap.cuts)
        self.assertEqual(faults_of(job, cheap), [])


def grid(rows: int, columns: int, step: float = 2.0) -> Network:
    """A net of required ditches, *rows* by *columns* nodes."""
    network = Network()
    nodes = [[network.add_node((c * step, r * step)) for c in range(columns)] for r in range(rows)]
    for r in range(rows):
        for c in range(columns):
            for rr, cc in ((r, c + 1), (r + 1, c)):
                if rr < rows and cc < columns:
                    a, b = nodes[r][c], nodes[rr][cc]
                    points = np.array([network.nodes[a], network.nodes[b]])
                    network.add_link(Link(a, b, points, step, "ditch", step / 45, "t"))
    return network


class PairingTests(TestCase):
    def test_against_every_pairing_of_small_nets(self):
        for rows, columns, cut in ((3, 3, 1.0), (3, 4, 0.5), (2, 5, 0.06), (3, 4, 9.0)):
            network = grid(rows, columns)
            odd = [n for n in range(len(network.nodes)) if len(network.ways[n]) % 2]
            found = pair_odd_ends(network, odd, cut)
            with self.subTest(rows=rows, columns=columns, cut=cut):
                self.assertAlmostEqual(found.cost, self._every(network, odd, cut), places=5)
                self.assertAlmostEqual(found.bound, found.cost, places=5)

    def _every(self, network, odd, cut):
        price = {
            pair: sum(network.links[n].price for n, _ in network.path(*pair))
            for pair in combinations(odd, 2)
        }

        def best(rest):
            if not rest:
                return 0.0
            first, others = rest[0], rest[1:]
            alone = cut / 2 + best(others)
            return min(
                [
                    alone,
                    *(price[first, b] + best(tuple(o for o in others if o != b)) for b in others),
                ]
            )

        # Some walk begins at one odd end and stops at another: one start, and those two are free.
        return min(cut + best(tuple(o for o in odd if o not in pair)) for pair in price)

    def test_windows_and_half_assignment_hold_the_exact_pairing_between_them(self):
        network = grid(14, 14)
        odd = [n for n in range(len(network.nodes)) if len(network.ways[n]) % 2]
        ways = _near_odd(network, odd, 1.0)
        exact = pair_odd_ends(network, odd, 1.0).cost
        upper = _cost(_by_windows(network, odd, ways, 1.0), ways, len(odd), 1.0)
        lower = _half_assignment(ways, len(odd), 1.0)
        self.assertLessEqual(lower, exact + 1e-6)
        # Windows know nothing of the free beginning and end of the walk.
        self.assertLessEqual(exact, upper + 1.0 + 1e-6)

    def test_trails_stitch_every_ditch_once(self):
        network = grid(5, 6)
        trails, bound = ditch_trails(network, range(len(network.links)), 1.0, "d")
        seen = [number for trail in trails for number, _ in trail.walk]
        self.assertEqual(set(seen), set(range(len(network.links))))
        extra = sum(network.links[n].price for n in seen) - sum(
            link.price for link in network.links
        )
        self.assertGreaterEqual(extra + len(trails) * 1.0, bound - 1e-9)
        for trail in trails:
            for (number, start), (_, onward) in zip(trail.walk[:-1], trail.walk[1:], strict=True):
                link = network.links[number]
                self.assertEqual(onward, link.b if start == link.a else link.a)


class OrderTests(TestCase):
    """Ours and the floor against CP-SAT on small stages."""

    def stage(self, seed):
        rng = np.random.default_rng(seed)
        patches = tuple(
            Patch(f"p{r}{c}", box(3 * c, 3 * r, 3 * c + 3, 3 * r + 3))
            for r in range(3)
            for c in range(3)
        )
        chart = Chart(box(0, 0, 9, 9), patches)
        zones = tuple(zones_from_patches(chart))
        keys = ["crosshatch", "inset_echo", "loops", "parallel", "ribbon_candy"]
        legend = tuple(
            Entry(f"e{k}", "", (zone.id,), (Layer(keys[int(rng.integers(5))], {}, "t", seed=seed),))
            for k, zone in enumerate(zones)
        )
        job = Job("Nine", chart, zones, legend=legend)
        drawn = job_linework(job)
        network = build(chart, zones, drawn, Policy(), Rates())
        return network, list(network.trails)

    def exact(self, trails, ways):
        model = cp_model.CpModel()
        options = [(k, option) for k, trail in enumerate(trails) for option in trail.options()]
        arcs, prices = [], []

        def arc(a, b, price):
            literal = model.new_bool_var("")
            arcs.append((a, b, literal))
            prices.append((literal, round(price * 1e6)))
            return literal

        unused = [model.new_bool_var("") for _ in options]
        for n in range(len(options)):
            arcs.append((n + 1, n + 1, unused[n]))
            arc(0, n + 1, 0)
            arc(n + 1, 0, 0)
        for a, (k, one) in enumerate(options):
            for b, (j, two) in enumerate(options):
                if k != j:
                    arc(a + 1, b + 1, min(ways.nodes[one[1]].get(two[0], ways.cut), ways.cut))
        for k in range(len(trails)):
            model.add_exactly_one(unused[n].negated() for n, (j, _) in enumerate(options) if j == k)
        model.add_circuit(arcs)
        model.minimize(sum(literal * price for literal, price in prices))
        solver = cp_model.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.max_deterministic_time = 8
        status = solver.solve(model)
        return solver.best_objective_bound / 1e6, solver.objective_value / 1e6, status

    def test_between_the_floor_and_the_optimum(self):
        for seed in range(3):
            network, trails = self.stage(seed)
            ways = travel_costs(network, network.matrix(), trails, 1.0, 1 / 45)
            _, _, price = settle(ways, trails, best_order(ways, len(trails)), 40)
            floor = path_bound(trails, ways, price)
            low, high, status = self.exact(trails, ways)
            with self.subTest(seed):
                self.assertIn(status, (cp_model.OPTIMAL, cp_model.FEASIBLE))
                self.assertLessEqual(floor, high + 1e-5)
                self.assertGreaterEqual(price, low - 1e-5)
                self.assertLessEqual(price, high * 1.12 + 0.02)

    def test_more_ends_than_a_table_holds(self):
        """Large tops look prices up one by one: known ones are the same, others never above a cut."""
        for seed in range(3):
            network, trails = self.stage(seed)
            tabled = travel_costs(network, network.matrix(), trails, 1.0, 1 / 45)
            with mock.patch("chorograph_core.route.travel_costs.TABLED", 0):
                looked = travel_costs(network, network.matrix(), trails, 1.0, 1 / 45)
                order, doors, price = settle(looked, trails, best_order(looked, len(trails)), 40)
            self.assertIsNone(looked.table)
            self.assertEqual(tabled.near, looked.near)
            prices, ends = looked.prices(), range(2 * len(trails))
            for a, b in ((a, b) for a in ends for b in ends if a >> 1 != b >> 1):
                self.assertLessEqual(prices[a][b], looked.cut)
                if b in looked.ends[a]:
                    self.assertEqual(prices[a][b], tabled.price(a, b))
            with self.subTest(seed):
                self.assertEqual(sorted(end >> 1 for end in order), list(range(len(trails))))
                self.assertEqual(len(doors), len(trails))
                self.assertGreaterEqual(price, path_bound(trails, tabled, price) - 1e-5)
