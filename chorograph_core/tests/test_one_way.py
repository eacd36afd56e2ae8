"""Machines that stitch long lines one way only, and quilts that are rolled under the needle."""

import itertools
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.linework import length
from chorograph_core.formats import run_sheet
from chorograph_core.formats.route_files import route_json
from chorograph_core.job import Job, replayed_job
from chorograph_core.layouts import StraightSet
from chorograph_core.reckon import Machine, Rates
from chorograph_core.route import Policy
from chorograph_core.route.one_way import LONG, WAYS, is_against, parts_of
from chorograph_core.route.passes import Pass
from chorograph_core.route.rolling import parts_in_reach
from chorograph_core.tests import long
from chorograph_core.tests.plans import planned_job
from chorograph_core.zones import zones_from_patches

ROWS = {"spacing": 2.0, "angle": 0.0, "relative": "top", "fitting": "even"}


def field(width, height, design="parallel", settings=ROWS, machine=None, **policy) -> Job:
    """An open field of one piece with one design."""
    chart = Chart(box(0, 0, width, height), (Patch("p", box(0, 0, width, height)),))
    zones = tuple(zones_from_patches(chart))
    layer = Layer(design, settings, "clear")
    return Job("field", chart, zones, legend=(Entry("e", "", (zones[0].id,), (layer,)),),
               machine=machine or Machine(kind="sit-down"), policy=Policy(effort=0, **policy))  # fmt: skip


def legs(route):
    for step in route.steps:
        if step.kind == "stitch":
            yield from np.diff(step.points, axis=0)


