"""The tape beside the sum of the parts; blocks exchanged and crossings left open in their places."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import box

from chorograph_core.chart import ChartError, faults
from chorograph_core.estimating import Measures
from chorograph_core.estimating.reconcile import differences, in_the_border, spread
from chorograph_core.formats.document import layout as read_layout
from chorograph_core.formats.document import write_layout
from chorograph_core.layouts import (
    BlockRow,
    BlockRows,
    Border,
    Exchange,
    Medallion,
    OffsetRows,
    OnPoint,
    OpenField,
    Placed,
    StraightSet,
    Strip,
    Strips,
)
from chorograph_core.tests import examples

TOP = StraightSet(4, 3, 12, ("nine_patch",), 1, False, True, (Border(2), Border(3, "mitred")))
LAYOUTS = (
    TOP, OnPoint(2, 2, 9, ("nine_patch",), "plain", 1, True), OffsetRows(2, 3, 9, ("churn_dash",)),
    BlockRows(24, (BlockRow(8, "pinwheel", 3), BlockRow(6, "nine_patch", 4))),
    Strips(30, (Strip(6), Strip(6, "a", "pinwheel"))), Medallion(12),
    OpenField(30, 40, (Placed(4, 4, 9, "pinwheel"),)),
)  # fmt: skip


def tape(width, height, **more) -> Measures:
    return Measures((width,) * 3, (height,) * 3, **more)


class DifferenceTests(TestCase):
    def test_nothing_is_said_where_the_tape_agrees(self):
        width, height = TOP.parts()
        self.assertEqual(differences(TOP, tape(width, height + 1 / 16)), [])
        self.assertEqual(differences(TOP, Measures()), [])

    def test_where_the_missing_three_eighths_are(self):
        width, height = TOP.parts()
        (one,) = differences(TOP, tape(width + 0.375, height))
        self.assertAlmostEqual(one.missing, 0.375)
        self.assertIn("3/8″ more", one.sentence())
        self.assertIn("1/8″ for each of 3 blocks", one.sentence())
        body = TOP.body()
        inner = (body[0] + 0.375, None, body[0] + 0.375, None)
        (one,) = differences(TOP, tape(width + 0.375, height, bodies=inner))
        self.assertIn("All of it is in the body", one.sentence())
        right = (body[0], None, body[0], None)
        (one,) = differences(TOP, tape(width - 0.5, height, bodies=right))
        self.assertIn("1/2″ less", one.sentence())
        self.assertIn("The body is right; what is outside of it has it all (1/2″)", one.sentence())
        both = (body[0] - 0.25, None, body[0] - 0.25, None)
        (one,) = differences(TOP, tape(width - 0.75, height, bodies=both))
        self.assertIn("The body is 1/4″ smaller, the rest 1/2″ narrower", one.sentence())
        self.assertIn("cm", one.sentence("cm"))
        # The tape was laid along the inner edge of the second border; or along none of them.
        second = (body[0] + 4 + 0.5, None, body[0] + 4 + 0.5, None)
        (one,) = differences(TOP, tape(width + 0.5, height, bodies=second))
        self.assertIn("All of it is in what lies within border 2", one.sentence())
        (one,) = differences(TOP, tape(width + 0.5, height, bodies=(90.0, None, 90.0, None)))
        self.assertIsNone(one.body)

    @given(some.floats(-0.8, 0.8), some.floats(-0.8, 0.8))
    @settings(max_examples=examples(25), deadline=None)
    def test_spread_or_put_in_the_border_the_chart_comes_to_the_tape(self, dx, dy):
        width, height = TOP.parts()
        measures = tape(width + dx, height + dy)
        for made in (spread(TOP, measures), in_the_border(TOP, measures)):
            chart = made.chart()
            self.assertAlmostEqual(chart.width, width + dx, places=6)
            self.assertAlmostEqual(chart.height, height + dy, places=6)
            self.assertEqual(faults(chart), [])
        self.assertEqual(spread(TOP, measures).body(), TOP.body())
        self.assertEqual(in_the_border(TOP, measures).body(), TOP.body())

    def test_a_difference_that_is_a_mistake_is_not_spread(self):
        width, height = TOP.parts()
        (one,) = differences(TOP, tape(width + 12, height))
        self.assertIn("look at the numbers again", one.sentence())
        self.assertNotIn("for each", one.sentence())
        with self.assertRaises(ChartError) as told:
            spread(TOP, tape(width + 12, height)).check()
        self.assertEqual(told.exception.field, "fitted")
        for fitted in ((1.0,), (float("nan"), 40.0), (width, -1.0)):
            with self.assertRaises(ChartError):
                replace(TOP, fitted=fitted).check()

    def test_every_layout_can_be_spread_and_is_read_back(self):
        for layout in LAYOUTS:
            width, height = layout.parts()
            made = replace(layout, fitted=(width * 1.01, height * 0.99))
            with self.subTest(layout.kind):
                chart = made.chart()
                self.assertAlmostEqual(chart.width, width * 1.01)
                self.assertEqual(faults(chart), [])
                self.assertEqual(read_layout(write_layout(made)), made)


class PlaceTests(TestCase):
    def test_a_block_can_be_exchanged_in_every_layout_that_has_blocks(self):
        for layout in LAYOUTS:
            before = layout.chart()
            place = next(p.block for p in before.patches if p.block is not None)
            made = replace(layout, exchanged=(Exchange(*place, "friendship_star", 1, True),))
            with self.subTest(layout.kind):
                after = made.chart()
                kinds = {p.kind for p in after.patches if p.block == place}
                self.assertEqual(kinds, {"friendship_star"})
                self.assertEqual(faults(after), [])
                others = [p for p in after.patches if p.block != place]
                self.assertEqual(others, [p for p in before.patches if p.block != place])
                self.assertEqual(read_layout(write_layout(made)), made)
                with self.assertRaises(ChartError):
                    replace(layout, exchanged=(Exchange(*place, "no block"),)).check()

    def test_sashing_runs_through_open_crossings(self):
        for outer in (False, True):
            closed = replace(TOP, outer_sashing=outer, borders=())
            names = [p.id[2:] for p in closed.chart().patches if p.role == "cornerstone"]
            for chosen in (names[:1], names[1:3], names):
                made = replace(closed, open_crossings=tuple(chosen))
                with self.subTest(outer=outer, chosen=chosen):
                    chart = made.chart()
                    self.assertEqual(faults(chart), [])
                    left = {p.id[2:] for p in chart.patches if p.role == "cornerstone"}
                    self.assertEqual(left, set(names) - set(chosen))
                    self.assertEqual(len({p.id for p in chart.patches}), len(chart.patches))
                    self.assertAlmostEqual(sum(p.polygon.area for p in chart.patches),
                                           box(0, 0, *closed.size()).area, places=6)  # fmt: skip
        self.assertEqual(read_layout(write_layout(made)), made)
        crossed = OnPoint(2, 3, 8, ("pinwheel",), "plain", 1, True)
        count = sum(p.role == "cornerstone" for p in crossed.chart().patches)
        for chosen in (("1",), ("2", "3", "7"), tuple(str(k) for k in range(1, count + 1))):
            made = replace(crossed, open_crossings=chosen)
            with self.subTest("on point", chosen=len(chosen)):
                chart = made.chart()
                self.assertEqual(faults(chart), [])
                left = sum(p.role == "cornerstone" for p in chart.patches)
                self.assertEqual(left, count - len(chosen))
                self.assertEqual(len({p.id for p in chart.patches}), len(chart.patches))
        with self.assertRaises(ChartError):
            replace(crossed, open_crossings=("1.2",)).check()
        with self.assertRaises(ChartError) as told:
            replace(TOP, open_crossings=("here",)).check()
        self.assertEqual(told.exception.field, "open_crossings")
