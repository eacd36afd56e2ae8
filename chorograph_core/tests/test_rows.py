"""Rows by hand: turned round in a bend, calm beside the sides they run with, met in points."""

import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import Polygon, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.engine.reaching import into_corners
from chorograph_core.designs.engine.turns import turned_round
from chorograph_core.designs.engine.wandering import (
    Ground,
    finished,
    grown,
    round_branches,
    rounded,
    settled,
)
from chorograph_core.designs.filling import widest_gap
from chorograph_core.designs.linework import Run
from chorograph_core.designs.linking import link_along_edge
from chorograph_core.tests import examples

BENT = Polygon([(0, 0), (14, 0), (14, 10), (11, 10), (11, 3), (0, 3)])
OVER, GAP = 0.02, 0.5


def sharpest(points: np.ndarray, within: float) -> float:
    """The most that a line turns, in radians, along *within* inches of it."""
    line = shapely.linestrings(points)
    even = np.arange(0, line.length, within / 6)
    spots = shapely.get_coordinates(shapely.line_interpolate_point(line, even))
    legs = np.diff(spots, axis=0)
    heading = np.unwrap(np.arctan2(legs[:, 1], legs[:, 0]))
    return float(np.abs(heading[6:] - heading[:-6]).max())


def bending(points: np.ndarray) -> float:
    """How much a line bends: squared turns, by its length."""
    line = shapely.linestrings(points)
    spots = shapely.get_coordinates(
        shapely.line_interpolate_point(line, np.arange(0, line.length, 0.1))
    )
    legs = np.diff(spots, axis=0)
    turns = np.diff(np.unwrap(np.arctan2(legs[:, 1], legs[:, 0])))
    return float((turns**2).sum() / line.length)


def slanted(lean: float, apart: float) -> tuple[Polygon, list[np.ndarray]]:
    """A parallelogram that leans so many inches over its 3″, and level rows through it."""
    shape = Polygon([(0, 0), (10, 0), (10 + lean, 3), (lean, 3)])
    rows = []
    for y in np.arange(apart / 2, 3, apart):
        x = lean * y / 3
        across = np.linspace(x, x + 10, 80)
        rows.append(np.column_stack([across, np.full(80, y)]))
    return shape, rows


class TurnTests(TestCase):
    @settings(max_examples=examples(12), deadline=None)
    @given(some.floats(-3, 3), some.floats(0.3, 0.9))
    def test_one_turns_in_a_bend_within_the_zone_wherever_its_side_leads(self, lean, apart):
        shape, rows = slanted(lean, apart)
        (linked,) = link_along_edge(rows, shape, "medium")
        made = turned_round(linked, shape, apart, OVER)
        self.assertTrue(shape.buffer(OVER + 1e-6).covers(shapely.linestrings(made.points)))
        # Along the edge there are corners of a right angle and more, here nothing is tighter than a bend.
        within = 0.15 * apart
        self.assertGreater(sharpest(linked.points, within), math.radians(80))
        self.assertLess(sharpest(made.points, within), math.radians(50))
        np.testing.assert_allclose(made.points[[0, -1]], linked.points[[0, -1]])

    def test_rows_stay_what_they_are_between_their_turns(self):
        shape, rows = slanted(2.0, 0.5)
        (linked,) = link_along_edge(rows, shape, "medium")
        made = turned_round(linked, shape, 0.5, OVER)
        self.assertEqual([span.kind for span in made.spans], [span.kind for span in linked.spans])
        self.assertEqual(made.spans[-1].stop, len(made.points) - 1)
        middle = box(3.5, 0, 8.5, 3)
        before, after = (
            shapely.linestrings(run.points).intersection(middle) for run in (linked, made)
        )
        self.assertLess(before.hausdorff_distance(after), 1e-6)

    def test_what_lies_too_far_apart_is_linked_along_the_edge(self):
        shape, rows = slanted(0.0, 2.0)
        (linked,) = link_along_edge(rows, shape, "medium")
        np.testing.assert_array_equal(turned_round(linked, shape, 0.5, OVER).points, linked.points)


class CalmTests(TestCase):
    def test_waves_run_along_every_side_and_are_cut_by_none(self):
        """In an L the inner side lies within the width of the zone: rows must not leave it and come back."""
        drawing = designs()["breeze"]
        for seed in range(3):
            rows = {}
            for sway in (0.1, 0.6):
                (run,) = drawing.draw(Space(BENT), drawing.clean({"sway": sway}), seed).runs
                rows[sway] = len(run.units)
            # One may be parted by the corner itself.
            self.assertLessEqual(rows[0.6], rows[0.1] + 1)


class PointTests(TestCase):
    @settings(max_examples=examples(12), deadline=None)
    @given(some.floats(5, 11), some.floats(0.6, 2.0))
    def test_scales_meet_in_points_of_one_height(self, wide, size):
        drawing = designs()["clams"]
        shape = box(0, 0, wide, 6)
        made = drawing.draw(Space(shape), drawing.clean({"width": size, "relative": "top"}), 1)
        inner = shape.buffer(-0.2)
        for run in made.runs:
            points = run.points
            out = np.diff(points, axis=0)
            turn = np.abs(
                np.arctan2(
                    out[:-1, 0] * out[1:, 1] - out[:-1, 1] * out[1:, 0],
                    (out[:-1] * out[1:]).sum(axis=1),
                )
            )
            tips = points[1:-1][turn > 1.2]
            tips = tips[shapely.contains_xy(inner, *tips.T)]
        # Half a scale from row to row, as nearly as so many rows fit: the points lie on lines as far apart as
        # each other, none is cut short.
        unit = (wide - 0.25) / max(1, round((wide - 0.25) / size))
        heights = np.sort(tips[:, 1])
        self.assertGreater(len(tips), 3)
        steps = np.diff(heights)
        self.assertTrue(((steps < 0.03) | (steps > 0.2)).all(), steps)
        steps = steps[steps > 0.2]
        self.assertLess(np.ptp(steps), 0.04)
        rows = 5.75 / (unit / 2)
        self.assertLess(np.abs(steps / (unit / 2) - 1).max(), 0.5 / np.floor(rows) + 0.02)


