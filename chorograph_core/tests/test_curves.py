"""The tools designs share: curves, strips, links along edges, even sites."""

import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as some
from shapely import affinity
from shapely.geometry import LineString, Point, Polygon, box

from chorograph_core.designs.curves import Turn, bezier, resample, smooth, tangent_chain, thin, tidy
from chorograph_core.designs.doors import corner_doors
from chorograph_core.designs.engine.axes import base_angle
from chorograph_core.designs.engine.families import family
from chorograph_core.designs.keeping import inside, pushed_back
from chorograph_core.designs.linking import Edge, link_along_edge
from chorograph_core.designs.space import Space, polygons
from chorograph_core.designs.strip import strip
from chorograph_core.designs.wander import round_trip
from chorograph_core.rulers import Ruler, placements_along
from chorograph_core.tests import examples
from chorograph_core.tests.shapes import UGLY

coordinate = some.floats(-20, 20)
polylines = some.lists(some.tuples(coordinate, coordinate), min_size=2, max_size=12).map(np.array)


class CurveTests(TestCase):
    @given(polylines, some.floats(0.05, 3))
    def test_resampling_keeps_ends_and_spacing(self, line, spacing):
        assume(LineString(line).length > spacing)
        made = resample(line, spacing)
        self.assertTrue(np.allclose(made[[0, -1]], line[[0, -1]]))
        # Chords are never longer than the way along the line between them.
        step = LineString(line).length / (len(made) - 1)
        self.assertLessEqual(np.hypot(*np.diff(made, axis=0).T).max(), step + 1e-9)

    @given(polylines, some.floats(0.001, 0.5))
    def test_thinning_stays_within_its_error(self, line, error):
        line = tidy(line)
        assume(len(line) > 1)
        made = thin(line, error)
        self.assertLessEqual(len(made), len(line))
        far = shapely.distance(shapely.points(line), LineString(made))
        self.assertLessEqual(far.max(), error + 1e-9)

    def test_a_ring_is_thinned_to_a_ring(self):
        ring = np.array(Point(0, 0).buffer(3).exterior.coords)
        made = thin(ring, 0.05)
        self.assertTrue(np.allclose(made[0], made[-1]))
        self.assertGreater(len(made), 8)

    def test_a_smooth_curve_goes_through_its_points(self):
        points = np.array([[0, 0], [1, 2], [3, 1], [4, 4], [6, 0]], float)
        made = smooth(points, 4)
        self.assertEqual(len(made), 4 * 4 + 1)
        self.assertTrue(np.allclose(made[::4], points))
        ring = np.vstack([points, points[:1]])
        closed = smooth(ring, 3, closed=True)
        self.assertTrue(np.allclose(closed[0], closed[-1]))

    def test_a_straight_line_stays_straight_when_smoothed(self):
        points = np.column_stack([np.arange(6.0), np.zeros(6)])
        self.assertTrue(np.allclose(smooth(points)[:, 1], 0))

    @given(some.floats(0.3, 2), some.floats(5, 9), some.sampled_from([1, -1]))
    def test_belt_round_two_wheels_has_the_belts_length(self, radius, apart, sense):
        # From a point over two equal circles of one sense: the outer tangent is as long as the
        # centres are apart.
        line = tangent_chain(
            [
                Turn((0, 0), radius, sense),
                Turn((apart, 0), radius, sense),
                Turn((2 * apart, 0), radius, sense),
            ]
        )
        self.assertAlmostEqual(LineString(line).length, 2 * apart, places=6)

    def test_a_crossed_belt(self):
        radius, apart = 1.0, 5.0
        line = tangent_chain([Turn((0, 0), radius, 1), Turn((apart, 0), radius, -1)])
        self.assertAlmostEqual(
            LineString(line).length, math.sqrt(apart**2 - (2 * radius) ** 2), places=9
        )

    def test_an_extra_turn_goes_once_round(self):
        turns = [Turn((0, 0), 0, 1), Turn((4, 1), 1, 1), Turn((8, 0), 0, 1)]
        plain = LineString(tangent_chain(turns)).length
        turns[1] = Turn((4, 1), 1, 1, extra=1)
        self.assertAlmostEqual(
            LineString(tangent_chain(turns)).length - plain, 2 * math.pi, delta=0.03
        )

    def test_a_bezier_begins_and_ends_where_it_should(self):
        corners = np.array([[0, 0], [1, 3], [4, 3], [5, 0]], float)
        made = bezier(*corners, 20)
        self.assertTrue(np.allclose(made[[0, -1]], corners[[0, -1]]))
        self.assertTrue(Polygon(corners).buffer(1e-9).covers(LineString(made)))


