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
from chorograph_core.designs.engine.corners import swirl_in_corner
from chorograph_core.designs.engine.lanes import lane_in, nearest_odd, strip_in
from chorograph_core.designs.engine.leaning import left_beside
from chorograph_core.designs.engine.packing import packed
from chorograph_core.designs.engine.rows import rows_in
from chorograph_core.designs.engine.tight import tight_turns
from chorograph_core.designs.freehand.clams import LAID, _rows
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
        left = [left_beside(made, space, 0.5, s.margin) for made in
                (drawing.draw(space, s, 1), *(_rows(space, s, *laid) for laid in LAID))]  # fmt: skip
        self.assertEqual(left[0], min(left[1:]) if all(map(any, left[1:])) else (0.0, 0.0))

    @settings(max_examples=examples(20), deadline=None)
    @given(some.floats(4, 14), some.floats(2, 6), some.floats(0, 0.45))
    def test_each_row_stands_on_the_tops_of_the_next(self, wide, high, cut_off):
        """However far apart rows come out, half rounds between them are as high."""

        def half_rounds(x, place, number):
            off = (x + 0.5 * (number % 2)) % 1.0 * 2 - 1
            return 0.25 - 0.5 * np.sqrt(np.maximum(0.0, 1 - off * off))

        pieces = rows_in(box(0, 0, wide, high), 0.0, 0.5, half_rounds, 0.5, 0.01,
                         cut_off=cut_off, scales=True)  # fmt: skip
        # By hand: so many rows fill the height, the last one less what the edge takes of it.
        rows = max(1, round(high / 0.5 + 0.2 + cut_off))
        step = high / (rows - cut_off)
        long = [piece for piece in pieces if np.ptp(piece[:, 0]) > 0.95 * wide]
        self.assertGreaterEqual(len(long), rows - 1)
        for number in range(rows - 1):
            (row,) = [each for each in long if abs(each[:, 1].min() - number * step) < 0.01]
            self.assertAlmostEqual(row[:, 1].max(), (number + 1) * step, delta=0.06)

    def test_the_last_row_is_cut_off_where_its_feet_would_leave_the_edge_open(self):
        drawing, space = designs()["clams"], Space(box(0, 0, 18, 3))
        s = drawing.clean({})
        self.assertEqual(judged(drawing, space, s, drawing.draw(space, s, 1)).faults(drawing), [])
        plain = [judged(drawing, space, s, _rows(space, s, first, 0.0)) for first in (0, 1)]
        self.assertTrue(all("edge" in each.faults(drawing) for each in plain))
        # What is left of that row is one unit, as each of the others is: by hand, 2.75 / 0.5 + 0.2 + 0.4.
        (run,) = drawing.draw(space, s, 1).runs
        self.assertEqual([unit.name for unit in run.units], [f"row {k}" for k in range(1, 7)])

    def test_four_rows_reach_the_corners_above_and_below(self):
        zone = box(0, 0, 9.6, 2.4)
        drawing, space = designs()["clams"], Space(zone)
        s = drawing.clean({})
        self.assertEqual(missed("clams", zone), 0)
        self.assertGreater(judged(drawing, space, s, _rows(space, s, 0, 0.0)).corners, 0)


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

    @settings(max_examples=examples(15), deadline=None)
    @given(some.floats(1.9, 2.6), some.floats(1.9, 2.6))
    def test_two_lie_beside_each_other_on_one_way(self, wide, high):
        zone = Polygon([(0, 0), (wide + 0.6, 0), (0, high)])
        drawing, space = designs()["loops"], Space(zone)
        made = drawing.draw(space, drawing.clean({"size": 0.4}), 1)
        for run in made.runs:
            inside = shapely.get_parts(
                shapely.polygonize([shapely.node(shapely.linestrings(run.points))])
            )
            round_ = [each for each in inside
                      if each.area / each.length**2 * 4 * math.pi > 0.93]  # fmt: skip
            for k, one in enumerate(round_):
                for two in round_[:k]:
                    self.assertGreater(one.distance(two), 0.02)

    def test_at_an_end_one_lies_on_the_side_with_room(self):
        notched = Polygon([(0, 0), (9, 0), (9, 1.9), (7.7, 0.55), (6.4, 2), (0, 2)])
        drawing, space = designs()["loops"], Space(notched)
        s = drawing.clean({})
        self.assertEqual(judged(drawing, space, s, drawing.draw(space, s, 1)).roundness, 0)


