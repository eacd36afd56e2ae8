"""How a zone lies that is its own mirror image, and what is drawn in it."""

import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.affinity import rotate
from shapely.geometry import LineString, Point, Polygon, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.engine.axes import axis_of
from chorograph_core.designs.symmetry import mirrored_about, principal_axis
from chorograph_core.tests import examples
from chorograph_core.tests.test_strips import wedge

KITE = Polygon([(0, 0), (2, 3), (0, 9), (-2, 3)])
LENS = shapely.intersection(*(Point(0, y).buffer(5) for y in (-3, 3)))
UPRIGHT = {
    "wedge": wedge(2, 8, 30),
    "wide wedge": wedge(1, 6, 70),
    "kite": KITE,
    "point of a star": Polygon([(0, 0), (3, 0), (1.5, 9)]),
}
"""Zones whose axis stands upright, and to which no long side runs square or along."""


def unlike(space: Space, key: str, angle: float = math.pi / 2) -> float:
    """Share of the lines of a design, as proposed, that have no counterpart across the axis at *angle*; what
    runs along the edge from line to line is left out."""
    made = designs()[key].draw(space, designs()[key].proposed(space), 1)
    inside = space.polygon.buffer(-0.3)
    lines = shapely.union_all([LineString(run.points) for run in made.runs]).intersection(inside)
    middle = np.array(space.polygon.centroid.coords[0])
    c, s = math.cos(2 * angle), math.sin(2 * angle)
    across = shapely.transform(lines, lambda p: (p - middle) @ np.array([[c, s], [s, -c]]) + middle)
    assert lines.length > 4, "it draws something"
    return float(across.difference(lines.buffer(0.04)).length / lines.length)


class LyingTests(TestCase):
    def test_what_has_an_axis_lies_by_it(self):
        for name, shape in UPRIGHT.items():
            for turned in (0, 30, 77, 141):
                with self.subTest(name, turned=turned):
                    space = Space(rotate(shape, turned, origin=(0, 0)))
                    off = (space.frame.axis - math.radians(90 + turned)) % (math.pi / 2)
                    self.assertLess(min(off, math.pi / 2 - off), 1e-3)

    def test_what_has_a_side_along_its_axis_or_square_to_it_lies_by_that(self):
        quarter = Point(0, 0).buffer(6).intersection(box(0, 0, 9, 9))
        half = Point(0, 0).buffer(6).intersection(box(-9, 0, 9, 9))
        square, triangle = box(0, 0, 4, 4), Polygon([(0, 0), (6, 0), (0, 6)])
        trapezoid = Polygon([(0, 0), (28, 0), (24, 4), (4, 4)])
        slanting = Polygon([(0, 0), (8, 0), (11, 3), (3, 3)])
        for shape in (quarter, half, square, box(0, 0, 9, 2), triangle, trapezoid, slanting):
            for turned in (0, 20, 115):
                space = Space(rotate(shape, turned, origin=(0, 0)))
                with self.subTest(shape=shape.wkt[:40], turned=turned):
                    self.assertEqual(space.frame.axis, space.side)

    def test_what_is_round_lies_the_way_it_is_longest(self):
        for turned in (0, 33, 90):
            space = Space(rotate(LENS, turned, origin=(0, 0)))
            self.assertAlmostEqual(math.sin(space.frame.axis - math.radians(turned)), 0, delta=1e-3)
            self.assertEqual(space.side, space.frame.axis)

    def test_the_axis_of_a_zone_of_many_points_is_found(self):
        # More corners than axes were tried: before, the narrowest box round it was taken.
        for degrees in (20, 45, 70):
            shape = rotate(wedge(2, 8, degrees), 17, origin=(0, 0))
            self.assertAlmostEqual(axis_of(shape), math.radians(107), delta=1e-3)

    @settings(max_examples=examples(60), deadline=None)
    @given(some.floats(0.5, 6), some.floats(0.5, 6), some.floats(0.4, 4), some.floats(0, 180))
    def test_moments_find_the_axis_of_any_kite(self, up, down, wide, turned):
        kite = Polygon([(0, -down), (wide, 0), (0, up), (-wide, 0)])
        axis = principal_axis(rotate(kite, turned, origin=(0, 0)))
        if axis is not None:
            off = (axis - math.radians(90 + turned)) % (math.pi / 2)
            self.assertLess(min(off, math.pi / 2 - off), 1e-4)
            self.assertTrue(
                any(
                    mirrored_about(rotate(kite, turned, origin=(0, 0)), axis + k * math.pi / 2)
                    for k in (0, 1)
                )
            )

    def test_a_hole_counts_against_its_ring(self):
        # By the closed formula: the second moment of a box is its width cubed times its height, over twelve.
        x, y = 8**3 * 7 - 7.6**3 * 4, 7**3 * 8 - 4**3 * 7.6
        self.assertGreater(y, x)
        slotted = box(-4, -3.5, 4, 3.5).difference(box(-3.8, -2, 3.8, 2))
        self.assertAlmostEqual(principal_axis(slotted), math.pi / 2)
        self.assertAlmostEqual(principal_axis(box(-4, -3.5, 4, 3.5)), 0.0)
        self.assertAlmostEqual(principal_axis(box(-3, -4, 3, 4)), math.pi / 2)


class DrawnTests(TestCase):
    def test_both_halves_of_a_zone_are_alike(self):
        alike = ("crosshatch", "piano_keys", "chevrons", "orange_peel", "clamshells", "clams",
                 "circle_chain", "window_panes", "cross", "flower", "circles")  # fmt: skip
        for name, shape in UPRIGHT.items():
            for key in alike:
                with self.subTest(name, key=key):
                    self.assertLess(unlike(Space(shape), key), 0.06)

    def test_a_proposal_says_what_its_angles_are_measured_from(self):
        hatch = designs()["crosshatch"]
        self.assertEqual(hatch.proposed(Space(KITE)).relative, "axis")
        self.assertEqual(hatch.proposed(Space(box(0, 0, 6, 6))).relative, "zone")
        # What was measured from a side is so still.
        kept = hatch.draw(Space(KITE), hatch.clean({"relative": "zone"}), 1)
        moved = hatch.draw(Space(KITE), hatch.clean({"relative": "axis"}), 1)
        self.assertFalse(np.array_equal(kept.runs[0].points, moved.runs[0].points))

    def test_a_figure_stands_in_the_middle_of_a_strip_with_slanting_ends(self):
        space = Space(Polygon([(0, 0), (12, 0), (10, 2.5), (1, 2.5)]))
        (x, y), radius = space.middle
        self.assertAlmostEqual(x, space.polygon.centroid.x, delta=0.2)
        self.assertAlmostEqual(radius, 1.25, delta=0.01)
        self.assertGreaterEqual(
            shapely.distance(Point(x, y), space.polygon.boundary), radius - 1e-3
        )
