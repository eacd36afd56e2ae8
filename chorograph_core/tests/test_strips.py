"""Motifs along strips: units in lanes, on the slant, into tips, round corners; what is no strip."""

import itertools
import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.affinity import rotate, scale, skew
from shapely.geometry import LineString, Polygon, box

from chorograph_core.blocks import wedges
from chorograph_core.designs import Space, designs
from chorograph_core.designs.engine.lanes import (
    END,
    TIP,
    bulge,
    lane_in,
    leant,
    strip_in,
    tips_of,
    waist,
)
from chorograph_core.designs.judging import judged
from chorograph_core.designs.linework import Linework, Run
from chorograph_core.designs.rails import Strip, across
from chorograph_core.designs.wander import open_way
from chorograph_core.tests import examples
from chorograph_core.tests.shapes import UGLY
from chorograph_core.tests.test_freehand import drawn

MITRED = Polygon([(0, 0), (28, 0), (24, 4), (4, 4)])
STROKES = ("wishbone", "figure_eights", "ribbon_candy", "cursive_loops", "u_swing")


def measures(key: str, shape: Polygon):
    """The measures of a motif drawn with its own settings in a shape."""
    drawing, space = designs()[key], Space(shape)
    clean = drawing.clean({})
    return judged(drawing, space, clean, drawing.draw(space, clean, 1))


