"""Routes: replayed clean, never below the floor, near the optimum where that can be known."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as some

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job, job_linework, planned_job, replayed_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.reckon import Machine, Rates
from chorograph_core.route import PlanError
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import designed, free_chart, small_top
from chorograph_core.zones import zones_from_patches


def faults_of(job: Job, route) -> list[str]:
    return replayed_job(job, route)


class PlanTests(TestCase):
    @long
    def test_a_whole_top_is_stitched_and_replays_clean(self):
        job = designed(small_top(2, 3))
        route = planned_job(job)
        self.assertEqual(faults_of(job, route), [])
        self.assertLessEqual(route.floor.lost_minutes, route.lost_minutes + 1e-6)
        self.assertLess(route.gap, 1.0)
        asked = {one.key(k) for one in route.drawn for k, r in enumerate(one.linework.runs)
                 if not r.in_ditch}  # fmt: skip
        stitched = {
            s.run for s in route.steps if s.kind == "stitch" and not s.run.startswith("ditch")
        }
        self.assertEqual(asked, stitched)

    @long
    def test_the_same_job_gives_the_same_route(self):
        job = designed(small_top(1, 2))
        one, two = planned_job(job), planned_job(job, DrawingCache())
        self.assertEqual(len(one.steps), len(two.steps))
        for a, b in zip(one.steps, two.steps, strict=True):
            self.assertEqual(a.points.tobytes(), b.points.tobytes())

    @settings(max_examples=examples(6), deadline=None)
    @given(
        some.integers(1, 2), some.integers(1, 2), some.sampled_from([0, 1.0, 1.5]),
        some.sampled_from(["binding", "turned", "faced"]), some.booleans(),
    )  # fmt: skip
    @long
    def test_any_small_top_and_edge_finish(self, rows, columns, sashing, finish, bordered):
        borders = (Border(3, "mitred"),) if bordered else ()
        job = designed(StraightSet(rows, columns, 6, ("sawtooth_star", "pinwheel"), sashing,
                                   borders=borders), finish)  # fmt: skip
        route = planned_job(job)
        self.assertEqual(faults_of(job, route), [])
        self.assertLessEqual(route.floor.lost_minutes, route.lost_minutes + 1e-6)

    @long
    def test_a_chart_of_any_polygons(self):
        chart = free_chart()
        zones = tuple(zones_from_patches(chart))
        layers = (Layer("ditch", {}, "clear"), Layer("meander", {"gap": 0.5}, "indigo"))
        job = Job("Odd", chart, zones, legend=(Entry("e", "", tuple(z.id for z in zones), layers),))
        route = planned_job(job)
        self.assertEqual(faults_of(job, route), [])

    @long
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

    @long
    def test_dearer_cuts_make_fewer_of_them(self):
        job = designed(small_top(2, 2))
        cheap = planned_job(replace(job, machine=Machine(rates=Rates(cut=4))))
        dear = planned_job(replace(job, machine=Machine(bury=True)))
        self.assertLess(dear.cuts, cheap.cuts)
        self.assertEqual(faults_of(job, cheap), [])
