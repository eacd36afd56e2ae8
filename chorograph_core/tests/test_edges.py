"""Edges of zones that were cut: what they are called, and what is done of them when the work is taken up
again."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
import shapely
from shapely.geometry import Polygon, box

from chorograph_core.chart import Chart, Patch, noded_edges
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job, job_linework, replayed_job
from chorograph_core.reckon import Machine
from chorograph_core.route import Policy, State
from chorograph_core.route.progress import ripped_out, with_done
from chorograph_core.steering.standing import names_in, stands_after
from chorograph_core.tests.plans import planned_job
from chorograph_core.zones import zones_from_patches
from chorograph_core.zones.cutting import centre_line, cut, diagonal
from chorograph_core.zones.divide import join
from chorograph_core.zones.edges import cut_zones, done_edges, is_done, named_edges

CACHE = DrawingCache()


def three_squares() -> Chart:
    squares = [box(8 * k, 0, 8 * k + 8, 8) for k in range(3)]
    return Chart(box(0, 0, 24, 8), tuple(Patch(f"s{k}", each) for k, each in enumerate(squares)))


def job_on(chart: Chart, zones) -> Job:
    layers = (Layer("ditch", {}, "clear", 10), Layer("parallel", {}, "indigo"))
    entry = Entry("e", "all", tuple(zone.id for zone in zones), layers)
    return Job("Cut", chart, tuple(zones), legend=(entry,), policy=Policy(effort=0))


def ditch_inches(steps) -> float:
    return sum(step.inches for step in steps if step.kind == "stitch" and step.seams)


class NameTests(TestCase):
    def test_a_seam_beside_a_cut_zone_has_a_name_for_each_piece(self):
        chart = three_squares()
        zones = zones_from_patches(chart)
        zones = [*cut(zones[:1], diagonal()), *zones[1:]]
        segments, names = named_edges(chart, zones)
        self.assertIn("free:z:s0/1|free:z:s0/2", names)
        self.assertIn("s1|s2", names)
        # By hand: the cut is the diagonal of a square of eight inches.
        lengths = shapely.length(shapely.linestrings(segments))
        cut_inches = lengths[[name == "free:z:s0/1|free:z:s0/2" for name in names]].sum()
        self.assertAlmostEqual(cut_inches, 8 * 2**0.5, places=4)
        self.assertNotIn("s0|s1", names)

    def test_what_was_joined_of_pieces_is_no_less_cut(self):
        chart = three_squares()
        one, two, three = zones_from_patches(chart)
        left, right = sorted(cut([one], centre_line()), key=lambda z: z.polygon.bounds)
        whole = join([two, three], "z:s1+")
        self.assertEqual(cut_zones(chart, [one, whole]), [])
        other = join([right, two], "z:right+")
        self.assertEqual(
            [z.id for z in cut_zones(chart, [left, other, three])], [left.id, "z:right+"]
        )
        # Nothing but a joined zone beside another: the edge between them is still there.
        self.assertEqual([z.id for z in cut_zones(chart, [other, three])], ["z:right+"])

    def test_names_before_a_cut_count(self):
        self.assertTrue(is_done("b|free:z:a/1", "a|b", {"a|b"}))
        self.assertTrue(is_done("b|free:z:a/2/1", "a|b", {"b|free:z:a/2"}))
        self.assertFalse(is_done("b|free:z:a/2/1", "a|b", {"b|free:z:a/1"}))
        self.assertFalse(is_done("free:z:a/1|free:z:a/2", "a|a", {"a|b", "a|c"}))

    def test_corners_that_nearly_fall_together_are_one(self):
        # Two corners a seven-thousandth of an inch apart, as a cut beside the point of an arc makes them.
        upper = Polygon([(0, 0), (8, 0), (8, 4), (4.00014, 4.00010), (0, 4)])
        lower = Polygon([(0, 4), (4, 4), (8, 4), (8, 8), (0, 8)])
        segments = noded_edges(Chart(box(0, 0, 8, 8), (Patch("u", upper), Patch("l", lower))))
        inches = shapely.length(shapely.linestrings(segments)).sum()
        self.assertAlmostEqual(inches, 4 * 8 + 8, places=2)

    def test_a_fine_curve_is_not_drawn_together_to_a_point(self):
        turns = np.linspace(0, 2 * np.pi, 2000)[:-1]
        ring = Polygon(0.05 * np.column_stack([np.cos(turns), np.sin(turns)]) + 4)
        rest = box(0, 0, 8, 8).difference(ring)
        segments = noded_edges(Chart(box(0, 0, 8, 8), (Patch("r", rest), Patch("d", ring))))
        round_ = segments[np.hypot(*(segments.mean(axis=1) - 4).T) < 0.06]
        inches = shapely.length(shapely.linestrings(round_)).sum()
        self.assertAlmostEqual(inches, ring.length, delta=0.01 * ring.length)


class TakenUpTests(TestCase):
    """A job with cut zones is left in its middle, or cut after its ditches are stitched."""

    def setUp(self):
        self.chart = three_squares()
        zones = zones_from_patches(self.chart)
        self.whole = job_on(self.chart, zones)
        self.cut = job_on(self.chart, [*cut(zones[:1], diagonal()), *zones[1:]])

    def test_wherever_one_stops_each_ditch_is_stitched_once(self):
        route = planned_job(self.cut, CACHE)
        self.assertEqual(replayed_job(self.cut, route), [])
        whole, tops = ditch_inches(route.steps), {each.number: each.top for each in route.passes}
        ends = np.cumsum([step.seconds for step in route.steps])
        for number, step in enumerate(route.steps):
            if not step.seams:
                continue
            state = stands_after(self.cut, route.steps, tops, float(ends[number]), State())
            rest = planned_job(self.cut, CACHE, state=state)
            self.assertEqual(replayed_job(self.cut, rest, state), [])
            gone = ditch_inches(route.steps[: number + 1])
            self.assertAlmostEqual(gone + ditch_inches(rest.steps), whole, places=3)

    def test_what_was_stitched_before_a_zone_was_cut_stays_stitched(self):
        state = planned_job(self.whole, CACHE).end
        self.assertIn("s0|s1", state.done)
        rest = planned_job(self.cut, CACHE, state=state)
        # Only the cut itself is new.
        self.assertAlmostEqual(ditch_inches(rest.steps), 8 * 2**0.5, delta=0.05)
        self.assertEqual(replayed_job(self.cut, rest, state), [])

    def test_the_replay_sees_it_stitched_again(self):
        state = planned_job(self.whole, CACHE).end
        again = planned_job(self.cut, CACHE)
        faults = replayed_job(self.cut, again, state)
        self.assertTrue(any("a second time" in fault for fault in faults), faults)

    def test_a_cut_zone_is_told_as_done_and_ripped_out_with_its_edges(self):
        piece = next(zone.id for zone in self.cut.zones if zone.id.startswith("z:s0/"))
        names = names_in(self.cut, [piece], CACHE)
        self.assertIn("free:z:s0/1|free:z:s0/2", names)
        route = planned_job(self.cut, CACHE)
        torn = ripped_out(route.end, names)
        rest = planned_job(self.cut, CACHE, state=torn)
        self.assertEqual(replayed_job(self.cut, rest, torn), [])
        self.assertGreater(ditch_inches(rest.steps), 8 * 2**0.5 - 0.1)
        told = with_done(torn, names)
        self.assertEqual(ditch_inches(planned_job(self.cut, CACHE, state=told).steps), 0)

    def test_a_long_side_is_told_with_all_the_seams_it_runs_along(self):
        # One strip along three squares: its edge has no corner where they meet.
        squares = [Patch(f"s{k}", box(8 * k, 0, 8 * k + 8, 8)) for k in range(3)]
        strip = Patch("strip", box(0, 8, 24, 12))
        chart = Chart(box(0, 0, 24, 12), (*squares, strip))
        names = names_in(job_on(chart, zones_from_patches(chart)), ["z:strip"], CACHE)
        self.assertLessEqual({"s0|strip", "s1|strip", "s2|strip"}, names)

    def test_a_seam_that_was_sewn_in_part_is_sewn_on_where_there_are_no_passes(self):
        """On a frame it was cut where a pass ends; on another machine it is one seam."""
        halves = [box(0, 0, 8, 30), box(8, 0, 16, 30)]
        chart = Chart(box(0, 0, 16, 30), tuple(Patch(f"h{k}", one) for k, one in enumerate(halves)))
        job = job_on(chart, zones_from_patches(chart))
        job = replace(job, machine=Machine(kind="sit-down"))
        for end in (9.0, 21.0):
            state = State(sewn=(np.array([[8.0, 0.0], [8.0, end]]),))
            rest = planned_job(job, CACHE, state=state)
            self.assertAlmostEqual(ditch_inches(rest.steps), 30 - end, delta=0.05)
            self.assertEqual(replayed_job(job, rest, state), [])

    def test_edges_that_are_done_are_found_by_place(self):
        segments, names = named_edges(self.cut.chart, self.cut.zones)
        found = done_edges(self.cut.chart, segments, names, {"s0|s1"})
        middles = segments[found].mean(axis=1)
        self.assertTrue(len(middles))
        np.testing.assert_allclose(middles[:, 0], 8, atol=1e-6)
        self.assertFalse(done_edges(self.cut.chart, segments, names, set()).any())


class RawEdgeTests(TestCase):
    def test_a_seam_that_meets_the_raw_edge_on_a_slant_is_stitched_up_to_it(self):
        # A wedge of 4 degrees: near its point both its sides lie within a fiftieth of an inch of the raw
        # edge.
        wedge = Polygon([(0, 0), (20, 0), (20, 1.4)])
        rest = box(0, 0, 20, 20).difference(wedge)
        chart = Chart(box(0, 0, 20, 20), (Patch("w", wedge), Patch("r", rest)))
        job = job_on(chart, zones_from_patches(chart))
        job = replace(job, policy=replace(job.policy, edge_finish="knife"))
        ditch = [run for one in job_linework(job) for run in one.linework.runs if run.in_ditch]
        for run in ditch:
            self.assertAlmostEqual(run.inches, np.hypot(20, 1.4), delta=0.06)
        self.assertEqual(replayed_job(job, planned_job(job, CACHE)), [])

    def test_a_ditch_over_a_region_lies_in_its_seams(self):
        chart = three_squares()
        job = job_on(chart, zones_from_patches(chart))
        (entry,) = job.legend
        layers = (replace(entry.layers[0], over="region"), *entry.layers[1:])
        job = job.with_legend((replace(entry, layers=layers),))
        seams = shapely.union_all([patch.polygon.boundary for patch in chart.patches]).buffer(0.01)
        runs = [run for one in job_linework(job) for run in one.linework.runs if run.in_ditch]
        self.assertTrue(runs)
        for run in runs:
            self.assertTrue(seams.covers(shapely.linestrings(run.points)))
