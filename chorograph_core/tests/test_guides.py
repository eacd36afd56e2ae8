"""Guides, halves of a whole, sisters that vary, strips drawn for the way they lie."""

import itertools
import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely import affinity
from shapely.geometry import Point, Polygon, box

from chorograph_core.chart import Placement
from chorograph_core.chart.shapes import STAMPS, placed
from chorograph_core.designs import Space, designs
from chorograph_core.designs.behind import whole_of_half
from chorograph_core.designs.drawing import draw_legend, drawn_safely, fit_of
from chorograph_core.designs.engine.guides import level_lines, level_rings, opened, strip_along
from chorograph_core.designs.guiding import (
    GuideError,
    circle_guide,
    drawn_guide,
    seam_guide,
    shape_guide,
)
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.layouts import StraightSet
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import small_top
from chorograph_core.zones import zones_from_patches

FIELD = box(0, 0, 16, 12)


def wave(high: float = 1.2, n: int = 40) -> tuple[tuple[float, float], ...]:
    t = np.linspace(0, 1, n)
    return tuple(
        zip((0.5 + 15 * t).tolist(), (6 + high * np.sin(2 * np.pi * t)).tolist(), strict=True)
    )


def along(key: str, guide, width: float = 0.0, zone: Polygon = FIELD, **given_settings):
    drawing = designs()[key]
    space = Space(zone, guide=guide, guide_width=width)
    return drawing.draw(space, drawing.clean(given_settings), 1)


