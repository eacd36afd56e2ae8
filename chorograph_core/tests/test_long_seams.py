"""Long seams: lines that go straight on from block to block."""

import math
from collections import Counter
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job, job_linework, replayed_job
from chorograph_core.layouts import BlockRow, BlockRows, Border, StraightSet
from chorograph_core.route import State
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.long_seams import gathered
from chorograph_core.tests import examples, long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed
from chorograph_core.zones import negative_space, zones_from_patches


class LongSeamTests(TestCase):
    def inner(self, *blocks, sashing=0.0):
        job = designed(StraightSet(3, 3, 8, blocks, sashing))
        job = replace(job, machine=replace(job.machine, kind="sit-down"))
        cache = DrawingCache()
        lay = laid_out(job.chart, job.zones, job_linework(job, cache), job.machine, job.policy,
                       State(), cache)  # fmt: skip
        required = {number for numbers in lay.required.values() for number in numbers}
        return job, lay, required & set(lay.inner)

    def test_lines_that_run_through_every_block_are_walked_from_edge_to_edge(self):
        # The thirds of a nine patch meet those of the next; nothing is left inside a block, in those
        # at the edge of the top as little as in the middle.
        _, _, inner = self.inner("nine_patch")
        self.assertEqual(inner, set())

    def test_sashing_ends_them(self):
        # Each of nine blocks has its four lines, cut in three by one another: twelve links.
        _, _, inner = self.inner("nine_patch", sashing=1.0)
        self.assertEqual(len(inner), 9 * 12)

    def test_a_neighbour_of_another_kind_ends_them(self):
        _, lay, inner = self.inner("nine_patch", "sawtooth_star")
        stations = {lay.inner[number] for number in inner}
        self.assertEqual(len(stations), 9)

    def test_in_centimetres_blocks_of_a_row_keep_their_inner_seams(self):
        # Where background flows together, slanting seams are cut to other last digits on either side: a hair
        # between two zones of a place was taken for its edge, and seams along it for those of the pass.
        rows = BlockRows(150 / 2.54, (BlockRow(20 / 2.54, "flying_geese", 8),), 4 / 2.54,
                         (Border(4 / 2.54), Border(12 / 2.54)))  # fmt: skip
        chart = rows.chart()
        zones = tuple(negative_space(chart, zones_from_patches(chart)))
        layers = (Layer("ditch", {}, "clear", 10), Layer("meander", {}, "indigo"))
        entry = Entry("all", "all", tuple(zone.id for zone in zones), layers)
        job = Job("Geese", chart, zones, survey=rows, legend=(entry,))
        cache = DrawingCache()
        lay = laid_out(
            chart, zones, job_linework(job, cache), job.machine, job.policy, State(), cache
        )
        required = {number for numbers in lay.required.values() for number in numbers}
        count = Counter(lay.stations[lay.inner[n]].key for n in required & set(lay.inner))
        # Four triangles between two geese in each block, two slanting sides each; at the ends of the row
        # those of its own that flow into no neighbour's.
        self.assertEqual([count[f"z:b1.{k}.p0"] for k in range(2, 8)], 6 * [8])
        self.assertEqual(count["z:b1.1.p0"], count["z:b1.8.p0"])

    @settings(max_examples=examples(100))
    @given(
        some.lists(some.integers(0, 40), min_size=1, max_size=60),
        some.floats(0, 0.1),
        some.randoms(),
    )
    def test_what_lies_together_has_one_number_wherever_steps_begin(self, steps, off, rng):
        values = np.array([step / 8 + off + rng.uniform(-1e-6, 1e-6) for step in steps])
        found = gathered(values)
        for step, number in zip(steps, found, strict=True):
            self.assertEqual(number, sorted(set(steps)).index(step))

    @long
    def test_the_route_replays_and_lays_the_ruler_along_whole_lines(self):
        job, _, _ = self.inner("nine_patch")
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        # Eight lines each way across 24 inches, each laid as often as its length asks for, and a few turns.
        fewest = 16 * math.ceil(24 / job.machine.rates.ruler_reach)
        self.assertLess(route.layings, 1.25 * fewest)
