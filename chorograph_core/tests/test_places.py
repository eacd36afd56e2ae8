"""Kinds of place and what they are called."""

import math
from collections import Counter
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as some
from shapely import affinity
from shapely.geometry import Point, Polygon, box

from chorograph_core.blocks import wedges
from chorograph_core.chart import Fabric, sides_of_outline
from chorograph_core.chart.applique import lay
from chorograph_core.layouts import Border, OnPoint, StraightSet
from chorograph_core.tests import examples
from chorograph_core.zones import Zone, cutting, join, negative_space, touching, zones_from_patches
from chorograph_core.zones.places import places_of, shape_word, size_of


def wedge(inner: float, outer: float, degrees: float, arcs: tuple[bool, bool]) -> Polygon:
    """A piece of a ring, straight or round at its inner and its outer end."""
    angle = math.radians(degrees)
    ends = []
    for radius, round_ in zip((inner, outer), arcs, strict=True):
        steps = 12 if round_ else 1
        ends.append([(radius * math.cos(angle * k / steps), radius * math.sin(angle * k / steps))
                     for k in range(steps + 1)])  # fmt: skip
    return Polygon([*ends[0], *reversed(ends[1])])


class WordTests(TestCase):
    @settings(max_examples=examples(60), deadline=None)
    @given(some.floats(1, 4), some.floats(6, 12), some.floats(10, 40), some.booleans(), some.booleans(),
           some.floats(0, 360), some.floats(-20, 20))  # fmt: skip
    def test_a_wedge_is_one_however_it_lies(self, inner, more, degrees, one, two, turn, off):
        shape = wedge(inner, inner + more, degrees, (one, two))
        widest = 2 * (inner + more) * math.sin(math.radians(degrees) / 2)
        if widest < 0.9 * more:
            laid = affinity.translate(affinity.rotate(shape, turn, (0, 0)), off, 2 * off)
            self.assertEqual(shape_word(laid), "wedge")

    def test_what_else_has_four_sides_is_none(self):
        words = [shape_word(Polygon(ring)) for ring in (
            [(0, 0), (30, 0), (25, 5), (5, 5)], [(0, 0), (3, 4), (6, 0), (3, -4)],
            [(0, 0), (2, 6), (4, 0), (2, -3)],
        )]  # fmt: skip
        self.assertEqual(words, ["four-sided piece", "diamond", "kite"])
        self.assertEqual(shape_word(box(0, 0, 12, 2)), "strip")
        self.assertEqual(shape_word(Polygon([(0, 0), (4, 0), (2, 9)])), "triangle")

    def test_what_others_lie_on_is_no_frame(self):
        field = box(0, 0, 36, 24)
        self.assertEqual(shape_word(field.difference(Point(18, 12).buffer(5))), "background")
        self.assertEqual(shape_word(field.difference(box(2, 2, 34, 22))), "picture frame")

    def test_what_flows_round_the_blocks_is_background(self):
        """A frame with four squares cut out of its inside, and what four blocks that meet leave."""
        chart = OnPoint(3, 3, 9, ("star_eight",), "economy").chart()
        zones = negative_space(chart, zones_from_patches(chart))
        found = [place for place in places_of(chart, zones) if place.zones[0].startswith("n:")]
        self.assertEqual([(p.name, p.names, len(p.zones)) for p in found],
                         [("background", "backgrounds", 1), ("background", "backgrounds", 4)])  # fmt: skip

    def test_a_quarter_of_a_circle_and_what_is_left_of_its_square(self):
        quarter = Point(0, 0).buffer(6, 32).intersection(box(0, 0, 6, 6))
        for turn in (0, 90, 30):
            self.assertEqual(shape_word(affinity.rotate(quarter, turn)), "quarter circle")
            half = Point(0, 0).buffer(6, 32).intersection(box(-6, 0, 6, 6))
            self.assertEqual(shape_word(affinity.rotate(half, turn)), "half circle")
            self.assertEqual(
                shape_word(affinity.rotate(box(0, 0, 9, 9).difference(quarter), turn)),
                "curved piece",
            )

    def test_kinds_of_a_chart_with_fans_in_a_mitred_border(self):
        chart = StraightSet(
            2, 2, 18, ("grandmother_fan",), 2, False, True, (Border(4, "mitred"),)
        ).chart()
        counted: Counter[str] = Counter()
        for place in places_of(chart, zones_from_patches(chart)):
            counted[place.name] += len(place.zones)
        self.assertEqual(
            counted,
            {"wedge": 24, "quarter circle": 4, "curved piece": 4, "sashing strip": 4, "cornerstone": 1,
             "border side": 4},
        )  # fmt: skip

    def test_wedges_of_plates_and_fans_are_wedges_whatever_their_rim(self):
        for tip in wedges.TIPS:
            for count in (8, 12, 20):
                for made in (
                    wedges.ring(count, 0.12, 0.4, tip),
                    wedges.fan(count, 0.25, 0.85, tip),
                ):
                    words = Counter(shape_word(affinity.scale(Polygon(p), 12, 12)) for p, _ in made)
                    with self.subTest(tip, count=count):
                        self.assertEqual(words["wedge"], count)
        # No wedge: what stands square, a half hexagon, a house, an hourglass.
        for points in (
            [(0, 0), (2, 0), (1.5, 0.87), (0.5, 0.87)],
            [(0, 0), (2, 0), (2, 2), (1, 3), (0, 2)],
            [(0, 0), (12, 0), (10, 2), (2, 2)],
            [(0, 0), (8, 1.4), (16, 0), (16, 4), (8, 2.6), (0, 4)],
        ):
            self.assertNotEqual(shape_word(Polygon(points)), "wedge")


