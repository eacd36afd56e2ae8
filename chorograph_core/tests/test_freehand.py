"""Freehand motifs and the engines they stand on: what a good hand does, in numbers."""

import itertools
import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.affinity import rotate
from shapely.geometry import Point, Polygon, box

from chorograph_core.designs import Linework, Run, Space, designs
from chorograph_core.designs.drawing import drawn_safely
from chorograph_core.designs.engine.cells import cells_in, walks_through
from chorograph_core.designs.engine.echoing import echoed
from chorograph_core.designs.engine.packing import packed, round_all
from chorograph_core.designs.engine.plumes import Growth, grown_side
from chorograph_core.designs.engine.reserving import HAIR, covered_by
from chorograph_core.designs.engine.spines import even_spine
from chorograph_core.designs.engine.strokes import finished, flowing
from chorograph_core.designs.engine.true_shape import edge_sites, sites_in
from chorograph_core.designs.engine.wandering import grown, round_branches, settled
from chorograph_core.designs.filling import widest_gap
from chorograph_core.designs.judging import judged
from chorograph_core.designs.keeping import inside
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.linework import Span
from chorograph_core.job import Job, job_linework, planned_job, replayed_job
from chorograph_core.layouts import Border, OnPoint, StraightSet
from chorograph_core.route import Policy
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import UGLY
from chorograph_core.zones import negative_space, zones_from_patches

TRIANGLE = Polygon([(0, 0), (9, 0), (0, 9)])


def drawn(key: str, shape: Polygon, seed: int = 1, **given_settings):
    """A design in a shape, with some of its settings."""
    drawing = designs()[key]
    return drawing.draw(Space(shape), drawing.clean(given_settings), seed)


class TrueShapeTests(TestCase):
    def test_corners_are_sites_and_sides_are_shared_evenly(self):
        sites = edge_sites(box(0, 0, 6, 4), 1.0)
        for corner in ((0, 0), (6, 0), (6, 4), (0, 4)):
            self.assertLess(np.hypot(*(sites - corner).T).min(), 1e-9)
        top = np.sort(sites[sites[:, 1] == 0][:, 0])
        np.testing.assert_allclose(np.diff(top), 1.0)

    @settings(max_examples=examples(12), deadline=None)
    @given(some.floats(0.4, 1.6), some.integers(0, 99))
    def test_no_two_sites_are_too_near_and_none_is_too_far(self, spacing, seed):
        sites = sites_in(TRIANGLE, spacing, np.random.default_rng(seed))
        apart = np.hypot(*(sites[:, None] - sites[None]).transpose(2, 0, 1))
        np.fill_diagonal(apart, np.inf)
        self.assertGreater(apart.min(), 0.6 * spacing)
        spots = np.random.default_rng(0).uniform(0, 9, (800, 2))
        spots = spots[shapely.contains_xy(TRIANGLE, *spots.T)]
        nearest = np.hypot(*(spots[:, None] - sites[None]).transpose(2, 0, 1)).min(axis=1)
        self.assertLess(nearest.max(), 1.35 * spacing)


class WanderingTests(TestCase):
    def test_the_line_keeps_from_itself_and_leaves_nothing_open(self):
        for name in ("square", "triangle", "curved", "holed", "bent"):
            part = UGLY[name].buffer(-0.125)
            rng = np.random.default_rng(3)
            points, pairs = grown(part, 0.5, rng)
            for body in round_branches(points, pairs, part, 0.5):
                line = settled(shapely.get_coordinates(body.exterior)[:-1], part, 0.5)
                with self.subTest(name):
                    self.assertIsNotNone(line)
                    ring = shapely.linearrings(line)
                    self.assertTrue(shapely.is_simple(ring))
                    self.assertTrue(part.buffer(0.02).covers(ring))

    def test_gaps_of_a_meander_hold_by_the_measures_of_the_contract(self):
        drawing = designs()["meander"]
        space, clean = Space(box(0, 0, 7, 7)), drawing.clean({"gap": 0.5})
        found = judged(drawing, space, clean, drawing.draw(space, clean, 2))
        self.assertLessEqual(found.gap, 1.7)
        self.assertEqual((found.corners, found.crossings), (0, 0))
        self.assertLessEqual(found.edge, 0.8)


