"""Every layout tiles its outline, comes out at its size, and refuses what cannot be sewn."""

import json
import math
from collections import Counter
from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as some

from chorograph_core.blocks import block_library
from chorograph_core.chart import ChartError, faults
from chorograph_core.formats.document import layout as read_layout
from chorograph_core.formats.document import write_layout
from chorograph_core.layouts import (
    LAYOUTS,
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
from chorograph_core.layouts.borders import EASED, _units
from chorograph_core.tests import examples

keys = some.sampled_from(sorted(block_library()))
blocks = some.lists(keys, min_size=1, max_size=3).map(tuple)
inch = some.integers(8, 96).map(lambda k: k / 8)
widths = some.none() | some.tuples(*[some.integers(4, 40).map(lambda k: k / 8)] * 4)
borders = some.lists(
    some.builds(Border, some.integers(4, 40).map(lambda k: k / 8),
                some.sampled_from(["butted", "mitred", "block"]), widths)
    | some.builds(Border, inch, some.sampled_from(["butted", "mitred", "block"]), widths,
                  some.sampled_from(["squares", "triangles"]), some.floats(0.5, 6)),
    max_size=3,
).map(tuple)  # fmt: skip
few = some.integers(1, 4)
rows = some.lists(some.builds(BlockRow, inch, keys, some.integers(1, 6)), min_size=1, max_size=3)
strips = some.lists(
    some.builds(Strip, inch, some.sampled_from("abcd"), some.just("") | keys),
    min_size=1,
    max_size=4,
)
LAYINGS = some.one_of(
    some.builds(StraightSet, few, few, some.floats(4, 12), blocks, some.sampled_from([0.0, 1.0, 1.5]),
                some.booleans(), some.booleans(), borders),
    some.builds(OnPoint, few, few, some.floats(4, 12), blocks, keys, some.sampled_from([0.0, 1.0, 1.5]),
                some.booleans(), some.sampled_from([0.0, 0.5, 1.0]), borders),
    some.builds(OffsetRows, few, few, some.floats(4, 12), blocks, some.sampled_from([0.0, 1.0]), borders),
    some.builds(BlockRows, some.floats(10, 60),
                rows.map(tuple),
                some.sampled_from([0.0, 1.25]), borders),
    some.builds(Strips, some.floats(10, 60),
                strips.map(tuple),
                some.sampled_from(["down", "across"]), borders),
    some.builds(Medallion, some.floats(4, 24), keys, borders, borders),
)  # fmt: skip


class EveryLayoutTests(TestCase):
    @given(LAYINGS)
    @settings(max_examples=examples(60), deadline=None)
    def test_it_tiles_and_measures_what_it_says(self, layout):
        chart = layout.chart()
        width, height = layout.size()
        self.assertAlmostEqual(chart.width, width)
        self.assertAlmostEqual(chart.height, height)
        self.assertAlmostEqual(sum(p.polygon.area for p in chart.patches), width * height, places=4)
        self.assertEqual(faults(chart), [])
        self.assertEqual(len({p.id for p in chart.patches}), len(chart.patches))
        self.assertTrue(all(p.polygon.is_valid for p in chart.patches))
        self.assertLessEqual({p.fabric for p in chart.patches}, {f.key for f in chart.fabrics})

    @given(LAYINGS)
    @settings(max_examples=examples(40), deadline=None)
    def test_the_archive_keeps_it(self, layout):
        text = json.dumps(write_layout(layout))
        self.assertEqual(read_layout(json.loads(text)), layout)

    def test_each_kind_is_known_by_its_name(self):
        self.assertEqual(set(LAYOUTS), {"straight_set", "on_point", "offset_rows", "block_rows", "strips",
                                        "medallion", "open_field"})  # fmt: skip


class OnPointTests(TestCase):
    @given(some.integers(1, 5), some.integers(1, 5), some.floats(4, 12))
    @settings(max_examples=examples(25), deadline=None)
    def test_side_triangles_are_quarters_and_corners_halves(self, rows, columns, size):
        layout = OnPoint(rows, columns, size, ("plain",))
        chart = layout.chart()
        cells = Counter(p.cell for p in chart.patches)
        self.assertEqual(cells["corner triangle"], 4)
        self.assertEqual(cells["side triangle"], 2 * (rows - 1) + 2 * (columns - 1))
        self.assertEqual(cells["plain:r0c0.0"], rows * columns + (rows - 1) * (columns - 1))
        diagonal = size * math.sqrt(2)
        width, height = layout.size()
        self.assertAlmostEqual(width, columns * diagonal)
        self.assertAlmostEqual(height, rows * diagonal)
        for patch in chart.patches:
            if patch.cell == "side triangle":
                self.assertAlmostEqual(patch.polygon.area, diagonal**2 / 4, places=5)
            if patch.cell == "corner triangle":
                self.assertAlmostEqual(patch.polygon.area, diagonal**2 / 8, places=5)

    @given(some.integers(1, 5), some.integers(1, 5), some.floats(4, 12), some.floats(0.5, 2))
    @settings(max_examples=examples(25), deadline=None)
    def test_sashed_triangles_follow_their_formulas_and_nothing_is_left_over(
        self, rows, columns, size, sash
    ):
        chart = OnPoint(rows, columns, size, ("plain",), sashing=sash, cornerstones=True).chart()
        cells = Counter(p.cell for p in chart.patches)
        self.assertEqual(cells["corner triangle"], 4)
        self.assertEqual(cells["side triangle"], 2 * (rows - 1) + 2 * (columns - 1))
        leg = (size + 2 * sash) / math.sqrt(2)
        for patch in chart.patches:
            if patch.cell == "side triangle":
                self.assertAlmostEqual(patch.polygon.area, (size + sash) ** 2 / 2, places=4)
            if patch.cell == "corner triangle":
                self.assertAlmostEqual(patch.polygon.area, leg**2 / 2, places=4)

    def test_the_triangles_of_a_known_top(self):
        layout = OnPoint(3, 4, 8.5, ("plain",), sashing=1.5, cornerstones=True)
        areas = Counter((p.cell, round(p.polygon.area, 2)) for p in layout.chart().patches
                        if p.cell.endswith("triangle"))  # fmt: skip
        self.assertEqual(areas, {("side triangle", 50.0): 10, ("corner triangle", 33.06): 4})
        floated = replace(layout, float_by=1.0).chart()
        corners = {round(p.polygon.area, 2) for p in floated.patches if p.cell == "corner triangle"}
        self.assertEqual(corners, {round((11.5 / math.sqrt(2) + 2) ** 2 / 2, 2)})
        self.assertEqual(sum(p.cell == "side triangle" for p in floated.patches), 10)

    def test_floating_points_stand_inside(self):
        chart = OnPoint(2, 2, 8, ("plain",), float_by=1.0).chart()
        nearest = min(p.polygon.distance(chart.outline.exterior) for p in chart.patches if p.block)
        self.assertAlmostEqual(nearest, 1.0, places=6)
        self.assertEqual(sum(p.cell == "corner triangle" for p in chart.patches), 4)

    def test_sashing_goes_round_every_block_once(self):
        chart = OnPoint(2, 2, 8, ("plain",), sashing=1).chart()
        sashes = [p for p in chart.patches if p.role == "sashing"]
        # Five blocks: 4 × 5 sides, four of them shared by two.
        self.assertEqual(len(sashes), 16)
        self.assertTrue(all(abs(p.polygon.area - 8) < 1e-6 for p in sashes))


class OtherLayoutTests(TestCase):
    def test_offset_rows_end_in_halves(self):
        chart = OffsetRows(3, 4, 6, ("plain",)).chart()
        areas = Counter(round(p.polygon.area, 6) for p in chart.patches)
        self.assertEqual(areas, {36.0: 4 + 3 + 4, 18.0: 2})

    def test_units_of_a_pieced_border_keep_their_size(self):
        """What they do not fill goes into spacers, and the length that would be even is said."""
        top = StraightSet(
            1, 1, 10, ("plain",), borders=(Border(2, "block", None, "squares", 2.25),)
        )
        side = [p for p in top.chart().patches if p.id.startswith("border1.top.")]
        wide = Counter(round(p.polygon.bounds[2] - p.polygon.bounds[0], 6) for p in side)
        self.assertEqual(wide, {2.25: 4, 0.5: 2})
        self.assertEqual(len(top.notes()), 2)
        self.assertIn("10″ is no whole number of units of 2 1/4″", top.notes()[0])
        self.assertIn(
            "a plain strip of 5/8″ before it on either hand it would be 11 1/4″", top.notes()[0]
        )
        coped = replace(top, borders=(Border(0.625), *top.borders))
        self.assertEqual(coped.notes(), [])
        even = [p for p in coped.chart().patches if p.id.startswith("border2.top.")]
        self.assertEqual(Counter(round(p.polygon.area, 6) for p in even), {4.5: 5})

    @given(some.floats(4, 80), some.floats(0.5, 6))
    def test_no_spacer_is_too_narrow_to_sew(self, length, unit):
        count, rest = _units(length, unit)
        self.assertAlmostEqual(count * unit + 2 * rest, length, delta=EASED + 1e-9)
        if count > 1:
            self.assertTrue(rest == 0 or rest >= 0.25 - 1e-9)

    def test_a_mitred_border_may_be_pieced(self):
        layout = StraightSet(
            2, 2, 6, ("plain",), borders=(Border(2, "mitred", None, "squares", 2),)
        )
        chart = layout.chart()
        cells = Counter(p.cell for p in chart.patches)
        self.assertEqual(cells["border1:mitre"], 8)
        self.assertEqual(cells["border1:square0"] + cells["border1:square1"], 24)
        self.assertEqual(faults(chart), [])
        self.assertTrue(all(abs(p.polygon.area - 2) < 1e-9 for p in chart.patches
                            if p.cell == "border1:mitre"))  # fmt: skip

    def test_half_blocks_beside_sashing_are_narrower_and_that_is_said(self):
        layout = OffsetRows(3, 4, 10, ("plain",), 2)
        halves = [p for p in layout.chart().patches if p.cell.endswith("/half")]
        self.assertEqual({round(p.polygon.area, 6) for p in halves}, {40.0})
        self.assertIn("finish 4″ wide, not the 5″", layout.notes()[0])
        self.assertEqual(OffsetRows(3, 4, 10, ("plain",)).notes(), [])

    def test_each_side_may_have_a_width_of_its_own(self):
        layout = StraightSet(1, 1, 10, ("plain",), borders=(Border(2, "mitred", (1, 2, 3, 4)),))
        self.assertEqual(layout.size(), (16, 14))
        self.assertEqual(
            next(p for p in layout.chart().patches if p.block).polygon.bounds, (4, 1, 14, 11)
        )

    def test_an_exchanged_block_lies_turned_in_its_place(self):
        plain = StraightSet(2, 2, 6, ("pinwheel",))
        changed = replace(plain, exchanged=(Exchange(1, 0, "log_cabin", 1, True),))
        kinds = {p.block: p.kind for p in changed.chart().patches}
        self.assertEqual(
            kinds, {(0, 0): "pinwheel", (0, 1): "pinwheel", (1, 0): "log_cabin", (1, 1): "pinwheel"}
        )
        upright = replace(plain, exchanged=(Exchange(1, 0, "log_cabin"),)).chart()
        areas = [sorted(round(p.polygon.area, 6) for p in chart.patches if p.block == (1, 0))
                 for chart in (upright, changed.chart())]  # fmt: skip
        self.assertEqual(*areas)
        self.assertNotEqual(
            upright.patch("b2.1.p0").polygon, changed.chart().patch("b2.1.p0").polygon
        )

    def test_what_cannot_be_sewn_is_refused_at_its_field(self):
        square = StraightSet(2, 2, 6, ("plain",))
        for layout, field in (
            (replace(square, rows=0), "rows"), (replace(square, rows=99, columns=99), "rows"),
            (replace(square, block_size=math.nan), "block_size"), (replace(square, sashing=7), "sashing"),
            (replace(square, blocks=("unheard_of",)), "block"),
            (replace(square, block_size=90), "block_size"),
            (replace(square, borders=(Border(0.1),)), "border1"),
            (replace(square, borders=(Border(2),) * 7), "borders"),
            (replace(square, borders=(Border(2), Border(2, "mitred", None, "squares", 0.1))), "border2"),
            (replace(square, exchanged=(Exchange(5, 0, "plain"),)), "exchanged"),
            (OnPoint(1, 1, 8, ("plain",), float_by=3), "float_by"),
            (OnPoint(40, 40, 1, ("plain",)), "rows"),
            (BlockRows(40, ()), "rows"), (BlockRows(40, (BlockRow(4, "plain", 500),)), "rows"),
            (BlockRows(0, (BlockRow(4),)), "width"), (Strips(40, ()), "strips"),
            (Strips(40, (Strip(0.1),)), "strips"), (Strips(40, (Strip(4),), "sideways"), "direction"),
            (Strips(math.inf, (Strip(4),)), "length"), (Medallion(0), "centre_size"),
            (Medallion(9, rings=(Border(0),)), "rings"), (OpenField(0, 9), "width"),
            (OpenField(20, 20, (Placed(15, 0, 6),)), "placed"),
            (OpenField(20, 20, (Placed(1, 1, 6), Placed(5, 5, 6))), "placed"),
            (OpenField(20, 20, (Placed(math.nan, 1, 6),)), "placed"),
        ):  # fmt: skip
            with self.subTest(layout=layout), self.assertRaises(ChartError) as caught:
                layout.chart()
            self.assertEqual(caught.exception.field, field)

    def test_a_written_layout_that_is_wrong_names_the_place(self):
        good = write_layout(StraightSet(2, 2, 6, ("plain",), borders=(Border(2),)))
        for change, where in (({"rows": "two"}, "rows"), ({"rows": True}, "rows"), ({"moon": 1}, "moon"),
                              ({"kind": "spiral"}, "kind"), ({"blocks": "plain"}, "blocks"),
                              ({"borders": [3]}, "borders[0]"),
                              ({"borders": [{"width": "x"}]}, "borders[0].width"),
                              ({"borders": [{"width": 2, "sides": [1]}]}, "borders[0].sides"),
                              ({"exchanged": [{"row": 0}]}, "exchanged[0]"),
                              ({"outer_sashing": "yes"}, "outer_sashing")):  # fmt: skip
            with self.subTest(where), self.assertRaises(ChartError) as caught:
                read_layout({**good, **change})
            self.assertEqual(caught.exception.field, where)
        with self.assertRaises(ChartError) as caught:
            read_layout({"kind": "on_point", "rows": 2})
        self.assertIn("missing", str(caught.exception))