class StripTests(TestCase):
    @settings(max_examples=examples(15), deadline=None)
    @given(some.floats(0, 1.6), some.floats(1.0, 4.0))
    def test_a_strip_along_a_guide_is_as_wide_as_told_and_stays_inside(self, high, width):
        guide = wave(high)
        strip = strip_along(Space(FIELD, guide=guide, guide_width=width), FIELD)
        line = shapely.linestrings(guide)
        for rail in (strip.left, strip.right):
            away = shapely.distance(shapely.points(rail), line)
            self.assertLessEqual(away.max(), width / 2 + 0.02)
            self.assertTrue(FIELD.buffer(1e-6).covers(shapely.linestrings(rail)))
        if high < 0.2:
            np.testing.assert_allclose(strip.widths, width, atol=0.02)

    def test_motifs_for_strips_follow_it(self):
        guide = wave()
        near = shapely.linestrings(guide).buffer(1.5 + 0.05)
        for key in ("rope", "wishbone", "ribbon_candy", "swirl_row", "u_swing", "own_strip"):
            run = along(key, guide, 3.0).runs[0]
            with self.subTest(key):
                self.assertTrue(near.covers(shapely.linestrings(run.points)))
                # From end to end of it, not in a corner of the zone.
                self.assertGreater(np.ptp(run.points[:, 0]), 13)

    def test_a_feather_has_it_for_a_spine(self):
        guide = wave()
        for key in ("feather", "leaf_vine", "half_feather"):
            run = along(key, guide).runs[0]
            line = shapely.linestrings(run.points)
            spots = shapely.line_interpolate_point(
                shapely.linestrings(guide), np.linspace(2, 12, 20)
            )
            with self.subTest(key):
                self.assertLess(shapely.distance(spots, line).max(), 0.06)

    def test_what_follows_it_goes_on_behind_a_shape_on_its_way(self):
        """Until then only one side of the shape was drawn in, or nothing."""
        guide = wave()
        shape = Point(8, 6).buffer(2.2)
        zone = FIELD.difference(shape)
        keys = [key for key, each in designs().items() if each.goes_behind]
        self.assertGreater(len(keys), 10)
        for key in keys:
            drawing = designs()[key]
            space = Space(zone, guide=guide, guide_width=3.0)
            made, fault = drawn_safely(drawing, space, drawing.clean({}), 1)
            lines = shapely.union_all([shapely.linestrings(run.points) for run in made.runs])
            with self.subTest(key):
                self.assertEqual(fault, "")
                self.assertLess(lines.intersection(shape.buffer(-0.03)).length, 1e-6)
                # On either side of it, up to its edge, and as if it were not there.
                beside = shapely.get_coordinates(lines)
                for side in (beside[beside[:, 0] < 8], beside[beside[:, 0] > 8]):
                    self.assertLess(shape.distance(shapely.multipoints(side)), 0.2)
                    self.assertGreater(np.ptp(side[:, 0]), 4)
                free = along(key, guide, 3.0)
                whole = shapely.union_all([shapely.linestrings(r.points) for r in free.runs])
                own = lines.difference(shape.buffer(0.03))
                self.assertLess(own.difference(whole.buffer(0.01)).length, 1e-6)

    def test_close_by_a_shape_it_is_not_cut_there(self):
        """Designs begin a little inside the edge: a guide a quarter inch beside a shape ended there."""
        zone = FIELD.difference(Point(8, 9).buffer(2.6))
        guide = tuple((float(x), 6.2) for x in np.linspace(0.3, 15.7, 40))
        for key in ("feather", "leaf_vine", "rope", "wishbone"):
            drawing = designs()[key]
            space = Space(zone, guide=guide, guide_width=3.0)
            made, fault = drawn_safely(drawing, space, drawing.clean({"margin": 0.5}), 1)
            with self.subTest(key):
                self.assertEqual(fault, "")
                spots = np.vstack([run.points for run in made.runs])
                self.assertGreater(np.ptp(spots[:, 0]), 12)

    def test_it_may_end_at_an_edge_that_is_not_square_to_it(self):
        """A rope was stitched all across there, and left its zone: nothing of it was drawn."""
        shape = Point(11, 7).buffer(3)
        zone = FIELD.difference(shape)
        for high in (5.0, 6.0, 8.5):
            guide = ((0.2, high), *((x, high) for x in np.linspace(1, 11, 30)))
            edge = shape.intersection(shapely.linestrings([(0, high), (11, high)])).bounds[0]
            for key in ("rope", "wishbone", "figure_eights", "ribbon_candy", "u_swing"):
                with self.subTest(key, high=high):
                    made = along(key, guide, 3.0, zone)
                    self.assertEqual(len(made.runs), 1)
                    self.assertGreater(made.runs[0].points[:, 0].max(), edge - 1.2)

    def test_along_a_seam_it_lies_beside_it_as_wide_as_told(self):
        """It was taken for no guide at all, since designs begin an eighth inside the seam."""
        half_round = Point(0, 0).buffer(9).intersection(box(-10, -10, 10, 0))
        for zone in (FIELD, Polygon([(0, 0), (16, 0), (0, 16)]), half_round):
            guide = seam_guide([zone])
            seam = shapely.linestrings(guide)
            for key in ("rope", "wishbone", "ribbon_candy", "swirl_row", "u_swing"):
                made = along(key, guide, 3.0, zone)
                lines = shapely.union_all([shapely.linestrings(run.points) for run in made.runs])
                away = shapely.distance(shapely.points(shapely.get_coordinates(lines)), seam)
                with self.subTest(key, zone=zone.wkt[:30]):
                    self.assertLess(away.max(), 3.0 + 0.3)
                    self.assertGreater(away.max(), 2.3)
                    gone = shapely.line_locate_point(
                        seam, shapely.points(shapely.get_coordinates(lines))
                    )
                    self.assertGreater(np.ptp(gone), 0.7 * seam.length)

    def test_a_ground_keeps_off_all_of_a_strip_beside_a_seam(self):
        drawing = designs()["u_swing"]
        space = Space(FIELD, guide=seam_guide([FIELD]), guide_width=3.0)
        settings_ = drawing.clean({})
        kept = drawing.reserves(space, settings_, drawing.draw(space, settings_, 1))
        y0 = min(y for _, y in space.guide)
        inward = 1 if y0 < 6 else -1
        for x in np.linspace(2, 14, 13):
            self.assertTrue(kept.covers(Point(x, y0 + inward * 2.8)))
            self.assertFalse(kept.covers(Point(x, y0 + inward * 3.6)))

    def test_a_straight_guide_from_edge_to_edge_is_no_seam(self):
        drawing = designs()["u_swing"]
        space = Space(FIELD, guide=((0.0, 6.0), (16.0, 6.0)), guide_width=3.0)
        settings_ = drawing.clean({})
        kept = drawing.reserves(space, settings_, drawing.draw(space, settings_, 1))
        self.assertTrue(kept.covers(Point(8, 7.4)))
        self.assertFalse(kept.covers(Point(8, 8.2)))

    def test_along_the_seam_of_a_shape_it_lies_round_the_shape(self):
        shape = Point(8, 6).buffer(2.5)
        zone = FIELD.difference(shape).difference(Point(14, 10).buffer(0.5))
        guide = shape_guide([zone])
        self.assertAlmostEqual(Polygon(guide).intersection(shape).area, shape.area, delta=0.2)
        with self.assertRaisesRegex(GuideError, "No shape lies on"):
            shape_guide([FIELD])
        for key in ("rope", "ribbon_candy", "wishbone"):
            drawing = designs()[key]
            space = Space(zone, guide=guide, guide_width=1.5)
            made, _ = drawn_safely(drawing, space, drawing.clean({}), 1)
            spots = shapely.points(np.vstack([run.points for run in made.runs]))
            away = shapely.distance(spots, shape)
            with self.subTest(key):
                self.assertLess(away.max(), 1.5 + 0.3)
                turn = np.sort(np.arctan2(*(shapely.get_coordinates(spots) - (8, 6)).T))
                self.assertLess(np.diff(turn).max(), 0.8)

    def test_round_a_shape_with_a_neck_it_goes_all_round(self):
        vase = shapely.union_all(placed([STAMPS["vase"].shape(8.0)], 8, 6))
        zone = box(0, -2, 16, 14).difference(vase)
        guide = seam_guide([zone, vase])
        for key in ("rope", "ribbon_candy", "wishbone", "swirl_row", "leaf_vine"):
            drawing = designs()[key]
            space = Space(zone, guide=guide, guide_width=1.5)
            made, fault = drawn_safely(drawing, space, drawing.proposed(space), 1)
            with self.subTest(key):
                self.assertEqual((fault, len(made.runs)), ("", 1))
                spots = made.runs[0].points - (8, 6)
                self.assertLess(np.diff(np.sort(np.arctan2(*spots.T))).max(), 0.8)

    def test_along_a_seam_with_much_room_to_it_and_round_a_shape_wider_than_there_is_room(self):
        """With three quarters of an inch to the seam the guide was none again, and filled the zone."""
        for margin in (0.0, 0.75, 2.0):
            for key in ("rope", "wishbone", "ribbon_candy"):
                made = along(key, seam_guide([FIELD]), 3.0, margin=margin)
                deep = np.vstack([run.points for run in made.runs])[:, 1]
                deep = np.minimum(deep, 12 - deep) if deep.mean() < 6 else 12 - deep
                with self.subTest(key, margin=margin):
                    self.assertGreater(deep.min(), margin - 0.07)
                    self.assertLess(deep.max(), margin + 3.1)
        shape = Point(8, 6).buffer(2.5)
        zone = FIELD.difference(shape)
        for key in ("rope", "wishbone", "leaf_vine"):
            for width in (0.0, 24.0):
                drawing = designs()[key]
                space = Space(zone, guide=seam_guide([zone, shape]), guide_width=width)
                made, fault = drawn_safely(drawing, space, drawing.clean({}), 1)
                with self.subTest(key, width=width):
                    self.assertEqual((fault, len(made.runs)), ("", 1))

    def test_a_narrow_strip_through_a_large_zone_is_no_thousand_units(self):
        """They were counted as if they filled the zone, and refused."""
        field = box(0, 0, 72, 48)
        guide = tuple((float(x), 20 + 0.1 * x) for x in np.linspace(1, 71, 40))
        for key in ("rope", "figure_eights", "wishbone"):
            with self.subTest(key):
                self.assertGreater(along(key, guide, 0.75, field).inches, 70)

    def test_a_feather_grows_from_a_seam_into_its_zone(self):
        for ring in ([(0, 0), (16, 0), (16, 9), (0, 9)], [(0, 9), (16, 9), (16, 0), (0, 0)]):
            zone = Polygon(ring)
            for key in ("feather", "half_feather", "leaf_vine"):
                for spine in ("first", "second"):
                    given_settings = {"spine": spine} if key == "half_feather" else {}
                    made = along(key, seam_guide([zone]), 0.0, zone, **given_settings)
                    points = np.vstack([run.points for run in made.runs])
                    with self.subTest(key, spine=spine):
                        self.assertGreater(np.ptp(points[:, 1]), 2.0)

    def test_how_it_suits_is_told_of_the_strip_along_it(self):
        zone = FIELD.difference(Point(8, 6).buffer(2.2))
        space = Space(zone, guide=wave(), guide_width=3.0)
        rope = designs()["rope"]
        self.assertLess(fit_of(rope, Space(zone)).score, 0.35)
        self.assertGreater(fit_of(rope, space).score, 0.6)
        self.assertNotIn("hardly", " ".join(fit_of(rope, space).reasons))

    def test_without_one_in_the_zone_nothing_changes(self):
        elsewhere = ((100.0, 100.0), (120.0, 100.0))
        for key in ("rope", "feather", "wavy_rows"):
            one, two = along(key, elsewhere), along(key, None)
            np.testing.assert_array_equal(one.runs[0].points, two.runs[0].points)


