"""Long seams: lines that go straight on from block to block."""

import math
from dataclasses import replace
from unittest import TestCase

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.job import job_linework, replayed_job
from chorograph_core.layouts import StraightSet
from chorograph_core.route import State
from chorograph_core.route.laying_out import laid_out
from chorograph_core.tests import long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed


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

    @long
    def test_the_route_replays_and_lays_the_ruler_along_whole_lines(self):
        job, _, _ = self.inner("nine_patch")
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        # Eight lines each way across 24 inches, each laid as often as its length asks for, and a few turns.
        fewest = 16 * math.ceil(24 / job.machine.rates.ruler_reach)
        self.assertLess(route.layings, 1.25 * fewest)