class OneWayTests(TestCase):
    @given(st.floats(0, 2 * np.pi), st.floats(1, 40), st.sampled_from(sorted(WAYS)))
    def test_only_long_lines_within_45_degrees_of_the_opposite(self, angle, inches, way):
        line = inches * np.array([np.cos(angle), np.sin(angle)])
        good = np.array(WAYS[way])
        turned = np.degrees(np.arccos(np.clip(line @ good / inches, -1, 1)))
        if abs(turned - 135) > 1e-3 and abs(inches - LONG) > 1e-6:
            self.assertEqual(is_against(line[None], way)[0], inches >= LONG and turned > 135)

    def test_a_line_is_parted_at_its_corners(self):
        points = np.array([[0, 0], [20, 0], [20, 2], [10, 2.1], [0, 2]], float)
        found = [(len(part), wrong) for part, wrong in parts_of(points, "right")]
        self.assertEqual(found, [(3, False), (3, True)])
        self.assertEqual([wrong for _, wrong in parts_of(points, "all")], [False])

    def test_rows_all_run_the_same_way(self):
        # 20" less 3/8" above and below, wished 2" apart: ten spaces, nine rows.
        for way in WAYS:
            with self.subTest(way=way):
                job = field(40, 20, machine=Machine(kind="sit-down", directions=way))
                route = planned_job(job)
                self.assertEqual(replayed_job(job, route), [])
                rows = [leg for leg in legs(route) if abs(leg[0]) > 30]
                self.assertEqual(len(rows), 9)
                if way in ("right", "left"):
                    self.assertEqual({np.sign(leg[0]) for leg in rows}, {WAYS[way][0]})
                    # From the end of each back to the beginning of the next with the needle up.
                    self.assertEqual(route.cuts, 9)
                else:
                    self.assertEqual({np.sign(leg[0]) for leg in rows}, {-1.0, 1.0})
                    self.assertEqual(route.cuts, 1)

    @given(
        st.lists(st.tuples(st.floats(-0.12, 0.12), st.floats(0.2, 1.5)), min_size=20, max_size=80),
        st.floats(0, 2 * np.pi),
    )
    def test_no_slow_bend_hides_a_long_line(self, bends, begin):
        """Wherever one begins to look: no stretch of what is not turned round is long, straight and
        against."""
        turns, inches = np.array(bends).T
        headings = begin + np.cumsum(turns)
        line = np.cumsum(
            inches[:, None] * np.column_stack([np.cos(headings), np.sin(headings)]), axis=0
        )
        parts = list(parts_of(line, "right"))
        self.assertAlmostEqual(sum(length(part) for part, _ in parts), length(line), places=6)
        for part, wrong in parts:
            for first in range(len(part)) if not wrong else ():
                way = part[first + 1 :] - part[first]
                legs = np.arctan2(*np.diff(part[first:], axis=0).T[::-1])
                off = np.abs((legs - legs[:1] + np.pi) % (2 * np.pi) - np.pi)
                straight = (
                    int(np.argmax(off > np.radians(10)))
                    if (off > np.radians(10)).any()
                    else len(off)
                )
                for stop in range(straight):
                    x, y = way[stop]
                    against = (
                        np.hypot(x, y) > LONG + 0.1 and abs(np.degrees(np.arctan2(y, x))) > 145
                    )
                    self.assertFalse(against, (first, stop))

    def test_a_bend_of_eighteen_degrees_is_one_long_line(self):
        # Told from its first leg it would be two of thirteen inches, neither of them long.
        headings = np.radians(np.linspace(172, 190, 52))
        line = np.cumsum(0.5 * np.column_stack([np.cos(headings), np.sin(headings)]), axis=0)
        self.assertEqual([wrong for _, wrong in parts_of(line, "right")], [True])
        self.assertEqual([wrong for _, wrong in parts_of(line, "left")], [False])

    def test_short_lines_go_to_and_fro_as_ever(self):
        job = field(12, 12, machine=Machine(kind="sit-down", directions="right"))
        self.assertEqual(planned_job(job).cuts, 1)

    def test_ditches_too(self):
        chart = StraightSet(1, 3, 18, ("plain",), 2).chart()
        zones = tuple(zones_from_patches(chart))
        ids = tuple(zone.id for zone in zones)
        for way in ("right", "up"):
            job = Job("d", chart, zones,
                      legend=(Entry("e", "", ids, (Layer("ditch", {}, "clear"),)),),
                      machine=Machine(kind="sit-down", directions=way), policy=Policy(effort=0))  # fmt: skip
            route = planned_job(job)
            self.assertEqual(replayed_job(job, route), [])
            self.assertFalse(is_against(np.array(list(legs(route))) * 0.999, way).any())

    @long
    def test_on_a_frame_the_needle_is_up_where_the_quilt_is_rolled_on(self):
        # Upright lines from end to end of a pass: turned round, each leaves the needle at the far one.
        upright = {**ROWS, "angle": 90.0}
        for way in ("up", "down"):
            for edges in ("float", "baste"):
                machine = Machine(directions=way, throat=26.0)
                job = field(30, 48, settings=upright, machine=machine, edges=edges)
                route = planned_job(job)
                self.assertEqual(replayed_job(job, route), [])
                self.assertGreater(route.cuts, 14)

    def test_the_replay_sees_a_long_line_against_the_direction(self):
        job = field(40, 20)
        route = planned_job(job)
        one_way = replace(job, machine=replace(job.machine, directions="left"))
        faults = replayed_job(one_way, route)
        self.assertTrue(all("the way that shreds the thread" in each for each in faults))
        self.assertIn(len(faults), (4, 5), "every other row")

    def test_it_is_told_once(self):
        import json

        job = field(40, 20, machine=Machine(kind="sit-down", directions="right"))
        sheet = run_sheet(job, json.loads(route_json(job, planned_job(job), [])))
        told = [row.text for part in sheet.parts for row in part.rows if row.kind == "empty"]
        self.assertEqual(told, ["Long lines to the right only: cut at the end, take the machine back empty, "
                                "8 times."])  # fmt: skip


