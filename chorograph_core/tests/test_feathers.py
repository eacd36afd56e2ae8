"""Feathers in zones where something stands in the way of their plumes."""

import re
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.affinity import scale
from shapely.geometry import Point, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.engine.plumes import Growth, grown_side
from chorograph_core.designs.engine.spines import even_spine
from chorograph_core.tests import examples

LONG = 30.0


class BeyondTests(TestCase):
    """A strip with a shape sewn on in its middle third: plumes stand before it and beyond it."""

    def looked_at(self, key: str, shape, most: float, **given_settings):
        drawing = designs()[key]
        run = drawing.draw(Space(shape), drawing.clean(given_settings), 1).runs[0]
        line = shapely.linestrings(run.points)
        self.assertLess(line.difference(shape.buffer(0.02)).length, 0.01)
        middle = shapely.centroid(Point(shape.interiors[0].coords[0])).x
        inner = shapely.Polygon(shape.interiors[0]).bounds
        for side in (box(0, 0, inner[0] - 1, 99), box(inner[2] + 1, 0, LONG, 99)):
            part = shape.intersection(side)
            self.assertGreater(line.intersection(side).length, 0.8 * part.area, (key, middle))
            # Nowhere is there room for a disc that plumes would have filled: it is four inches wide without.
            held = part.difference(line.buffer(0.01))
            widest = shapely.maximum_inscribed_circle(held, tolerance=0.05).length
            self.assertLess(2 * widest, most)
        return run

    @given(some.floats(10, 20), some.floats(0.8, 1.9), some.sampled_from(["forward", "back"]))
    @settings(max_examples=examples(16), deadline=None)
    def test_half_a_feather_goes_on_beyond_a_shape(self, at, radius, towards):
        for low in (radius + 0.35, 5 - radius - 0.35):
            shape = box(0, 0, LONG, 5).difference(Point(at, low).buffer(radius))
            self.looked_at("half_feather", shape, 3.0, pitch=1.0, towards=towards)

    @given(some.floats(11, 19), some.sampled_from(["bumped", "stacked", "traced"]))
    @settings(max_examples=examples(12), deadline=None)
    def test_both_sides_of_a_feather_go_on_beyond_a_shape(self, at, stroke):
        for high in (6.4, 2.6):
            shape = box(0, 0, LONG, 9).difference(scale(Point(at, high).buffer(1), 2, 1.2))
            run = self.looked_at("feather", shape, 3.2, plumes=stroke)
            for side in ("right", "left"):
                told = [int(found[1]) for unit in run.units
                        if (found := re.fullmatch(rf"{side} plume (\d+)", unit.name))]  # fmt: skip
                self.assertEqual(told, list(range(1, len(told) + 1)))

    def test_where_nothing_stands_in_the_way_nothing_begins_anew(self):
        for width in (2.0, 5.0, 9.0):
            spine = even_spine(np.array([[1.0, width / 2], [9.0, width / 2], [LONG, width / 2]]))
            for side in (1, -1):
                grown = grown_side(spine, box(0, 0, LONG, width), side, Growth(1.0))
                self.assertIsNone(grown.beyond)
                self.assertEqual(grown.count, len(grown.heads))
