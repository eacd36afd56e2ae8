"""Joining zones and letting background flow."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely import transform
from shapely.affinity import rotate, scale

from chorograph_core.chart.side_by_side import lying_side_by_side
from chorograph_core.layouts import OnPoint, StraightSet
from chorograph_core.tests import examples
from chorograph_core.tests.shapes import free_chart
from chorograph_core.zones import (
    ZoneError,
    follow,
    join,
    negative_space,
    relabelled,
    zones_from_patches,
)
from chorograph_core.zones.figures import secondary_figures


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

    def test_blocks_set_on_point_flow_together_on_all_sides_alike(self):
        """Slanting seams are cut to other last digits on either side: edges met here and there only."""
        for size in (7.25, 9.0):
            chart = OnPoint(3, 3, size, ("star_eight",), "economy").chart()
            made = [
                z for z in negative_space(chart, zones_from_patches(chart)) if z.kind == "negative"
            ]
            # All that lies round the blocks; and what four blocks that meet leave between them.
            self.assertEqual(sorted(len(zone.patches) for zone in made), [4, 4, 4, 4, 48])
            ground, middle = (
                max((z.polygon for z in made), key=lambda p: p.area),
                chart.outline.centroid,
            )
            for turned in (rotate(ground, 90, middle), scale(ground, -1, 1, 1.0, middle)):
                self.assertLess(turned.symmetric_difference(ground).area, 0.01)

    @settings(max_examples=examples(30))
    @given(some.floats(0, 360), some.integers(0, 1000))
    def test_however_the_top_lies_the_same_pieces_touch(self, angle, seed):
        shapes = [
            patch.polygon
            for patch in StraightSet(2, 2, 6, ("sawtooth_star", "nine_patch")).chart().patches
        ]
        chance = np.random.default_rng(seed)

        def off(points):
            moved = points + chance.uniform(-1e-7, 1e-7, points.shape)
            return np.vstack([moved[:-1], moved[:1]])

        laid = [transform(rotate(shape, angle, (3, 4)), off) for shape in shapes]
        one, two = lying_side_by_side(shapes), lying_side_by_side(laid)
        together = [
            {(a, b) for a, b, inches in zip(*each, strict=True) if inches > 0.05}
            for each in (one, two)
        ]
        self.assertEqual(*together)
        # Seams are half of what the pieces have as edges, less the outline.
        edges = sum(shape.length for shape in shapes) - 4 * 12
        for each in (one, two):
            self.assertAlmostEqual(each[2].sum(), edges / 2, delta=0.05)


class LabelTests(TestCase):
    def test_patches_of_no_block_are_called_by_their_shape(self):
        labels = [zone.label.split(",")[0] for zone in zones_from_patches(free_chart())]
        self.assertEqual(labels[1:], ["rectangle", "background", "circle"])
        self.assertNotIn("block", labels)

    def test_what_is_called_as_the_chart_says_follows_the_chart(self):
        """A patch that is said to be sewn on is no round piece any more; a name that somebody gave stays."""
        old = free_chart()
        sewn = tuple(replace(patch, role="applique") for patch in old.patches)
        new = replace(old, patches=sewn)
        zones = zones_from_patches(old)
        disc = relabelled(zones[3], old, new)
        self.assertTrue(disc.label.startswith("appliqué"))
        own = replace(zones[3], label="the moon")
        self.assertEqual(relabelled(own, old, new).label, "the moon")
        self.assertEqual(follow(old, zones, new).zones[3].label, disc.label)


class FigureTests(TestCase):
    def test_diamonds_between_snowballs_are_offered(self):
        chart = StraightSet(3, 4, 6, ("snowball",)).chart()
        offered = secondary_figures(chart, zones_from_patches(chart))
        # Six whole diamonds inside, ten half ones along the edges; grounds and corners are none.
        self.assertEqual([len(each.members) for each in offered], [10, 6])
        self.assertEqual([round(each.area, 6) for each in offered], [4.0, 8.0])
        self.assertTrue(all(len(group) == 4 for group in offered[1].members))

    def test_sashing_keeps_blocks_apart_and_plain_tops_have_none(self):
        for layout in (StraightSet(3, 3, 6, ("snowball",), 1), StraightSet(3, 3, 6, ("plain",))):
            chart = layout.chart()
            figures = secondary_figures(chart, zones_from_patches(chart))
            self.assertTrue(all(len(each.members[0]) < 17 for each in figures))
        chart = StraightSet(3, 3, 6, ("snowball",), 1).chart()
        self.assertEqual(secondary_figures(chart, zones_from_patches(chart)), [])