class RowTests(TestCase):
    def test_level_lines_keep_their_distance_from_the_guide_and_each_other(self):
        guide = np.array(wave(0.8))
        step, lines = level_lines(guide, FIELD, 0.5, 1)
        places = [place for place, _, _ in lines]
        np.testing.assert_allclose(np.diff(places), step, atol=1e-9)
        self.assertAlmostEqual(step, 0.5, delta=0.03)
        far = shapely.linestrings(np.vstack([guide[0] - (40, 0), guide, guide[-1] + (40, 0)]))
        for place, line, _ in lines:
            inside = line[(line[:, 0] > 2) & (line[:, 0] < 14)]
            away = shapely.distance(shapely.points(inside), far)
            self.assertLess(np.ptp(away), 0.08, place)

    def test_they_cover_the_inside_of_a_bend_too(self):
        t = np.linspace(0, np.pi, 40)
        arc = tuple(zip((8 - 5 * np.cos(t)).tolist(), (9 - 5 * np.sin(t)).tolist(), strict=True))
        made = along("wavy_rows", arc)
        self.assertLess(shapely.distance(Point(8, 11), shapely.multilinestrings(
            [run.points for run in made.runs])), 1.0)  # fmt: skip


class GuideTests(TestCase):
    def test_a_hand_is_steadied_and_its_ends_stay(self):
        rng = np.random.default_rng(1)
        t = np.linspace(0, 1, 200)
        drawn = np.column_stack([1 + 13 * t, 6 + rng.normal(0, 0.05, 200)])
        guide = np.array(drawn_guide(drawn.tolist(), [FIELD]))
        np.testing.assert_allclose(guide[[0, -1]], drawn[[0, -1]], atol=1e-3)
        self.assertLess(np.abs(guide[1:-1, 1] - 6).max(), 0.06)

    def test_the_seam_of_a_border_is_not_the_raw_edge(self):
        """Of two sides as long the raw edge came first: it lies in the finish, where nothing follows it."""
        side, edge = box(0, 0, 36, 3), shapely.box(0, 0, 36, 36).boundary
        for turn in range(4):
            zone = shapely.affinity.rotate(side, 90 * turn, (18, 18))
            guide = shapely.linestrings(seam_guide([zone], edge))
            self.assertGreater(edge.distance(guide.interpolate(0.5, normalized=True)), 2.9)
            self.assertAlmostEqual(guide.length, 36, places=2)
        # What is not sewn to anything has no other.
        self.assertAlmostEqual(
            shapely.linestrings(seam_guide([box(0, 0, 9, 4)], box(0, 0, 9, 4).boundary)).length, 9
        )

    def test_what_is_no_guide_is_refused_in_words(self):
        cross = [(2, 2), (10, 10), (10, 2), (2, 10)]
        for points, word in (([(1, 1)], "One point"), ([(1, 1), (1, 1)], "One point"), (cross, "crosses"),
                             ([(50, 50), (60, 60)], "hardly touches")):  # fmt: skip
            with self.subTest(word), self.assertRaisesRegex(GuideError, word):
                drawn_guide(points, [FIELD])

    def test_a_circle_is_round_and_a_seam_is_the_zones_own(self):
        ring = np.array(circle_guide(FIELD, 8.0))
        np.testing.assert_allclose(np.hypot(*(ring - (8, 6)).T), 4.0, atol=0.03)
        guide = seam_guide([box(0, 0, 6, 9), box(6, 0, 12, 9), box(12, 0, 14, 4)])
        self.assertTrue(all(abs(x - 6) < 0.01 for x, _ in guide))
        self.assertAlmostEqual(shapely.linestrings(guide).length, 9, delta=0.05)
        self.assertAlmostEqual(
            shapely.linestrings(seam_guide([box(0, 0, 9, 4)])).length, 9, delta=0.05
        )
        with self.assertRaisesRegex(GuideError, "no seam"):
            seam_guide([box(0, 0, 1, 1), box(5, 5, 9, 9)])