class StripTests(TestCase):
    @settings(max_examples=examples(30), deadline=None)
    @given(some.floats(4, 40), some.floats(0.5, 3), some.floats(0, 180))
    def test_a_rectangle_is_its_own_strip(self, length, width, angle):
        assume(length > 2.5 * width)
        lane = strip(affinity.rotate(box(0, 0, length, width), angle))
        self.assertAlmostEqual(lane.length, length, delta=0.01 * length)
        self.assertAlmostEqual(lane.mean_width, width, delta=0.02 * width)

    def test_a_ring_piece_keeps_its_width_round_the_bend(self):
        lane = strip(UGLY["curved"])
        inner = np.linspace(0.2, 0.8, 9) * lane.length
        for s in inner:
            self.assertAlmostEqual(lane.width(s), 3.0, delta=0.25)
        self.assertAlmostEqual(lane.length, 6.5 * math.pi / 2, delta=0.7)

    def test_a_wedge_tapers_to_its_tip(self):
        lane = strip(Polygon([(0, 0), (20, 2), (0, 4)]))
        ends = sorted([lane.width(0.02 * lane.length), lane.width(0.98 * lane.length)])
        self.assertLess(ends[0], 0.4)
        self.assertGreater(ends[1], 3.3)

    @settings(max_examples=examples(30), deadline=None)
    @given(some.floats(0.3, 1.0), some.floats(0, 360))
    def test_a_petal_runs_from_its_foot_to_the_middle_of_its_round_end(self, narrow, angle):
        # A foot, straight sides, half a circle of radius 2 above: as the wedges of a plate.
        head = [(2 * math.cos(t), 7 + 2 * math.sin(t)) for t in np.linspace(0, math.pi, 40)]
        petal = Polygon([(-2 * narrow, 0), (2 * narrow, 0), *head])
        lane = strip(affinity.rotate(petal, angle, origin=(0, 0)))
        ends = [
            affinity.rotate(LineString([lane.left[k], lane.right[k]]), -angle, origin=(0, 0))
            for k in (0, -1)
        ]
        foot, top = (shapely.get_coordinates(each)[np.argsort(shapely.get_coordinates(each)[:, 0])]
                     for each in sorted(ends, key=lambda each: each.centroid.y))  # fmt: skip
        np.testing.assert_allclose(foot, [(-2 * narrow, 0), (2 * narrow, 0)], atol=0.05)
        # A chord of 60° of the round end, in its middle.
        high = 7 + math.sqrt(3)
        np.testing.assert_allclose(top, [(-1, high), (1, high)], atol=0.15)
        self.assertAlmostEqual(lane.length, high, delta=0.1)

    def test_turned_round_it_is_the_same_strip(self):
        lane = strip(UGLY["mitred"])
        back = lane.reversed()
        for s in np.linspace(0, lane.length, 7):
            self.assertLess(np.hypot(*(lane.at(s, -0.5) - back.at(lane.length - s, 0.5))), 1e-6)
        self.assertLess(np.hypot(*(lane.at(3, -1) - lane.flipped().at(3, 1))), 1e-9)


class LinkingTests(TestCase):
    def runs(self, shape, angle, spacing=0.75):
        made = family(shape, math.radians(angle), spacing, "even")
        return made, link_along_edge(made.lines, shape)

    def test_every_line_is_stitched_once(self):
        for name in ("square", "triangle", "bent", "holed", "star", "curved"):
            for angle in (0, 30, 45, 90):
                made, runs = self.runs(UGLY[name], angle)
                stitched = sum(
                    LineString(p).length
                    for run in runs
                    for p, _, kind in run.pieces()
                    if kind == "stitch"
                )
                with self.subTest(name, angle=angle):
                    self.assertAlmostEqual(
                        stitched, sum(LineString(x).length for x in made.lines), places=6
                    )

    def test_links_lie_on_the_edge(self):
        for name in ("square", "bent", "holed", "star"):
            _, runs = self.runs(UGLY[name], 45)
            edge = UGLY[name].boundary.buffer(1e-6)
            for run in runs:
                for points, _, kind in run.pieces():
                    if kind == "link":
                        self.assertTrue(edge.covers(LineString(points)))

    def test_parallel_lines_across_a_square_link_by_one_gap_each(self):
        made, runs = self.runs(box(0, 0, 9, 6), 90)
        links = sum(LineString(p).length for p, _, kind in runs[0].pieces() if kind == "link")
        self.assertAlmostEqual(links, made.spacing * (len(made.lines) - 1), places=6)

    def test_it_begins_near_where_it_was_asked_to(self):
        made = family(box(0, 0, 9, 6), math.pi / 2, 0.75, "even")
        for corner in ((0, 0), (9, 0), (0, 6), (9, 6)):
            run = link_along_edge(made.lines, box(0, 0, 9, 6), start_near=corner)[0]
            self.assertLess(np.hypot(*(run.points[0] - corner)), made.spacing + 1e-6)

    def test_the_shorter_way_round(self):
        edge = Edge(box(0, 0, 4, 3))
        for start, stop in ((0.5, 1.5), (0.5, 13.0), (6.0, 1.0)):
            way = edge.way(0, start, stop)
            apart = abs(start - stop)
            self.assertAlmostEqual(LineString(way).length, min(apart, 14 - apart), places=9)

    @given(some.floats(0, 180), some.floats(0.4, 2))
    @settings(max_examples=examples(40), deadline=None)
    def test_families_are_parallel_even_and_inside(self, angle, spacing):
        shape = UGLY["bent"]
        made = family(shape, math.radians(angle), spacing, "even")
        along = np.array([math.cos(made.angle), math.sin(made.angle)])
        across = np.array([-along[1], along[0]])
        heights = sorted({round(float(line[0] @ across), 6) for line in made.lines})
        for line in made.lines:
            self.assertAlmostEqual(abs(float((line[1] - line[0]) @ across)), 0, places=6)
            self.assertTrue(shape.buffer(1e-6).covers(LineString(line)))
        steps = np.diff(heights) / made.spacing
        self.assertTrue(np.allclose(steps, np.round(steps), atol=1e-4))

    def test_the_longest_side_gives_the_direction(self):
        self.assertAlmostEqual(base_angle(Space(box(0, 0, 2, 9)), "zone"), math.pi / 2)
        self.assertEqual(base_angle(Space(box(0, 0, 2, 9)), "top"), 0.0)


