"""Turns tighter than a hand's are made rounder where they are, and nowhere else."""

import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as some
from shapely.geometry import Polygon, box

from chorograph_core.designs.engine.strokes import finished
from chorograph_core.designs.engine.tight import least_radius, tight_turns, without_kinks
from chorograph_core.tests import examples
from chorograph_core.tests.test_freehand import drawn

ROOM = box(-20, -20, 20, 20)


def tightest(line: np.ndarray, along: float) -> float:
    """Radius of the tightest circle through three points of *line* that lie *along* inches from each other:
    a kink shows as hardly more than half of that."""
    whole = shapely.linestrings(line)
    at = np.arange(0.0, whole.length, along / 8)
    spots = shapely.get_coordinates(shapely.line_interpolate_point(whole, at))
    a, b, c = spots[:-16], spots[8:-8], spots[16:]
    one, two, across = (np.hypot(*(q - p).T) for p, q in ((a, b), (b, c), (a, c)))
    twice = np.abs((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])
    return float((one * two * across / np.maximum(2 * twice, 1e-12)).min())


def hairpin(degrees: float) -> np.ndarray:
    """Out four inches and back at an angle."""
    turn = math.radians(degrees)
    return np.array([(0.0, 0.0), (4.0, 0.0), (4 - 4 * math.cos(turn), 4 * math.sin(turn))])