class SisterTests(TestCase):
    def setUp(self):
        self.chart = small_top().chart()
        self.zones = zones_from_patches(self.chart)

    def alike(self, least: float = 8.0):
        from collections import defaultdict

        by_shape = defaultdict(list)
        for zone in self.zones:
            x0, y0, x1, y1 = zone.polygon.bounds
            by_shape[tuple(sorted((round(x1 - x0, 2), round(y1 - y0, 2))))].append(zone)
        return max((g for g in by_shape.values() if g[0].polygon.area > least), key=len)

    def drawn(self, layer: Layer, group):
        entry = Entry("e", "", tuple(zone.id for zone in group), (layer,))
        return draw_legend(self.chart, self.zones, [entry])

    def test_a_guide_in_one_is_laid_in_all_its_sisters(self):
        group = self.alike()[:4]
        x0, y0, x1, y1 = group[2].polygon.bounds
        guide = ((x0 + 0.3, y0 + 0.3), ((x0 + x1) / 2 + 0.4, (y0 + y1) / 2), (x1 - 0.3, y1 - 0.3))
        made = {
            one.zone: one.linework
            for one in self.drawn(Layer("leaf_vine", {"pitch": 0.5}, guide=guide), group)
        }
        plain = {
            one.zone: one.linework for one in self.drawn(Layer("leaf_vine", {"pitch": 0.5}), group)
        }
        inches = [made[zone.id].inches for zone in group]
        self.assertGreater(min(inches), 1.0)
        np.testing.assert_allclose(inches, inches[0], rtol=1e-6)
        self.assertNotAlmostEqual(inches[0], plain[group[0].id].inches, places=2)
        spot = shapely.points((guide[1],))
        self.assertLess(
            shapely.distance(spot, shapely.linestrings(made[group[2].id].runs[0].points))[0], 0.1
        )

    def test_a_guide_that_ends_at_the_seam_to_a_sister_is_not_hers(self):
        """She came first, and nothing of it lay in her: both were drawn as if there were none."""
        chart = StraightSet(1, 2, 10, ("plain",)).chart()
        zones = zones_from_patches(chart)
        (left,) = [zone for zone in zones if zone.polygon.centroid.x < 10]
        (right,) = [zone for zone in zones if zone.polygon.centroid.x > 10]
        guide = tuple((float(x), 3.0 + 0.2 * x) for x in np.linspace(10, 20, 20))
        entry = Entry("e1", "Vine", (left.id, right.id), (Layer("leaf_vine", {}, guide=guide),))
        made = {one.zone: one.linework for one in draw_legend(chart, [left, right], (entry,))}
        spots = shapely.line_interpolate_point(shapely.linestrings(guide), np.linspace(2, 8, 12))
        drawn = shapely.linestrings(made[right.id].runs[0].points)
        self.assertLess(shapely.distance(spots, drawn).max(), 0.1)
        self.assertAlmostEqual(made[left.id].inches, made[right.id].inches, places=5)

    def test_sisters_are_alike_unless_they_are_to_vary(self):
        group = self.alike()[:4]
        alike = [one.linework.inches for one in self.drawn(Layer("meander", {"gap": 0.5}), group)]
        varied = [
            one.linework.inches
            for one in self.drawn(Layer("meander", {"gap": 0.5}, over="varied"), group)
        ]
        np.testing.assert_allclose(alike, alike[0], rtol=1e-6)
        self.assertEqual(len({round(inches, 3) for inches in varied}), len(group))
        self.assertLess(max(varied) / min(varied), 1.4)

    def test_half_a_block_has_half_of_what_the_whole_would(self):
        half = Polygon([(0, 0), (8, 0), (0, 8)])
        whole = whole_of_half(half)
        self.assertAlmostEqual(whole.area, 2 * half.area, places=3)
        self.assertTrue(whole.buffer(1e-3).covers(half))
        self.assertAlmostEqual(whole.symmetric_difference(box(0, 0, 8, 8)).area, 0, places=2)

    def test_in_a_top_it_is_cut_at_the_edge_of_the_half(self):
        group = self.alike()[:2]
        made = self.drawn(Layer("flower", {}, over="whole"), group)
        own = self.drawn(Layer("flower", {}), group)
        for one, zone in zip(made, group, strict=True):
            self.assertTrue(one.linework.runs)
            lines = shapely.multilinestrings([run.points for run in one.linework.runs])
            self.assertTrue(zone.polygon.buffer(0.03).covers(lines))
        # Alike halves are drawn once, as all sisters are.
        self.assertAlmostEqual(made[0].linework.inches, made[1].linework.inches, places=6)
        self.assertNotAlmostEqual(made[0].linework.inches, own[0].linework.inches, places=1)


