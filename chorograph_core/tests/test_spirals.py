"""Rings of a zone gone through in one line."""

import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import LineString, Point, Polygon, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.engine.rings import rings_of
from chorograph_core.designs.engine.spirals import spiral
from chorograph_core.tests import examples, long


def headings(line: np.ndarray) -> np.ndarray:
    """Directions of the pieces of a line longer than 1/16 inch, degrees from 0 to 180."""
    way = np.diff(line, axis=0)
    way = way[np.hypot(*way.T) > 1 / 16]
    return np.degrees(np.arctan2(way[:, 1], way[:, 0])) % 180


class SpiralTests(TestCase):
    def through(self, zone: Polygon, spacing: float, count: int = 0) -> np.ndarray:
        (tree,) = rings_of(zone, 0.25, spacing, count)
        return spiral(tree, spacing)

    @settings(max_examples=examples(60), deadline=None)
    @given(some.integers(3, 8), some.integers(0, 10_000), some.floats(0.3, 0.9))
    def test_in_a_zone_with_corners_every_line_keeps_to_a_side(self, sides, seed, spacing):
        """No line slants from ring to ring, none crosses another, and all rings are there."""
        rng = np.random.default_rng(seed)
        turns = 2 * math.pi * (np.arange(sides) + rng.uniform(-0.2, 0.2, sides)) / sides
        zone = Polygon(np.column_stack([9 * np.cos(turns), 9 * np.sin(turns)]))
        line = self.through(zone, spacing)
        edge = headings(np.asarray(zone.exterior.coords))
        # Where the sides of the innermost rings run out it may slide.
        depth = shapely.distance(shapely.points(line), zone.exterior)
        outside = np.flatnonzero(depth > 0.6 * depth.max())[0]
        self.assertGreater(outside, sides)
        for heading in headings(line[:outside]):
            apart = np.abs((edge - heading + 90) % 180 - 90).min()
            self.assertLess(apart, 0.1)
        self.assertTrue(LineString(line).is_simple)
        inside = zone.buffer(-0.25, join_style="mitre")
        self.assertTrue(inside.buffer(1e-6).covers(LineString(line)))
        # Nothing within is further from a line than a little more than half a spacing.
        far = shapely.distance(shapely.linestrings(line), shapely.points(grid(inside, 0.2)))
        self.assertLess(far.max(), 0.82 * spacing)

    def test_a_square_takes_what_can_be_reckoned(self):
        # Closed at 10, then turned in half an inch before the corner: three sides of 9.5, 9.5, 9 …
        line = self.through(box(0, 0, 10.5, 10.5), 0.5, count=2)
        self.assertEqual(line.shape, (11, 2))
        first, second = 4 * 10.0, 0.5 + 4 * 9.0
        self.assertAlmostEqual(LineString(line).length, first + second, delta=0.05)

    def test_a_start_lies_on_a_side_and_not_in_a_corner(self):
        for zone in (box(0, 0, 8, 8), Polygon([(0, 0), (12, 0), (3, 9)])):
            line = self.through(zone, 0.5)
            corners = np.asarray(zone.buffer(-0.25, join_style="mitre").exterior.coords)
            self.assertGreater(np.hypot(*(corners - line[0]).T).min(), 0.4)

    def test_a_round_zone_is_gone_through_without_a_kink(self):
        line = self.through(Point(0, 0).buffer(8, 64), 0.5)
        # From the second round on to where the middle is near.
        far = np.hypot(*line.T)
        middle = line[np.flatnonzero(far < 7.7)[0] : np.flatnonzero(far < 1.5)[0]]
        way = np.diff(middle, axis=0)
        way = way[np.hypot(*way.T) > 1e-6]
        heading = np.arctan2(way[:, 1], way[:, 0])
        turn = (np.diff(heading) + math.pi) % (2 * math.pi) - math.pi
        self.assertGreater(turn.min(), -math.radians(4))
        self.assertLess(turn.max(), math.radians(16))

    def test_the_middle_of_a_cross_is_no_line_stitched_twice(self):
        cross = box(4, 0, 8, 12).union(box(0, 4, 12, 8))
        (tree,) = rings_of(cross, 0.25, 0.5)
        while tree.inner:
            (tree,) = tree.inner
        self.assertGreater(tree.polygon.area / (tree.polygon.length / 2), 0.2)

    @long
    @settings(max_examples=examples(15), deadline=None)
    @given(some.sampled_from([3, 5, 6, 7, 8, 9]), some.floats(3.5, 6.8), some.integers(0, 10_000))
    def test_round_a_hole_every_arm_is_gone_into_and_nothing_crosses(self, sides, radius, seed):
        """Rings round a hole fall into arms that fall into others again: all are filled, by lines that keep
        to themselves."""
        rng = np.random.default_rng(seed)
        turns = 2 * math.pi * (np.arange(sides) + rng.uniform(0, 1)) / sides
        middle = 7.5 + rng.uniform(-0.4, 0.4, 2)
        hole = middle + radius * np.column_stack([np.cos(turns), np.sin(turns)])
        frame = box(0, 0, 15, 15).difference(Polygon(hole))
        zone = max(shapely.get_parts(frame), key=lambda part: part.area)
        drawing = designs()["echo_fill"]
        made = drawing.draw(Space(zone), drawing.clean({}))
        lines = [run.points for run in made.runs]
        self.assertTrue(all(LineString(line).is_simple for line in lines))
        stitched = shapely.union_all([shapely.linestrings(line) for line in lines])
        far = shapely.distance(stitched, shapely.points(grid(zone.buffer(-0.15), 0.2)))
        self.assertLess(far.max(), 1.1 * 0.375)


def grid(zone: Polygon, step: float) -> np.ndarray:
    """Points within a zone, *step* inches apart."""
    x0, y0, x1, y1 = zone.bounds
    spots = np.stack(np.meshgrid(np.arange(x0, x1, step), np.arange(y0, y1, step)), -1)
    spots = spots.reshape(-1, 2)
    return spots[shapely.contains(zone, shapely.points(spots))]
