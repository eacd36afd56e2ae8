"""Bobbins: each thread has its own; where it is empty is told alike by plan, profile and replay."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.linework import length
from chorograph_core.job import Job, job_linework, planned_job, replayed_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.reckon import Machine, thread_inches
from chorograph_core.route import Policy, State
from chorograph_core.route.spool import Spool
from chorograph_core.steering.standing import stands_after
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import designed, small_top
from chorograph_core.zones import zones_from_patches


class SpoolTests(TestCase):
    def test_with_another_thread_another_bobbin_is_put_in_and_comes_back_as_it_was(self):
        machine = Machine(bobbin_yards=10, loft=0.1)
        spool = Spool(machine)
        spool.put_in("slate")
        spool.use("slate", 100)
        # By hand: 100 inches at 11 stitches an inch through 0.1 take 210 of 360.
        self.assertAlmostEqual(spool.on_bobbin, 150)
        spool.put_in("ecru")
        self.assertEqual((spool.on_bobbin, spool.aside), (360, {"slate": 150}))
        spool.use("ecru", 50)
        spool.put_in("slate")
        self.assertAlmostEqual(spool.on_bobbin, 150)
        self.assertAlmostEqual(spool.aside["ecru"], 255)

    def test_the_least_of_changes_counts_each_thread_by_itself(self):
        machine = Machine(bobbin_yards=10, loft=0.1)
        spool = Spool(machine, "slate", 60.0, {"ecru": 100.0})
        spool.must("slate", 200)
        spool.must("ecru", 40)
        spool.must("moss", 180)
        # By hand: slate takes 420 and has 60, so a second bobbin; ecru takes 84 of 100; moss takes 378 of a
        # full one of 360, so a second. Two bobbins; and two threads more than the one in the needle.
        least = (2 * machine.rates.bobbin + 2 * machine.rates.thread_change) / 60
        self.assertAlmostEqual(spool.least_changes("slate"), least)


class FloorTests(TestCase):
    def test_what_is_stitched_between_lines_fills_a_bobbin_for_any_route(self):
        """Level lines an inch apart, each linked to the next along the edge: the lines alone take less than a
        bobbin, with their links they take more."""
        chart = StraightSet(1, 1, 12, ("plain",)).chart()
        zones = zones_from_patches(chart)
        layer = Layer("parallel", {"spacing": 1.0, "angle": 0.0}, "clear")
        entry = Entry("lines", "Lines", tuple(zone.id for zone in zones), (layer,))
        job = Job("Lines", chart, zones, legend=(entry,), policy=Policy(edges="float"))
        (drawn,) = job_linework(job)
        inches = {kind: sum(length(p) for run in drawn.linework.runs for p, _, k in run.pieces() if k == kind)
                  for kind in ("stitch", "link")}  # fmt: skip
        self.assertGreater(inches["link"], 5)
        lines, both = (thread_inches(each, drawn.spi, job.machine.loft)
                       for each in (inches["stitch"], sum(inches.values())))  # fmt: skip
        for full, least in (((lines + both) / 2, 1), (both + 1, 0)):
            machine = replace(job.machine, bobbin_yards=full / 36)
            route = planned_job(replace(job, machine=machine))
            self.assertAlmostEqual(route.floor.changes, least * machine.rates.bobbin / 60)
            self.assertLessEqual(route.floor.changes, route.lost_by_kind["changes"] + 1e-9)


class StoppingTests(TestCase):
    """Within a long line a bobbin is changed where a hand can stop: between two of its units."""

    def test_between_two_units_and_with_little_left(self):
        chart = StraightSet(2, 2, 20, ("plain",), borders=(Border(6, "butted"),)).chart()
        zones = [zone for zone in zones_from_patches(chart) if zone.id.startswith("z:border")]
        layer = Layer("ribbon_candy", {}, "clear")
        entry = Entry("e", "Candy", tuple(zone.id for zone in zones), (layer,))
        for yards, directions in ((8, "all"), (15, "all"), (20, "all"), (15, "right")):
            job = Job("Candy", chart, tuple(zones), legend=(entry,),
                      machine=Machine(bobbin_yards=yards, directions=directions),
                      policy=Policy(edges="float"))  # fmt: skip
            drawn = {one.zone: one.linework.runs[0] for one in job_linework(job)}
            route = planned_job(job)
            self.assertEqual(replayed_job(job, route), [])
            steps, within = route.steps, 0
            for before, change, after in zip(steps, steps[1:], steps[2:], strict=False):
                if change.kind != "bobbin":
                    continue
                self.assertNotIn("ran out", change.reason)
                if before.run and before.run == after.run and before.kind == after.kind == "stitch":
                    within += 1
                    run = drawn[before.zone]
                    ends = run.points[[unit.stop for unit in run.units]]
                    self.assertLess(np.hypot(*(ends - before.points[-1]).T).min(), 1e-6)
                    np.testing.assert_allclose(before.points[-1], after.points[0])
            with self.subTest(yards=yards, directions=directions):
                self.assertGreater(within, 0)
                # What is left on each bobbin is less than a unit takes, or not worth a stop.
                full, used = yards * 36, route.thread_inches["clear"]
                changes = sum(step.kind == "bobbin" for step in steps)
                self.assertLessEqual(changes * (full - 40 - 0.06 * full), used)


class BobbinTests(TestCase):
    @classmethod
    def setUpClass(cls):
        job = designed(small_top(2, 2))
        cls.job = replace(job, machine=replace(job.machine, bobbin_yards=25))
        cls.route = planned_job(cls.job)
        cls.changes = [k for k, step in enumerate(cls.route.steps) if step.kind == "bobbin"]
        cls.tops = {each.number: each.top for each in cls.route.passes}

    def faults(self, steps, **more):
        return replayed_job(self.job, replace(self.route, steps=steps, **more))

    def test_the_plan_is_clean_and_changes_where_it_must(self):
        self.assertEqual(replayed_job(self.job, self.route), [])
        self.assertGreater(len(self.changes), 2)

    @long
    def test_a_bobbin_that_nobody_changes_is_seen(self):
        for change in self.changes:
            steps = [step for k, step in enumerate(self.route.steps) if k != change]
            self.assertTrue(
                any("the bobbin is empty" in fault for fault in self.faults(steps)), change
            )

    def test_a_bobbin_that_is_changed_for_nothing_is_seen(self):
        steps, change = list(self.route.steps), self.route.steps[self.changes[0]]
        early = next(
            k
            for k, step in enumerate(steps)
            if step.kind == "stitch" and step.thread == change.thread
        )
        found = self.faults([*steps[:early], change, *steps[early:]])
        self.assertTrue(any("reaches further" in fault for fault in found))

    def test_a_thread_that_is_told_too_short_is_seen(self):
        thread, inches = next(iter(self.route.thread_inches.items()))
        told = {**self.route.thread_inches, thread: 0.9 * inches}
        found = self.faults(self.route.steps, thread_inches=told)
        self.assertTrue(any(fault.startswith(f"{thread}:") for fault in found))

    def test_at_the_end_the_profile_knows_what_the_plan_knows(self):
        whole = sum(step.seconds for step in self.route.steps)
        after = stands_after(self.job, self.route.steps, self.tops, whole, State())
        end = self.route.end
        self.assertAlmostEqual(after.bobbin, end.bobbin, delta=1)
        self.assertEqual([key for key, _ in after.aside], [key for key, _ in end.aside])
        for (_, one), (_, two) in zip(after.aside, end.aside, strict=True):
            self.assertAlmostEqual(one, two, delta=1)
        self.assertGreater(len(end.aside), 0)

    @long
    @settings(max_examples=examples(12), deadline=None)
    @given(st.floats(0.05, 0.95))
    def test_the_rest_goes_on_with_the_bobbins_as_they_are(self, share):
        whole = sum(step.seconds for step in self.route.steps)
        state = stands_after(self.job, self.route.steps, self.tops, share * whole, State())
        rest = planned_job(self.job, state=state)
        self.assertEqual(replayed_job(self.job, rest, state), [])