class LaneTests(TestCase):
    def test_units_come_out_whole_and_even(self):
        lane = lane_in(strip_in(Space(box(0, 0, 24, 2)), box(0, 0, 24, 2)), 0.5)
        self.assertEqual(lane.count, 24)
        ends = lane.points(np.arange(25.0), np.zeros(25))
        np.testing.assert_allclose(np.hypot(*np.diff(ends, axis=0).T), 1.0, atol=0.02)

    def test_units_grow_smaller_as_a_strip_tapers(self):
        wedge = Polygon([(0, 0), (16, 1.2), (16, 1.8), (0, 3)])
        lane = lane_in(strip_in(Space(wedge), wedge), 0.5)
        ends = lane.points(np.arange(lane.count + 1.0), np.zeros(lane.count + 1))
        steps = np.hypot(*np.diff(ends, axis=0).T)
        if ends[0, 0] > ends[-1, 0]:
            steps = steps[::-1]
        self.assertGreater(steps[0], 2 * steps[-1])
        self.assertTrue((np.diff(steps) < 0.02).all())

    def test_lying_standing_and_slanting_strips_have_the_same_units(self):
        from shapely import affinity

        for key in ("wishbone", "figure_eights", "ribbon_candy", "cursive_loops", "u_swing"):
            counts = set()
            for angle in (0, 90, 37):
                shape = affinity.rotate(box(0, 0, 18, 2.5), angle, origin=(0, 0))
                square = {"legs": "square"} if key != "u_swing" else {}
                counts.add(len(drawn(key, shape, **square).runs[0].stops()))
            with self.subTest(key):
                self.assertEqual(len(counts), 1)

    def test_six_strips_are_stitched_one_after_another(self):
        # Each strip's line ends at its far end, where the next one, laid beside it, begins when told so.
        keys = ("wishbone", "ribbon_candy", "figure_eights", "cursive_loops", "u_swing", "rope")
        at = (0.0, 0.0)
        for k, key in enumerate(keys):
            drawing, space = designs()[key], Space(box(0, 2 * k, 12, 2 * k + 2))
            extra = {"guides": "none"} if key == "rope" else {}
            run = drawing.draw(space, drawing.clean(extra), 1, (at, None)).runs[0]
            with self.subTest(key):
                self.assertLess(abs(run.points[0][0] - at[0]), 1.5)
                self.assertGreater(abs(run.points[-1][0] - run.points[0][0]), 9)
            at = tuple(run.points[-1])

    def test_what_is_no_strip_is_declined_with_a_reason(self):
        for name in ("holed", "star", "hourglass"):
            fit = designs()["wishbone"].fits(Space(UGLY[name]))
            self.assertLess(fit.score, 0.35, name)
            self.assertTrue(fit.reasons)

    def test_units_are_counted_on_every_way_along_a_strip(self):
        strip = box(0, 0, 18, 3)
        for key, extra in (
            ("squiggles", {"count": 4}),
            ("figure_eights", {"rows": 3}),
            ("u_swing", {"lenses": "all"}),
            ("cursive_loops", {}),
        ):
            run = drawn(key, strip, **extra).runs[0]
            stops = [0, *(unit.stop for unit in run.units)]
            inches = [
                float(np.hypot(*np.diff(run.points[a : b + 1], axis=0).T).sum())
                for a, b in itertools.pairwise(stops)
            ]
            with self.subTest(key):
                self.assertEqual(stops[-1], len(run.points) - 1)
                self.assertLess(max(inches), 2.6 * float(np.median(inches)))
                self.assertLess(float(np.std(inches[1:-1])), 0.35 * float(np.mean(inches)))

    def test_into_a_tip_the_line_goes_on_where_units_end(self):
        strip = strip_in(Space(MITRED), MITRED)
        before, after = tips_of(strip)
        lane = lane_in(strip, 0.5)
        self.assertEqual(lane.tipped, (True, True))
        self.assertGreaterEqual(lane.strip.widths.min(), 0.98 * END * strip.mean_width)
        for tip, corner in ((before[0], strip.left[0]), (after[-1], strip.left[-1])):
            # The sides meet at half a right angle: where it is so wide it is as far from the corner.
            self.assertLess(math.dist(tip, corner), 2.2 * TIP + 0.1)
        for key in STROKES:
            with self.subTest(key):
                self.assertEqual(measures(key, MITRED).corners, 0)
                # Units are where they are drawn, not where they would be without the tip.
                run = drawn(key, MITRED).runs[0]
                first = run.points[run.units[0].stop]
                self.assertLess(math.dist(first, run.points[0]), 0.3 * 28)
                self.assertGreater(len(run.units), 5)
        guide = lane_in(strip, 0.5, guided=True)
        self.assertEqual((guide.tipped, guide.strip.length), ((False, False), strip.length))
        square = strip_in(Space(box(0, 0, 20, 3)), box(0, 0, 20, 3))
        self.assertEqual([len(each) for each in tips_of(square)], [0, 0])
        self.assertEqual(lane_in(square, 0.5).tipped, (False, False))

    @settings(max_examples=examples(12), deadline=None)
    @given(some.sampled_from(("ribbon_candy", "figure_eights", "u_swing")), some.floats(-32, 32))
    def test_what_is_cut_slantwise_has_round_heads_and_full_corners(self, key, slant):
        found = measures(key, skew(box(0, 0, 20, 3), slant))
        self.assertEqual((found.roundness, found.corners), (0, 0))

    def test_legs_lean_and_heads_do_not(self):
        v = np.linspace(-1, 1, 41)
        leaning = leant(v)
        self.assertEqual((leaning[0], leaning[20], leaning[-1]), (-1, 0, 1))
        self.assertTrue((np.diff(leaning) >= 0).all())
        self.assertEqual(np.ptp(leaning[v > 0.85]), 0)

    def test_no_corner_of_a_strip_is_left_open_by_a_wishbone(self):
        for long, wide in ((8, 2), (16, 1.5), (40, 6)):
            for angle in (0, 20, 90):
                found = measures("wishbone", rotate(box(0, 0, long, wide), angle))
                with self.subTest((long, wide, angle)):
                    self.assertEqual((found.corners, found.roundness), (0, 0))
                    self.assertLessEqual(found.edge, 0.8)

    def test_what_squeezes_units_is_no_strip_for_them(self):
        # A waist, a triangle, a blunt dart: all longer than wide.
        for shape, word in (
            (Polygon([(0, 0), (8, 1.4), (16, 0), (16, 4), (8, 2.6), (0, 4)]), "squeezed"),
            (Polygon([(0, 0), (18, 0), (9, 5)]), "of many sizes"),
        ):
            for key in ("wishbone", "ribbon_candy", "figure_eights"):
                fit = designs()[key].fits(Space(shape))
                with self.subTest((key, word)):
                    self.assertLess(fit.score, 0.35)
                    self.assertIn(word, " ".join(fit.reasons))
        tapering = Polygon([(0, 0), (16, 0), (16, 3), (0, 1.5)])
        self.assertGreaterEqual(designs()["ribbon_candy"].fits(Space(tapering)).score, 0.35)

    @settings(max_examples=examples(20), deadline=None)
    @given(some.floats(0.5, 3.0), some.floats(1.2, 4.0))
    def test_a_waist_is_measured(self, narrow, share):
        wide = narrow * share
        ends = [(0, -wide / 2), (9, -narrow / 2), (18, -wide / 2)]
        shape = Polygon([*ends, *((x, -y) for x, y in reversed(ends))])
        self.assertAlmostEqual(waist(strip_in(Space(shape), shape)), share, delta=0.12 * share)

    def test_a_half_feather_ends_at_the_far_end_of_its_seam(self):
        run = drawn("half_feather", box(0, 0, 14, 2)).runs[0]
        self.assertGreater(abs(run.points[-1][0] - run.points[0][0]), 12)
        self.assertLess(abs(run.points[-1][1] - run.points[0][1]), 0.1)