class TightTests(TestCase):
    @settings(max_examples=examples(40), deadline=None)
    @given(some.floats(28, 110), some.floats(0.06, 0.3))
    def test_a_kink_becomes_a_bend_and_the_rest_stays(self, degrees, radius):
        line = hairpin(degrees)
        made = without_kinks(line, radius, ROOM, 0.01)
        self.assertGreater(tightest(made, 0.6 * radius), 0.62 * radius)
        self.assertLess(tightest(line, 0.6 * radius), 0.62 * radius)
        np.testing.assert_allclose(made[[0, -1]], line[[0, -1]])
        # Five radii from what drew back nothing has moved.
        whole, far = shapely.linestrings(line), shapely.points(made)
        moved = shapely.distance(far, whole)
        away = (
            np.hypot(*(made - line[1]).T)
            > radius / math.sin(math.radians(degrees) / 2) + 5 * radius
        )
        self.assertLess(float(moved[away].max(initial=0.0)), 0.004)
        # A bend lies within its corner.
        self.assertTrue(
            shapely.covers(
                shapely.buffer(shapely.convex_hull(whole), 1e-3), shapely.linestrings(made)
            )
        )

    def test_a_slim_finger_is_not_drawn_back(self):
        line = np.array([(0, 0), (4, 0), (4, 0.1), (0, 0.1)], float)
        made = without_kinks(line, 0.2, ROOM, 0.01)
        self.assertGreater(made[:, 0].max(), 3.95)

    @settings(max_examples=examples(40), deadline=None)
    @given(some.floats(18, 26), some.floats(0.06, 0.1))
    def test_a_needle_ends_round_where_it_is_wide_enough(self, degrees, radius):
        line = hairpin(degrees)
        made = without_kinks(line, radius, ROOM, 0.01)
        self.assertEqual(tight_turns(made, radius), 0)
        self.assertGreater(tight_turns(line, radius), 0)
        # By hand: two sides at such an angle are so far apart so many inches from their point, and the turn
        # stands out by half of that.
        wide = 2.3 * radius
        off = wide / 2 / math.sin(math.radians(degrees) / 2)
        self.assertAlmostEqual(4 - made[:, 0].max(), off - wide / 2, delta=0.25 + 0.3 * off)
        whole = shapely.linestrings(line)
        sides = made[np.hypot(*(made - line[1]).T) > 1.6 * off]
        self.assertGreater(len(sides), 1)
        self.assertLess(float(shapely.distance(shapely.points(sides), whole).max()), 0.004)

    @settings(max_examples=examples(40), deadline=None)
    @given(some.floats(3.5, 9), some.floats(0.06, 0.09), some.booleans())
    def test_a_slimmer_one_is_drawn_apart_where_there_is_room(self, degrees, radius, mirrored):
        line = hairpin(degrees) * (1, -1 if mirrored else 1)
        assume(1.15 * radius < 3.4 * math.sin(math.radians(degrees) / 2))
        made = without_kinks(line, radius, ROOM, 0.01)
        self.assertEqual(tight_turns(made, radius), 0)
        # It reaches as far as it did, and is as wide there as a turn needs.
        self.assertGreater(made[:, 0].max(), 3.9)
        drawn = shapely.linestrings(made)
        behind = shapely.intersection(drawn, shapely.linestrings([(3.5, -2), (3.5, 2)]))
        ys = shapely.get_coordinates(behind)[:, 1]
        self.assertEqual(len(ys), 2)
        self.assertGreater(np.ptp(ys), 2.1 * radius)
        # Where it is wide enough it is as it was.
        off = 1.15 * radius / math.sin(math.radians(degrees) / 2)
        far = (
            line[0] + (line[1] - line[0]) * np.linspace(0, max(0, 1 - (off + 0.6) / 4), 9)[:, None]
        )
        self.assertLess(float(shapely.distance(shapely.points(far), drawn).max()), 0.004)

    def test_on_the_side_on_which_there_is_room(self):
        line = hairpin(4.0)
        for room in (box(-1, -0.004, 5, 2), box(-1, -2, 5, 0.28)):
            made = without_kinks(line, 0.08, room, 0.003)
            self.assertEqual(tight_turns(made, 0.08), 0)
            self.assertTrue(room.buffer(0.004).covers(shapely.linestrings(made)))
            self.assertGreater(made[:, 0].max(), 3.9)
        # Between two others there is none: it ends sooner.
        tight = shapely.convex_hull(shapely.linestrings(line)).buffer(0.012)
        made = without_kinks(line, 0.08, tight, 0.01)
        self.assertLess(made[:, 0].max(), 3.2)
        self.assertEqual(tight_turns(made, 0.08), 0)

    def test_what_goes_back_over_its_own_line_is_meant(self):
        line = np.array([(0, 0), (4, 0), (0.5, 0.001)])
        np.testing.assert_array_equal(without_kinks(line, 0.08, ROOM, 0.01), line)

    def test_one_turn_that_cannot_be_eased_does_not_keep_the_others(self):
        # A kink with another line close by, and one in the open.
        line = np.array([(0, 0), (4, 0), (4, 3), (4.02, 3), (4.02, 0.02), (8, 0.02), (8, 3)], float)
        slot = (
            box(-1, -1, 9, 4).difference(box(4.05, 0.05, 7, 4)).difference(box(-1, 0.03, 3.97, 4))
        )
        made = without_kinks(line, 0.2, slot, 0.005)
        drawn = shapely.linestrings(made)
        self.assertTrue(slot.buffer(0.006).covers(drawn))
        corner = shapely.distance(drawn, shapely.points([(8, 0.02), (4, 3)]))
        self.assertGreater(corner[0], 0.05)
        self.assertLess(corner[1], 0.03)

    @settings(max_examples=examples(30), deadline=None)
    @given(some.floats(40, 110), some.floats(0.08, 0.25))
    def test_round_a_corner_that_points_inwards_it_swings_out(self, degrees, radius):
        half = math.radians(degrees) / 2
        tip = Polygon([(0, 0), (12 * math.cos(half), 12 * math.sin(half)), (12, 12), (12, -12),
                       (12 * math.cos(half), -12 * math.sin(half))])  # fmt: skip
        room = box(-8, -8, 8, 8).difference(tip)
        legs = np.array(
            [(math.cos(half), -math.sin(half)), (0, 0), (math.cos(half), math.sin(half))]
        )
        line = legs * 5 - (0.01, 0)
        made = without_kinks(line, radius, room, 0.005)
        self.assertEqual(tight_turns(made, radius), 0)
        self.assertTrue(room.buffer(0.006).covers(shapely.linestrings(made)))
        self.assertLess(made[:, 0].min(), -0.2 * radius)
        np.testing.assert_allclose(made[[0, -1]], line[[0, -1]])

    def test_a_ring_is_round_where_it_begins_too(self):
        square = np.array([(0, 0), (3, 0), (3, 3), (0, 3), (0, 0)], float)
        made = without_kinks(square, 0.25, ROOM, 0.01, closed=True)
        np.testing.assert_allclose(made[0], made[-1])
        twice = np.vstack([made, made[1 : len(made) // 2]])
        self.assertGreater(tightest(twice, 0.15), 0.15)
        self.assertAlmostEqual(shapely.polygons(made).area, 9, delta=0.2)

    def test_what_would_leave_its_zone_stays_as_it_was(self):
        # Round a corner that points inwards there is no room for a bend.
        notch = box(0, 0, 4, 4).difference(box(2, 2, 4, 4))
        line = np.array([(2.0, 3.5), (2.0, 2.0), (3.5, 2.0)])
        made = without_kinks(line, 0.4, notch, 0.01)
        np.testing.assert_allclose(made, line)
        self.assertGreater(len(without_kinks(line, 0.4, ROOM, 0.01)), 5)

    def test_strokes_are_finished_so(self):
        line = np.array([(1, 1), (5, 1), (1, 2)], float)
        part = box(0, 0, 6, 4)
        self.assertLess(tightest(finished(line, 0.02, part), 0.06), 0.06)
        self.assertGreater(tightest(finished(line, 0.02, part, least_turn=0.12), 0.07), 0.07)

    def test_swirls_wind_as_closely_as_they_did(self):
        # Of what turns easily nothing is lost.
        run = drawn("swirls", box(0, 0, 8, 8)).runs[0]
        radius = least_radius(5 / 16)
        again = without_kinks(run.points, radius, box(0, 0, 8, 8), 0.01)
        one, two = (shapely.linestrings(points).length for points in (run.points, again))
        self.assertAlmostEqual(two / one, 1.0, delta=0.002)