class RollingUnderTests(TestCase):
    PASSES = {1: Pass(1, 0.0, 17.0), 2: Pass(2, 15.0, 31.0), 3: Pass(3, 29.0, 44.0)}

    def test_down_and_back(self):
        line = np.array([[0, 1], [0, 40], [5, 40], [5, 1]], float)
        found = list(parts_in_reach(line, self.PASSES, 1))
        self.assertEqual([reach for reach, _ in found], [1, 2, 3, 2, 1])
        self.assertEqual([part[-1][1] for _, part in found], [17, 31, 29, 15, 1])

    def test_swaying_about_the_end_of_a_pass_is_rolled_for_once(self):
        xs = np.linspace(0, 20, 81)
        line = np.column_stack([xs, 16.5 + 0.9 * np.sin(xs * 3)])
        self.assertEqual([reach for reach, _ in parts_in_reach(line, self.PASSES, 1)], [1, 2])

    @given(st.lists(st.tuples(st.integers(0, 30), st.integers(0, 44)), min_size=2, max_size=12))
    def test_nothing_is_lost_and_all_is_in_reach(self, corners):
        line = np.array(corners, float)
        parts = list(parts_in_reach(line, self.PASSES, 1))
        inches = sum(float(np.hypot(*np.diff(part, axis=0).T).sum()) for _, part in parts)
        self.assertAlmostEqual(inches, float(np.hypot(*np.diff(line, axis=0).T).sum()), 6)
        for reach, part in parts:
            self.assertGreaterEqual(part[:, 1].min(), self.PASSES[reach].top - 0.02)
            self.assertLessEqual(part[:, 1].max(), self.PASSES[reach].bottom + 0.02)
        for (_, one), (_, two) in itertools.pairwise(parts):
            self.assertLess(np.hypot(*(one[-1] - two[0])), 1e-9)

    @long
    def test_a_row_of_upright_lines_is_rolled_for_or_cut(self):
        upright = {**ROWS, "angle": 90.0}
        for advance, rolled in ((10.0, True), (150.0, False)):
            with self.subTest(advance=advance):
                machine = Machine(rates=Rates(advance=advance))
                job = field(14, 22, "crosshatch", {"spacing": 2.0}, machine)
                least = planned_job(job)
                made = {school: planned_job(replace(job, policy=replace(job.policy, oversized=school)))
                        for school in ("split", "roll")}  # fmt: skip
                for school, route in made.items():
                    own = replace(job, policy=replace(job.policy, oversized=school))
                    self.assertEqual(replayed_job(own, route), [])
                self.assertEqual(replayed_job(job, least), [])
                self.assertAlmostEqual(
                    least.lost_minutes, min(route.lost_minutes for route in made.values()), 6
                )
                self.assertEqual(least.rolls > 5, rolled)
        # Nine upright lines of 29 1/4": each is rolled for once, down one and up the next.
        job = field(20, 30, settings=upright, machine=Machine(), oversized="roll")
        route = planned_job(job)
        self.assertEqual((route.cuts, sum(s.how == "under" for s in route.steps)), (1, 9))

    def test_the_replay_sees_a_cut_where_it_was_to_be_rolled(self):
        job = field(20, 30, settings={**ROWS, "angle": 90.0}, machine=Machine(), oversized="split")
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        asked = replace(job, policy=replace(job.policy, oversized="roll"))
        self.assertNotEqual(replayed_job(asked, route), [])

    @long
    def test_a_wandering_line_is_drawn_in_parts_instead(self):
        job = field(20, 30, "loops", {}, Machine(), oversized="roll")
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        self.assertFalse([step for step in route.steps if step.how == "under"])

    def test_the_run_sheet_tells_it_once(self):
        import json

        job = field(20, 30, settings={**ROWS, "angle": 90.0}, machine=Machine(), oversized="roll")
        sheet = run_sheet(job, json.loads(route_json(job, planned_job(job), [])))
        told = [row.text for part in sheet.parts for row in part.rows if row.kind == "under"]
        self.assertEqual(told, ["Roll the quilt on and back under the needle, 9 times in all."])
        self.assertLessEqual(len(sheet.parts), 3)


class CrossingTests(TestCase):
    def test_lines_that_cross_in_one_middle_and_are_as_long(self):
        """Two of the lines of a crosshatched field are told apart by their ends alone."""
        for size in ((20, 30), (20, 20)):
            job = field(*size, "crosshatch", {"spacing": 2.0}, Machine())
            self.assertEqual(replayed_job(job, planned_job(job)), [])
