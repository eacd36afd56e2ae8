"""Minutes, thread, density and gaps against closed formulas."""

import math
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as some
from shapely.geometry import box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs import Linework, Run
from chorograph_core.designs.drawing import draw_legend
from chorograph_core.designs.legend import Entry, Layer, LayerLinework
from chorograph_core.designs.linework import RULED
from chorograph_core.job import job_linework, planned_job
from chorograph_core.reckon import (
    Machine,
    Rates,
    evenness,
    reckon,
    stitched_once,
    thread_inches,
)
from chorograph_core.tests import long
from chorograph_core.tests.shapes import designed, small_top
from chorograph_core.zones import zones_from_patches


def straight(technique="straight", inches=70.0) -> LayerLinework:
    run = Run(np.array([[0, 0], [inches, 0]]), technique)
    return LayerLinework("z", "e", 0, "parallel", "t", 10, 1, Linework((run,)))


class ReckonTests(TestCase):
    def test_a_minute_of_each_technique(self):
        for technique, speed in Rates().speeds.items():
            whole, _ = reckon([straight(technique, speed)], Machine())
            layings = math.ceil(speed / 10) if technique in RULED else 0
            self.assertAlmostEqual(whole.minutes, 1.0 + layings * 7 / 60)
            self.assertEqual(whole.by_technique, {technique: speed})
            self.assertAlmostEqual(whole.minutes_by_technique[technique], 1.0)

    def test_zones_add_up_to_the_whole(self):
        job = designed(small_top(1, 1))
        drawn = job_linework(job)
        whole, zones = reckon(drawn, job.machine)
        self.assertAlmostEqual(sum(z.minutes for z in zones.values()), whole.minutes, places=6)
        self.assertAlmostEqual(sum(z.inches for z in zones.values()), whole.inches, places=6)
        stitching = sum(whole.minutes_by_technique.values())
        layings = whole.ruler_moves * job.machine.rates.ruler_move / 60
        marking = whole.marked_inches * job.machine.rates.mark_inch / 60
        self.assertAlmostEqual(whole.minutes, stitching + layings + marking, places=6)
        for thread, inches in whole.thread_inches.items():
            self.assertGreater(inches, 0, thread)

    @given(some.floats(0, 1e4), some.floats(4, 20), some.floats(0, 0.5))
    def test_thread_grows_with_stitches_and_loft(self, inches, spi, loft):
        used = thread_inches(inches, spi, loft)
        self.assertAlmostEqual(used, inches + inches * spi * loft, places=6)
        self.assertGreaterEqual(used, inches)
        self.assertAlmostEqual(thread_inches(inches, spi, loft, 2, 6) - used, 24, places=5)

    def test_parallel_lines_have_the_density_their_spacing_gives(self):
        chart = Chart(
            box(0, 0, 24, 24), (Patch("p", box(2, 2, 22, 22)), Patch("q", box(0, 0, 1, 1)))
        )
        zones = zones_from_patches(chart)
        layers = (Layer("parallel", {"spacing": 0.5}, "t"),)
        drawn = draw_legend(chart, zones, [Entry("e", "", ("z:p",), layers)])
        even = evenness(zones, drawn)
        # Lines 1/2″ apart hold about 2 inches a square inch; links along the edge add a little.
        self.assertAlmostEqual(even["z:p"].density, 2.0, delta=0.12)
        self.assertAlmostEqual(even["z:p"].gap, 0.5, delta=0.1)

    def test_an_empty_zone_is_one_gap(self):
        chart = Chart(box(0, 0, 9, 9), (Patch("p", box(0, 0, 9, 9)),))
        self.assertAlmostEqual(evenness(zones_from_patches(chart), [])["z:p"].gap, 9, delta=0.8)


def ditched(*polygons) -> list[LayerLinework]:
    """A ditch round each polygon, as one layer for each."""
    made = []
    for k, polygon in enumerate(polygons):
        run = Run(np.array(polygon.exterior.coords), "ditch", in_ditch=True)
        made.append(LayerLinework(f"z{k}", f"e{k}", 0, "ditch", "t", 10, 1, Linework((run,))))
    return made


class SharedDitchTests(TestCase):
    @given(some.integers(2, 6), some.integers(1, 5), some.floats(0.75, 20))
    def test_a_grid_of_squares_holds_each_seam_once(self, across, down, side):
        drawn = ditched(*(box(i * side, j * side, (i + 1) * side, (j + 1) * side)
                          for j in range(down) for i in range(across)))  # fmt: skip
        whole, zones = reckon(stitched_once(drawn), Machine())
        seams = (across * (down + 1) + down * (across + 1)) * side
        self.assertAlmostEqual(whole.inches, seams, delta=0.02)
        self.assertAlmostEqual(zones["z0"].inches, 4 * side, delta=0.02)
        self.assertAlmostEqual(zones["z1"].inches, 3 * side, delta=0.02)
        least = math.ceil(side / 10 - 1e-6) * (across * (down + 1) + down * (across + 1))
        self.assertLessEqual(whole.ruler_moves, least)

    def test_a_long_side_shared_in_parts_is_left_with_the_rest(self):
        drawn = ditched(box(0, 0, 3, 3), box(3, 0, 6, 9))
        again = stitched_once(drawn)
        self.assertAlmostEqual(again[1].linework.inches, 24 - 3, delta=0.01)
        self.assertEqual(stitched_once(drawn[:1])[0].linework.inches, 12)

    def test_nothing_is_left_of_a_ditch_asked_for_twice(self):
        one = box(0, 0, 5, 5)
        first, second = stitched_once(ditched(one, one))
        self.assertAlmostEqual(first.linework.inches, 20, delta=0.01)
        self.assertEqual(second.linework.runs, ())

    @long
    def test_legend_and_route_agree_about_the_minutes(self):
        job = designed(small_top(2, 2))
        route = planned_job(job)
        whole, _ = reckon(stitched_once(job_linework(job)), job.machine)
        stitching = [s for s in route.steps
                     if (s.run or s.kind in ("ruler", "mark")) and s.kind != "secure"]  # fmt: skip
        inches = sum(s.inches for s in stitching)
        minutes = sum(s.seconds for s in stitching) / 60
        # A free motif is drawn again between its doorways, and a walk parts straight seams anew.
        self.assertAlmostEqual(whole.inches / inches, 1, delta=0.02)
        # What is reckoned before there is a route lays the ruler zone by zone: never too few minutes.
        self.assertLessEqual(minutes, whole.minutes * 1.01)
        self.assertGreaterEqual(minutes, whole.minutes * 0.8)
        ditches = sum(s.inches for s in stitching if s.how == "ditch" and s.kind == "stitch")
        asked = sum(r.inches for o in stitched_once(job_linework(job))
                    for r in o.linework.runs if r.in_ditch)  # fmt: skip
        self.assertAlmostEqual(asked, ditches, delta=0.005 * ditches)