class NeckTests(TestCase):
    """Two rooms for figures, and a neck between them with no room for any."""

    SHAPE = Polygon([(0, 0), (6, 0), (4.4, 3.4), (0.7, 3.0), (2.6, 6), (0, 6)])

    def test_what_fills_one_room_is_not_echoed_from_the_other(self):
        for key in ("swirls", "curls", "hook_drift"):
            for seed in (1, 2, 3):
                work = drawn(key, self.SHAPE, seed)
                lines = [shapely.linestrings(run.points) for run in work.runs]
                with self.subTest((key, seed)):
                    self.assertFalse(
                        any(one.crosses(two) for one, two in itertools.combinations(lines, 2))
                    )

    def test_lines_that_cross_each_other_are_counted(self):
        drawing, space = designs()["swirls"], Space(box(0, 0, 4, 4))
        one, two = (np.array([(1, y), (3, 4 - y)], float) for y in (1, 3))
        work = Linework((Run(one, "medium"), Run(two, "medium")))
        self.assertEqual(judged(drawing, space, drawing.clean({}), work).crossings, 1)


class LoopTests(TestCase):
    @settings(max_examples=examples(20), deadline=None)
    @given(some.integers(0, 10_000), some.integers(4, 7))
    def test_an_open_way_is_nearly_the_shortest(self, seed, count):
        points = np.random.default_rng(seed).random((count, 2)) * 6
        order = open_way(points, box(-1, -1, 8, 8))

        def inches(way) -> float:
            return float(np.hypot(*np.diff(points[list(way)], axis=0).T).sum())

        self.assertEqual(sorted(order), list(range(count)))
        least = min(map(inches, itertools.permutations(range(count))))
        self.assertLessEqual(inches(order), 1.15 * least)

    def test_nobody_goes_back_along_an_arm(self):
        # From one arm of an angle into the other: no stretch of line without a loop is longer than two ways.
        for name in ("bent", "curved"):
            work = drawn("loops", UGLY[name])
            line = shapely.linestrings(work.runs[0].points)
            with self.subTest(name):
                self.assertEqual(len(work.runs), 1)
                self.assertLess(_straightest(work.runs[0].points), 2.2 * 1.25)
                self.assertTrue(UGLY[name].covers(line))

    def test_where_ends_are_too_narrow_for_a_loop_it_says_so(self):
        wedge = Polygon([(0, 0), (9, 0), (9, 0.3), (1.6, 1.6), (0.3, 9), (0, 9)])
        fit = designs()["loops"].fits(Space(wedge))
        self.assertLess(fit.score, 0.35)
        self.assertIn("too narrow for a loop", fit.reasons[0])


def _straightest(points: np.ndarray) -> float:
    """Inches of the longest stretch that turns by less than 30 degrees in all."""
    legs = np.diff(points, axis=0)
    inches = np.hypot(*legs.T)
    heading = np.unwrap(np.arctan2(legs[:, 1], legs[:, 0]))
    best = 0.0
    for k in range(len(heading)):
        off = np.abs(heading[k:] - heading[k]) > math.radians(30)
        stop = k + int(off.argmax()) if off.any() else len(heading)
        best = max(best, float(inches[k:stop].sum()))
    return best


def wedge(inner: float, outer: float, degrees: float) -> Polygon:
    """Of a ring with these radii, pointing up."""
    turn = np.radians(np.linspace(90 - degrees / 2, 90 + degrees / 2, 40))
    round_ = np.column_stack([np.cos(turn), np.sin(turn)])
    return Polygon(np.vstack([outer * round_, inner * round_[::-1]]))