class LyingTests(TestCase):
    def legs(self, angle: float, **given_settings) -> list[float]:
        """Lengths of the legs of a wishbone, from loop to loop, in turn."""
        shape = affinity.rotate(box(0, 0, 24, 3), angle, origin=(0, 0))
        drawing = designs()["wishbone"]
        run = drawing.draw(Space(shape), drawing.clean({"loose": 0, **given_settings}), 1).runs[0]
        stops = [0, *(unit.stop for unit in run.units)]
        at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(run.points, axis=0).T))])
        return np.diff(at[stops])[2:-2].tolist()

    def test_legs_are_alike_lying_and_standing_and_unlike_on_a_slant(self):
        for angle in (0, 90, 180, 3):
            legs = self.legs(angle)
            self.assertLess(max(legs) / min(legs), 1.12, angle)
        for angle in (35, -40, 130):
            legs = self.legs(angle)
            long, short = sorted((np.mean(legs[::2]), np.mean(legs[1::2])))[::-1]
            self.assertGreater(long / short, 1.2, angle)
            square = self.legs(angle, legs="square")
            self.assertLess(max(square) / min(square), 1.12, angle)

    @settings(max_examples=examples(30), deadline=None)
    @given(some.floats(-math.pi, math.pi), some.booleans(), some.floats(-9, 9), some.floats(-9, 9))
    def test_a_placement_back_and_after_another(self, turn, over, x, y):
        cos, sin, flip = math.cos(turn), math.sin(turn), -1.0 if over else 1.0
        one = Placement(((cos, -sin * flip), (sin, cos * flip)), (x, y))
        two = Placement(((0.0, -1.0), (1.0, 0.0)), (y, 2.0))
        spots = np.array([[0.0, 0.0], [3.0, 1.0], [-2.0, 5.0]])
        np.testing.assert_allclose(one.inverse().apply(one.apply(spots)), spots, atol=1e-9)
        np.testing.assert_allclose(
            two.after(one).apply(spots), two.apply(one.apply(spots)), atol=1e-9
        )
        self.assertEqual(one.keeps_level, abs(sin) < 0.02)


