"""A guide that swings with the points of the piecing beside a strip."""

import math
from unittest import TestCase

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import Polygon, box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs import Space, designs
from chorograph_core.designs.drawing import draw_legend
from chorograph_core.designs.guiding import GuideError, points_guide, points_guides
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.sisters import guide_in
from chorograph_core.tests.test_guides import crossed
from chorograph_core.zones import Zone


def teeth(count: int, wide: float, foot: float, tip: float) -> list[Polygon]:
    """Triangles side by side whose tips reach up into a strip (down on the page)."""
    return [
        Polygon([(k * wide, foot), ((k + 1) * wide, foot), ((k + 0.5) * wide, tip)])
        for k in range(count)
    ]


class PointsTests(TestCase):
    """A guide that swings with the points of the piecing beside a strip."""

    def at(self, guide, x):
        return np.interp(x, *np.array(guide).T)

    def test_it_runs_away_from_each_point_that_reaches_into_the_strip(self):
        points = teeth(5, 8, 9, 5)
        zone = box(0, 0, 40, 9).difference(shapely.union_all(points))
        guide = points_guide(zone, [*points, box(0, 9, 40, 20)])
        tips, valleys = 8 * np.arange(1, 4) + 4, 8 * np.arange(1, 5)
        self.assertLess(self.at(guide, tips).max(), self.at(guide, valleys).min() - 0.5)
        self.assertTrue(zone.covers(shapely.linestrings(guide)))

    def test_on_a_straight_edge_it_swings_past_every_corner_beside_it(self):
        # A mitred border with squares of 8 inches along its lower side.
        zone = Polygon([(0, 0), (60, 0), (54, 6), (6, 6)])
        beside = [box(x, 6, x + 8, 14) for x in range(6, 54, 8)]
        guide = np.array(points_guide(zone, beside))
        # Corners at 14, 22, …, 46; away from them is upwards.
        corners = np.arange(14, 47, 8)
        self.assertLess(self.at(guide, corners).max(), 2.7)
        self.assertGreater(self.at(guide, (corners[1:] + corners[:-1]) / 2).min(), 3.3)
        rise = np.abs(np.diff(guide[:, 1]) / np.diff(guide[:, 0]))
        self.assertLess(rise.max(), 0.55)

    def test_it_lies_alike_whichever_way_the_strip_lies(self):
        zone = Polygon([(0, 0), (60, 0), (54, 6), (6, 6)])
        beside = [box(x, 6, x + 8, 14) for x in range(6, 54, 8)]
        level = shapely.linestrings(points_guide(zone, beside))
        for angle in (90, 180, 33):
            turned = [affinity.rotate(each, angle, origin=(0, 0)) for each in (zone, *beside)]
            guide = shapely.linestrings(points_guide(turned[0], turned[1:]))
            back = affinity.rotate(guide, -angle, origin=(0, 0))
            self.assertLess(shapely.hausdorff_distance(back, level, densify=0.2), 0.06)

    def test_close_points_are_passed_by_several_at_a_time(self):
        zone = box(0, 0, 60, 8)
        guide = np.array(points_guide(zone, [box(x, 8, x + 1, 9) for x in range(60)]))
        turns = np.flatnonzero(np.diff(np.sign(np.diff(guide[:, 1]))))
        self.assertTrue(4 <= len(turns) <= 24, len(turns))
        self.assertGreater(np.ptp(guide[:, 1]), 0.7)

    def border(self):
        """A border 6 inches wide round a field of teeth, four butted sides, and what lies inside it."""
        low = [Polygon([(x, 10), (x + 4, 10), (x + 2, 6)]) for x in range(6, 46, 4)]
        turns = (0, 90, 180, 270)
        every = [affinity.rotate(each, turn, (26, 26)) for turn in turns for each in low]
        sides = [box(0, 0, 52, 6), box(46, 6, 52, 46), box(0, 46, 52, 52), box(0, 6, 6, 46)]
        zones = [Zone(f"side {k}", each, (f"side {k}",)) for k, each in enumerate(sides)]
        return zones, [*every, *sides]

    def test_every_kind_of_side_has_a_line_of_its_own(self):
        zones, patches = self.border()
        guides = points_guides(zones, "zone", patches)
        self.assertEqual(len(guides), 2)
        layer = Layer("feather", guide=guides[0], more_guides=guides[1:])
        self.assertEqual([guide_in(layer, zone.polygon) for zone in zones],
                         [guides[0], guides[1], None, None])  # fmt: skip
        # Sisters have the same laid on them: on all four sides the spine swings.
        chart = Chart(
            box(0, 0, 52, 52), tuple(Patch(f"p{k}", each) for k, each in enumerate(patches))
        )
        entry = Entry("e", "", tuple(zone.id for zone in zones), (layer,))
        drawn = draw_legend(chart, zones, [entry])
        self.assertEqual({one.zone for one in drawn}, {zone.id for zone in zones})
        for one in drawn:
            spine = one.linework.marks[0].points[3:-3]
            self.assertGreater(np.ptp(spine, axis=0).min(), 0.6)
            self.assertLess(np.ptp(spine, axis=0).min(), 3.0)
        sides = points_guides(zones, "sides", patches)
        self.assertEqual(len(sides), 4)
        for guide, zone in zip(sides, zones, strict=True):
            self.assertTrue(zone.polygon.buffer(0.01).covers(shapely.linestrings(guide)))

    def test_a_border_as_one_has_a_line_all_round_that_swings_on_every_side(self):
        zones, patches = self.border()
        (guide,) = points_guides(zones, "region", patches)
        line = np.array(guide)
        self.assertEqual(guide[0], guide[-1])
        self.assertEqual(crossed(line[:-1]), 0)
        ring = shapely.union_all([zone.polygon for zone in zones])
        self.assertTrue(ring.buffer(-1.2).covers(shapely.linestrings(line)))
        for side in (
            box(10, 0, 42, 6),
            box(46, 10, 52, 42),
            box(10, 46, 42, 52),
            box(0, 10, 6, 42),
        ):
            x0, y0, x1, y1 = side.bounds
            within = line[shapely.contains_xy(side, *line.T)]
            across = within[:, 1] if x1 - x0 > y1 - y0 else within[:, 0]
            # There and back more than once, and by as much as a spine may.
            turns = np.diff(np.sign(np.diff(across[np.abs(np.gradient(across)) > 1e-3])))
            self.assertGreaterEqual(np.count_nonzero(turns), 4)
            self.assertGreater(np.ptp(across), 0.8)
        (run,) = designs()["feather"].draw(Space(ring, guide=guide), {}, 1).runs
        self.assertLess(math.dist(run.points[0], run.points[-1]), 0.1)

    def test_without_points_or_without_a_strip_it_says_so(self):
        for zone, beside in ((box(0, 0, 40, 5), [box(0, 5, 40, 9)]), (box(0, 0, 6, 6), teeth(2, 3, 6, 5)),
                             (box(0, 0, 40, 5), [])):  # fmt: skip
            with self.assertRaisesRegex(GuideError, "No points of the piecing"):
                points_guide(zone, beside)
