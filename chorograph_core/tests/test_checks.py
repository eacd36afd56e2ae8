"""Checks of chart and zones: each fault is found, at its place, and nothing on a clean top."""

from dataclasses import replace
from unittest import TestCase

from shapely.geometry import Polygon, box

from chorograph_core.blocks import block_library
from chorograph_core.chart import Chart, Patch
from chorograph_core.layouts import Border, OnPoint, StraightSet
from chorograph_core.tests import long
from chorograph_core.zones import cutting, zones_from_patches
from chorograph_core.zones.checks import checks


def kinds(chart, zones=None, keep=0.375):
    return {check.kind: check for check in checks(chart, zones or zones_from_patches(chart), keep)}


class CheckTests(TestCase):
    @long
    def test_clean_tops_have_nothing(self):
        for key in block_library():
            chart = StraightSet(2, 2, 12, (key,), 1, borders=(Border(2, "mitred"),)).chart()
            self.assertEqual(kinds(chart), {}, key)

    def test_gaps_and_overlaps_name_their_zones(self):
        chart = Chart(
            box(0, 0, 10, 10), (Patch("a", box(0, 0, 5, 10)), Patch("b", box(4.8, 0, 9, 10)))
        )
        found = kinds(chart)
        self.assertEqual(set(found["overlap"].zones), {"z:a", "z:b"})
        self.assertAlmostEqual(found["gap"].x, 9.5, delta=0.5)

    def test_what_no_needle_finds(self):
        chart = StraightSet(1, 2, 6, ("plain",)).chart()
        zones = zones_from_patches(chart)
        cut = cutting.cut(zones, cutting.band(0.2))
        found = kinds(chart, cut)
        self.assertEqual(len(found["sliver"].zones), 2)
        tiny = replace(zones[0], id="z:tiny", polygon=Polygon([(0, 0), (0.4, 0), (0, 0.4)]))
        self.assertEqual(kinds(chart, [tiny])["small"].zones, ("z:tiny",))

    def test_points_that_the_binding_takes(self):
        floating = OnPoint(2, 2, 6, ("nine_patch",), float_by=0.25).chart()
        self.assertIn("3/8″", kinds(floating)["edge"].sentence)
        self.assertEqual(kinds(floating, keep=0.2), {})
        self.assertEqual(kinds(OnPoint(2, 2, 6, ("nine_patch",), float_by=0.5).chart()), {})