class WedgeTests(TestCase):
    def test_lines_up_and_down_a_wedge_end_at_its_arcs(self):
        # However wide the wedge is against its length; before, their ends lay on the chords.
        for degrees in (18, 30, 45, 60, 75):
            run = drawn("squiggles", wedge(3, 6, degrees), count=5, margin=0.25).runs[0]
            from_middle = np.hypot(*run.points.T)
            with self.subTest(degrees):
                self.assertAlmostEqual(from_middle.max(), 5.75, delta=0.12)
                self.assertAlmostEqual(from_middle.min(), 3.25, delta=0.12)

    def test_any_wedge_suits_and_what_turns_corners_in_other_places_does_not(self):
        squiggles = designs()["squiggles"]
        for inner, degrees in ((3, 18), (2, 45), (1, 60), (2, 75)):
            space = Space(wedge(inner, 6, degrees))
            self.assertGreater(squiggles.fits(space, squiggles.proposed(space)).score, 0.35)
        for tip in wedges.TIPS:
            for count in (5, 6, 8, 12):
                made = wedges.ring(count, 0.125, 0.43, tip)
                blade = Space(scale(Polygon(made[0][0]), 14, 14))
                with self.subTest(tip, count=count):
                    self.assertGreater(squiggles.fits(blade, squiggles.proposed(blade)).score, 0.35)
                    self.assertTrue(squiggles.draw(blade, squiggles.proposed(blade)).runs)
        # A diamond that opens and closes again is no wedge.
        diamond = Polygon([(0, 0), (5, 2.5), (10, 0), (5, -2.5)])
        fit = squiggles.fits(Space(diamond))
        self.assertLess(fit.score, 0.35)
        self.assertIn("widest in its middle: lines up and down it part there", fit.reasons)
        odd = Polygon([(0, 0), (3, -1.5), (7, -1), (8, 3), (5, 6), (1, 5.5)])
        self.assertLess(squiggles.fits(Space(odd)).score, 0.35)

    @settings(max_examples=examples(40), deadline=None)
    @given(some.floats(3, 20), some.floats(0.2, 3), some.floats(0.2, 3), some.floats(0, 180))
    def test_a_bulge_is_measured(self, long, low, high, turn):
        # By hand: what grows evenly to its middle and falls again comes to 0.7 after so much of the way.
        half = np.linspace(0, 1, 201)
        wide = np.concatenate([low + (high - low) * half, high + (low - high) * half[1:]])
        x = np.linspace(0, long, 401)
        left, right = (np.column_stack([x, side * wide / 2]) for side in (1, -1))
        turned = [
            shapely.get_coordinates(rotate(LineString(rail), turn, (0, 0)))
            for rail in (left, right)
        ]
        expected = max(0.0, (0.7 * high - low) / (high - low)) / 2 if high > low else 0.0
        if high < low:
            # It is widest at both ends: on one side of either there is nothing.
            expected = 0.0
        self.assertAlmostEqual(bulge(Strip(*turned, x)), expected, delta=0.006)
        self.assertEqual(bulge(Strip(*(rail[:201] for rail in turned), x[:201])), 0.0)

    def test_in_what_is_alike_on_both_sides_lines_across_are_square_to_the_axis(self):
        # Matched point by point, as sides that are not alike must be, they leapt from corner to corner.
        turn = np.radians(np.arange(8) * 45 + 22.5)
        shapes = {"octagon": Polygon(4 * np.column_stack([np.cos(turn), np.sin(turn)]))}
        for tip in wedges.TIPS:
            ring = wedges.ring(8, 0.125, 0.43, tip)
            shapes[tip] = rotate(scale(Polygon(ring[0][0]), 14, 14), -22.5, origin=(0, 0))
        for name, shape in shapes.items():
            strip = strip_in(Space(shape), shape)
            across = strip.right - strip.left
            way = strip.right[-1] + strip.left[-1] - strip.right[0] - strip.left[0]
            off = np.abs(across @ way) / np.hypot(*way) / np.hypot(*across.T).max()
            with self.subTest(name):
                self.assertLess(off.max(), 0.02)

    def test_a_bow_is_made_up_for_along_the_strip_and_turned_with_it(self):
        shape = wedge(3, 6, 60)
        strip = strip_in(Space(shape), shape)
        ways = np.linspace(-1, 1, 9)
        for each in (strip, strip.flipped(), strip.reversed(), across(across(strip))):
            ends = [each.at(s, v) for s in (0.0, each.length) for v in ways]
            radii = np.hypot(*np.array(ends).T).reshape(2, -1)
            self.assertLess(np.ptp(radii, axis=1).max(), 0.03)
            self.assertAlmostEqual(abs(radii[0].mean() - radii[1].mean()), 3.0, delta=0.03)
        # A part that leaves an end out has no bow there.
        self.assertEqual(
            [bow is None for bow in strip.part(2, len(strip.along)).bows], [True, False]
        )

    def test_what_comes_back_is_not_drawn_out_to_the_far_tip(self):
        lens = shapely.intersection(*(shapely.Point(0, y).buffer(5) for y in (-3, 3)))
        for count in (2, 4, 6):
            points = drawn("squiggles", lens, count=count).runs[0].points
            with self.subTest(count):
                self.assertTrue(shapely.linestrings(points).is_simple)
                self.assertLess(abs(points[0][0] - points[-1][0]), 1.0)

    def test_a_squiggle_is_as_long_as_before_it_was_told_against_its_line(self):
        squiggles = designs()["squiggles"]
        kept, said = squiggles.settled({"count": 5, "pitch": 0.6}, 1)
        self.assertEqual((kept["count"], kept["pitch"], said), (5, 3.0, ()))
