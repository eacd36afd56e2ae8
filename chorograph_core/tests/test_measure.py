"""Lengths both ways."""

from fractions import Fraction
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as some

from chorograph_core.measure import LengthError, format_inches, format_yards, parse_length


class ParsingTests(TestCase):
    def test_the_ways_a_quilter_writes_a_length(self):
        for text, inches in [
            ("3 3/8", 3.375), ("3-3/8", 3.375), ("3.375", 3.375), ("3,375", 3.375), ("½", 0.5),
            ("1½", 1.5), ('3 1/2"', 3.5), ("5' 6", 66), ("2 yd 4 in", 76), ("7/8", 0.875),
            ("10 mm", 10 / 25.4), ("8.5 cm", 8.5 / 2.54), (" 12 ", 12), ("4″", 4), (".5", 0.5),
        ]:  # fmt: skip
            with self.subTest(text):
                self.assertAlmostEqual(parse_length(text), inches, places=9)

    def test_a_bare_number_is_in_the_studios_unit(self):
        self.assertAlmostEqual(parse_length("2.54", "cm"), 1)

    def test_what_is_no_length_says_so(self):
        for text in [
            "",
            "abc",
            "3 3",
            "1/0",
            "-2",
            "3 3/8/2",
            "nan",
            "inf",
            "1e5",
            "9" * 50,
            "3 furlongs",
        ]:
            with self.subTest(text), self.assertRaises(LengthError) as caught:
                parse_length(text)
            self.assertTrue(str(caught.exception).endswith("."))

    def test_numbers_that_are_none(self):
        for value in [float("nan"), float("inf"), -1.0, True, None]:
            with self.subTest(value), self.assertRaises(LengthError):
                parse_length(value)


class PrintingTests(TestCase):
    @given(some.integers(0, 200 * 8))
    def test_eighths_come_back_unchanged(self, eighths):
        inches = eighths / 8
        self.assertEqual(parse_length(format_inches(inches)), inches)

    @given(some.floats(0, 500), some.sampled_from([2, 4, 8, 16, 32]))
    def test_no_further_off_than_half_a_step(self, inches, denominator):
        shown = parse_length(format_inches(inches, denominator))
        self.assertLessEqual(abs(shown - inches), 0.5 / denominator + 1e-9)

    def test_fractions_are_in_lowest_terms(self):
        self.assertEqual(format_inches(float(Fraction(6, 8))), "3/4″")
        self.assertEqual(format_inches(2), "2″")

    def test_yards_are_never_cut_short(self):
        self.assertEqual(format_yards(36), "1 yd")
        self.assertEqual(format_yards(36.01), "2 yd")
