"""Layouts, seams, alike classes, checks."""

import itertools
import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely import affinity
from shapely.geometry import LineString, Polygon, box

from chorograph_core.blocks import block_library
from chorograph_core.chart import Chart, ChartError, Patch, alike, faults, mend, seams
from chorograph_core.chart.arcs import shallow_arc
from chorograph_core.chart.seams import noded_edges
from chorograph_core.layouts import Border, OnPoint, StraightSet
from chorograph_core.tests import examples
from chorograph_core.tests.shapes import UGLY, free_chart

eighths = some.integers(8, 96).map(lambda n: n / 8)


@some.composite
def surveys(draw):
    size = draw(eighths)
    sashing = draw(some.sampled_from([0, 0.25, 1.125, size / 2])) if size > 2.5 else 0
    borders = draw(
        some.lists(some.tuples(eighths, some.sampled_from(["butted", "mitred"])), max_size=4)
    )
    return StraightSet(
        draw(some.integers(1, 3)), draw(some.integers(1, 3)), size,
        tuple(draw(some.lists(some.sampled_from(list(block_library())), min_size=1, max_size=4))),
        sashing, draw(some.booleans()), draw(some.booleans()),
        tuple(Border(width, corner) for width, corner in borders),
    )  # fmt: skip


class StraightSetTests(TestCase):
    def test_at_least_six_blocks_with_curves_and_triangles(self):
        self.assertGreaterEqual(len(block_library()), 6)

    def test_every_block_tiles_its_square(self):
        for key in block_library():
            with self.subTest(key):
                chart = StraightSet(1, 1, 12, (key,)).chart()
                self.assertEqual(faults(chart), [])
                self.assertAlmostEqual(sum(p.polygon.area for p in chart.patches), 144, places=6)

    @settings(max_examples=examples(40), deadline=None)
    @given(surveys())
    def test_patches_tile_the_outline_whatever_the_numbers(self, survey):
        chart = survey.chart()
        self.assertEqual(faults(chart), [])
        width, height = survey.size()
        self.assertAlmostEqual(sum(p.polygon.area for p in chart.patches), width * height, places=4)
        self.assertEqual(len({p.id for p in chart.patches}), len(chart.patches))

    def test_size_is_the_sum_of_its_parts(self):
        survey = StraightSet(5, 4, 12, ("plain",), 1.5, False, True, (Border(1.5), Border(5)))
        self.assertEqual(survey.size(), (4 * 12 + 3 * 1.5 + 13, 5 * 12 + 4 * 1.5 + 13))

    def test_numbers_that_no_top_has_name_their_field(self):
        cases = {
            "rows": StraightSet(0, 4, 12),
            "columns": StraightSet(4, -1, 12),
            "block_size": StraightSet(4, 4, float("nan")),
            "sashing": StraightSet(4, 4, 12, sashing=13),
            "border2": StraightSet(2, 2, 6, borders=(Border(2), Border(0.1))),
            "borders": StraightSet(2, 2, 6, borders=(Border(1),) * 7),
            "block": StraightSet(2, 2, 6, ("unheard_of",)),
        }
        for field, survey in cases.items():
            with self.subTest(field), self.assertRaises(ChartError) as caught:
                survey.chart()
            self.assertEqual(caught.exception.field, field)
        with self.assertRaises(ChartError):
            StraightSet(100, 100, 3).chart()


