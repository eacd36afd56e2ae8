"""Rings of a zone gone through in one line."""

import math
from unittest import TestCase
from unittest.mock import patch

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import LineString, Point, Polygon, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.engine.rings import Ring, holes_of, rings_of, round_holes
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
        zone = with_hole(sides, radius, seed)
        drawing = designs()["echo_fill"]
        made = drawing.draw(Space(zone), drawing.clean({}))
        lines = [run.points for run in made.runs]
        self.assertTrue(all(LineString(line).is_simple for line in lines))
        stitched = shapely.union_all([shapely.linestrings(line) for line in lines])
        far = shapely.distance(stitched, shapely.points(grid(zone.buffer(-0.15), 0.2)))
        self.assertLess(far.max(), 1.1 * 0.375)


def with_hole(sides: int, radius: float, seed: int) -> Polygon:
    """A square of 15 inches with a hole of so many *sides*, turned and moved by chance."""
    rng = np.random.default_rng(seed)
    turns = 2 * math.pi * (np.arange(sides) + rng.uniform(0, 1)) / sides
    middle = 7.5 + rng.uniform(-0.4, 0.4, 2)
    hole = middle + radius * np.column_stack([np.cos(turns), np.sin(turns)])
    frame = box(0, 0, 15, 15).difference(Polygon(hole))
    return max(shapely.get_parts(frame), key=lambda part: part.area)


def grid(zone: Polygon, step: float) -> np.ndarray:
    """Points within a zone, *step* inches apart."""
    x0, y0, x1, y1 = zone.bounds
    spots = np.stack(np.meshgrid(np.arange(x0, x1, step), np.arange(y0, y1, step)), -1)
    spots = spots.reshape(-1, 2)
    return spots[shapely.contains(zone, shapely.points(spots))]


class HoleTests(TestCase):
    def test_a_line_goes_round_holes_wherever_they_lie(self):
        """Everything is as near to a line as rings are fitted, nothing crosses, and hardly a ring is one for
        itself."""
        rng, count = np.random.default_rng(7), 0
        drawing = designs()["echo_fill"]
        for _ in range(8):
            discs = [
                Point(*rng.uniform((2, 2), (12, 8))).buffer(rng.uniform(0.5, 1.6)) for _ in range(2)
            ]
            zone = box(0, 0, 14, 10).difference(shapely.union_all(discs))
            made = drawing.draw(Space(zone), drawing.clean({}), 1)
            lines = [shapely.linestrings(run.points) for run in made.runs]
            for line in lines:
                self.assertTrue(line.is_simple)
                self.assertTrue(zone.buffer(0.02).covers(line))
            spots = shapely.points(grid(zone.buffer(-0.125), 0.1))
            self.assertLess(shapely.distance(shapely.union_all(lines), spots).max(), 0.375)
            count += len(lines)
        self.assertLess(count, 13)

    def test_it_is_one_line_where_it_was_one_for_each_ring(self):
        one = Point(5, 5).buffer(2)
        two = shapely.union_all([Point(4, 4).buffer(1.5), Point(10, 4).buffer(1.5)])
        close = shapely.union_all([Point(4.8, 4).buffer(2), Point(9.1, 4).buffer(2)])
        drawing = designs()["echo_fill"]
        for zone in (box(0, 0, 10, 10).difference(one), box(0, 0, 14, 8).difference(two),
                     box(0, 0, 14, 8).difference(close), box(0, 0, 12, 9).difference(box(2, 2, 10, 7)),
                     Point(0, 0).buffer(5).difference(Point(0, 0).buffer(2))):  # fmt: skip
            self.assertEqual(len(drawing.draw(Space(zone), {}, 1).runs), 1)
            # So many lines there would be.
            (part,) = Space(zone).inset(0.125)
            (tree,) = rings_of(part, 0.02, 0.375)
            self.assertGreater(len(holes_of(tree)), 2)
            self.assertEqual(holes_of(round_holes(tree))[0].shape[1], 2)
            # Each of them is an arm somewhere.
            self.assertEqual(sum(each.hole for each in _all(tree)), len(holes_of(tree)))

    def test_what_is_open_beside_a_line_has_a_drop(self):
        # Rings of a slender room between two slanting sides leave more open in their midst than one would.
        zone = with_hole(3, 6.0, 311)
        made = designs()["echo_fill"].draw(Space(zone), {}, 1)
        spots = shapely.points(grid(zone.buffer(-0.15), 0.1))
        lines = shapely.union_all([shapely.linestrings(run.points) for run in made.runs])
        self.assertLess(shapely.distance(lines, spots).max(), 0.36)
        with patch("chorograph_core.designs.freehand.echo_fill.echoed", lambda line, *_: line):
            plain = designs()["echo_fill"].draw(Space(zone), {}, 1)
        lines = shapely.union_all([shapely.linestrings(run.points) for run in plain.runs])
        self.assertGreater(shapely.distance(lines, spots).max(), 0.36)

    def test_so_many_lines_and_no_more_stay_where_they_are(self):
        # With two lines along either edge there is open ground between them that nothing crosses.
        zone = box(0, 0, 10, 10).difference(Point(5, 5).buffer(1.5))
        made = designs()["echo_fill"].draw(Space(zone), {"count": 2}, 1)
        lines = shapely.union_all([shapely.linestrings(run.points) for run in made.runs])
        between = Point(5, 5).buffer(3.2).difference(Point(5, 5).buffer(2.6))
        self.assertEqual(len(made.runs), 3)
        self.assertFalse(lines.intersects(between))

    def test_rings_round_two_holes_become_one_round_both(self):
        zone = box(0, 0, 14, 8).difference(
            shapely.union_all([Point(5, 4).buffer(1), Point(8, 4).buffer(1)])
        )
        (tree,) = rings_of(zone, 0.1, 0.4)
        before = {id(each) for each in _all(tree)}
        both = [each for each in _all(round_holes(tree)) if each.hole]
        self.assertGreater(len(both), 4)
        self.assertTrue(before.isdisjoint(map(id, both)))
        split = [each for each in both if len(each.inner) == 2]
        self.assertEqual(len(split), 1)
        for each in both:
            for inner in each.inner:
                self.assertTrue(each.polygon.contains(inner.polygon))


def _all(ring: Ring) -> list[Ring]:
    found, left = [], [ring]
    while left:
        found.append(left.pop())
        left += found[-1].inner
    return found
