"""Minutes, thread, density and gaps against closed formulas."""

from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as some
from shapely.geometry import box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs import Linework, Run
from chorograph_core.designs.legend import Drawn, Entry, Layer, draw_legend
from chorograph_core.formats import drawn_job
from chorograph_core.reckon import Machine, Rates, evenness, reckon, thread_inches
from chorograph_core.tests.shapes import designed, small_top
from chorograph_core.zones import zones_from_patches


def straight(technique="straight", inches=70.0) -> Drawn:
    run = Run(np.array([[0, 0], [inches, 0]]), technique)
    return Drawn("z", "e", 0, "parallel", "t", 10, 1, Linework((run,)))


class ReckonTests(TestCase):
    def test_a_minute_of_each_technique(self):
        for technique, speed in Rates().speeds.items():
            whole, _ = reckon([straight(technique, speed)], Machine())
            self.assertAlmostEqual(whole.minutes, 1.0)
            self.assertEqual(whole.by_technique, {technique: speed})
            self.assertAlmostEqual(whole.minutes_by_technique[technique], 1.0)

    def test_zones_add_up_to_the_whole(self):
        job = designed(small_top(1, 1))
        drawn = drawn_job(job)
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
