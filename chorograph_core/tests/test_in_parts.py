"""A field deeper than the reach is filled pass by pass, not cut wherever a line crosses."""

from dataclasses import replace
from itertools import pairwise
from unittest import TestCase

import numpy as np
import shapely
from shapely.geometry import box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.linework import length
from chorograph_core.job import Job, job_linework, replayed_job
from chorograph_core.route import State
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.parting import bands_of, parted
from chorograph_core.tests import long
from chorograph_core.tests.plans import planned_job
from chorograph_core.zones import zones_from_patches


def field(size: float, design: str = "meander", **settings) -> Job:
    """A square of one fabric with one filling."""
    square = box(0, 0, size, size)
    chart = Chart(square, (Patch("f", square, "field"),))
    zones = tuple(zones_from_patches(chart))
    layers = (Layer(design, settings, "indigo"),)
    return Job("Field", chart, zones, legend=(Entry("e", "", (zones[0].id,), layers),))


class FieldTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job, cls.cache = field(44, gap=0.75), DrawingCache()
        cls.drawn = job_linework(cls.job, cls.cache)
        cls.lay = laid_out(cls.job.chart, cls.job.zones, cls.drawn, cls.job.loaded_machine,
                           cls.job.policy, State(), cls.cache)  # fmt: skip
        cls.route = planned_job(cls.job, cls.cache)

    @long
    def test_it_is_cut_once_a_pass(self):
        self.assertGreater(len(self.lay.passes), 2)
        self.assertEqual(self.route.cuts, len(self.lay.passes))
        self.assertEqual(replayed_job(self.job, self.route), [])

    def test_the_parts_fill_the_field_and_do_not_cross(self):
        parts = [shapely.linestrings(run.points) for run in self.lay.drawn[0].linework.runs]
        self.assertEqual(len(parts), len(self.lay.passes))
        for one, two in pairwise(parts):
            self.assertFalse(one.crosses(two))
        whole = self.drawn[0].linework.inches
        self.assertAlmostEqual(sum(part.length for part in parts) / whole, 1, delta=0.12)
        self.assertEqual({run.figure for run in self.lay.drawn[0].linework.runs}, {"0"})

    def test_bands_cover_the_field_once(self):
        bands = bands_of(self.drawn[0], self.lay.passes)
        union = shapely.union_all(bands)
        self.assertTrue(union.covers(self.job.chart.outline))
        self.assertAlmostEqual(sum(band.area for band in bands), union.area, places=4)

    def test_what_is_no_wandering_line_is_parted_as_it_was_drawn(self):
        job = field(44, "crosshatch")
        drawn = job_linework(job, self.cache)[0]
        pieces = parted(drawn, self.lay.passes, self.cache).linework.runs
        one, other = (
            sum(length(part) for run in runs for part, _, kind in run.pieces() if kind == "stitch")
            for runs in (pieces, drawn.linework.runs)
        )
        self.assertAlmostEqual(one, other, places=4)

    @long
    def test_the_replay_sees_a_part_that_is_missing_or_leaves_a_hole(self):
        steps = list(self.route.steps)
        place = next(k for k, step in enumerate(steps) if step.kind == "stitch")
        # A third of the first part is gone: where it lay nothing is stitched.
        points = steps[place].points
        steps[place] = replace(steps[place], points=points[: 2 * len(points) // 3])
        faults = replayed_job(self.job, replace(self.route, steps=steps))
        self.assertTrue(any("drawn again" in fault for fault in faults), faults)

    def test_the_replay_sees_a_part_that_leaves_the_field(self):
        steps = list(self.route.steps)
        place = next(k for k, step in enumerate(steps) if step.kind == "stitch")
        steps[place] = replace(steps[place], points=steps[place].points - np.array([1.0, 0.0]))
        faults = replayed_job(self.job, replace(self.route, steps=steps))
        self.assertTrue(any("leaves its zone" in fault for fault in faults), faults)

    @long
    def test_a_large_field_is_as_dense_as_a_small_one(self):
        inches = [field_density(size) for size in (12, 48)]
        self.assertAlmostEqual(inches[1] / inches[0], 1, delta=0.1)


def field_density(size: float) -> float:
    """Inches of meander a square inch of what it may fill."""
    drawn = job_linework(field(size))[0]
    return drawn.linework.inches / (size - 0.75) ** 2
