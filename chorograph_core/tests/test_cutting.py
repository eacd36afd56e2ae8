"""Cutting zones: the pieces tile, alike zones are cut alike, and a plan over them replays clean."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import example, given
from hypothesis import strategies as some
from shapely import affinity, union_all
from shapely.geometry import LineString, Point, Polygon, box

from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.formats import read_archive, write_archive
from chorograph_core.job import Job, replayed_job
from chorograph_core.layouts import StraightSet
from chorograph_core.route import Policy, replay
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import UGLY
from chorograph_core.zones import ZoneError, cutting, follow, join, zones_from_patches
from chorograph_core.zones.model import Zone

TOOLS = {
    "line": cutting.along([(1.0, 1.0), (2.0, 3.0)]), "centre": cutting.centre_line(),
    "across": cutting.centre_line(True), "diagonal": cutting.diagonal(), "both": cutting.diagonal(True),
    "circle": cutting.circle(1.0), "corner": cutting.circle(2.0, 0, 0.5), "inset": cutting.inset(0.25),
    "band": cutting.band(0.5), "beside": cutting.beside(1, 0.3),
}  # fmt: skip


def zone(shape, name="z:a") -> Zone:
    return Zone(name, shape, ("a",), "patch", "a zone")


class ToolTests(TestCase):
    def test_pieces_tile_every_shape_they_cut(self):
        cuts = 0
        for name, shape in UGLY.items():
            for tool_name, tool in TOOLS.items():
                with self.subTest(f"{tool_name} on {name}"):
                    try:
                        pieces = cutting.cut([zone(shape)], tool)
                    except ZoneError:
                        continue
                    cuts += 1
                    self.assertGreater(len(pieces), 1)
                    whole = union_all([piece.polygon for piece in pieces])
                    self.assertLess(whole.symmetric_difference(shape).area, 0.03 + 1e-6)
                    self.assertAlmostEqual(
                        sum(p.polygon.area for p in pieces), whole.area, places=6
                    )
                    self.assertEqual(len({p.id for p in pieces}), len(pieces))
        self.assertGreater(cuts, 60)

    @given(some.floats(2, 20), some.floats(2, 20), some.floats(0.1, 0.9))
    def test_closed_formulas_on_rectangles(self, w, h, d):
        rectangle = zone(box(0, 0, w, h))
        core = min(
            cutting.cut([rectangle], cutting.inset(d)), key=lambda z: len(z.polygon.interiors)
        )
        self.assertAlmostEqual(core.polygon.area, (w - 2 * d) * (h - 2 * d), places=6)
        halves = cutting.cut([rectangle], cutting.centre_line())
        self.assertAlmostEqual(halves[0].polygon.area, w * h / 2, places=6)
        quarters = cutting.cut([rectangle], cutting.diagonal(both=True))
        self.assertEqual([round(z.polygon.area, 6) for z in quarters], [round(w * h / 4, 6)] * 4)
        middle = cutting.cut([rectangle], cutting.band(d))
        self.assertTrue(any(abs(z.polygon.area - d * max(w, h)) < 1e-6 for z in middle))
        disc = min(
            cutting.cut([rectangle], cutting.circle(2 * d)), key=lambda z: len(z.polygon.interiors)
        )
        self.assertAlmostEqual(disc.polygon.area, math.pi * d * d, delta=0.01)

    @example(0.0625, False)
    @example(1.0, False)
    @given(some.floats(0, 360), some.booleans())
    def test_sisters_are_cut_the_same_way_round(self, turn, mirrored):
        shape = Polygon([(0, 0), (6, 0), (4, 3), (0, 3)])
        sister = affinity.rotate(affinity.scale(shape, -1 if mirrored else 1, 1), turn)
        sister = affinity.translate(sister, 30, 5)
        pieces = cutting.cut([zone(shape), zone(sister, "z:b")], cutting.along([(1, -1), (2.5, 4)]))
        own = [z.polygon for z in pieces if z.id.startswith("z:a")]
        theirs = [z.polygon for z in pieces if z.id.startswith("z:b")]
        self.assertEqual(len(own), len(theirs))
        for one, other in zip(own, theirs, strict=True):
            self.assertAlmostEqual(one.area, other.area, delta=0.05)
            self.assertAlmostEqual(one.length, other.length, delta=0.1)
        self.assertLess(union_all(theirs).symmetric_difference(sister).area, 0.06)

    def test_a_hand_that_rests_where_it_begins_and_ends_cuts_as_well(self):
        square = zone(box(0, 0, 4, 4))
        rested = cutting.cut([square], cutting.along([(-1, 1), (-1, 1), (2, 1), (5, 1), (5, 1)]))
        self.assertEqual([round(z.polygon.area, 6) for z in rested], [12.0, 4.0])

    def test_a_cut_close_to_an_edge_leaves_no_sliver(self):
        """Two hundredths of an inch from a seam: both were one line to whoever took the work up again."""
        four = Zone("z:a", box(0, 0, 4, 2), ("a",))
        for close in (0.022, 0.05):
            for line in ([(0, close), (4, close)], [(0, 2 - close), (4, 2 - close)]):
                with self.assertRaisesRegex(ZoneError, "less than 1/16″ off z:a: cut farther"):
                    cutting.cut([four], cutting.along(line))
        # Of several pieces the narrow one belongs to the one beside it; nothing is lost.
        low, high = cutting.cut(
            [four], lambda shape: [box(0, 0, 4, 0.04), box(0, 0.04, 4, 1), box(0, 1, 4, 2)]
        )
        self.assertEqual((low.polygon.bounds, high.polygon.bounds), ((0, 0, 4, 1), (0, 1, 4, 2)))
        self.assertEqual(len(cutting.cut([four], cutting.along([(0, 0.1), (4, 0.1)]))), 2)

    def test_what_cuts_nothing_is_said(self):
        square = zone(box(0, 0, 4, 4))
        for make, word in (
            (lambda: cutting.inset(3), "leaves no core"), (lambda: cutting.inset(0), "above zero"),
            (lambda: cutting.circle(9), "anything round it"), (lambda: cutting.circle(-1), "above zero"),
            (lambda: cutting.along([(9, 9), (9, 12)]), "does not cut"),
            (lambda: cutting.along([(1, 1), (1, 1)]), "from one side"),
            (lambda: cutting.along([(1, 1)]), "from one side"),
            (lambda: cutting.along([(0, 1), (4, 1), (4, 2), (1, 0.5), (1, 3)]), "crosses itself"),
            (lambda: cutting.band(0), "above zero"), (lambda: cutting.beside(0, 0), "more than nothing"),
            (lambda: cutting.along([(math.nan, 1), (2, 2)]), "from one side"),
        ):  # fmt: skip
            with self.assertRaises(ZoneError) as caught:
                cutting.cut([square], make())
            self.assertIn(word, str(caught.exception))

    def test_a_shape_that_ignores_the_piecing_is_let_in(self):
        chart = StraightSet(1, 2, 6, ("plain",)).chart()
        zones = zones_from_patches(chart)
        made = cutting.let_in(zones, Point(6, 3).buffer(2), "f:1", "moon")
        self.assertAlmostEqual(sum(z.polygon.area for z in made), 72, places=3)
        self.assertEqual([z.kind for z in made], ["part", "part", "free"])
        with self.assertRaises(ZoneError):
            cutting.let_in(zones, Point(60, 3).buffer(2), "f:1", "moon")
        with self.assertRaises(ZoneError):
            cutting.let_in(zones, Polygon([(0, 0), (4, 4), (4, 0), (0, 4)]), "f:1", "bow")

    def test_cut_zones_are_planned_and_archived(self):
        chart = StraightSet(2, 2, 6, ("plain", "snowball")).chart()
        zones = zones_from_patches(chart)
        plain = [z for z in zones if z.patches[0].endswith("r0c0.0")]
        rest = [z for z in zones if z not in plain]
        made = tuple(rest + cutting.cut(plain, cutting.inset(1.5)))
        ditch = Layer("ditch", {}, "clear", 10)
        legend = (Entry("e", "all", tuple(z.id for z in made),
                        (ditch, Layer("inset_echo", {"first": 0.25}, "indigo"))),)  # fmt: skip
        job = Job("Cut", chart, made, legend=legend, policy=Policy(effort=0))
        route = planned_job(job)
        self.assertEqual(replay(chart, made, route.drawn, job.policy, route.steps), [])
        self.assertEqual(read_archive(write_archive(job)), job)


class FollowingTests(TestCase):
    def setUp(self):
        self.layout = StraightSet(2, 2, 6, ("pinwheel", "plain"), 1)
        self.chart = self.layout.chart()
        self.zones = zones_from_patches(self.chart)

    def change(self, **changes):
        return replace(self.layout, **changes).chart()

    def test_zones_take_the_new_shape_of_their_patch(self):
        new = self.change(sashing=2)
        followed = follow(self.chart, self.zones, new)
        self.assertEqual(followed.lost, ())
        self.assertEqual({z.id for z in followed.zones}, {z.id for z in zones_from_patches(new)})
        self.assertAlmostEqual(
            sum(z.polygon.area for z in followed.zones), new.outline.area, places=4
        )

    def test_parts_follow_a_congruent_patch_and_are_lost_with_another(self):
        plain = [z for z in self.zones if z.patches == ("b1.2.r0c0.0",)]
        zones = [z for z in self.zones if z not in plain] + cutting.cut(plain, cutting.circle(3))
        moved = follow(self.chart, zones, self.change(sashing=2))
        self.assertEqual(moved.lost, ())
        disc = next(z for z in moved.zones if z.id.startswith("z:b1.2") and not z.polygon.interiors)
        self.assertAlmostEqual(disc.polygon.centroid.x, 6 + 2 + 3, places=5)
        grown = follow(self.chart, zones, self.change(block_size=8))
        self.assertEqual(set(grown.lost), {"z:b1.2.r0c0.0/1", "z:b1.2.r0c0.0/2"})
        self.assertIn("z:b1.2.r0c0.0", {z.id for z in grown.zones})

    def test_joined_zones_are_joined_again(self):
        pair = [z for z in self.zones if z.id.startswith("z:b1.1.r0c0")]
        joined = replace(join(pair, "j:1"), forbidden=True)
        zones = [z for z in self.zones if z not in pair] + [joined]
        followed = follow(self.chart, zones, self.change(block_size=8))
        again = next(z for z in followed.zones if z.id == "j:1")
        self.assertAlmostEqual(again.polygon.area, 16, places=5)
        self.assertTrue(again.forbidden)
        other = follow(self.chart, zones, self.change(blocks=("nine_patch",)))
        self.assertIn("j:1", other.lost)
        self.assertAlmostEqual(sum(z.polygon.area for z in other.zones), 13 * 13, places=4)

    def test_free_zones_stay_on_the_top(self):
        zones = cutting.let_in(self.zones, Point(10, 10).buffer(2.5), "f:1", "moon")
        self.assertIn(
            "f:1", {z.id for z in follow(self.chart, zones, self.change(sashing=2)).zones}
        )
        self.assertIn("f:1", follow(self.chart, zones, self.change(rows=1, columns=1)).lost)


class PlaceTests(TestCase):
    """Where a tool is used is said as one sees it."""

    def test_each_side_of_a_rectangle_is_found_and_copied(self):
        shape = box(2, 3, 12, 9)
        for side, left in (("top", box(2, 5, 12, 9)), ("bottom", box(2, 3, 12, 7)),
                           ("left", box(4, 3, 12, 9)), ("right", box(2, 3, 10, 9))):  # fmt: skip
            with self.subTest(side):
                pieces = cutting.cut([zone(shape)], cutting.beside(side, 2))
                self.assertAlmostEqual(
                    pieces[0].polygon.symmetric_difference(left).area, 0, places=6
                )

    def test_circles_by_corners_and_by_the_middle_of_sides(self):
        shape = box(0, 0, 10, 8)
        places = {"top left": (0, 0), "top right": (10, 0), "bottom right": (10, 8),
                  "bottom left": (0, 8), "top": (5, 0), "right": (10, 4), "bottom": (5, 8),
                  "left": (0, 4)}  # fmt: skip
        for place, (x, y) in places.items():
            pieces = cutting.cut([zone(shape)], cutting.circle(2, place))
            with self.subTest(place):
                small = pieces[-1].polygon
                share = 0.25 if " " in place else 0.5
                self.assertAlmostEqual(small.area, math.pi * share, delta=0.02)
                self.assertTrue(small.buffer(1e-6).covers(Point(x, y)))
            inner = cutting.cut([zone(shape)], cutting.circle(2, place, 2.5))[-1].polygon
            self.assertAlmostEqual(inner.area, math.pi, delta=0.02)
            self.assertAlmostEqual(inner.centroid.distance(Point(x, y)), 2.5, places=6)

    def test_every_place_works_on_every_ugly_shape_or_says_why_not(self):
        for name, shape in UGLY.items():
            for place in (*cutting.CORNERS, *cutting.AWAY):
                with self.subTest(name, place=place):
                    try:
                        pieces = cutting.cut([zone(shape)], cutting.circle(0.8, place, 0.3))
                    except ZoneError:
                        continue
                    area = sum(p.polygon.area for p in pieces)
                    self.assertAlmostEqual(area, shape.area, delta=0.05)


class EdgeTests(TestCase):
    def test_a_copy_of_another_edge_is_as_far_from_it_everywhere(self):
        for other in (
            Point(0, 0).buffer(3, quad_segs=32),
            box(-1, -1, 0, 6),
            Polygon([(0, 0), (2, 0), (0, 2)]),
        ):
            ground = box(0, 0, 8, 6).difference(other)
            pieces = cutting.cut([zone(ground)], cutting.edge_of(other, 0.75))
            self.assertAlmostEqual(sum(p.polygon.area for p in pieces), ground.area, places=6)
            between = pieces[0].polygon.boundary.intersection(pieces[1].polygon.boundary)
            for share in (0.1, 0.35, 0.6, 0.9):
                spot = between.interpolate(share, normalized=True) if between.geom_type == (
                    "LineString") else between.representative_point()  # fmt: skip
                self.assertAlmostEqual(other.distance(spot), 0.75, delta=0.01)
        with self.assertRaises(ZoneError):
            cutting.cut([zone(box(0, 0, 4, 4))], cutting.edge_of(box(20, 20, 30, 30), 1))
        with self.assertRaises(ZoneError):
            cutting.edge_of(box(0, 0, 1, 1), 0)


class TravelTests(TestCase):
    """The edge of a cut is open fabric, unless it is stitched itself."""

    def _job(self, ditch: bool) -> Job:
        chart = StraightSet(1, 1, 12, ("plain",), 0, False, False, ()).chart()
        zones = zones_from_patches(chart)
        for tool in (cutting.centre_line(), cutting.centre_line(True)):
            zones = cutting.cut(zones, tool)
        layers = (Layer("inset_echo", {"first": 0.5, "count": 1}, "indigo"),)
        layers = (Layer("ditch", {}, "indigo"), *layers) if ditch else layers
        legend = (Entry("e", "quarters", tuple(z.id for z in zones), layers),)
        return Job("cut", chart, tuple(zones), legend=legend)

    def _travel(self, job: Job):
        route = planned_job(job)
        faults = replayed_job(job, route)
        self.assertEqual(faults, [])
        middle = box(0.5, 0.5, 11.5, 11.5)
        for step in route.steps:
            if step.kind == "travel" and len(step.points) > 1:
                yield step, middle.intersection(LineString(step.points)).length
        self.route = route

    def test_nobody_travels_hidden_along_a_cut_that_is_not_stitched(self):
        for step, inside in self._travel(self._job(ditch=False)):
            if step.how == "ditch":
                self.assertLess(inside, 0.1)

    def test_a_cut_that_is_stitched_hides_what_goes_along_it(self):
        hidden = [
            inside for step, inside in self._travel(self._job(ditch=True)) if step.how == "ditch"
        ]
        self.assertGreater(sum(hidden), 0.5)

    def test_the_replay_sees_hidden_travel_where_there_is_no_seam(self):
        job = self._job(ditch=False)
        list(self._travel(job))
        lie = [
            replace(step, points=np.array([[2.0, 6.0], [9.0, 6.0]]), how="ditch", kind="travel")
            if step.kind == "travel" else step
            for step in self.route.steps
        ]  # fmt: skip
        faults = replay(job.chart, job.zones, self.route.drawn, job.policy, lie)
        self.assertTrue(any("along a seam, but does not" in fault for fault in faults))
