"""Necks that a line goes on through, and pockets behind them that it goes round."""

import math
from unittest import TestCase
from unittest.mock import patch

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import Polygon, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.drawing import drawn_safely
from chorograph_core.designs.engine.pockets import pocketed
from chorograph_core.designs.linework import Linework, Run, Unit
from chorograph_core.tests import examples

APART, MARGIN, LEAST = 0.5, 0.125, 0.0625


def rooms(wide: float, at: float = 2.5, deep: float = 0.3) -> Polygon:
    """Two rooms of 6 by 5 and 5 by 5 inches with a neck between them, so *wide* and *deep*."""
    neck = box(5.9, at - wide / 2, 6.1 + deep, at + wide / 2)
    return shapely.union_all([box(0, 0, 6, 5), neck, box(6 + deep, 0, 11 + deep, 5)])


def with_pocket(wide: float, deep: float = 0.4, size: float = 1.0) -> Polygon:
    """A room of 6 by 5 inches with a square pocket at its right behind a neck so *wide*."""
    return shapely.union_all([
        box(0, 0, 6, 5), box(5.9, 2.5 - wide / 2, 6.1 + deep, 2.5 + wide / 2),
        box(6 + deep, 2.5 - size / 2, 6 + deep + size, 2.5 + size / 2),
    ])  # fmt: skip


def rows(right: float = 5.7, last: float = 4.7) -> Run:
    """One line to and fro in the room from top to bottom, each row a unit."""
    points, units = [], []
    places = np.arange(0.3, last + 1e-6, APART)
    for number, y in enumerate(places):
        ends = [0.3, right] if number % 2 == 0 else [right, 0.3]
        points += [(x, y) for x in np.linspace(*ends, 30)]
        units.append(Unit(f"row {number + 1}", len(points) - 1))
    return Run(np.array(points), units=tuple(units))


def farthest(zone, lines) -> float:
    """How far any place of a zone is from lines, spot by spot."""
    x0, y0, x1, y1 = zone.bounds
    xs, ys = np.meshgrid(np.arange(x0, x1, 0.04), np.arange(y0, y1, 0.04))
    spots = shapely.points(xs.ravel(), ys.ravel())
    return float(shapely.distance(spots[shapely.contains(zone, spots)], lines).max())