class StrokeTests(TestCase):
    def test_a_corner_becomes_round_and_the_ends_stay(self):
        line = np.array([[0, 0], [2, 0], [2, 2], [4, 2]], float)
        eased = flowing(line, 0.2)
        np.testing.assert_allclose(eased[[0, -1]], line[[0, -1]])
        legs = np.diff(eased, axis=0)
        turn = np.abs(np.diff(np.unwrap(np.arctan2(legs[:, 1], legs[:, 0]))))
        self.assertLess(np.degrees(turn.max()), 30)
        self.assertLess(shapely.distance(shapely.points(line[1]), shapely.linestrings(eased)), 0.2)

    def test_what_would_leave_the_zone_is_eased_less_or_refused(self):
        part = box(0, 0, 4, 4)
        line = np.array([[0, 0], [4, 0], [4, 4], [0, 4], [0, 1]], float)
        self.assertTrue(part.buffer(0.013).covers(shapely.linestrings(finished(line, 0.3, part))))
        self.assertIsNone(finished(line + 1.0, 0.3, part))


class CellTests(TestCase):
    def test_a_walk_comes_to_every_cell_once(self):
        for name in ("square", "bent", "holed", "star", "mitred"):
            cells = cells_in(UGLY[name], 1.2, 0.2, np.random.default_rng(0))
            met = [k for walk in walks_through(cells)
                   for k in (*walk.path, *itertools.chain(*walk.aside.values()))]  # fmt: skip
            with self.subTest(name):
                self.assertEqual(sorted(met), list(range(len(cells))))

    def test_cells_fill_the_zone_without_lying_on_each_other(self):
        cells = cells_in(box(0, 0, 10, 10), 2.0, 0.2, np.random.default_rng(0), 0.5)
        angles = np.linspace(0, 2 * np.pi, 60, endpoint=False)
        shapes = [Polygon(cell.at(angles, 0.0)) for cell in cells]
        both = sum(a.intersection(b).area for i, a in enumerate(shapes) for b in shapes[:i])
        self.assertLess(both, 0.6)
        self.assertGreater(shapely.union_all(shapes).area, 85)

    @settings(max_examples=examples(10), deadline=None)
    @given(some.sampled_from(["square", "triangle", "curved", "bent"]), some.integers(0, 50))
    def test_swirls_are_one_line_that_never_crosses_itself(self, name, seed):
        work = drawn("swirls", UGLY[name], seed)
        self.assertEqual(len(work.runs), 1)
        self.assertTrue(shapely.is_simple(shapely.linestrings(work.runs[0].points)))

    def test_swirls_can_be_left_after_each_and_end_at_the_edge(self):
        shape = box(0, 0, 10, 10)
        run = drawn("swirls", shape).runs[0]
        self.assertGreater(len(run.units), 12)
        for end in run.points[[0, -1]]:
            self.assertLess(shape.exterior.distance(Point(end)), 0.6)

    def test_a_turn_to_the_left_is_not_one_to_the_right(self):
        areas = []
        for turning in ("right", "left"):
            line = drawn("swirls", box(0, 0, 2, 2), turning=turning).runs[0].points
            legs = np.diff(line, axis=0)
            turn = np.diff(np.unwrap(np.arctan2(legs[:, 1], legs[:, 0])))
            areas.append(turn[: len(turn) // 4].sum())
        self.assertLess(areas[0] * areas[1], 0)


class RoundADiscTests(TestCase):
    """Small figures round a disc: the way goes round both its sides, hardly anything is turned aside to."""

    FRAME = box(0, 0, 16, 16).difference(shapely.Point(8, 8).buffer(3.5))

    def test_nearly_all_cells_lie_on_the_way_itself(self):
        for size in (0.625, 1.0, 2.0):
            cells = cells_in(self.FRAME, size, size / 5, np.random.default_rng(0))
            (walk,) = walks_through(cells)
            aside = [k for others in walk.aside.values() for k in others]
            self.assertEqual(sorted([*walk.path, *aside]), list(range(len(cells))))
            self.assertLess(len(aside), 0.05 * len(cells) + 2, size)
            for one, two in itertools.pairwise(walk.path):
                self.assertIn(two, cells[one].near)

    def test_cells_that_stand_in_squares_are_taken_in_two_by_two(self):
        corner = Polygon([(0, 0), (16, 0), (16, 5), (5, 5), (5, 16), (0, 16)])
        for shape in (corner, box(0, 0, 6, 16), box(0, 0, 12, 12)):
            cells = cells_in(shape.buffer(-0.125), 1.5, 0.15, np.random.default_rng(1), 0.7)
            for walk in walks_through(cells):
                aside = [k for others in walk.aside.values() for k in others]
                self.assertLess(len(aside), 3)
                self.assertEqual(len({*walk.path, *aside}), len(walk.path) + len(aside))

    @long
    def test_tight_swirls_cross_nothing_and_wind_in(self):
        work = drawn("swirls", self.FRAME, size=0.625)
        (run,) = work.runs
        self.assertTrue(shapely.linestrings(run.points).is_simple)
        # Lines as far apart as were asked for would leave such a swirl no turn.
        self.assertIn("1/8″ apart", work.notes[0])
        legs = np.diff(run.points, axis=0)
        turned = np.abs(np.diff(np.unwrap(np.arctan2(legs[:, 1], legs[:, 0])))).sum()
        self.assertGreater(turned / len(run.units), 2.4 * np.pi)


class PackingTests(TestCase):
    @settings(max_examples=examples(10), deadline=None)
    @given(some.integers(0, 99), some.floats(0.25, 0.45))
    def test_pebbles_touch_and_do_not_lie_on_each_other(self, seed, large):
        part = box(0, 0, 5, 4)
        found = packed(part, large, 0.4 * large, np.random.default_rng(seed))
        for k, one in enumerate(found):
            self.assertTrue(part.buffer(1e-6).covers(Point(one.middle).buffer(one.radius * 0.999)))
            for two in found[:k]:
                between = np.hypot(*(one.middle - two.middle))
                self.assertGreater(between, one.radius + two.radius - 1e-6)
        covered = sum(math.pi * one.radius**2 for one in found)
        self.assertGreater(covered / part.area, 0.66)

    def test_each_pebble_is_gone_round_just_once(self):
        found = packed(box(0, 0, 5, 4), 0.4, 0.16, np.random.default_rng(1))
        lines = round_all(found)
        self.assertEqual(len(lines), 1)
        line, stops = lines[0]
        self.assertEqual(len(stops), len(found))
        inches = float(np.hypot(*np.diff(line, axis=0).T).sum())
        around = sum(2 * math.pi * one.radius for one in found)
        self.assertAlmostEqual(inches / around, 1.0, delta=0.05)


class PlumeTests(TestCase):
    def test_counted_plumes_are_as_many_as_were_asked_for(self):
        spine = even_spine(np.array([[2.0, 5.0], [8.0, 5.0], [16.0, 5.0]]))
        for count in (4, 9, 15):
            for side in (1, -1):
                made = grown_side(spine, box(0, 0, 18, 10), side, Growth(1.0, count=count))
                self.assertEqual(len(made.heads), count)

    def test_both_sides_of_a_straight_spine_are_mirror_images(self):
        spine = even_spine(np.array([[2.0, 5.0], [9.0, 5.0], [16.0, 5.0]]))
        sides = [grown_side(spine, box(0, 0, 18, 10), side, Growth(1.0)) for side in (1, -1)]
        self.assertEqual(len(sides[0].heads), len(sides[1].heads))
        for one, two in zip(sides[0].heads, sides[1].heads, strict=True):
            np.testing.assert_allclose(one, two * (1, -1) + (0, 10), atol=1e-6)

    def test_ribs_leave_the_spine_along_it(self):
        spine = even_spine(np.array([[2.0, 5.0], [9.0, 5.0], [16.0, 5.0]]))
        for rib in grown_side(spine, box(0, 0, 18, 10), 1, Growth(1.0)).ribs:
            leg = rib[1] - rib[0]
            self.assertLess(abs(math.degrees(math.atan2(leg[1], leg[0]))), 15)

    def test_a_wreath_closes_and_both_its_sides_are_counted(self):
        work = drawn("wreath", box(0, 0, 9, 9), count=20, inside=12)
        self.assertIn("12 and 20 plumes", work.notes[0])
        names = [unit.name for unit in work.runs[0].units]
        self.assertEqual(len([n for n in names if "plume" in n]), 32)
        ends = work.runs[0].points[[0, -1]]
        self.assertLess(np.hypot(*(ends[0] - ends[1])), 0.5)

    def test_an_older_half_feather_keeps_its_lean(self):
        drawing = designs()["half_feather"]
        kept, said = drawing.settled({"lean": 0.45, "pitch": 1.25}, 1)
        self.assertTrue(25 <= kept["lean"] <= 80)
        self.assertEqual(said, ())

    def test_no_plume_in_a_corner_is_a_needle(self):
        """Plumes beside the foot rose into the corner of a square fifteen times as high as wide."""
        for side in (3.0, 4.5, 6.0, 9.0):
            for turn in (0, 45):
                room = rotate(box(0, 0, side, side), turn).buffer(-0.15, join_style="mitre")
                foot, tip = room.exterior.coords[0], room.exterior.coords[2]
                spine = even_spine(np.linspace(foot, tip, 60))
                pitch = max(0.3125, side / 5.2)
                for hand in (1, -1):
                    grown = grown_side(spine, room, hand, Growth(pitch))
                    self.assertGreater(len(grown.heads), 2)
                    for head, before, rib in zip(
                        grown.heads, grown.ribs, grown.ribs[1:], strict=False
                    ):
                        stop = int(np.argmin(np.hypot(*(before - head[-1]).T)))
                        plume = Polygon(np.vstack([rib, head, before[: stop + 1][::-1]])).buffer(0)
                        across = 2 * shapely.maximum_inscribed_circle(plume, tolerance=0.01).length
                        with self.subTest(side=side, turn=turn, hand=hand):
                            self.assertLess(shapely.linestrings(rib).length, 6 * across)


class EchoedTests(TestCase):
    def test_swirls_reach_into_the_points_of_a_triangle(self):
        """Where no more figure has room the line runs a drop into the point, and crosses nothing."""
        for key in ("swirls", "hook_drift", "curls"):
            with self.subTest(key):
                (run,) = drawn(key, TRIANGLE).runs
                line = shapely.linestrings(run.points)
                self.assertTrue(line.is_simple)
                self.assertTrue(TRIANGLE.buffer(0.02).covers(line))
                for point in ((9, 0), (0, 9), (0, 0)):
                    self.assertLess(line.distance(Point(point)), 0.75)
                self.assertEqual(run.units[-1].stop, len(run.points) - 1)

    @settings(max_examples=examples(25), deadline=None)
    @given(some.floats(0.3, 0.6), some.floats(3, 12), some.integers(0, 1000))
    def test_a_line_goes_aside_into_what_is_open_and_comes_back(self, gap, wide, seed):
        """It begins and ends as before, keeps off itself, stays in its room, and less is open than was."""
        rng = np.random.default_rng(seed)
        at = np.linspace(0.3, wide - 0.3, 40)
        line = np.column_stack([at, 2 + 0.4 * np.sin(at * rng.uniform(0.5, 2))])
        room = box(0, 0, wide, 4)
        made = echoed(line, room, gap)
        self.assertTrue(np.allclose(made[[0, -1]], line[[0, -1]]))
        self.assertTrue(shapely.linestrings(made).is_simple)
        self.assertTrue(room.buffer(1e-6).covers(shapely.linestrings(made)))
        before, after = (room.difference(shapely.linestrings(each).buffer(0.88 * gap)).area
                         for each in (line, made))  # fmt: skip
        self.assertLess(after, 0.7 * before)

    def test_into_a_tip_the_line_swings_without_a_neck(self):
        """Up one side of the tip, round its end, down the other: nowhere does it turn tighter than a hand."""
        tip = Polygon([(0, 0), (1.1, 0), (0.75, 5), (0.35, 5)])
        line = flowing(
            np.array([(0.05, 0.05), (0.2, 0.8), (0.55, 1.0), (0.9, 0.8), (1.05, 0.05)]), 0.2
        )
        made = echoed(
            shapely.get_coordinates(shapely.segmentize(shapely.linestrings(line), 0.03)), tip, 0.6
        )
        drawing = shapely.linestrings(made)
        self.assertTrue(drawing.is_simple)
        self.assertGreater(made[:, 1].max(), 4.5)
        # A drop has a bottom beside the line that it hangs on; where a line swings nothing lies across.
        across = drawing.intersection(shapely.linestrings([(0, 2), (1.1, 2)]))
        self.assertEqual(shapely.get_num_geometries(across), 2)
        self.assertGreater(drawing.distance(Point(0.55, 1.3)), 0.25)

    def test_wide_zones_have_figures_of_full_size_though_they_have_tips(self):
        """A zone with a few narrow points has as many figures as its area holds, not of half the size."""
        zone = Polygon([
            (12, 12), (12, 0), (0, 0), (0, 3), (1.72, 1.16), (2.78, 3.44), (4.98, 2.22), (5.29, 4.72),
            (7.76, 4.24), (7.28, 6.71), (9.78, 7.02), (8.56, 9.22), (10.84, 10.28), (9, 12),
        ]).buffer(-0.125)  # fmt: skip
        for size in (1.5, 2.0):
            cells = cells_in(zone, size, 0.25, np.random.default_rng(3))
            across = np.array([2 * cell.radii.mean() for cell in cells])
            self.assertGreater(np.median(across), 0.75 * size)

    def test_hooks_turn_one_way_and_then_the_other(self):
        """Half an S into each point: what a hook turned is turned back by the next."""
        run = drawn("hook_drift", box(0, 0, 10, 10)).runs[0]
        steps = np.diff(run.points, axis=0)
        turned = np.unwrap(np.arctan2(steps[:, 1], steps[:, 0]))
        starts = [0, *(unit.stop for unit in run.units[:-1])]
        by = [turned[(a + min(unit.stop, len(turned) - 1)) // 2] - turned[a]
              for a, unit in zip(starts, run.units, strict=True)]  # fmt: skip
        signs = np.sign(by)
        self.assertGreater((signs[1:] != signs[:-1]).mean(), 0.75)


class LoopTests(TestCase):
    def test_along_a_strip_loops_lie_on_one_side_and_then_the_other(self):
        """What one loop turns, the next turns back: all on one side would turn once round for each."""
        (run,) = drawn("loops", box(0, 0, 24, 1.5)).runs
        steps = np.diff(run.points, axis=0)
        turned = np.unwrap(np.arctan2(steps[:, 1], steps[:, 0]))
        least, most = np.diff(turned).min(), np.diff(turned).max()
        self.assertLess(max(abs(least), most), 1.0)
        self.assertGreater(np.abs(np.diff(turned)).sum(), 10 * 2 * math.pi)
        self.assertLess(np.ptp(turned), 3 * 2 * math.pi)


class FigureTests(TestCase):
    def test_petals_are_counted_and_turn_into_each_other(self):
        for petals in (5, 8, 12):
            run = drawn("flower", box(0, 0, 8, 8), petals=petals).runs[0]
            self.assertEqual(sum("petal" in unit.name for unit in run.units), petals)
            stitched = shapely.union_all(
                [shapely.linestrings(p) for p, _, kind in run.pieces() if kind == "stitch"]
            )
            from shapely import affinity

            turned = affinity.rotate(stitched, 360 / petals, origin=(4, 4))
            self.assertLess(shapely.hausdorff_distance(stitched, turned), 0.06)

    @settings(max_examples=examples(40), deadline=None)
    @given(some.integers(3, 48), some.integers(1, 3), some.integers(0, 14),
           some.sampled_from(("no", "yes")), some.sampled_from(("round", "pointed")))  # fmt: skip
    def test_nothing_of_a_flower_lies_over_anything_else_of_it(
        self, petals, rows, leaves, paired, shape
    ):
        drawing, asked = designs()["flower"], {"petals": petals, "rows": rows, "leaves": leaves}
        clean = drawing.clean({**asked, "paired": paired, "shape": shape})
        run = drawing.draw(Space(box(0, 0, 10, 10)), clean, 1).runs[0]
        names = [unit.name for unit in run.units]
        # Between many petals there may be room for none.
        grown = sum("leaf" in name for name in names)
        self.assertIn(grown, {min(leaves, 2 * petals), min(leaves, 2 * petals) * (petals < 12)})
        self.assertEqual(sum("petal" in name for name in names), rows * petals)
        self.assertTrue(np.allclose(run.points[0], run.points[-1]))
        # Were two of its lines to cross, there would be more than its centre, petals and leaves.
        line = shapely.linestrings(run.points)
        faces = shapely.get_parts(shapely.polygonize([shapely.union_all([line], grid_size=1e-7)]))
        self.assertEqual(len(faces), 1 + rows * petals + grown)
        self.assertTrue(box(0, 0, 10, 10).covers(line))

    def test_nothing_swings_out_of_a_zone_that_is_pinched_or_narrow(self):
        """What leaves its zone is left out as a whole: these three lost all that they drew."""
        bow = [
            (5.191, 5.189),
            (5.455, 5.113),
            (5.726, 5.067),
            (6, 5.051),
            (6.274, 5.067),
            (6.545, 5.113),
            (6.809, 5.189),
        ]
        bridge = Polygon([(5, 5.268), *bow, (7, 5.268), (7, 0.375), (5, 0.375)])
        bow = [
            (6.809, 9.811),
            (6.595, 9.873),
            (6.545, 9.887),
            (6.274, 9.933),
            (6, 9.949),
            (5.859, 9.941),
        ]
        post = Polygon([*bow, (5.859, 15), (7, 15), (7, 9.732)])
        petals = [Point(x, y).buffer(1.4) for x, y in ((0, 0), (3, 0), (0, 3), (3, 3))]
        between = box(0, 0, 3, 3).difference(shapely.union_all(petals))
        for key, asked, shape in (
            (
                "leaf",
                {"broad": 0.55, "veins": 5, "lean": 42.0, "growing": "back", "margin": 0.0},
                bridge,
            ),
            (
                "leaf",
                {"broad": 0.55, "veins": 5, "lean": 42.0, "growing": "back", "margin": 0.0},
                post,
            ),
            (
                "wreath",
                {"pitch": 0.25, "spine": 0.85, "channel": 1.0, "margin": 0.125},
                box(0, 0, 1.7, 5),
            ),
            ("pebbles", {"size": 0.75, "mix": 0.68, "margin": 0.0}, between),
        ):
            with self.subTest(key, area=round(shape.area, 2)):
                space = Space(max(shapely.get_parts(shape), key=shapely.area))
                drawing = designs()[key]
                made, fault = drawn_safely(drawing, space, drawing.clean(asked), 36)
                self.assertEqual(fault, "")
                self.assertTrue(made.runs)

    def test_pebbles_on_both_sides_of_a_notch_are_two_lines(self):
        # Nearer to each other than a pebble is wide, but what lies between is not the zone.
        notched = box(0, 0, 4, 3).difference(box(1.9, 0, 2.1, 2.98))
        found = packed(notched, 0.4, 0.3, np.random.default_rng(3))
        for pebble in found:
            for other in pebble.near:
                way = shapely.linestrings([pebble.middle, found[other].middle])
                self.assertTrue(notched.buffer(0.02).covers(way))

    def test_what_a_long_line_covers_is_found_in_pieces(self):
        """A wreath of hundreds of plumes took minutes; by hand: a circle with what lies within half the
        closing."""
        turns = np.linspace(0, 2 * np.pi, 4000)
        ring = Run(5 * np.column_stack([np.cos(turns), np.sin(turns)]))
        covered = covered_by(Linework((ring,)), 0.5)
        self.assertAlmostEqual(covered.area, np.pi * (5 + HAIR) ** 2, delta=0.4)
        line = Run(np.array([[0.0, 0.0], [6.0, 0.0], [6.0, 0.4], [0.0, 0.4]]))
        covered = covered_by(Linework((line,)), 0.5)
        self.assertAlmostEqual(covered.area, 6 * 0.4, delta=0.5)

    def test_what_a_way_along_the_edge_shuts_in_is_left_to_the_ground(self):
        """Two sides of a triangle stitched, the third a way along the edge; else it is a figure."""
        three = np.array([[0.0, 0.0], [6.0, 0.0], [3.0, 5.0], [0.0, 0.0]])
        closed = Run(three)
        along = Run(three, spans=(Span(1, "ditch", "link"), Span(3, "fine")))
        self.assertAlmostEqual(covered_by(Linework((closed,)), 0.25).area, 15, delta=0.5)
        self.assertLess(covered_by(Linework((along,)), 0.25).area, 1.0)
        # Feathers fanned round a star: between them and its points lay 2 inches without a stitch.
        top = OnPoint(3, 3, 9, ("star_eight",), "economy").chart()
        zones = negative_space(top, zones_from_patches(top))
        ground = max((z for z in zones if z.kind == "negative"), key=lambda z: z.polygon.area)
        layers = (
            Layer("fanned_feathers", {"pitch": 0.625}),
            Layer("swirls", {"size": 1.5, "gap": 0.25}),
        )
        job = Job("Star", top, tuple(zones), legend=(Entry("e", "e", (ground.id,), layers),))
        runs = [run for one in job_linework(job) for run in one.linework.runs]
        self.assertLess(2 * widest_gap(ground.polygon, runs), 1.1)

    def test_beside_a_star_what_fills_one_arm_says_so(self):
        top = StraightSet(1, 1, 12, ("star_six",), 0, False, False, (Border(3, "mitred"),)).chart()
        corner = min((p.polygon for p in top.patches if len(p.polygon.exterior.coords) == 7),
                     key=lambda shape: shape.area / shape.convex_hull.area)  # fmt: skip
        border = next(p.polygon for p in top.patches if p.role == "border")
        for key in ("feather", "half_feather", "leaf_vine"):
            drawing = designs()[key]
            one, two = (drawing.fits(space, drawing.proposed(space))
                        for space in (Space(corner), Space(border)))  # fmt: skip
            self.assertLess(one.score, 0.45, key)
            self.assertGreater(two.score, 0.7, key)

    def test_through_a_neck_with_no_room_for_two_lines_a_meander_goes_all_the_same(self):
        # The corners beside a star of twelve: points a third of an inch from the seam opposite.
        top = StraightSet(1, 1, 12, ("star_twelve",)).chart()
        corner = max((p.polygon for p in top.patches), key=lambda shape: shape.area)
        space, drawing = Space(corner), designs()["meander"]
        (run,) = drawing.draw(space, {"gap": 0.5}, 1).runs
        # Once round the edge would leave a circle of 1 1/2 inches.
        self.assertLess(widest_gap(corner, [run]), 0.6)
        self.assertTrue(inside(run.points, corner.buffer(-0.05)))

    def test_a_spine_swings_no_more_than_its_plumes_bear(self):
        """However many swings and how far are asked for: plumes fill the zone and do not lie across each
        other, which would part it into far more faces than there are plumes."""
        for shape, swings, sway in ((box(0, 0, 60, 30), 3, 0.35), (box(0, 0, 60, 8), 5, 0.6),
                                    (box(0, 0, 60, 20), 2, 0.6), (box(0, 0, 30, 8), 8, 0.8)):  # fmt: skip
            (run,) = drawn("feather", shape, swings=swings, sway=sway, pitch=1.5).runs
            plumes = sum("plume" in unit.name for unit in run.units)
            lines = [shapely.linestrings(piece) for piece, _, kind in run.pieces()
                     if kind == "stitch" and len(piece) > 1]  # fmt: skip
            noded = shapely.union_all(lines, grid_size=1e-5)
            areas = shapely.area(shapely.get_parts(shapely.polygonize([noded])))
            self.assertLess(np.count_nonzero(areas > 0.02), 1.6 * plumes + 4)
            self.assertGreater(areas.sum(), 0.6 * shape.area)

    def test_plumes_that_are_stacked_lie_across_nothing(self):
        """They part a zone into as many faces as the same plumes do that go back over themselves."""
        ring = box(0, 0, 15, 15).difference(Point(7.5, 7.5).buffer(3))
        for shape in (box(0, 0, 9, 9), box(0, 0, 20, 14).difference(box(8, 5, 12, 9)), ring):
            faces = {}
            for how in ("stacked", "bumped"):
                (run,) = drawn("fanned_feathers", shape, plumes=how).runs
                lines = [shapely.linestrings(piece) for piece, _, kind in run.pieces()
                         if kind == "stitch" and len(piece) > 1]  # fmt: skip
                noded = shapely.union_all(lines, grid_size=1e-5)
                found = shapely.get_parts(shapely.polygonize([noded]))
                # Where one leaves the last head there may be a hair between the two.
                faces[how] = int(np.count_nonzero(shapely.area(found) > 0.01))
            self.assertEqual(faces["stacked"], faces["bumped"])

    def test_leaves_of_a_vine_do_not_overlap(self):
        run = drawn("leaf_vine", box(0, 0, 20, 5)).runs[0]
        self.assertGreater(sum("leaf" in unit.name for unit in run.units), 8)
        line = shapely.linestrings(run.points)
        self.assertTrue(box(0, 0, 20, 5).buffer(0.02).covers(line))

    @long
    def test_a_ground_keeps_the_room_of_its_motif(self):
        shape = box(0, 0, 12, 12)
        space = Space(shape)
        for motif in ("flower", "wreath", "feather", "curled_feather"):
            drawing = designs()[motif]
            clean = drawing.clean(
                {"radius": 3.0} if motif in ("flower", "wreath") else {"margin": 1.5}
            )
            work = drawing.draw(space, clean, 1)
            kept = drawing.reserves(space, clean, work)
            with self.subTest(motif):
                lines = shapely.union_all([shapely.linestrings(run.points) for run in work.runs])
                self.assertTrue(kept.buffer(0.05).covers(lines))
                rest = max(shapely.get_parts(shape.difference(kept)), key=lambda p: p.area)
                ground = drawn("swirls", rest)
                both = shapely.union_all([shapely.linestrings(run.points) for run in ground.runs])
                self.assertTrue(rest.buffer(0.03).covers(both))

    def test_an_echo_leaves_no_more_than_its_gap(self):
        shape = box(0, 0, 6, 6)
        work = drawn("echo_fill", shape, gap=0.5)
        self.assertEqual(len(work.runs), 1)
        self.assertLess(2 * widest_gap(shape.buffer(-0.125), work.runs), 1.7 * 0.5)

    def test_an_odd_count_of_squiggles_ends_at_the_other_end(self):
        for count, far in ((3, True), (4, False)):
            line = drawn("squiggles", box(0, 0, 14, 3), count=count).runs[0].points
            self.assertEqual(abs(line[0][0] - line[-1][0]) > 7, far)


class RouteTests(TestCase):
    @long
    def test_every_motif_is_planned_and_the_replay_finds_no_fault(self):
        chart = StraightSet(2, 3, 9, ("nine_patch", "square_in_square"), 2.5, False, True,
                            (Border(4, "mitred"),)).chart()  # fmt: skip
        zones = tuple(zones_from_patches(chart))
        motifs = [design for design in designs().values() if design.family == "freehand"]
        suited: dict[str, list[str]] = {design.key: [] for design in motifs}
        for number, zone in enumerate(zones):
            space = Space(zone.polygon)
            good = [d for d in motifs if d.fits(space, d.proposed(space)).score >= 0.35]
            if good:
                # The one that has fewest zones yet, so that every motif finds one that suits it.
                least = min(good, key=lambda d: (len(suited[d.key]), d.key, number))
                suited[least.key].append(zone.id)
        self.assertEqual([key for key, ids in suited.items() if not ids], [])
        legend = []
        for key, ids in suited.items():
            space = Space(next(z.polygon for z in zones if z.id == ids[0]))
            settings_ = dict(vars(designs()[key].proposed(space)))
            layer = Layer(key, settings_, "indigo", version=designs()[key].version)
            legend.append(Entry(key, key, tuple(ids), (Layer("ditch", {}, "clear"), layer)))
        job = Job("Motifs", chart, zones, legend=tuple(legend), policy=Policy(effort=0))
        drawn = job_linework(job)
        self.assertEqual([(one.design, one.fault) for one in drawn if one.fault], [])
        self.assertEqual(replayed_job(job, planned_job(job)), [])
