"""A shape laid over the top whose edge runs along a seam."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as some
from shapely import union_all
from shapely.geometry import Point, Polygon, box

from chorograph_core.chart import Fabric, faults
from chorograph_core.chart.applique import lay
from chorograph_core.chart.side_by_side import met
from chorograph_core.layouts import StraightSet
from chorograph_core.tests import examples
from chorograph_core.zones import cutting, zones_from_patches

LEFT, RIGHT = box(0, 0, 6, 6), box(6, 0, 12, 6)
TOP = StraightSet(2, 2, 6, ("sawtooth_star", "nine_patch"), 1).chart()
SEAMS = (0, 2, 3, 4, 6, 7, 9, 10, 13)


class MetTests(TestCase):
    def test_an_edge_close_to_a_seam_lies_on_it(self):
        for near in (0.01, 0.03, 0.06):
            for right in (6 - near, 6 + near):
                self.assertEqual(met(box(1, 1, right, 5), (LEFT, RIGHT)).bounds, (1, 1, 6, 5))
            both = met(box(near, 1, 6 + near, 6 - near), (LEFT, RIGHT))
            self.assertEqual(both.bounds, (0, 1, 6, 6))
            self.assertAlmostEqual(both.area, 30, places=5)

    def test_what_is_sewn_on_or_let_in_there_lies_on_it(self):
        chart = StraightSet(1, 2, 6, ("plain",)).chart()
        for right in (5.97, 6.03):
            shape = box(1, 1, right, 5)
            (sewn,) = (p for p in lay(chart, [shape], Fabric("x", "x", "#ffffff"), "").patches
                       if p.role == "applique")  # fmt: skip
            let_in = cutting.let_in(zones_from_patches(chart), shape, "f:1", "by hand")[-1]
            for made in (sewn, let_in):
                np.testing.assert_allclose(made.polygon.bounds, (1, 1, 6, 5), atol=2e-4)

    def test_one_that_is_farther_away_or_crosses_stays_as_it_was_drawn(self):
        disc = Point(6, 3).buffer(2)
        for shape in (box(1, 1, 5.93, 5), box(1, 1, 6.07, 5), disc, box(5.98, 1, 6.4, 1.3)):
            self.assertIs(met(shape, (LEFT, RIGHT)), shape)

    def test_a_round_edge_meets_the_seam_where_it_comes_near(self):
        """A circle 1/50 from the seam: within 1/16 of it for 0.82 inches, within 1/32 for 0.42."""
        disc = Point(3.98, 3).buffer(2, quad_segs=64)
        made = met(disc, (LEFT, RIGHT))
        self.assertEqual(made.bounds[2], 6)
        y = [y for x, y in made.exterior.coords if x > 6 - 1e-6]
        within = [2 * (2**2 - (2.02 - gap) ** 2) ** 0.5 for gap in (1 / 32, 1 / 16)]
        self.assertGreater(max(y) - min(y), within[0])
        self.assertLess(max(y) - min(y), within[1])
        self.assertAlmostEqual(made.union(disc).area, made.area, places=5)

    def test_a_narrow_piece_in_the_middle_of_a_shape_does_not_part_it(self):
        strips = [box(0, 0, 3, 6), box(3, 0, 3.05, 6), box(3.05, 0, 6, 6)]
        shape = box(1, 1, 5, 5)
        self.assertIs(met(shape, strips), shape)

    def test_what_is_no_wider_than_that_itself_stays_as_it_was_drawn(self):
        """It was taken for a strip beyond the seam, and an empty piece was sewn on."""
        for thin in (
            box(1, 0, 5, 0.05),
            box(7, 3, 9, 3.05),
            box(1, 2.98, 5, 3.03),
            box(0, 0, 0.05, 13),
        ):
            (sewn,) = (p for p in lay(TOP, [thin], Fabric("x", "x", "#ffffff"), "").patches
                       if p.role == "applique")  # fmt: skip
            self.assertAlmostEqual(sewn.polygon.area, thin.area, delta=0.25 * thin.area)
            let_in = cutting.let_in(zones_from_patches(TOP), thin, "f:1", "by hand")[-1]
            self.assertAlmostEqual(let_in.polygon.area, thin.area, delta=0.25 * thin.area)

    @settings(max_examples=examples(60))
    @given(some.tuples(*[some.tuples(some.sampled_from(SEAMS), some.integers(-70, 70))] * 4))
    def test_nothing_is_lost_and_nothing_narrow_is_left(self, sides):
        a, b, c, d = (seam + off / 1000 for seam, off in sides)
        shape = box(min(a, b), min(c, d), max(a, b), max(c, d))
        assume(min(abs(a - b), abs(c - d)) > 0.5)
        zones = cutting.let_in(zones_from_patches(TOP), shape, "f:1", "by hand")
        self.assertAlmostEqual(sum(zone.polygon.area for zone in zones), 169, delta=0.05)
        self.assertEqual(len({zone.id for zone in zones}), len(zones))
        self.assertAlmostEqual(union_all([zone.polygon for zone in zones]).area, 169, delta=0.05)
        inside = zones[-1].polygon
        for zone in zones[:-1]:
            self.assertLess(zone.polygon.intersection(inside).area, 1e-2)
            near = zone.polygon.buffer(-1 / 33).buffer(1 / 33 + 0.001, join_style="mitre")
            for strip in _parts(zone.polygon.difference(near)):
                # What is left of a corner is short.
                self.assertLess(strip.intersection(inside.buffer(0.001)).length / 2, 1.1)
        laid = lay(TOP, [shape], Fabric("x", "x", "#ffffff"), "by hand")
        self.assertEqual(faults(laid), [])


def _parts(shape) -> list[Polygon]:
    return [part for part in getattr(shape, "geoms", [shape]) if isinstance(part, Polygon)]
