"""What a quilter writes down a line at a time, both ways."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as some

from chorograph_core.blocks import block_library
from chorograph_core.chart import ChartError
from chorograph_core.layouts import BlockRow, Border, Placed, Strip
from chorograph_core.layouts import notation as written

keys = some.sampled_from(sorted(block_library()))
inch = some.integers(1, 500).map(lambda k: k / 16)
unit = some.sampled_from(["in", "cm"])


class BothWaysTests(TestCase):
    @given(some.lists(some.builds(BlockRow, inch, keys, some.integers(1, 40)), max_size=5), unit)
    def test_rows(self, rows, unit):
        self.close(written.read_rows(written.write_rows(rows, unit), unit), rows, "height")

    @given(some.lists(some.builds(Strip, inch, some.sampled_from("abcd"))
                      | some.builds(Strip, inch, some.just("a"), keys), max_size=5), unit)  # fmt: skip
    def test_strips(self, strips, unit):
        self.close(written.read_strips(written.write_strips(strips, unit), unit), strips, "width")

    @given(some.lists(some.builds(Border, inch, some.just("block"))
                      | some.builds(Border, inch, some.just("block"), some.none(),
                                    some.sampled_from(["squares", "triangles"]), inch),
                      max_size=4), unit)  # fmt: skip
    def test_rings(self, rings, unit):
        self.close(written.read_rings(written.write_rings(rings, unit), unit), rings, "width")

    @given(some.lists(some.builds(Placed, inch, inch, inch, keys), max_size=4), unit)
    def test_placed(self, placed, unit):
        self.close(written.read_placed(written.write_placed(placed, unit), unit), placed, "x")

    def close(self, found, wanted, name):
        self.assertEqual(len(found), len(wanted))
        for one, other in zip(found, wanted, strict=True):
            self.assertAlmostEqual(getattr(one, name), getattr(other, name), places=4)
            self.assertEqual(getattr(one, "block", ""), getattr(other, "block", ""))


class ByHandTests(TestCase):
    def test_as_people_write(self):
        rows = written.read_rows("8 1/2 Pinwheel x 5\n\n4 churn dash × 10\n6 cm sawtooth_star")
        self.assertEqual(rows[:2], (BlockRow(8.5, "pinwheel", 5), BlockRow(4, "churn_dash", 10)))
        self.assertAlmostEqual(rows[2].height, 6 / 2.54)
        self.assertEqual(
            written.read_strips("6\n3 1/4 b\n8 nine patch")[1:],
            (Strip(3.25, "b"), Strip(8, "a", "nine_patch")),
        )
        self.assertEqual(written.read_rings("3\n2 triangles 1 1/2\n4 squares"),
                         (Border(3, "block"), Border(2, "block", None, "triangles", 1.5),
                          Border(4, "block", None, "squares", 4)))  # fmt: skip
        self.assertEqual(
            written.read_placed("12 Sawtooth star at 6, 8 1/2"),
            (Placed(6, 8.5, 12, "sawtooth_star"),),
        )
        self.assertEqual(written.read_widths("3, 2 1/2, 3, 2", "in", "b"), (3, 2.5, 3, 2))
        self.assertEqual(written.read_widths("", "in", "b"), ())
        self.assertEqual(len(written.read_widths("7,5; 5; 7,5; 5", "cm", "b")), 4)

    def test_faults_name_field_and_line(self):
        for read, text, field, word in (
            (written.read_rows, "8 pinwheel\nwide pinwheel", "rows_text", "Line 2"),
            (written.read_rows, "8 flying carpet x 3", "rows_text", "flying carpet"),
            (written.read_strips, "1/0 b", "strips_text", "Line 1"),
            (written.read_rings, "3 circles", "rings_text", "plain, of squares"),
            (written.read_rings, "3 squares many", "rings_text", "Line 1"),
            (written.read_placed, "12 pinwheel", "placed_text", "say where"),
            (written.read_placed, "12 pinwheel at 6", "placed_text", "say where"),
            (written.read_rows, "4 rail x 2\n" * 600, "rows_text", "At most"),
        ):
            with self.subTest(text=text[:20]), self.assertRaises(ChartError) as caught:
                read(text)
            self.assertEqual(caught.exception.field, field)
            self.assertIn(word, str(caught.exception))
        for text in ("1, 2", "wide", "1, 2, 3, 4, 5"):
            with self.assertRaises(ChartError):
                written.read_widths(text, "in", "border1")