class PlacingTests(TestCase):
    @given(some.floats(0.3, 60))
    def test_long_lines_take_several_layings(self, inches):
        ruler = Ruler("r", "straight, 8 inches", length=8.0)
        laid = placements_along(np.array([[0, 0], [inches, 0]]), ruler, 0.25, "on the line")
        # 8″ with an inch kept free at both ends.
        self.assertEqual(len(laid), math.ceil(inches / 6 - 1e-9))
        for lines in ([each.pose for each in laid], [each.stitched for each in laid]):
            self.assertAlmostEqual(sum(LineString(m).length for m in lines), inches, places=6)
        self.assertTrue(all(np.allclose(np.abs(each.pose[:, 1]), 0.25) for each in laid))
        self.assertTrue(all(np.allclose(each.stitched[:, 1], 0) for each in laid))
        for each in laid:
            self.assertEqual(len(set(each.references)), 2)
            self.assertTrue(all(each.references))

    def test_a_corner_takes_a_new_laying(self):
        line = np.array([[0, 0], [4, 0], [4, 4], [4.1, 4]])
        self.assertEqual(len(placements_along(line, Ruler("r", "r"), 0.25, "x")), 2)


class KeepingTests(TestCase):
    def test_a_line_that_strays_follows_the_edge(self):
        shape = box(0, 0, 4, 4)
        line = np.array([[1, 1], [6, 2], [1, 3]], float)
        held = pushed_back(line, shape)
        self.assertTrue(inside(held, shape))
        self.assertTrue(np.allclose(held[[0, -1]], line[[0, -1]]))
        crossing = [LineString(held).intersects(Point(4, y)) for y in (1.7, 2.0, 2.3)]
        self.assertTrue(all(crossing))

    def test_a_line_wholly_outside_comes_to_nothing(self):
        self.assertIsNone(pushed_back(np.array([[6.0, 0], [7, 1]]), box(0, 0, 4, 4)))

    @settings(max_examples=examples(40), deadline=None)
    @given(polylines)
    def test_whatever_the_line_it_ends_up_inside(self, line):
        shape = UGLY["star"]
        held = pushed_back(tidy(line), shape) if len(tidy(line)) > 1 else None
        if held is not None and len(held) > 1:
            self.assertTrue(inside(held, shape))


class WanderTests(TestCase):
    def test_a_round_trip_visits_all_and_is_no_longer_than_needed(self):
        rng = np.random.default_rng(3)
        points = rng.random((60, 2)) * 10
        order = round_trip(points, box(-1, -1, 11, 11))
        self.assertEqual(sorted(order), list(range(60)))
        tour = points[[*order, order[0]]]
        # Random points: the best tour is near 0.7124 sqrt(n A), larger at the border.
        self.assertLess(LineString(tour).length, 1.25 * 0.7124 * math.sqrt(60 * 100) + 8)

    def test_two_points_stay_together(self):
        points = np.random.default_rng(5).random((30, 2)) * 6
        order = round_trip(points, box(0, 0, 6, 6), together=(0, 1))
        gap = abs(order.index(0) - order.index(1))
        self.assertIn(gap, (1, len(order) - 1))

    def test_corner_doors_are_corners(self):
        doors = corner_doors(box(0, 0, 5, 3))
        self.assertEqual(sorted(map(tuple, doors.tolist())), [(0, 0), (0, 3), (5, 0), (5, 3)])
        self.assertEqual(len(corner_doors(Point(0, 0).buffer(4))), 4)

    def test_parts_come_largest_first(self):
        parts = polygons(box(0, 0, 1, 1).union(box(5, 5, 9, 9)))
        self.assertEqual([round(p.area) for p in parts], [16, 1])
