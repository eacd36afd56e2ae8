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
from chorograph_core.designs.linework import Run, length
from chorograph_core.job import Job, job_linework, replayed_job
from chorograph_core.layouts import OnPoint
from chorograph_core.layouts.borders import Border
from chorograph_core.route import State
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.parting import bands_of, part_run, parted
from chorograph_core.route.passes import Pass
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


@long
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

    def test_what_is_closed_is_cut_in_two_and_leaves_no_stub(self):
        """A ring that begins where two passes overlap: it was cut in three, one a fraction of an inch."""
        passes = [Pass(1, 0.0, 10.0), Pass(2, 8.0, 18.0)]
        t = np.linspace(0, 2 * np.pi, 241)
        for begin in np.linspace(0, 2 * np.pi, 23):
            ring = np.column_stack([4 * np.sin(t + begin), 9 - 6 * np.cos(t + begin)])
            ring[-1] = ring[0]
            pieces = part_run(Run(ring, closed=True), passes)
            self.assertEqual(len(pieces), 2, begin)
            self.assertAlmostEqual(sum(p.inches for p in pieces), length(ring), places=6)
            for piece in pieces:
                self.assertTrue(any(each.holds(*piece.levels) for each in passes))

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


class SisterTests(TestCase):
    """Sisters side by side are parted alike, wherever they lie on the quilt and however they were turned."""

    def test_alike_shapes_in_a_row_are_parted_into_alike_pieces(self):
        chart = OnPoint(3, 3, 9, ("square_in_square",), borders=(Border(9.0),)).chart()
        zones = tuple(zones_from_patches(chart))
        shapes = {zone.id: zone.polygon for zone in zones if zone.polygon.area < 20}
        entry = Entry("e", "", tuple(shapes), (Layer("meander", {"gap": 0.375}),))
        drawn = job_linework(Job("Sisters", chart, zones, legend=(entry,)))
        passes, cache = [Pass(1, 0.0, 16.0), Pass(2, 14.0, 60.0)], DrawingCache()
        kinds: dict[tuple, list[tuple]] = {}
        for one in drawn:
            made = parted(one, passes, cache).linework.runs
            if len(made) > 1:
                x, y = shapes[one.zone].bounds[:2]
                outline = shapely.get_coordinates(shapes[one.zone].exterior) - (x, y)
                like = (round(y, 3), *sorted({tuple(c) for c in np.round(outline, 3).tolist()}))
                kinds.setdefault(like, []).append(
                    tuple(sorted((round(run.inches, 2), *np.round(run.points[0] - (x, y), 2).tolist())
                                 for run in made))
                )  # fmt: skip
        # Three blocks in a row, each with one that points to either side.
        self.assertEqual([len(each) for each in kinds.values()], [3, 3])
        for each in kinds.values():
            self.assertEqual(len(set(each)), 1, each)


def field_density(size: float) -> float:
    """Inches of meander a square inch of what it may fill."""
    drawn = job_linework(field(size))[0]
    return drawn.linework.inches / (size - 0.75) ** 2
