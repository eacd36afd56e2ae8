"""The sides of a border as sisters: laid upon each other as they lie round the top."""

from unittest import TestCase

import numpy as np
import shapely

from chorograph_core.chart import alike
from chorograph_core.designs import Space, designs
from chorograph_core.designs.drawing import draw_legend, stitchable
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.space import parts_within
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.zones import zones_from_patches
from chorograph_core.zones.cutting import circle, cut


class SidesTests(TestCase):
    """What is told of one side of a border is true of its sisters: towards the middle, or to the raw edge."""

    def sides(self, corner, finish="binding"):
        survey = StraightSet(
            3, 3, 9, ("nine_patch",), borders=(Border(2, corner), Border(6, corner))
        )
        chart = survey.chart()
        limit = stitchable(chart, finish)
        zones = [zone for zone in zones_from_patches(chart)
                 if chart.patch(zone.patches[0]).role in ("border", "corner")]  # fmt: skip
        return chart, zones, [parts_within(zone.polygon, limit)[0] for zone in zones]

    def test_sisters_lie_round_the_top_as_they_are_sewn(self):
        for corner in ("butted", "mitred", "block"):
            for finish in ("binding", "turned"):
                chart, zones, shapes = self.sides(corner, finish)
                middle = np.array(chart.outline.centroid.coords[0])
                found = alike(shapes)
                inward = [middle - shape.centroid.coords[0] for shape in shapes]
                for zone, number, placement, way in zip(
                    zones, found.classes, found.placements, inward, strict=True
                ):
                    first = inward[found.members(number)[0]]
                    with self.subTest(zone.id, corner=corner, finish=finish):
                        self.assertFalse(placement.mirrored)
                        np.testing.assert_allclose(
                            first @ np.array(placement.matrix).T, way, atol=1e-3
                        )
                self.assertLess(max(found.classes), 5)

    def test_a_half_feather_grows_from_the_body_on_every_side(self):
        for corner in ("butted", "mitred", "block"):
            chart, zones, shapes = self.sides(corner)
            outer = [z for z in zones if z.patches[0].startswith("border2")
                     and chart.patch(z.patches[0]).role == "border"]  # fmt: skip
            body = chart.outline.buffer(-6, join_style="mitre")
            drawing = designs()["half_feather"]
            settings = drawing.proposed(Space(shapes[zones.index(outer[0])]))
            layer = Layer("half_feather", {"spine": settings.spine}, "indigo")
            entry = Entry("e", "e", tuple(z.id for z in outer), (layer,))
            drawn = draw_legend(chart, zones, [entry])
            self.assertEqual(len(drawn), 4)
            for one in drawn:
                (run,) = one.linework.runs
                along = [points for points, technique, kind in run.pieces() if kind == "link"]
                self.assertTrue(along)
                far = shapely.distance(shapely.points(np.concatenate(along)), body)
                with self.subTest(one.zone, corner=corner):
                    self.assertLess(float(np.median(far)), 0.5)

    def test_a_half_circle_by_the_seam_is_cut_by_the_seam_of_every_sister(self):
        chart, zones, _ = self.sides("butted")
        body = chart.outline.buffer(-6, join_style="mitre")
        ends = [z for z in zones if z.patches[0] in ("border2.top", "border2.bottom")]
        halves = [z for z in cut(ends, circle(8, "bottom")) if z.polygon.area < 30]
        self.assertEqual(len(halves), 2)
        for half in halves:
            self.assertLess(half.polygon.distance(body), 1e-6)
