"""Joining zones and letting background flow."""

from unittest import TestCase

from chorograph_core.chart import StraightSet
from chorograph_core.zones import ZoneError, join, negative_space, zones_from_patches


class ZoneTests(TestCase):
    def setUp(self):
        self.chart = StraightSet(2, 2, 6, ("snowball",)).chart()
        self.zones = zones_from_patches(self.chart)

    def test_joining_keeps_area_and_patches(self):
        pair = [z for z in self.zones if "b1.1." in z.id][:2]
        made = join(pair, "j:1")
        self.assertAlmostEqual(made.polygon.area, sum(z.polygon.area for z in pair), places=6)
        self.assertEqual(len(made.patches), 2)

    def test_zones_apart_cannot_be_joined(self):
        ends = [z for z in self.zones if z.id.endswith("p1")]
        with self.assertRaises(ZoneError):
            join(ends[:2], "j:1")
        with self.assertRaises(ZoneError):
            join(ends[:1], "j:1")

    def test_corner_triangles_flow_into_diamonds_between_blocks(self):
        # The dark corners of four snowballs meet in one figure that no block has.
        flowed = negative_space(self.chart, self.zones, {"b"})
        made = [z for z in flowed if z.kind == "negative"]
        middle = [z for z in made if len(z.patches) == 4]
        self.assertEqual(len(middle), 1)
        self.assertAlmostEqual(middle[0].polygon.area, 4 * 2, places=6)
        self.assertEqual(sum(len(z.patches) for z in flowed), len(self.chart.patches))

    def test_touching_at_a_corner_is_not_enough(self):
        chart = StraightSet(1, 1, 6, ("nine_patch",)).chart()
        flowed = negative_space(chart, zones_from_patches(chart), {"b"})
        self.assertFalse([z for z in flowed if z.kind == "negative"])