class CutTests(TestCase):
    def test_what_fills_the_ends_of_a_pieced_border_is_no_side_of_it(self):
        chart = StraightSet(
            2, 2, 11, borders=(Border(3, piecing="triangles", unit=3), Border(6, "block"))
        ).chart()
        found = Counter()
        for place in places_of(chart, zones_from_patches(chart)):
            found[place.names if len(place.zones) > 1 else place.name] += len(place.zones)
        self.assertEqual(found["border sides"], 4)
        self.assertEqual(found["spacers"], 8)

    def test_what_was_cut_out_of_a_side_is_called_by_its_shape(self):
        chart = StraightSet(2, 2, 9, ("nine_patch",), borders=(Border(6, "butted"),)).chart()
        zones = zones_from_patches(chart)
        ends = [zone for zone in zones if zone.patches[0] in ("border1.top", "border1.bottom")]
        parts = cutting.cut(ends, cutting.circle(8, "bottom"))
        found = {place.name: len(place.zones) for place in places_of(chart, parts)}
        self.assertEqual(found, {"border side": 2, "half circle": 2})


class SizeTests(TestCase):
    def test_what_is_sewn_on_is_measured_as_it_lies_patches_along_their_sides(self):
        """A square of 4 on its point is 5.66 wide and high to who sews it on, and 4 by 4 to who pieced it."""
        plain = StraightSet(1, 1, 12, ("plain",)).chart()
        point = affinity.rotate(box(4, 4, 8, 8), 45)
        chart = lay(plain, [point], Fabric("ruby", "ruby", "#aa3333"), "tile")
        sewn = places_of(chart, zones_from_patches(chart))
        size = next(place.size for place in sewn if place.role == "applique")
        self.assertAlmostEqual(size[0], 4 * math.sqrt(2), delta=0.01)
        self.assertAlmostEqual(size[1], 4 * math.sqrt(2), delta=0.01)

    def test_half_a_square_is_measured_along_its_sides_however_it_is_turned(self):
        for turn in (0, 30, 45, 90, 135):
            half = affinity.rotate(Polygon([(0, 0), (9, 0), (0, 9)]), turn)
            self.assertEqual([round(inches, 6) for inches in size_of(half)], [9.0, 9.0], turn)
        # Of others the smallest box counts.
        self.assertEqual(
            [round(inches, 6) for inches in size_of(affinity.rotate(box(0, 0, 7, 2), 33))], [7, 2]
        )


class JoinedTests(TestCase):
    def test_what_is_joined_is_called_by_its_corners_wherever_it_begins(self):
        chart = StraightSet(2, 2, 8, ("zigzag",)).chart()
        zones = zones_from_patches(chart)
        dark = [
            zone for zone in zones if chart.patch(zone.patches[0]).fabric != chart.patches[0].fabric
        ]
        for some_of in (dark, [zone for zone in zones if zone not in dark]):
            shapes = [zone.polygon for zone in some_of]
            made = [
                join([some_of[k] for k in group], "j")
                for group in touching(shapes)
                if len(group) > 1
            ]
            self.assertTrue(made)
            for one in made:
                ring = sides_of_outline(one.polygon).tolist()
                # No side lies on in the next.
                for (a, b), (c, d), (e, f) in zip(
                    ring, ring[1:], [*ring[2:], ring[1]], strict=False
                ):
                    self.assertGreater(abs((c - a) * (f - d) - (d - b) * (e - c)), 0.1)
                self.assertNotIn("curved", shape_word(one.polygon))

    def test_a_piece_that_is_cut_off_begins_at_a_corner_too(self):
        whole = Zone("z:a", Polygon([(4, 0), (8, 0), (8, 8), (0, 8), (0, 0)]))
        for tool in (cutting.diagonal(), cutting.centre_line(), cutting.inset(1.0)):
            for piece in cutting.cut([whole], tool):
                self.assertIn(
                    shape_word(piece.polygon), ("triangle", "rectangle", "square", "picture frame")
                )
