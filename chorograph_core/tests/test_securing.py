"""Edges basted as each pass comes: where, how long, and what the replay says when they are not."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import Polygon, box

from chorograph_core.chart import Chart, Patch
from chorograph_core.job import job_linework, replayed_job
from chorograph_core.layouts import StraightSet
from chorograph_core.reckon import Machine, Rates
from chorograph_core.route import State, replay
from chorograph_core.route.passes import passes_of
from chorograph_core.route.securing import INSET, edge_lines, secures
from chorograph_core.tests import examples, long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed


def inches(line: np.ndarray) -> float:
    return float(np.hypot(*np.diff(line, axis=0).T).sum())


def chart_of(outline: Polygon) -> Chart:
    return Chart(outline, (Patch("p", outline, "field"),))


class LineTests(TestCase):
    @settings(max_examples=examples(40), deadline=None)
    @given(some.floats(12, 110), some.floats(8, 120))
    def test_all_round_once_whatever_the_passes(self, width, height):
        passes = passes_of(Machine(), 0, height, [])
        lines = edge_lines(chart_of(box(0, 0, width, height)), passes)
        made = [line for each in lines.values() for line in each]
        around = 2 * (width + height) - 8 * INSET
        self.assertAlmostEqual(sum(inches(line) for line in made), around, delta=0.02)
        for each in passes:
            for line in lines[each.number]:
                self.assertTrue(each.holds(line[:, 1].min(), line[:, 1].max()))

    def test_down_and_up_by_the_sides_and_across_at_the_ends(self):
        passes = passes_of(Machine(), 0, 40, [])
        lines = edge_lines(chart_of(box(0, 0, 30, 40)), passes)
        # First and last pass: one line round three sides; between: a line at either side.
        counts = [len(lines[each.number]) for each in passes]
        self.assertEqual((counts[0], counts[-1]), (1, 1))
        self.assertTrue(all(count == 2 for count in counts[1:-1]))

    def test_a_bent_edge_is_followed_within_the_binding(self):
        xs = np.linspace(0, 40, 30)
        ring = Polygon([*zip(xs, 1.5 * np.sin(xs / 4), strict=True), (40, 30), (0, 30)])
        for line in edge_lines(chart_of(ring), passes_of(Machine(), -2, 30, []))[1]:
            apart = shapely.distance(ring.exterior, shapely.points(line))
            self.assertLess(apart.max(), 0.25)

    def test_only_on_a_frame_and_only_if_asked(self):
        policy = designed(StraightSet(1, 1, 6)).policy
        self.assertTrue(secures(Machine(), policy))
        self.assertFalse(secures(Machine(kind="sit-down"), policy))
        self.assertFalse(secures(Machine(), replace(policy, edges="float")))


class PlanTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = designed(StraightSet(4, 2, 8, ("sawtooth_star",), 1))
        cls.route = planned_job(cls.job)
        cls.asked = job_linework(cls.job)

    def faults(self, steps, **policy):
        return replay(
            self.job.chart, self.job.zones, self.asked, replace(self.job.policy, **policy), steps,
            self.job.loaded_machine, passes=self.route.passes,
        )  # fmt: skip

    def basting(self):
        return [k for k, step in enumerate(self.route.steps) if step.kind == "secure"]

    def test_minutes_are_those_of_the_line_and_its_ends(self):
        rates = Rates()
        for k in self.basting():
            step = self.route.steps[k]
            self.assertAlmostEqual(step.seconds, inches(step.points) / 150 * 60 + rates.tack)
        whole = sum(self.route.steps[k].inches for k in self.basting())
        self.assertAlmostEqual(whole, 2 * sum(self.job.chart.outline.bounds[2:]) - 1, delta=0.05)

    @long
    def test_basting_is_thread_too(self):
        floating = planned_job(replace(self.job, policy=replace(self.job.policy, edges="float")))
        more = sum(self.route.thread_inches.values()) - sum(floating.thread_inches.values())
        self.assertGreater(more, 0.9 * sum(self.route.steps[k].inches for k in self.basting()))

    def test_an_edge_left_out_is_told(self):
        first = self.basting()[0]
        found = self.faults([s for k, s in enumerate(self.route.steps) if k != first])
        self.assertTrue(any("of the edge are not basted" in fault for fault in found), found)

    def test_basting_too_far_in_is_told(self):
        steps = list(self.route.steps)
        k = self.basting()[0]
        middle = self.job.chart.outline.centroid.coords[0]
        steps[k] = replace(steps[k], points=steps[k].points * 0.9 + np.array(middle) * 0.1)
        self.assertTrue(any("does not cover" in fault for fault in self.faults(steps)))

    def test_basting_after_the_pass_was_begun_is_told(self):
        steps = list(self.route.steps)
        late = steps.pop(self.basting()[0])
        at = next(k for k, s in enumerate(steps) if s.kind == "tie_off") + 1
        found = self.faults([*steps[:at], late, *steps[at:]])
        self.assertTrue(any("after it was begun" in fault for fault in found), found)

    def test_basting_that_nobody_asked_for_is_told(self):
        found = self.faults(self.route.steps, edges="float")
        self.assertTrue(any("nobody asked for" in fault for fault in found))

    def test_basting_while_stitching_and_in_no_time_is_told(self):
        steps = list(self.route.steps)
        k = self.basting()[1]
        cut = max(m for m in range(k) if steps[m].kind == "tie_off")
        found = self.faults([s for m, s in enumerate(steps) if m != cut])
        self.assertTrue(any("bastes while stitching" in fault for fault in found), found)
        steps[k] = replace(steps[k], seconds=1.0)
        self.assertTrue(any("says 1.0 seconds" in fault for fault in self.faults(steps)))

    @long
    def test_what_is_basted_is_not_basted_again(self):
        done = frozenset(self.route.steps[k].run for k in self.basting())
        rest = planned_job(self.job, state=State(done))
        self.assertFalse([s for s in rest.steps if s.kind == "secure"])
        self.assertEqual(replayed_job(self.job, rest, State(done)), [])
