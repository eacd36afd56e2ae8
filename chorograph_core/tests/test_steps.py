"""Steps: inches, seconds, thread and prices add up, and every step says why."""

import itertools
import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from chorograph_core.job import planned_job
from chorograph_core.reckon import Machine, Rates, thread_inches
from chorograph_core.route.model import STEP_KINDS, TRAVEL_KINDS
from chorograph_core.tests.shapes import designed, small_top


class StepTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = designed(small_top(1, 2))
        cls.route = planned_job(cls.job)
        cls.rates = cls.job.machine.rates

    def of(self, kind):
        return [step for step in self.route.steps if step.kind == kind]

    def test_kinds_are_known_and_reasons_given(self):
        for step in self.route.steps:
            self.assertIn(step.kind, STEP_KINDS)
            self.assertTrue(step.reason, step)
            if step.kind == "travel":
                self.assertIn(step.how, TRAVEL_KINDS)

    def test_stitching_takes_the_time_its_technique_takes(self):
        for step in self.of("stitch"):
            layings = step.count * self.rates.ruler_move
            self.assertAlmostEqual(
                step.seconds, self.rates.seconds(step.inches, step.how) + layings
            )
            if step.how == "ditch":
                self.assertGreaterEqual(
                    step.count, math.ceil(step.inches / self.rates.ruler_reach - 1e-6)
                )
            self.assertAlmostEqual(
                step.inches, float(np.hypot(*np.diff(step.points, axis=0).T).sum()), places=6
            )
            self.assertEqual(step.price, 0)

    def test_only_what_adds_no_quilting_is_lost(self):
        lost = sum(step.price for step in self.route.steps)
        layings = sum(s.count for s in self.of("stitch") if s.how == "ditch")
        over = (layings - self.route.floor.layings) * self.rates.ruler_move / 60
        self.assertGreaterEqual(over, 0)
        self.assertAlmostEqual(lost + over, self.route.lost_minutes)
        priced = {step.kind for step in self.route.steps if step.price}
        self.assertLessEqual(priced, {"start", "travel", "thread", "bobbin", "roll", "path"})

    def test_every_start_has_its_cut(self):
        kinds = [s.kind for s in self.route.steps if s.kind in ("start", "tie_off")]
        self.assertEqual(kinds, ["start", "tie_off"] * (len(kinds) // 2))
        self.assertEqual(self.route.cuts, len(self.of("start")))

    def test_one_thread_at_a_time_and_each_only_once(self):
        threads = [step.thread for step in self.of("thread")]
        self.assertEqual(len(threads), len(set(threads)))
        # The first threading has to be done in any case.
        self.assertEqual([step.price > 0 for step in self.of("thread")], [False, True, True])

    def test_thread_is_what_the_lines_and_tails_need(self):
        machine = self.job.machine
        spi = {layer.thread: layer.spi for entry in self.job.legend for layer in entry.layers}
        for thread, used in self.route.thread_inches.items():
            moved = sum(s.inches for s in self.route.steps
                        if s.thread == thread and s.kind in ("stitch", "travel"))  # fmt: skip
            starts = sum(s.kind == "start" and s.thread == thread for s in self.route.steps)
            expected = thread_inches(moved, spi[thread], machine.loft, starts, machine.tail)
            basted = sum(
                s.inches for s in self.route.steps if s.thread == thread and s.kind == "secure"
            )
            expected += thread_inches(basted, 7, machine.loft)
            self.assertAlmostEqual(used, expected, delta=0.05 * expected)

    def test_a_travel_costs_at_least_the_time_it_takes(self):
        for step in self.of("travel"):
            if step.inches > 0.05:
                self.assertGreaterEqual(step.price, 0.9 * step.seconds / 60)

    def test_ditch_travel_lays_the_ruler_as_stitching_does(self):
        rates = Rates()
        self.assertAlmostEqual(rates.travel_seconds(45, "ditch"), 60 + 45 / 10 * 7)
        self.assertAlmostEqual(rates.travel_seconds(45, "edge"), 60)
        self.assertAlmostEqual(rates.travel_seconds(60, "retrace"), 60)
        for step in self.of("travel"):
            if not step.run:
                self.assertAlmostEqual(step.seconds, rates.travel_seconds(step.inches, step.how))

    def test_a_long_walk_of_ditches_changes_bobbins_at_a_junction(self):
        machine = replace(self.job.machine, bobbin_yards=4)
        route = planned_job(replace(self.job, machine=machine))
        wasted = [s.reason for s in route.steps if s.kind == "bobbin" and s.thread == "clear"]
        self.assertGreater(len(wasted), 1)
        for reason in wasted:
            self.assertTrue(reason[0] in "012" or reason.startswith("would"), reason)
        ends = {tuple(np.round(p, 3)) for one in route.drawn for run in one.linework.runs
                if run.in_ditch for p in run.points}  # fmt: skip
        for before, step in itertools.pairwise(route.steps):
            if step.kind == "bobbin" and before.how == "ditch":
                self.assertIn(tuple(np.round(before.points[-1], 3)), ends)

    def test_burying_tails_makes_cuts_dearer(self):
        machine = Machine(bury=True)
        self.assertAlmostEqual(machine.cut_seconds, Rates().cut + Rates().bury)
        route = planned_job(replace(self.job, machine=machine))
        starts = [s for s in route.steps if s.kind == "start"]
        self.assertTrue(all(s.seconds == machine.cut_seconds for s in starts))

    def test_figures_agree_with_the_steps(self):
        travel = self.route.travel_inches
        self.assertAlmostEqual(travel["all"], sum(v for k, v in travel.items() if k != "all"))
        self.assertAlmostEqual(self.route.minutes, sum(s.seconds for s in self.route.steps) / 60)
        floor = self.route.floor
        # The gap is stated on what could be avoided: the designs' own ways and the changes of thread
        # and bobbin stand on both sides and are left out.
        changes = sum(s.price for s in self.route.steps if s.kind in ("thread", "bobbin"))
        avoidable = self.route.lost_minutes - changes - floor.links
        least = floor.lost_minutes - floor.changes - floor.links
        self.assertAlmostEqual(self.route.gap, avoidable / least - 1)
