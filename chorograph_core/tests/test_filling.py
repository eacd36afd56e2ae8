"""How widely a drawing gapes, found by squares, against every spot looked at."""

from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import Point, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.filling import widest_gap
from chorograph_core.designs.linework import Run
from chorograph_core.tests import examples
from chorograph_core.tests.shapes import UGLY


def looked_at_everywhere(zone, points, step=0.06):
    """The most room about any spot of a lattice of its own, by plain distances."""
    x0, y0, x1, y1 = zone.bounds
    xs, ys = np.meshgrid(np.arange(x0, x1, step), np.arange(y0, y1, step))
    inside = shapely.contains_xy(zone, xs.ravel(), ys.ravel())
    spots = shapely.points(xs.ravel()[inside], ys.ravel()[inside])
    both = shapely.union(zone.boundary, shapely.linestrings(points))
    shapely.prepare(both)
    return float(shapely.distance(both, spots).max())


class GapTests(TestCase):
    @settings(max_examples=examples(20), deadline=None)
    @given(
        some.integers(0, 100_000),
        some.sampled_from(["square", "triangle", "bent", "holed", "star"]),
    )
    def test_any_line_in_any_zone(self, seed, name):
        zone, rng = UGLY[name], np.random.default_rng(seed)
        x0, y0, x1, y1 = zone.bounds
        points = rng.uniform((x0, y0), (x1, y1), (int(rng.integers(2, 40)), 2))
        exact = looked_at_everywhere(zone, points)
        self.assertAlmostEqual(widest_gap(zone, [Run(points, "medium")]), exact, delta=0.07)

    def test_one_line_through_the_middle_of_a_square_and_of_a_circle(self):
        across = Run(np.array([(0.0, 4.0), (8.0, 4.0)]), "medium")
        self.assertAlmostEqual(widest_gap(box(0, 0, 8, 8), [across]), 2.0, delta=0.02)
        # In half a circle the widest has half its radius.
        self.assertAlmostEqual(widest_gap(Point(4, 4).buffer(4, 64), [across]), 2.0, delta=0.03)

    def test_the_same_whatever_was_asked_before(self):
        """What is kept of a zone is of that zone."""
        zones = [UGLY[name] for name in ("square", "bent", "holed", "triangle", "star", "curved")]
        runs = [designs()["meander"].draw(Space(zone), {}, 1).runs for zone in zones]
        first = [widest_gap(zone, each) for zone, each in zip(zones, runs, strict=True)]
        again = [widest_gap(zone, each) for zone, each in zip(zones[::-1], runs[::-1], strict=True)]
        self.assertEqual(first, again[::-1])
        self.assertGreater(len({round(each, 6) for each in first}), 3)
