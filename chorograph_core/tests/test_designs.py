"""Every design on every shape: inside, deterministic, honest about what fits."""

from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import LineString, box

from chorograph_core.designs import SettingError, Space, designs
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.curves import Turn, tangent_chain
from chorograph_core.designs.drawing import draw_legend
from chorograph_core.designs.engine.fitting import places
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.strip import strip
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.rulers import Ruler
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import UGLY
from chorograph_core.zones import zones_from_patches


class ContractTests(TestCase):
    @long
    def test_the_same_seed_gives_the_same_points(self):
        for key, design in designs().items():
            with self.subTest(key):
                space = Space(UGLY["mitred"])
                once, again = (design.draw(space, design.clean({}), 5) for _ in range(2))
                for a, b in zip(once.runs, again.runs, strict=True):
                    self.assertEqual(a.points.tobytes(), b.points.tobytes())

    @long
    def test_fits_gives_a_reason_and_a_share(self):
        for design in designs().values():
            for shape in UGLY.values():
                fit = design.fits(Space(shape))
                self.assertTrue(0 <= fit.score <= 1)
                self.assertTrue(fit.reasons)

    def test_settings_out_of_range_name_their_field(self):
        for design in designs().values():
            for parameter in design.parameters:
                bad = "?" if parameter.kind == "choice" else parameter.high + 1
                with (
                    self.subTest(f"{design.key}.{parameter.key}"),
                    self.assertRaises(SettingError) as e,
                ):
                    design.clean({parameter.key: bad})
                self.assertEqual(e.exception.field, parameter.key)
        with self.assertRaises(SettingError):
            designs()["meander"].clean({"wobble": 1})

    def test_reversing_a_run_keeps_its_pieces(self):
        design = designs()["half_feather"]
        run = design.draw(Space(UGLY["mitred"]), design.clean({})).runs[0]
        forth = dict.fromkeys(("stitch", "link", "retrace"), 0.0)
        back = dict(forth)
        for sums, way in ((forth, run), (back, run.reversed())):
            for points, _, kind in way.pieces():
                sums[kind] += LineString(points).length if len(points) > 1 else 0
        for kind in forth:
            self.assertAlmostEqual(forth[kind], back[kind], places=6)


class RunTests(TestCase):
    def test_a_closed_run_begins_anywhere_and_keeps_its_pieces(self):
        design = designs()["petals"]
        run = design.draw(Space(box(0, 0, 8, 8)), design.clean({"plump": 0.3})).runs[0]
        for index in range(len(run.points) - 1):
            turned = run.begun_at(index)
            self.assertTrue(np.allclose(turned.points[0], run.points[index]))
            self.assertTrue(np.allclose(turned.points[0], turned.points[-1]))
            self.assertEqual(turned.spans[-1].stop, len(turned.points) - 1)
            for kind in ("stitch", "retrace"):
                inches = [
                    sum(
                        LineString(p).length for p, _, k in way.pieces() if k == kind and len(p) > 1
                    )
                    for way in (run, turned)
                ]
                self.assertAlmostEqual(inches[0], inches[1], places=9)