class CornerSwirlTests(TestCase):
    @settings(max_examples=examples(30), deadline=None)
    @given(some.floats(1.5, 8), some.floats(0.02, 0.1), some.booleans())
    def test_it_turns_in_its_middle_as_widely_as_it_is_told(self, wide, least, other):
        room = box(0, 0, wide, wide)
        ends = np.array([(wide, wide * 1.05), (wide * 1.05, wide)])
        line = swirl_in_corner(room, *(ends[::-1] if other else ends), least * wide)
        self.assertEqual(tight_turns(line, least * wide), 0)
        drawn = shapely.linestrings(line)
        self.assertTrue(room.covers(drawn))
        # It goes through its middle, straight.
        self.assertLess(drawn.distance(room.centroid), 0.02 * wide)

    def test_the_corner_of_a_border_is_as_round_as_its_swings(self):
        corner = Polygon([(0, 0), (20, 0), (20, 4), (4, 4), (4, 16), (0, 16)])
        drawing, space = designs()["u_swing"], Space(corner)
        s = drawing.clean({})
        made = drawing.draw(space, s, 1)
        self.assertEqual(judged(drawing, space, s, made).faults(drawing), [])
        # In and out again round the middle of the corner: it turns by more than two rounds there.
        (run,) = made.runs
        off = run.points - (2.0, 2.0)
        near = np.hypot(*off.T) < 1.7
        turned = np.diff(np.unwrap(np.arctan2(off[:, 1], off[:, 0])))
        self.assertGreater(np.abs(turned[near[1:] & near[:-1]]).sum(), 3 * math.pi)


class SquiggleCornerTests(TestCase):
    @settings(max_examples=examples(15), deadline=None)
    @given(some.floats(2.5, 5), some.floats(10, 24), some.floats(10, 24))
    def test_lines_go_straight_round_a_corner_one_beside_the_other(self, wide, long, high):
        corner = Polygon([(0, 0), (long, 0), (long, wide), (wide, wide), (wide, high), (0, high)])
        drawing, space = designs()["squiggles"], Space(corner)
        s = drawing.clean({})
        made = drawing.draw(space, s, 1)
        self.assertEqual(judged(drawing, space, s, made).faults(drawing), [])
        (run,) = made.runs
        # By hand: three lines share the width, less the margin; along the upper side, above the corner, each
        # keeps to
        # its third.
        share = (wide - 0.25) / 3
        across = shapely.linestrings([(wide * 0.9, 0), (wide * 0.9, wide * 0.9)])
        places = np.sort(shapely.get_coordinates(
            shapely.intersection(shapely.linestrings(run.points), across))[:, 1])  # fmt: skip
        np.testing.assert_allclose(
            places[:2], 0.125 + share * (np.arange(2) + 0.5), atol=0.22 * share
        )

    def test_how_far_it_is_to_the_next_corner(self):
        zone = Polygon([(0, 0), (20, 0), (20, 3), (3, 3), (3, 16), (0, 16)])
        strip = strip_in(Space(zone), zone)
        lane = lane_in(strip, 1.0, sharp=True)
        u = np.linspace(0, lane.count, 400)
        away = lane.from_bends(u)
        self.assertEqual(away.min(), 0)
        turned = u[away == 0]
        spots = lane.points(turned, np.zeros(len(turned)))
        self.assertLess(spots.max(), 3.6)
        # A unit is as long as the strip is wide: from either end to the corner it is that many.
        self.assertAlmostEqual(max(away[0], away[-1]), 17 / 3, delta=0.5)
        straight = lane_in(strip_in(Space(box(0, 0, 9, 2)), box(0, 0, 9, 2)), 1.0)
        self.assertGreater(straight.from_bends(np.array([1.0]))[0], straight.count)


class TooNarrowTests(TestCase):
    def test_what_falls_apart_behind_a_neck_is_declined(self):
        apart = Polygon([(0, 0), (6, 0), (6, 2.9), (6.4, 2.9), (6.4, 2.2), (8.4, 2.2), (8.4, 4.2),
                         (6.4, 4.2), (6.4, 3.25), (6, 3.25), (6, 6), (0, 6)])  # fmt: skip
        whole = box(0, 0, 6, 6)
        fits = designs()["pebbles"].fits
        self.assertLess(fits(Space(apart)).score, 0.35)
        self.assertIn("necks too narrow", fits(Space(apart)).reasons[0])
        self.assertGreater(fits(Space(whole)).score, 0.35)
        row = box(0, 0, 14, 3)
        behind = shapely.union_all([row, box(1, 2.9, 1.4, 3.4), box(0.4, 3.4, 3.2, 5.4)])
        fits = designs()["half_feather"].fits
        self.assertLess(fits(Space(behind)).score, 0.35)
        self.assertGreater(fits(Space(row)).score, 0.35)
        # Its two sides lie opposite each other along no more than its length less its lean.
        for long, lean, suits in ((7, 3, False), (7, 0.5, True), (14, 3, True), (4, 0, False)):
            zone = Polygon([(0, 0), (long, 0), (long + lean, 3), (lean, 3)])
            self.assertEqual(fits(Space(zone)).score > 0.35, suits, (long, lean))
        kite = Polygon([(0, 0), (5, 1.6), (7.4, 0), (5, -1.6)])
        blunt = Polygon([(0, -0.4), (7, -1), (7, 1), (0, 0.4)])
        fits = designs()["squiggles"].fits
        self.assertLess(fits(Space(kite)).score, 0.35)
        self.assertGreater(fits(Space(blunt)).score, 0.35)
