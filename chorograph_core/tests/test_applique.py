"""Appliqué: shapes by pen, stamp and letter; sewn on, charted over, taken off; run behind."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import Point, Polygon, box

from chorograph_core.chart import ChartError, Fabric, faults
from chorograph_core.chart.applique import lay, relaid, taken_off
from chorograph_core.chart.shapes import STAMPS, letters, pen_outline, pen_shape, placed
from chorograph_core.designs import Space, designs
from chorograph_core.designs.behind import covered
from chorograph_core.designs.drawing import draw_legend
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.formats import ArchiveError, read_archive, write_archive
from chorograph_core.job import Job
from chorograph_core.layouts import StraightSet
from chorograph_core.route import replay
from chorograph_core.tests import examples, long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import UGLY, small_top
from chorograph_core.zones import (
    ZoneError,
    cutting,
    follow,
    in_front,
    join,
    run_behind,
    under_shapes,
    zones_from_patches,
)

GREEN = Fabric("green", "old dress", "#6f8a5a", 0.2)


def sewn(chart, *shapes, name="leaf"):
    return lay(chart, shapes, GREEN, name)


class ShapeTests(TestCase):
    def test_corners_alone_are_the_polygon_itself(self):
        square = [(0, 0, False), (2, 0, False), (2, 2, False), (0, 2, False)]
        self.assertEqual(pen_shape(square).area, 4)

    def test_smooth_nodes_on_a_circle_make_one(self):
        nodes = [(math.cos(k * math.pi / 6), math.sin(k * math.pi / 6), True) for k in range(12)]
        reach = np.hypot(*pen_outline(nodes).T)
        self.assertLess(np.abs(reach - 1).max(), 0.004)

    @given(some.lists(some.tuples(some.floats(-9, 9), some.floats(-9, 9), some.booleans()),
                      min_size=3, max_size=9))  # fmt: skip
    @settings(max_examples=examples(60))
    def test_whatever_the_pen_does_is_a_shape_or_a_sentence(self, nodes):
        try:
            shape = pen_shape(nodes)
        except ChartError as error:
            self.assertEqual(error.field, "shape")
        else:
            self.assertTrue(shape.is_valid)
            for x, y, _ in nodes:
                self.assertLess(shape.boundary.distance(Point(x, y)), 1e-9)

    def test_stamps_have_the_height_asked_for(self):
        self.assertTrue({"leaf", "petal", "heart", "bird"} <= set(STAMPS))
        for stamp in STAMPS.values():
            with self.subTest(stamp.key):
                shape = stamp.shape(3.5)
                x0, y0, x1, y1 = shape.bounds
                self.assertAlmostEqual(y1 - y0, 3.5)
                self.assertAlmostEqual(x0 + x1, 0, places=9)
                self.assertGreater(shape.area, 0.5)

    def test_letters(self):
        capital = shapely.union_all(letters("H", 2)).bounds
        self.assertAlmostEqual(capital[3] - capital[1], 2, delta=0.05)
        # Whatever hangs below the line or stands above it: all of it is as high as was said.
        for text in ("high", "Jog", "apple", "Ab", "o"):
            x0, y0, x1, y1 = shapely.union_all(letters(text, 6)).bounds
            self.assertAlmostEqual(y1 - y0, 6, places=6)
            self.assertAlmostEqual(x0 + x1, 0, places=6)
        dash = shapely.union_all(letters("-", 6)).bounds
        self.assertLess(dash[3] - dash[1], 1.5)
        # An o is open in its middle, an i has two parts, words are as long as their letters.
        self.assertEqual([len(p.interiors) for p in letters("o", 2)], [1])
        self.assertEqual(len(letters("i", 2)), 2)
        wide = [shapely.union_all(letters(text, 2)).bounds[2] for text in ("n", "nn", "nnn")]
        self.assertAlmostEqual(wide[2] - wide[1], wide[1] - wide[0], places=6)
        for text in ("", "  ", "x" * 30, "漢", "\0"):
            with self.subTest(text), self.assertRaises(ChartError):
                letters(text, 2)

    @given(some.floats(-180, 180), some.booleans(), some.floats(-50, 50))
    @settings(max_examples=examples(30))
    def test_laying_a_shape_moves_it_and_nothing_else(self, turn, mirror, x):
        bird = STAMPS["bird"].shape(4)
        (laid,) = placed([bird], x, 7, turn, mirror)
        self.assertAlmostEqual(laid.area, bird.area)
        self.assertAlmostEqual(laid.length, bird.length)
        middle, beak = bird.bounds, bird.exterior.coords[0]
        self.assertAlmostEqual(Point(laid.exterior.coords[0]).distance(Point(x, 7)),
                               math.hypot(*beak), places=6, msg=str(middle))  # fmt: skip

    def test_a_turn_is_clockwise(self):
        (laid,) = placed([STAMPS["drop"].shape(2)], 0, 0, 90)
        self.assertAlmostEqual(laid.exterior.coords[0][0], 1)  # the tip, up before, points right


class LayTests(TestCase):
    def setUp(self):
        self.chart = StraightSet(2, 2, 9, ("nine_patch",), 1, False, True, ()).chart()

    def test_what_lies_beneath_is_cut_and_the_chart_still_closes(self):
        for name, shape in UGLY.items():
            (laid,) = placed([shape], 3.1, 2.3)
            with self.subTest(name):
                after = sewn(self.chart, laid)
                self.assertFalse(faults(after))
                self.assertAlmostEqual(
                    sum(p.polygon.area for p in after.patches), 19 * 19, places=2
                )
                top = after.patches[-1]
                self.assertEqual((top.role, top.id, top.fabric), ("applique", "a:1", "green"))

    def test_a_second_shape_lies_on_the_first(self):
        one = sewn(self.chart, Point(5, 5).buffer(2))
        two = sewn(one, Point(6, 5).buffer(2))
        self.assertFalse(faults(two))
        self.assertLess(two.patch("a:1").polygon.area, one.patch("a:1").polygon.area)
        self.assertAlmostEqual(two.patch("a:2").polygon.area, Point(6, 5).buffer(2).area, places=6)

    def test_what_hangs_over_is_cut_off_and_what_lies_beside_refused(self):
        after = sewn(self.chart, Point(0, 5).buffer(2))
        self.assertAlmostEqual(after.patch("a:1").polygon.bounds[0], 0)
        with self.assertRaises(ChartError):
            sewn(self.chart, Point(60, 5).buffer(2))

    def test_a_covered_patch_is_gone_and_a_parted_one_keeps_its_name(self):
        after = sewn(self.chart, box(2.9, -1, 6.1, 20))
        names = {patch.id for patch in after.patches}
        self.assertNotIn("b1.1.r0c1.0", names)
        banded = sewn(self.chart, box(-1, 1, 20, 2))
        self.assertIn("b1.1.r0c0.0~1", {patch.id for patch in banded.patches})

    def test_charting_anew_leaves_the_appliqué_where_it_was(self):
        before = sewn(self.chart, Point(5, 5).buffer(2))
        wider = StraightSet(2, 2, 10, ("pinwheel",), 1, False, True, ()).chart()
        after = relaid(before, wider)
        self.assertFalse(faults(after))
        self.assertTrue(after.patch("a:1").polygon.equals(before.patch("a:1").polygon))
        self.assertEqual(after.fabric("green"), GREEN)

    def test_taken_off_the_patch_round_it_closes(self):
        whole = StraightSet(1, 1, 9, ("plain",), 0, False, False, ()).chart()
        after = taken_off(sewn(whole, Point(4, 4).buffer(2)), ["a:1"])
        self.assertEqual(len(after.patches), 1)
        self.assertAlmostEqual(after.patches[0].polygon.area, 81, places=5)
        self.assertFalse(faults(after))

    def test_several_side_by_side_are_taken_off_without_a_gap(self):
        for order in (["a:1", "a:2"], ["a:2", "a:1"]):
            after = sewn(sewn(self.chart, box(4, 4, 8, 8)), box(8, 4, 12, 8))
            bare = taken_off(after, order)
            with self.subTest(order):
                self.assertEqual(faults(bare), [])
                self.assertFalse([p for p in bare.patches if p.role == "applique"])


class ZoneTests(TestCase):
    def setUp(self):
        self.chart = StraightSet(2, 2, 9, ("nine_patch",), 1, False, True, ()).chart()
        self.zones = zones_from_patches(self.chart)

    def test_zones_tile_the_top_as_before_whatever_they_were(self):
        first, second, third = self.zones[:3]
        joined = join([first, second], "j:1")
        parts = cutting.cut([third], cutting.inset(0.5))
        zones = [joined, *parts, *self.zones[3:]]
        after = sewn(self.chart, Point(4.5, 1).buffer(2), Point(9, 9).buffer(3.5))
        made = under_shapes(zones, self.chart, after)
        self.assertAlmostEqual(sum(z.polygon.area for z in made), 19 * 19, places=1)
        self.assertEqual(len({zone.id for zone in made}), len(made))
        known = {patch.id for patch in after.patches}
        self.assertTrue(all(set(zone.patches) <= known for zone in made))
        names = {zone.id for zone in made}
        self.assertTrue({"j:1", "z:a:1", "z:a:2"} <= names)
        # What the shapes do not touch stays the very same.
        far = next(z for z in zones if z.polygon.bounds[0] > 14)
        self.assertIn(far, made)
        job = Job("sewn", after, tuple(made))
        self.assertEqual(read_archive(write_archive(job)), job)

    @given(some.lists(some.tuples(some.sampled_from(sorted(STAMPS)), some.floats(1, 14),
                                  some.floats(-1, 20), some.floats(-1, 20), some.floats(0, 360)),
                      min_size=1, max_size=5))  # fmt: skip
    @settings(max_examples=examples(20), deadline=None)
    def test_however_many_shapes_lie_across_one_another(self, stamps):
        chart, zones = self.chart, self.zones
        for key, height, x, y, turn in stamps:
            try:
                after = sewn(chart, *placed([STAMPS[key].shape(height)], x, y, turn))
            except ChartError:
                continue
            zones, chart = under_shapes(zones, chart, after), after
        job = Job("sewn", chart, tuple(zones))
        self.assertEqual(read_archive(write_archive(job)), job)
        covered = sum(zone.polygon.area for zone in zones)
        self.assertAlmostEqual(covered, 19 * 19, delta=0.02 * len(stamps) * 19)
        used = [key for zone in zones for key in zone.patches]
        self.assertEqual(sorted(used), sorted(patch.id for patch in chart.patches))

    def test_each_piece_of_a_parted_patch_is_a_zone(self):
        after = sewn(self.chart, box(-1, 1, 20, 2))
        made = under_shapes(self.zones, self.chart, after)
        self.assertEqual({p.id for p in after.patches}, {k for z in made for k in z.patches})
        self.assertEqual(len(made), len(after.patches))


class BehindTests(TestCase):
    def setUp(self):
        chart = StraightSet(1, 2, 9, ("plain",), 0, False, False, ()).chart()
        self.chart = sewn(chart, Point(4.5, 4.5).buffer(2), Point(9, 2).buffer(1.2))
        self.zones = under_shapes(zones_from_patches(chart), chart, self.chart)
        self.ground = self.zones[0]
        self.on_top = [z.polygon for z in self.zones if z.id.startswith("z:a")]

    def test_a_zone_runs_behind_its_hole_and_what_bites_into_it(self):
        made = run_behind(self.ground, self.on_top)
        self.assertGreater(made.whole.area, 81)
        self.assertFalse(made.whole.interiors)
        alone = run_behind(self.ground, [])
        self.assertAlmostEqual(alone.whole.area - alone.polygon.area, self.on_top[0].area, places=3)
        self.assertIsNone(in_front(made).whole)
        plain = next(z for z in self.zones if z.id.startswith("z:a"))
        for zone, shapes in ((plain, []), (self.ground, [box(50, 50, 60, 60)])):
            with self.subTest(zone.id), self.assertRaises(ZoneError):
                run_behind(replace(zone, polygon=Polygon(zone.polygon.exterior)), shapes)

    @long
    def test_no_design_strays_over_what_lies_on_its_zone(self):
        zone = run_behind(self.ground, self.on_top)
        for key, drawing in designs().items():
            if key == "ditch":
                continue
            whole = drawing.draw(Space(zone.whole), drawing.clean({}), 3)
            made = covered(whole, zone.polygon)
            room = zone.polygon.buffer(0.02)
            with self.subTest(key):
                self.assertTrue(made.runs)
                for run in made.runs:
                    self.assertTrue(room.covers(shapely.linestrings(run.points)))
                    if run.spans:
                        self.assertEqual(run.spans[-1].stop, len(run.points) - 1)
                    stops = [span.stop for span in run.spans]
                    self.assertEqual(stops, sorted(set(stops)))
                # What is stitched is what would have been stitched, less what is covered.
                seen = shapely.union_all([
                    shapely.linestrings(p) for r in whole.runs for p, _, k in r.pieces()
                    if k == "stitch" and len(p) > 1
                ]).intersection(zone.polygon)  # fmt: skip
                stitched = sum(
                    shapely.linestrings(p).length for r in made.runs for p, _, k in r.pieces()
                    if k == "stitch" and len(p) > 1
                )  # fmt: skip
                self.assertAlmostEqual(stitched, seen.length, delta=0.05 * seen.length + 0.3)

    def test_plumes_that_show_keep_their_names(self):
        """A route can stop between two of them, and a log say where."""
        whole, disc = box(0, 0, 24, 10), Point(2, 5).buffer(4.9)
        drawing = designs()["feather"]
        before = drawing.draw(Space(whole), drawing.clean({}), 1)
        (run,) = covered(before, whole.difference(disc)).runs
        names = [unit.name for unit in run.units]
        stops = [unit.stop for unit in run.units]
        self.assertEqual(len(set(names)), len(names))
        self.assertEqual(stops, sorted(stops))
        self.assertEqual(stops[-1], len(run.points) - 1)
        all_of_it = {unit.name: unit.stop for unit in before.runs[0].units}
        self.assertLess(set(names), {*all_of_it})
        # Where a unit's end shows it is where it was; those that are not named are hidden.
        for unit in run.units[:-1]:
            end = Point(before.runs[0].points[all_of_it[unit.name]])
            if not disc.covers(end):
                self.assertLess(end.distance(Point(run.points[unit.stop])), 1e-6)
        starts = dict(zip([*all_of_it][1:], all_of_it.values(), strict=False))
        for name in {*all_of_it} - {*names}:
            piece = before.runs[0].points[starts.get(name, 0) : all_of_it[name] + 1]
            self.assertTrue(disc.buffer(0.07).covers(shapely.linestrings(piece)), name)

    def test_nothing_changes_where_nothing_is_covered(self):
        drawing = designs()["meander"]
        made = drawing.draw(Space(box(0, 0, 6, 6)), drawing.clean({}), 1)
        self.assertIs(covered(made, box(-1, -1, 7, 7)), made)

    def test_straight_lines_go_on_in_the_same_line(self):
        drawing = designs()["parallel"]
        zone = run_behind(self.ground, [])
        settings_ = drawing.clean({"spacing": "1", "angle": 0})
        whole = drawing.draw(Space(zone.whole), settings_, 1)
        made = covered(whole, zone.polygon)
        heights = {round(float(p[0, 1]), 3) for r in made.runs for p, _, k in r.pieces()
                   if k == "stitch" and len(p) == 2 and abs(p[0, 1] - p[1, 1]) < 1e-6}  # fmt: skip
        wished = {round(float(p[0, 1]), 3) for r in whole.runs for p, _, k in r.pieces()
                  if k == "stitch" and len(p) == 2}  # fmt: skip
        self.assertTrue(heights)
        self.assertTrue(heights <= wished)
        links = [k for r in made.runs for _, _, k in r.pieces() if k == "link"]
        self.assertTrue(links)

    def test_a_plan_over_it_replays_clean_and_an_archive_keeps_it(self):
        ground = run_behind(self.ground, self.on_top)
        zones = (ground, *self.zones[1:])
        legend = (
            Entry(
                "e1",
                "ground",
                (ground.id,),
                (Layer("ditch", {}, "clear"), Layer("meander", {"gap": 0.5}, "indigo")),
            ),
            Entry("e2", "other", (zones[1].id,), (Layer("parallel", {"spacing": 0.75}, "indigo"),)),
        )
        job = Job("behind", self.chart, zones, legend=legend)
        again = read_archive(write_archive(job))
        self.assertEqual(again, job)
        route = planned_job(again)
        faults_ = replay(job.chart, job.zones, route.drawn, job.policy, route.steps)
        self.assertEqual(faults_, [])
        broken = write_archive(
            replace(job, zones=(replace(ground, whole=box(0, 0, 2, 2)), *zones[1:]))
        )
        with self.assertRaises(ArchiveError) as told:
            read_archive(broken)
        self.assertEqual(told.exception.where, "zones[0].whole")

    def test_it_runs_behind_until_its_chart_changes(self):
        ground = run_behind(self.ground, [])
        same = follow(self.chart, [ground], self.chart)
        self.assertEqual(same.zones[0].whole, ground.whole)
        moved = sewn(self.chart, Point(2, 8).buffer(0.6))
        self.assertIsNone(follow(self.chart, [ground], moved).zones[0].whole)

    def test_a_whole_legend_draws_with_appliqué_in_it(self):
        survey = small_top(1, 2)
        chart = sewn(survey.chart(), *placed(letters("Jo", 3), 9, 6))
        zones = under_shapes(zones_from_patches(survey.chart()), survey.chart(), chart)
        entry = Entry("e", "all", tuple(z.id for z in zones), (Layer("ditch"), Layer("inset_echo")))
        drawn = draw_legend(chart, zones, [entry])
        self.assertTrue({"z:a:1"} <= {one.zone for one in drawn})
