"""Sit-down machines: what fits into the throat, and quilts that are turned round."""

import json
import math
from dataclasses import replace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.formats import run_sheet
from chorograph_core.formats.route_files import route_json
from chorograph_core.job import Job, planned_job, replayed_job
from chorograph_core.layouts import StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.route import PlanError, Policy
from chorograph_core.route.passes import OutOfReach, Pass, fits_the_throat, passes_of
from chorograph_core.tests import long
from chorograph_core.zones import zones_from_patches


def small(throat: float, **more) -> Machine:
    return Machine(kind="sit-down", throat=throat, **more)


def tall(rows=7, machine=None, **policy) -> Job:
    """A top one block wide: 9" by 9" a row, ditched and ruled."""
    chart = StraightSet(rows, 1, 9, ("nine_patch",)).chart()
    zones = tuple(zones_from_patches(chart))
    layers = (Layer("ditch", {}, "clear"), Layer("inset_echo", {"count": 1}, "clear"))
    entry = Entry("e", "", tuple(zone.id for zone in zones), layers)
    return Job("tall", chart, zones, legend=(entry,), machine=machine or small(9.0),
               policy=Policy(effort=0, **policy))  # fmt: skip


class ThroatTests(TestCase):
    @given(st.floats(5, 30), st.floats(0, 4.5), st.floats(0, 0.5))
    def test_a_round_bundle_three_times_as_thick(self, throat, clearance, loft):
        inches = fits_the_throat(small(throat, clearance=clearance, loft=loft))
        across = math.sqrt(4 * inches * 3 * (loft + 0.03) / math.pi)
        self.assertAlmostEqual(across, throat - clearance, 6)

    def test_one_go_two_or_none(self):
        most = fits_the_throat(small(9.0))
        self.assertEqual(passes_of(small(9.0), 0, most, []), (Pass(1, 0, most),))
        one, two = passes_of(small(9.0), 0, 80, [])
        self.assertEqual((one.top, two.bottom), (0, 80))
        self.assertAlmostEqual(one.bottom, most)
        self.assertAlmostEqual(two.top, 80 - most)
        with self.assertRaisesRegex(OutOfReach, "too large for the throat"):
            passes_of(small(9.0), 0, 120, [])

    @long
    def test_a_long_quilt_is_turned_as_often_as_it_must(self):
        for school, turns in (("pass", 1), ("quilt", 2)):
            with self.subTest(school=school):
                job = tall(stabilise=school, oversized="roll")
                route = planned_job(job)
                self.assertEqual(replayed_job(job, route), [])
                self.assertIn(route.rolls, range(1, turns + 1))
                self.assertEqual({s.seconds for s in route.steps if s.kind == "roll"}, {120.0})
                self.assertLessEqual(route.floor.lost_minutes, route.lost_minutes + 1e-6)
        short = planned_job(tall(5))
        self.assertEqual(short.rolls, 0)

    def test_too_large_is_a_sentence(self):
        with self.assertRaisesRegex(PlanError, "too large for the throat"):
            planned_job(tall(13))

    @long
    def test_the_replay_sees_what_does_not_fit(self):
        job = tall(machine=small(24.0))
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        faults = replayed_job(replace(job, machine=small(9.0)), route)
        self.assertTrue(any("inches in the throat" in each for each in faults), faults)

    def test_told_as_a_turn(self):
        job = tall(stabilise="pass")
        sheet = run_sheet(job, json.loads(route_json(job, planned_job(job), [])))
        told = [row.text for part in sheet.parts for row in part.rows if row.kind == "roll"]
        self.assertEqual(len(told), 1)
        self.assertTrue(told[0].startswith("Turn the quilt, its upper end bundled into the throat"))