class NeckTests(TestCase):
    @settings(max_examples=examples(12), deadline=None)
    @given(some.sampled_from(("swirls", "curls", "hook_drift")), some.floats(0.45, 1.4),
           some.floats(1.0, 4.0), some.integers(0, 50))  # fmt: skip
    def test_a_line_goes_on_through_a_neck(self, key, wide, at, seed):
        zone, drawing = rooms(wide, at), designs()[key]
        made, fault = drawn_safely(drawing, Space(zone), drawing.clean(None), seed)
        self.assertEqual((fault, len(made.runs)), ("", 1))
        line = shapely.linestrings(made.runs[0].points)
        self.assertTrue(zone.buffer(0.02).covers(line))
        self.assertLess(farthest(zone, line), 1.25)

    def test_a_line_that_swings_over_the_margin_in_its_middle_lies_in_its_part(self):
        # Just in the middle of this one it lies a hair outside: nothing is drawn round all of the zone for
        # that.
        drawing = designs()["hook_drift"]
        space, s = Space(rooms(0.87, 2.470703125)), drawing.clean(None)
        (run,) = drawing.draw(space, s, 20).runs
        (part,) = space.inset(s.margin)
        middle = shapely.points(run.points[len(run.points) // 2])
        self.assertGreater(drawing.draw(space, s, 20).runs[0].inches, 100)
        self.assertGreater(part.area, 0)
        self.assertFalse(run.closed, middle)

    def test_without_it_there_are_as_many_lines_as_rooms(self):
        drawing = designs()["swirls"]
        with patch("chorograph_core.designs.engine.cells.through_necks"):
            made, _ = drawn_safely(drawing, Space(rooms(0.6)), drawing.clean(None), 1)
        self.assertEqual(len(made.runs), 2)

    def test_where_there_is_no_way_through_there_are_two(self):
        drawing = designs()["swirls"]
        made, fault = drawn_safely(drawing, Space(rooms(0.2)), drawing.clean(None), 1)
        self.assertEqual((fault, len(made.runs)), ("", 2))


class PocketTests(TestCase):
    def pocketed(self, zone, *runs):
        return pocketed(Linework(runs), Space(zone), APART, MARGIN, LEAST)

    @settings(max_examples=examples(25), deadline=None)
    @given(some.floats(0.34, 0.6), some.floats(0.1, 0.8), some.floats(0.7, 1.3))
    def test_in_along_one_side_round_and_out_along_the_other(self, wide, deep, size):
        zone, run = with_pocket(wide, deep, size), rows()
        (made,) = self.pocketed(zone, run).runs
        line = shapely.linestrings(made.points)
        self.assertTrue(line.is_simple)
        self.assertTrue(zone.buffer(0.02).covers(line))
        pocket = box(6 + deep, 0, 8, 5).intersection(zone)
        self.assertGreater(farthest(pocket, shapely.linestrings(run.points)), 0.8)
        self.assertLess(farthest(pocket, line), 0.5 * size)
        # It begins and ends where it did, and each row ends where it ended.
        np.testing.assert_allclose(made.points[[0, -1]], run.points[[0, -1]], atol=1e-9)
        self.assertEqual([unit.name for unit in made.units], [unit.name for unit in run.units])
        for was, now in zip(run.units, made.units, strict=True):
            away = np.hypot(*(run.points[was.stop] - made.points[now.stop]))
            self.assertLess(away, 0.3, was.name)

    def test_a_line_that_ends_there_ends_in_the_pocket(self):
        run = rows(last=2.3)
        (made,) = self.pocketed(with_pocket(0.4), run).runs
        self.assertGreater(made.points[-1, 0], 6.0)
        np.testing.assert_allclose(made.points[0], run.points[0], atol=1e-9)
        self.assertEqual(made.units[-1].stop, len(made.points) - 1)
        self.assertTrue(shapely.linestrings(made.points).is_simple)
        # The same line the other way round ends there as it begins there.
        back = Run(run.points[::-1], units=(Unit("first", 3), Unit("all", len(run.points) - 1)))
        (made,) = self.pocketed(with_pocket(0.4), back).runs
        self.assertGreater(made.points[0, 0], 6.0)
        np.testing.assert_allclose(made.points[-1], back.points[-1], atol=1e-9)
        self.assertEqual(made.units[-1].stop, len(made.points) - 1)
        self.assertLess(made.units[0].stop, made.units[1].stop)

    def test_a_closed_line_stays_closed(self):
        ring = shapely.get_coordinates(box(0.4, 0.4, 5.6, 4.6).exterior.segmentize(0.1))[:-1]
        # It happens to begin just where it goes in.
        begin = int(np.argmin(np.hypot(*(ring - (5.6, 2.5)).T)))
        ring = np.roll(ring, -begin, axis=0)
        ring = np.vstack([ring, ring[:1]])
        (made,) = self.pocketed(with_pocket(0.4), Run(ring, closed=True)).runs
        np.testing.assert_allclose(made.points[0], made.points[-1], atol=1e-9)
        self.assertGreater(made.points[:, 0].max(), 6.8)

    @settings(max_examples=examples(25), deadline=None)
    @given(some.floats(9, 15), some.floats(1.9, 2.5))
    def test_what_has_points_goes_out_into_a_tip_and_back(self, degrees, long):
        """A slender tip at the right of a room, and a line with a point before it."""
        half = math.tan(math.radians(degrees) / 2) * long
        zone = shapely.union_all([
            box(0, 0, 6, 5), Polygon([(5.99, 2.5 - half), (6 + long, 2.5), (5.99, 2.5 + half)])
        ])  # fmt: skip
        run = rows()
        (made,) = pocketed(Linework((run,)), Space(zone), APART, MARGIN, 0.0).runs
        drawn = shapely.linestrings(made.points)
        self.assertTrue(drawn.is_simple)
        self.assertTrue(zone.buffer(0.02).covers(drawn))
        np.testing.assert_allclose(made.points[[0, -1]], run.points[[0, -1]], atol=1e-9)
        self.assertEqual([unit.name for unit in made.units], [unit.name for unit in run.units])
        self.assertEqual(made.units[-1].stop, len(made.points) - 1)
        # It is hardly wider than a line, and reaches into the tip.
        out = made.points[made.points[:, 0] > 6.1]
        self.assertGreater(len(out), 2)
        apex = 6 + long - MARGIN / math.sin(math.radians(degrees) / 2)
        self.assertAlmostEqual(made.points[:, 0].max(), apex, delta=0.35)

    def test_units_that_end_at_its_mouth_end_one_after_the_other(self):
        line = shapely.get_coordinates(shapely.segmentize(shapely.linestrings(rows().points), 0.02))
        there = np.argsort(np.hypot(*(line - (5.7, 2.5)).T))[:4]
        units = tuple(Unit(f"unit {k}", int(at)) for k, at in enumerate(sorted(there)))
        run = Run(line, units=(*units, Unit("last", len(line) - 1)))
        (made,) = self.pocketed(with_pocket(0.45), run).runs
        self.assertGreater(made.points[:, 0].max(), 6.5)
        stops = [unit.stop for unit in made.units]
        self.assertEqual(stops, sorted(set(stops)))
        self.assertEqual(len(stops), 5)
        self.assertEqual(stops[-1], len(made.points) - 1)

    def test_what_lies_apart_is_gone_round_by_itself(self):
        run = rows()
        kept, alone = self.pocketed(with_pocket(0.2), run).runs
        self.assertIs(kept, run)
        self.assertTrue(alone.closed)
        np.testing.assert_allclose(
            shapely.linestrings(alone.points).bounds, (6.525, 2.125, 7.275, 2.875), atol=1e-6
        )
        # Of what is hardly wider than a stroke nothing is made.
        self.assertEqual(len(self.pocketed(with_pocket(0.2, size=0.4), run).runs), 1)

    def test_where_nothing_is_left_bare_lines_stay_as_they_are(self):
        run = rows()
        self.assertIs(self.pocketed(box(0, 0, 6, 5), run).runs[0], run)
        # What is open widely is no pocket.
        wide = rows(right=4.0)
        self.assertIs(self.pocketed(box(0, 0, 6, 5), wide).runs[0], wide)

    def test_three_motifs_fill_a_pocket(self):
        zone = with_pocket(0.4)
        pocket = box(6.4, 0, 8, 5).intersection(zone)
        for key in ("hook_drift", "meander", "briar_coil"):
            with self.subTest(key):
                drawing = designs()[key]
                made, _ = drawn_safely(drawing, Space(zone), drawing.clean(None), 1)
                lines = shapely.multilinestrings([run.points for run in made.runs])
                self.assertLess(farthest(pocket, lines), 0.5)
                self.assertTrue(zone.buffer(0.02).covers(lines))