class SeamTests(TestCase):
    def test_every_seam_lies_between_the_patches_it_names(self):
        chart = StraightSet(
            2, 2, 6, ("sawtooth_star", "winding_path"), 1, borders=(Border(2),)
        ).chart()
        found = seams(chart)
        total = sum(shapely.length(p.polygon.boundary) for p in chart.patches)
        # Each seam borders two patches, each outer edge one.
        counted = sum(s.line.length * (1 if s.on_outline else 2) for s in found)
        self.assertAlmostEqual(counted, total, places=3)
        for seam in found:
            for name in filter(None, (seam.left, seam.right)):
                edge = chart.patch(name).polygon.boundary.buffer(1e-3)
                self.assertTrue(edge.covers(seam.line), seam)

    def test_the_left_patch_is_on_the_left(self):
        chart = Chart(box(0, 0, 4, 2), (Patch("w", box(0, 0, 2, 2)), Patch("e", box(2, 0, 4, 2))))
        seam = next(s for s in seams(chart) if not s.on_outline)
        (x0, y0), (x1, y1) = seam.line.coords[0], seam.line.coords[-1]
        # Facing along the line with y down, the left is where (dy, -dx) points.
        side = np.array([(x0 + x1) / 2 + (y1 - y0) * 0.1, (y0 + y1) / 2 - (x1 - x0) * 0.1])
        self.assertTrue(chart.patch(seam.left).polygon.contains(shapely.points(side)))

    def test_no_seam_is_there_twice_where_slanted_sides_meet_corners(self):
        """Every seam has a patch on either side, so all seams are half of all that goes round."""
        for size, sashing, float_by in itertools.product((8, 9.25, 10), (0, 1.25), (0, 0.75)):
            survey = OnPoint(2, 3, size, ("sawtooth_star", "nine_patch"), "plain", sashing, True, float_by,
                             (Border(3),))  # fmt: skip
            chart = survey.chart()
            round_all = sum(patch.polygon.length for patch in chart.patches)
            half = (round_all + chart.outline.length) / 2
            segments = noded_edges(chart)
            inches = float(np.hypot(*(segments[:, 1] - segments[:, 0]).T).sum())
            with self.subTest(size=size, sashing=sashing, float_by=float_by):
                self.assertAlmostEqual(inches, half, delta=0.01)

    def test_any_polygons_will_do(self):
        chart = free_chart()
        inner = sum(s.line.length for s in seams(chart) if not s.on_outline)
        disc = chart.patch("disc").polygon.exterior.length
        self.assertAlmostEqual(inner, 9 + 5 + 12 + disc, places=3)


class AlikeTests(TestCase):
    @settings(max_examples=examples(60), deadline=None)
    @given(
        some.sampled_from(list(UGLY)), some.floats(-180, 180), some.booleans(),
        some.floats(-40, 40), some.floats(-40, 40),
    )  # fmt: skip
    def test_turned_mirrored_moved_shapes_are_alike(self, name, angle, flip, dx, dy):
        shape = UGLY[name]
        other = affinity.scale(shape, -1 if flip else 1, 1)
        other = affinity.translate(affinity.rotate(other, angle), dx, dy)
        found = alike([shape, other])
        self.assertEqual(found.classes, (0, 0))
        laid = shapely.transform(shape, found.placements[1].apply)
        self.assertLess(shapely.hausdorff_distance(laid.boundary, other.boundary), 0.02)
        points = shapely.get_coordinates(shape)
        back = found.placements[1].undo(found.placements[1].apply(points))
        self.assertLess(np.abs(back - points).max(), 1e-9)

    def test_other_shapes_are_not(self):
        found = alike([*UGLY.values(), affinity.scale(UGLY["square"], 1.02, 1.0)])
        self.assertEqual(len(set(found.classes)), len(UGLY) + 1)

    def test_the_corner_triangles_of_a_star_are_one_class(self):
        chart = StraightSet(2, 3, 12, ("sawtooth_star",)).chart()
        found = alike([p.polygon for p in chart.patches])
        points = {found.classes[i] for i, p in enumerate(chart.patches) if p.fabric == "c"}
        self.assertEqual(len(points), 1)
        self.assertEqual(len(found.members(points.pop())), 48)


class CheckTests(TestCase):
    def test_gaps_and_overlaps_are_found_and_mended(self):
        chart = Chart(
            box(0, 0, 10, 4),
            (
                Patch("a", box(0, 0, 5.2, 4)),
                Patch("b", box(5, 0, 8, 4)),
                Patch("c", box(8.1, 0, 10, 4)),
            ),
        )
        kinds = sorted(fault.kind for fault in faults(chart))
        self.assertEqual(kinds, ["gap", "overlap"])
        self.assertIn("from the left", faults(chart)[0].sentence())
        self.assertEqual(faults(mend(chart)), [])


class ArcTests(TestCase):
    @given(some.floats(0.5, 20), some.floats(0.05, 0.49))
    def test_radius_from_chord_and_height(self, chord, share):
        height = share * chord
        points = shallow_arc(np.array([0, 0]), np.array([chord, 0]), height, 32)
        radius = chord**2 / (8 * height) + height / 2
        self.assertAlmostEqual(np.abs(points[:, 1]).max(), height, places=6)
        # By the law of the arc its length is 2 r asin(c / 2r).
        expected = 2 * radius * math.asin(min(1, chord / (2 * radius)))
        self.assertAlmostEqual(LineString(points).length, expected, delta=expected * 0.003)
        self.assertIsInstance(Polygon(points), Polygon)