class RulerTests(TestCase):
    @given(some.floats(1, 80), some.floats(0.25, 3))
    def test_lines_come_out_even(self, width, wished):
        at = places(width, wished, "even")
        count = width / at.spacing
        self.assertAlmostEqual(count, round(count), places=6)
        if count > 1.5:
            self.assertAlmostEqual(at.at[0], at.spacing)
            self.assertAlmostEqual(width - at.at[-1], at.spacing)
        if width > wished:
            self.assertLess(abs(at.spacing - wished), wished / 2 + 1e-9)

    def test_parallel_lines_keep_their_distance(self):
        design = designs()["parallel"]
        work = design.draw(Space(box(0, 0, 9, 6)), design.clean({"spacing": 0.75}))
        across = sorted({round(p[0], 6) for run in work.runs for q, _, kind in run.pieces()
                         if kind == "stitch" for p in q})  # fmt: skip
        self.assertEqual(len(across), 11)
        self.assertTrue(np.allclose(np.diff(across), 0.75))
        self.assertEqual(len(work.runs), 1)

    def test_the_ruler_lies_one_foot_radius_from_the_line(self):
        design = designs()["parallel"]
        work = design.draw(Space(box(0, 0, 9, 6), foot_radius=0.3), design.clean({}))
        lines = shapely.union_all([LineString(run.points) for run in work.runs])
        short = Ruler("short", "straight, 5 inches", length=5.0)
        placements = work.placements([short], 0.3)
        self.assertGreaterEqual(len(placements), 2 * 11)
        for laid in placements:
            middle = shapely.points(laid.stitched.mean(axis=0))
            self.assertLess(lines.distance(middle), 1e-9)
            apart = np.hypot(*(laid.pose - laid.stitched).T)
            self.assertTrue(np.allclose(apart, 0.3))
            self.assertLessEqual(LineString(laid.pose).length, 3 + 1e-9)

    def test_echo_lies_at_its_distance(self):
        design = designs()["inset_echo"]
        square = box(0, 0, 8, 8)
        work = design.draw(Space(square), design.clean({"first": 0.5, "spacing": 0.75, "count": 3}))
        self.assertEqual(len(work.runs), 1)
        line = LineString(work.runs[0].points)
        # Three lines on the sides away from the place where it slides from one to the next.
        for depth in (0.5, 1.25, 2.0):
            away = [min(line.distance(shapely.points(spot)) for spot in side) for side in (
                [(1 + depth, depth)], [(depth, 7 - depth)], [(7 - depth, 8 - depth)])]  # fmt: skip
            self.assertLess(max(away), 1e-6)
        self.assertTrue(line.is_simple)
        rings = design.draw(
            Space(square), {"first": 0.5, "spacing": 0.75, "count": 3, "joined": "rings"}
        )
        self.assertEqual([run.closed for run in rings.runs], [True] * 3)
        self.assertAlmostEqual(rings.inches, 4 * (7 + 5.5 + 4))
        deep = design.draw(Space(square), design.clean({"first": 0.5, "count": 0})).runs[0]
        self.assertFalse(deep.closed)
        rest = design.remaining(Space(square), {"first": 0.5, "count": 1})
        self.assertAlmostEqual(rest[0].area, 49)

    def test_ditches_leave_the_raw_edge_alone(self):
        design = designs()["ditch"]
        top = box(0, 0, 20, 20)
        work = design.draw(Space(box(0, 0, 5, 5), top.exterior), {})
        self.assertAlmostEqual(sum(run.inches for run in work.runs), 10, delta=0.1)


