"""Tucks where a border is fuller than texture eases: steps of the plan, where the intake put them."""

import json
from dataclasses import replace
from unittest import TestCase

import numpy as np

from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.estimating import Intake, Measures
from chorograph_core.formats import run_sheet
from chorograph_core.formats.route_files import route_json
from chorograph_core.job import Job, replayed_job
from chorograph_core.layouts import StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.route import Policy
from chorograph_core.tests.plans import planned_job
from chorograph_core.zones import zones_from_patches


def full(kind="frame", policy=None):
    """A job whose left border is 7 percent longer than the 20" it is sewn to, the lower one 6 percent."""
    chart = StraightSet(1, 3, 9, ("nine_patch",)).chart()
    zones = tuple(zones_from_patches(chart))
    entry = Entry("e", "", tuple(zone.id for zone in zones), (Layer("ditch", {}, "clear"),))
    job = Job("full", chart, zones, legend=(entry,), policy=Policy(effort=0))
    measures = Measures(borders=(None, None, 21.2, 21.4), bodies=(None, None, 20.0, 20.0))
    job = replace(job, intake=Intake(measures=measures), machine=Machine(kind=kind))
    return job if policy is None else replace(job, policy=replace(job.policy, **policy))


class TuckTests(TestCase):
    def test_as_many_as_the_tape_says(self):
        # 1.4" too long, of which 5 percent of 20" are eased: 0.4" left, half an inch a tuck: one. Below,
        # 1.2": 0.2" left: one.
        self.assertEqual(full().tucks, {"bottom": 1, "left": 1})
        measures = Measures(borders=(None, None, None, 64.5), bodies=(None, None, None, 60.0))
        # 4.5" less 3" that are eased: 1.5", three tucks.
        self.assertEqual(replace(full(), intake=Intake(measures=measures)).tucks, {"left": 3})

    def test_before_the_first_stitch_of_their_pass(self):
        for kind, policy in (("frame", {"edges": "float"}), ("frame", {"days": "basted"}),
                             ("sit-down", {"stabilise": "pass"})):  # fmt: skip
            with self.subTest(kind=kind, policy=policy):
                job = full(kind, policy)
                route = planned_job(job)
                self.assertEqual(replayed_job(job, route), [])
                laid = [step for step in route.steps if step.kind == "tuck"]
                self.assertEqual(
                    sorted(step.run for step in laid), ["tuck:bottom.1", "tuck:left.1"]
                )
                self.assertEqual({step.seconds for step in laid}, {60.0})
                self.assertLessEqual({"tuck:bottom.1", "tuck:left.1"}, route.end.done)

    def test_spread_along_the_side(self):
        job = full()
        measures = Measures(borders=(None, None, None, 64.5), bodies=(None, None, None, 60.0))
        job = replace(job, intake=Intake(measures=measures))
        route = planned_job(job)
        low, high = job.chart.outline.bounds[1::2]
        at = sorted(step.points[0][1] for step in route.steps if step.kind == "tuck")
        self.assertTrue(np.allclose(at, low + (high - low) * np.array([1, 3, 5]) / 6))

    def test_the_replay_sees_what_is_forgotten_or_late(self):
        job = full()
        route = planned_job(job)
        tucks = [step for step in route.steps if step.kind == "tuck"]
        rest = [step for step in route.steps if step.kind != "tuck"]
        gone = replayed_job(job, replace(route, steps=[*tucks[:1], *rest]))
        self.assertTrue(any("0 tucks are laid" in each for each in gone), gone)
        late = replayed_job(job, replace(route, steps=[*rest, *tucks]))
        self.assertTrue(any("after pass" in each for each in late), late)
        moved = [replace(step, points=step.points + (3.0, -3.0)) if step.kind == "tuck" else step
                 for step in route.steps]  # fmt: skip
        self.assertTrue(any("away from the" in each
                            for each in replayed_job(job, replace(route, steps=moved))))  # fmt: skip

    def test_told_on_the_run_sheet(self):
        job = full()
        for units, text in (("in", "Lay a tuck of 1/4″ at the left, in seams, and pin."),
                            ("cm", "Lay a tuck of 0.6 cm at the left, in seams, and pin.")):  # fmt: skip
            sheet = run_sheet(job, json.loads(route_json(job, planned_job(job), [])), units)
            told = [row.text for part in sheet.parts for row in part.rows if row.kind == "tuck"]
            self.assertIn(text, told)