class WanderingTests(TestCase):
    def test_fingers_end_round_and_nothing_is_left_open_by_it(self):
        for shape in (box(0, 0, 8, 8), BENT, Polygon([(0, 0), (9, 0), (0, 9)])):
            points, pairs = grown(shape, GAP, np.random.default_rng(1))
            body = round_branches(points, pairs, shape, GAP)[0]
            line = settled(shapely.get_coordinates(body.exterior)[:-1], shape, GAP)
            plain, made = finished(line, True), rounded(line, shape, GAP, True)
            self.assertLess(bending(made), 0.95 * bending(plain))
            ground = Ground(shape, GAP)
            self.assertLess(ground.widest(made), 1.02 * ground.widest(plain))
            self.assertTrue(shapely.is_simple(shapely.linestrings(made)))

    def test_a_meander_is_as_dense_as_was_asked_for(self):
        drawing = designs()["meander"]
        for gap in (0.3, 0.5, 0.8):
            made = drawing.draw(Space(box(0, 0, 9, 9)), drawing.clean({"gap": gap}), 1)
            self.assertAlmostEqual(81 / made.inches / gap, 1.0, delta=0.1)


class GapTests(TestCase):
    @settings(max_examples=examples(30), deadline=None)
    @given(some.floats(0.2, 0.9), some.floats(5, 12), some.floats(5, 12))
    def test_the_widest_gap_is_found_wherever_spots_lie(self, apart, wide, high):
        """Lines to and fro with one left out: in the middle between its neighbours is the widest place."""
        xs = np.arange(apart / 2, wide, apart)
        xs = np.delete(xs, len(xs) // 2)
        runs = [Run(np.array([[x, 0.0], [x, high]])) for x in xs]
        self.assertAlmostEqual(widest_gap(box(0, 0, wide, high), runs), apart, delta=0.012)


class ReachingTests(TestCase):
    @settings(max_examples=examples(40), deadline=None)
    @given(some.floats(30, 110), some.floats(1.05, 2.1), some.floats(0.2, 1.0))
    def test_a_turn_leans_into_the_corner_before_it(self, degrees, off, gap):
        """It comes within a gap of the corner, stays inside, and begins and ends as it did."""
        half = math.radians(degrees) / 2
        long = 12 * gap
        side = long / math.cos(half)
        tip = Polygon([(0, 0), (long, side * math.sin(half)), (long, -side * math.sin(half))])
        turn = np.linspace(-1, 1, 41)
        # A turn that follows both sides at some distance, its apex so many gaps from the corner.
        line = gap * np.column_stack([off + 6 * turn**2, 5 * math.tan(half) * turn * np.abs(turn)])
        made = into_corners(line, tip, gap, 0.01)
        np.testing.assert_allclose(made[[0, -1]], line[[0, -1]])
        drawn = shapely.linestrings(made)
        self.assertTrue(drawn.is_simple)
        self.assertTrue(tip.buffer(0.011).covers(drawn))
        self.assertLess(drawn.distance(shapely.points(0, 0)), gap)
        far = line[np.hypot(*line.T) > 6.5 * gap]
        self.assertLess(shapely.distance(shapely.points(far), drawn).max(initial=0), 1e-6)

    def test_what_reaches_its_corners_or_cannot_is_left(self):
        zone = box(0, 0, 10, 10)
        for line in (
            [(0.2, 0.2), (9.8, 0.2), (9.8, 9.8), (0.2, 9.8)],
            [(4.0, 4.0), (6.0, 4.0), (6.0, 6.0), (4.0, 6.0)],
        ):
            points = np.array(line)
            self.assertIs(into_corners(points, zone, 1.0, 0.01), points)

    @given(some.floats(1.05, 2.0), some.floats(-40, 40), some.booleans())
    def test_what_ends_before_a_corner_goes_on_to_it(self, off, degrees, first):
        zone, way = box(0, 0, 10, 10), math.radians(225 + degrees)
        end = off / math.sqrt(2)
        line = np.array([(end, end), (end - 3 * math.cos(way), end - 3 * math.sin(way))])
        line = line if first else line[::-1]
        made = into_corners(line, zone, 1.0, 0.01)
        drawn = shapely.linestrings(made)
        self.assertAlmostEqual(drawn.distance(shapely.points(0, 0)), 0.75, delta=1e-6)
        self.assertTrue(drawn.buffer(1e-6).covers(shapely.linestrings(line)))
        np.testing.assert_allclose(made[-1 if first else 0], line[-1 if first else 0])

    def test_rows_reach_the_points_of_a_triangle(self):
        """Waves and breeze leave no point of it open."""
        zone = Polygon([(0, 0), (12, 0), (0, 12)])
        for key in ("wavy_rows", "breeze"):
            drawing = designs()[key]
            (run,) = drawing.draw(Space(zone), {}, 1).runs
            inset, gap = zone.buffer(-0.125, join_style="mitre"), drawing.spacing(Space(zone))
            for corner in shapely.get_coordinates(inset.exterior)[:-1]:
                away = shapely.linestrings(run.points).distance(shapely.points(corner))
                self.assertLess(away, gap + 1e-6)