class FreehandTests(TestCase):
    @long
    def test_a_meander_never_crosses_itself(self):
        design = designs()["meander"]
        for name in ("square", "mitred", "bent", "holed", "star", "curved"):
            for seed in range(3):
                with self.subTest(name, seed=seed):
                    work = design.draw(Space(UGLY[name]), design.clean({"gap": 0.5}), seed)
                    for run in work.runs:
                        self.assertTrue(LineString(run.points).is_simple)

    @long
    def test_a_meanders_gaps_are_about_what_was_asked(self):
        design = designs()["meander"]
        for gap in (0.375, 0.5, 0.75):
            shape = box(0, 0, 12, 12)
            inches = design.draw(Space(shape), design.clean({"gap": gap}), 1).inches
            self.assertAlmostEqual(shape.area / inches, gap, delta=0.4 * gap)

    @long
    def test_a_wandering_motif_goes_from_any_door_to_any_other(self):
        for key in ("meander", "loops"):
            design = designs()[key]
            settings_ = design.clean({})
            for name in ("square", "triangle", "mitred", "bent"):
                space = Space(UGLY[name])
                doors = design.doors(space, settings_)
                for start, stop in ((0, 1), (1, 0), (0, len(doors) - 1)):
                    with self.subTest(key, shape=name, doors=(start, stop)):
                        work = design.draw(
                            space, settings_, 1, (tuple(doors[start]), tuple(doors[stop]))
                        )
                        self.assertTrue(work.kept_doorways)
                        ends = work.runs[0].points[[0, -1]]
                        self.assertLess(np.abs(ends - doors[[start, stop]]).max(), 1e-6)

    def test_the_bulbs_of_candy_touch_but_do_not_run_into_each_other(self):
        design = designs()["ribbon_candy"]
        work = design.draw(Space(box(0, 0, 20, 2)), design.clean({"plump": 0.4, "margin": 0.125}))
        line = work.runs[0].points
        reach = line[:, 1].min(), line[:, 1].max()
        self.assertAlmostEqual(reach[0], 0.125, delta=0.04)
        self.assertAlmostEqual(reach[1], 1.875, delta=0.04)

    def test_feather_heads_reach_out_to_the_edge(self):
        design = designs()["half_feather"]
        work = design.draw(Space(box(0, 0, 24, 4)), design.clean({}))
        stitched = np.concatenate(
            [q for run in work.runs for q, _, k in run.pieces() if k == "stitch"]
        )
        self.assertAlmostEqual(stitched[:, 1].max() - stitched[:, 1].min(), 3.75, delta=0.1)
        kinds = {kind for run in work.runs for _, _, kind in run.pieces()}
        self.assertEqual(kinds, {"stitch", "link", "retrace"})

    @given(
        some.lists(
            some.tuples(some.floats(0.2, 1), some.sampled_from([-1, 1])), min_size=2, max_size=6
        )
    )
    @settings(max_examples=examples(50))
    def test_a_chain_of_tangents_turns_without_a_corner(self, circles):
        turns = [Turn((3.0 * k, (k % 2) * 1.5), r, s) for k, (r, s) in enumerate(circles)]
        points = tangent_chain(turns)
        legs = np.diff(points, axis=0)
        if len(legs) < 2:
            return
        heading = np.unwrap(np.arctan2(legs[:, 1], legs[:, 0]))
        self.assertLess(np.abs(np.diff(heading)).max(), 0.6)

    def test_a_strip_is_found_in_bent_and_tapering_zones(self):
        for name, length in (("strip", 12), ("bent", 21), ("mitred", 27)):
            lane = strip(UGLY[name])
            self.assertAlmostEqual(lane.length, length, delta=0.2 * length)
            self.assertTrue(
                UGLY[name].buffer(0.2).contains(shapely.points(lane.at(lane.length / 2, 0)))
            )


class LegendTests(TestCase):
    def test_sisters_get_the_same_linework(self):
        chart = StraightSet(2, 2, 9, ("sawtooth_star",), borders=(Border(2),)).chart()
        zones = zones_from_patches(chart)
        ids = tuple(z.id for z in zones if chart.patch(z.patches[0]).fabric == "c")
        drawn = draw_legend(
            chart, zones, [Entry("e", "", ids, (Layer("meander", {"gap": 0.25}, "t"),))]
        )
        lengths = {round(one.linework.inches, 6) for one in drawn}
        self.assertEqual(len(drawn), 32)
        self.assertEqual(len(lengths), 1)

    def test_a_frame_shrinks_the_zone_for_what_lies_inside(self):
        chart = StraightSet(1, 1, 12, ("plain",)).chart()
        layers = (Layer("inset_echo", {"first": 1.0}, "t"), Layer("crosshatch", {}, "t"))
        zones = zones_from_patches(chart)
        drawn = draw_legend(chart, zones, [Entry("e", "", (zones[0].id,), layers)], "binding")
        inner = shapely.union_all([LineString(r.points) for r in drawn[1].linework.runs])
        # 3/8″ for the binding and 1″ for the frame.
        self.assertAlmostEqual(inner.bounds[0], 1.375, places=3)

    def test_passes_stitch_over_and_over(self):
        chart = StraightSet(1, 1, 6, ("plain",)).chart()
        zones = zones_from_patches(chart)
        once, thrice = (
            draw_legend(
                chart,
                zones,
                [Entry("e", "", (zones[0].id,), (Layer("meander", {}, "t", passes=n),))],
            )
            for n in (1, 3)
        )
        self.assertAlmostEqual(thrice[0].linework.inches, 3 * once[0].linework.inches, places=6)

    def test_what_was_drawn_is_kept_and_the_least_used_dropped(self):
        cache = DrawingCache(2)
        for key in "abc":
            cache.put(key, [key])
        self.assertIsNone(cache.get("a"))
        self.assertEqual(cache.get("c"), ["c"])
        self.assertEqual(len(cache), 2)
