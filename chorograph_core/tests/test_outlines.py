"""Outlines mended by hand, and the grid they make evident."""

import math
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as some
from shapely.geometry import Polygon, box

from chorograph_core.chart import ChartError
from chorograph_core.chart.shapes import STAMPS
from chorograph_core.photo.outlines import (
    cornered,
    evident_grid,
    lines_of,
    moved,
    on_grid,
    parted,
    rounded,
    united,
)

LEFT = [[0, 0], [4, 0], [4, 4], [0, 4]]
RIGHT = [[4, 0], [8, 0], [8, 4], [4, 4]]


class MendTests(TestCase):
    def test_a_corner_takes_the_neighbours_corner_with_it(self):
        made = moved([LEFT, RIGHT], 0, 1, 4.5, 0.25)
        self.assertEqual(set(made), {0, 1})
        self.assertIn([4.5, 0.25], made[1])
        whole = sum(Polygon(ring).area for ring in made.values())
        self.assertAlmostEqual(whole, 32 - 0.25 * 8 / 2, places=6)

    @given(some.floats(-3, 7), some.floats(-3, 7), some.integers(0, 3))
    def test_wherever_a_corner_goes_it_is_an_outline_or_a_sentence(self, x, y, corner):
        try:
            made = moved([LEFT], 0, corner, x, y)[0]
        except ChartError as error:
            self.assertEqual(error.field, "touch")
        else:
            self.assertTrue(Polygon(made).is_valid)
            self.assertGreaterEqual(len(made), 3)

    def test_a_corner_laid_on_the_next_is_gone(self):
        self.assertEqual(len(moved([LEFT], 0, 0, 4, 0)[0]), 3)
        with self.assertRaises(ChartError):
            moved([[[0, 0], [4, 0], [0, 4]]], 0, 0, 4, 0)

    def test_a_new_corner_on_a_side(self):
        made = cornered([LEFT], 0, 1, 5, 2)[0]
        self.assertEqual(made[2], [5, 2])
        self.assertAlmostEqual(Polygon(made).area, 18)

    @given(some.floats(0.1, 3.9), some.floats(0.1, 3.9))
    def test_split_pieces_are_the_whole(self, top, bottom):
        pieces = parted([LEFT], 0, [[top, 1], [bottom, 3]])
        self.assertAlmostEqual(sum(Polygon(ring).area for ring in pieces), 16, places=2)
        self.assertEqual(len(pieces), 2)

    def test_joined_again(self):
        pieces = parted([LEFT], 0, [[1, 1], [2, 3]])
        self.assertTrue(Polygon(united(pieces, [0, 1], 0.25)).equals(Polygon(LEFT)))
        gap = [[4.2, 0], [8, 0], [8, 4], [4.2, 4]]
        self.assertAlmostEqual(Polygon(united([LEFT, gap], [0, 1], 0.25)).area, 32, places=2)

    def test_what_cannot_be(self):
        far = [[20, 0], [24, 0], [24, 4]]
        for act in (
            lambda: united([LEFT, far], [0, 1], 0.25), lambda: united([LEFT], [0, 0], 0.25),
            lambda: parted([LEFT], 0, [[9, 9], [9, 12]]), lambda: parted([LEFT], 0, [[1, 1], [1, 1]]),
            lambda: moved([LEFT], 4, 0, 1, 1), lambda: moved([LEFT], 0, 9, 1, 1),
            lambda: moved([LEFT], -1, 0, 1, 1), lambda: cornered([LEFT], 0, 9, 1, 1),
            lambda: parted([LEFT], 0, [[float("nan"), 1], [1, 1]]),
        ):  # fmt: skip
            with self.assertRaises(ChartError):
                act()


class RoundTests(TestCase):
    def test_many_short_sides_become_a_circle_and_corners_stay(self):
        turn = [2 * math.pi * k / 24 for k in range(24)]
        ring = [[6 * math.cos(a), 6 * math.sin(a)] for a in turn]
        made = Polygon(rounded(ring))
        reach = [math.hypot(x, y) for x, y in made.exterior.coords]
        self.assertLess(max(abs(r - 6) for r in reach), 0.02)
        self.assertAlmostEqual(made.area, math.pi * 36, delta=0.3)
        self.assertIs(rounded(LEFT), LEFT)
        rough = [
            [x + 0.06 * math.sin(5 * k), y + 0.06 * math.cos(3 * k)]
            for k, (x, y) in enumerate(ring)
        ]
        reach = [math.hypot(x, y) for x, y in rounded(rough)]
        self.assertLess(max(reach) - min(reach), 0.06)
        # An oval stays one.
        oval = Polygon(rounded([[1.3 * x, y] for x, y in ring])).bounds
        self.assertAlmostEqual((oval[2] - oval[0]) / (oval[3] - oval[1]), 1.3, delta=0.02)

    def test_a_leaf_keeps_its_tips(self):
        ring = np.round(np.asarray(STAMPS["leaf"].shape(8).simplify(0.05).exterior.coords), 4)[:-1]
        tips = [list(p) for p in ring if abs(abs(p[1]) - 4) < 1e-3]
        made = rounded(ring.tolist())
        self.assertEqual(len(tips), 2)
        self.assertTrue(all(tip in made for tip in tips))
        self.assertGreater(len(made), len(ring))


class GridTests(TestCase):
    @given(some.sampled_from([1.5, 2.0, 3.25, 6.0, 9.0]), some.floats(0, 1),
           some.lists(some.floats(-0.08, 0.08), min_size=6, max_size=6))  # fmt: skip
    def test_even_lines_are_found_though_they_were_read_a_little_off(self, step, share, off):
        lines = [k * step + share * step + d for k, d in enumerate(off)]
        found = evident_grid(lines)
        self.assertIsNotNone(found)
        self.assertAlmostEqual(found[0], step)
        miss = (found[1] - share * step + step / 2) % step - step / 2
        self.assertLess(abs(miss), 0.09)

    def test_uneven_or_few_lines_make_none(self):
        self.assertIsNone(evident_grid([]))
        self.assertIsNone(evident_grid([0, 6, 12]))
        self.assertIsNone(evident_grid([0, 3.4, 5.1, 9.77, 10.9, 17.3]))

    def test_corners_near_a_line_go_onto_it_and_others_stay(self):
        shape = Polygon([(6.1, 0.05), (11.92, 0), (12.05, 5.9), (8.5, 7.5)])
        made = on_grid(shape, (6.0, 0.0), (6.0, 0.0), 0.15)
        self.assertEqual(list(made.exterior.coords)[:3], [(6, 0), (12, 0), (12, 6)])
        self.assertIn((8.5, 7.5), made.exterior.coords)
        self.assertIs(on_grid(box(0.1, 0, 0.12, 0.01), (6.0, 0.0), None, 0.15).is_valid, True)

    def test_lines_of_outlines(self):
        self.assertEqual(sorted(lines_of([LEFT], 0)), [0, 4])
        self.assertEqual(lines_of([[[0, 0], [4, 3], [0, 6]]], 1), [])