def crossed(points: np.ndarray) -> int:
    """How often a line crosses itself for good: not where it is gone over twice, nor where two lines
    touch."""
    legs = shapely.linestrings(np.stack([points[:-1], points[1:]], axis=1))
    one, two = shapely.STRtree(legs).query(legs, predicate="crosses")
    ways = np.diff(points, axis=0) @ np.array([1, 1j])
    turn = np.abs(np.angle(ways[one] / ways[two]))
    return int(((np.minimum(turn, np.pi - turn) > np.radians(25)) & (one < two)).sum())


class AllRoundTests(TestCase):
    """What follows a guide that closes: round a shape, or on a circle."""

    FIELD = box(-17, -14, 17, 14)

    def setUp(self):
        t = np.linspace(0, 2 * np.pi, 80)
        down = 13 * np.cos(t) - 5 * np.cos(2 * t) - 2 * np.cos(3 * t) - np.cos(4 * t)
        heart = Polygon(np.column_stack([6 * np.sin(t) ** 3, -down * 6 / 16]))
        self.shapes = {"heart": heart, "circle": Point(0, 0).buffer(4)}

    def drawn(self, key, shape, wide=0.0):
        zone = self.FIELD.difference(shape)
        space = Space(zone, None, guide=shape_guide([zone]), guide_width=wide)
        return zone, designs()[key].draw(space, {}, 1)

    def test_the_end_of_a_feather_comes_to_its_beginning_and_not_over_it(self):
        for key, (name, shape) in itertools.product(
            ("feather", "half_feather"), self.shapes.items()
        ):
            zone, made = self.drawn(key, shape)
            with self.subTest(f"{key} {name}"):
                (run,) = made.runs
                self.assertLess(crossed(run.points), 6)
                # All round, into the farthest corners as far as a round head goes.
                for corner in ((-17, -14), (17, -14), (17, 14), (-17, 14)):
                    self.assertLess(shapely.linestrings(run.points).distance(Point(corner)), 3.5)
                self.assertTrue(zone.buffer(0.02).covers(shapely.linestrings(run.points)))

    def test_a_row_of_swirls_goes_round_the_dip_of_a_heart(self):
        """It begins where the shape is straight, and passes over the dip, where both sides would meet."""
        for wide in (2.0, 3.0):
            _, made = self.drawn("swirl_row", self.shapes["heart"], wide)
            (run,) = made.runs
            self.assertEqual(crossed(run.points), 0)
            self.assertGreater(shapely.distance(Point(run.points[0]), Point(0, -3.4)), 3)
            self.assertLess(shapely.distance(shapely.points(run.points), self.shapes["heart"]).max(),
                            1.7 * wide)  # fmt: skip

    @long
    def test_rows_go_round_and_are_turned_where_they_began(self):
        for key, (name, shape) in itertools.product(("wavy_rows", "arches"), self.shapes.items()):
            zone, made = self.drawn(key, shape)
            drawing = designs()[key]
            with self.subTest(f"{key} {name}"):
                self.assertLess(sum(crossed(run.points) for run in made.runs), 25)
                lines = shapely.union_all([shapely.linestrings(run.points) for run in made.runs])
                x, y = np.meshgrid(np.linspace(-16.5, 16.5, 90), np.linspace(-13.5, 13.5, 80))
                spots = np.column_stack([x.ravel(), y.ravel()])
                spots = spots[shapely.contains_xy(zone.buffer(-0.3), *spots.T)]
                away = shapely.distance(shapely.points(spots), lines)
                self.assertLess(np.percentile(away, 99), drawing.spacing(Space(zone)))

    def test_rings_beside_a_circle_are_circles(self):
        """Each as far from the last, all round; the part is open where they begin, and nowhere else."""
        turn = np.linspace(0, 2 * np.pi, 181)
        guide = 6 * np.column_stack([np.cos(turn), np.sin(turn)])
        zone = self.FIELD.difference(Point(0, 0).buffer(4))
        step, rings = level_rings(guide, zone, 0.5, 0)
        self.assertAlmostEqual(step, 0.5, delta=0.03)
        radii = [float(np.hypot(*points.T).mean()) for _, points, _ in rings]
        np.testing.assert_allclose(np.diff(radii), step, atol=0.01)
        for _, points, x in rings:
            self.assertLess(np.ptp(np.hypot(*points.T)), 0.03)
            self.assertLess(abs(points[0, 1]), 0.1)
            self.assertGreater(points[0, 0], 0)
            self.assertTrue((np.diff(x) > 0).all())
        room = opened(zone, guide, 0.3)
        self.assertEqual(len(room.interiors), 0)
        self.assertAlmostEqual(zone.difference(room).area, 0.3 * (17 - 4), delta=0.05)
