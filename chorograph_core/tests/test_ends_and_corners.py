"""Ends of strips, corners of rows and pebbles, loops held at an edge: filled as a hand fills them."""

import math
from unittest import TestCase
from unittest.mock import patch

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import Point, Polygon, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.engine.lanes import nearest_odd
from chorograph_core.designs.engine.packing import packed
from chorograph_core.designs.freehand.clams import HARDLY, _left_open, _rows
from chorograph_core.designs.freehand.loops import _loops_at
from chorograph_core.designs.judging import judged
from chorograph_core.tests import examples


def missed(key: str, zone: Polygon, **asked) -> int:
    """Sharp corners that a design misses in a zone."""
    drawing, space = designs()[key], Space(zone)
    s = drawing.clean(asked)
    return judged(drawing, space, s, drawing.draw(space, s, 1)).corners


class OddTests(TestCase):
    @given(some.floats(0.05, 90))
    def test_none_that_is_odd_is_nearer(self, units):
        found = nearest_odd(units)
        self.assertEqual(found % 2, 1)
        for other in range(1, 101, 2):
            self.assertGreaterEqual(abs(units - other), abs(units - found) - 1e-12)

    @settings(max_examples=examples(15), deadline=None)
    @given(some.floats(3.5, 30), some.floats(0, 360))
    def test_loops_begin_and_end_with_a_tall_one(self, long, turned):
        zone = shapely.affinity.rotate(box(0, 0, long, 2), turned)
        self.assertEqual(missed("cursive_loops", zone), 0)
        drawing, space = designs()["cursive_loops"], Space(zone)
        (run,) = drawing.draw(space, drawing.clean({}), 1).runs
        self.assertEqual(len(run.units or [1]) % 2, 1)

    def test_of_an_even_number_the_last_would_leave_a_corner(self):
        with patch.object(type(designs()["cursive_loops"]), "odd", False):
            found = [missed("cursive_loops", box(0, 0, long, 2)) for long in (6, 7, 8, 9)]
        self.assertGreater(sum(found), 0)

    def test_all_round_a_frame_they_are_even(self):
        frame = box(0, 0, 12, 12).difference(box(2, 2, 10, 10))
        drawing, space = designs()["cursive_loops"], Space(frame)
        with patch.object(type(drawing), "corner_figure", lambda self, s: None):
            (run,) = drawing.draw(space, drawing.clean({}), 1).runs
        np.testing.assert_allclose(run.points[0], run.points[-1], atol=0.1)
        self.assertEqual(len(run.units) % 2, 0)


class ClamTests(TestCase):
    @settings(max_examples=examples(8), deadline=None)
    @given(some.floats(3, 9), some.floats(2, 6), some.floats(-2, 2))
    def test_rows_begin_as_more_corners_are_reached(self, wide, high, lean):
        zone = Polygon([(0, 0), (wide, 0), (wide + lean, high), (lean, high)])
        drawing, space = designs()["clams"], Space(zone)
        s = drawing.clean({})
        found, whole, half = (
            _left_open(made, space, s)
            for made in (drawing.draw(space, s, 1), _rows(space, s, 0), _rows(space, s, 1))
        )
        self.assertLessEqual(found, min(whole, half) + HARDLY)

    def test_four_rows_reach_the_corners_above_and_below(self):
        zone = box(0, 0, 9.6, 2.4)
        drawing, space = designs()["clams"], Space(zone)
        s = drawing.clean({})
        self.assertEqual(missed("clams", zone), 0)
        self.assertGreater(judged(drawing, space, s, _rows(space, s, 0)).corners, 0)


class PebbleTests(TestCase):
    @settings(max_examples=examples(15), deadline=None)
    @given(some.floats(4, 9), some.floats(3, 7), some.floats(0.1, 0.9), some.integers(0, 50))
    def test_one_lies_in_each_sharp_corner(self, wide, high, tip, seed):
        part = Polygon([(0, 0), (wide, 0), (tip * wide, high)])
        found = packed(part, 0.35, 0.15, np.random.default_rng(seed))
        for corner in shapely.get_coordinates(part.exterior)[:-1]:
            rim = min(np.hypot(*(each.middle - corner)) - each.radius for each in found)
            ends = [
                end for end in shapely.get_coordinates(part.exterior)[:-1] if (end != corner).any()
            ]
            ways = [(end - corner) / np.hypot(*(end - corner)) for end in ends]
            angle = math.acos(float(np.clip(ways[0] @ ways[1], -1, 1)))
            if angle > math.radians(119):
                continue
            # By hand: a circle that touches both sides lies r / sin(half) - r from the corner.
            beyond = 1 / math.sin(angle / 2) - 1
            self.assertLess(rim, max(0.75 * 0.5, 0.15 * beyond) + 0.02)
        for k, one in enumerate(found):
            self.assertTrue(part.buffer(1e-6).covers(Point(one.middle).buffer(one.radius * 0.99)))
            for two in found[:k]:
                self.assertGreater(
                    math.dist(one.middle, two.middle), one.radius + two.radius - 1e-6
                )


class LoopTests(TestCase):
    def test_a_line_that_goes_round_a_place_and_one_that_passes(self):
        turn = np.linspace(0, 2 * math.pi, 40)
        loop = np.column_stack([np.cos(turn), np.sin(turn)])
        come = np.column_stack([np.linspace(-4, 1, 20), np.full(20, -0.2)])
        middle = np.zeros(2)
        self.assertTrue(_loops_at(np.vstack([come, loop]), middle, 1.0))
        self.assertTrue(_loops_at(np.vstack([come, loop[::-1]]), middle, 1.0))
        passing = np.column_stack([np.linspace(-4, 4, 60), np.full(60, -1.0)])
        self.assertFalse(_loops_at(passing, middle, 1.0))
        # A way that passes the other way takes nothing from a loop.
        self.assertTrue(_loops_at(np.vstack([loop, loop[-1:] + [3, 0], passing]), middle, 1.0))

    def test_sizes_stay_within_two_to_one_and_turns_are_a_hands(self):
        drawing = designs()["loops"]
        # Round two corners that point inwards; where it grows narrow on and on.
        notched = [(0, 0), (6, 0), (5.2, 2.5), (3, 0.8), (3.4, 3.3), (0.9, 3), (2.5, 5.2), (0, 6)]
        narrowing = box(0, 0, 12, 12).difference(Point(0, 12).buffer(10.5))
        for zone in (box(0, 0, 14, 2.2), Polygon(notched), narrowing):
            space, s = Space(zone), drawing.clean({})
            made = drawing.draw(space, s, 1)
            self.assertEqual(judged(drawing, space, s, made).roundness, 0)
            for run in made.runs:
                loops = shapely.get_parts(
                    shapely.polygonize([shapely.node(shapely.linestrings(run.points))])
                )
                radii = [math.sqrt(each.area / math.pi) for each in loops
                         if each.area / each.length**2 * 4 * math.pi > 0.93]  # fmt: skip
                self.assertGreater(len(radii), 3)
                self.assertLess(max(radii), 2.1 * min(radii))
