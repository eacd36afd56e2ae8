"""Measures of a top against tops whose shape is known."""

import math
from unittest import TestCase

from hypothesis import assume, given
from hypothesis import strategies as some

from chorograph_core.estimating import SIDES, Measures, MeasuringError, fullness, shape_of
from chorograph_core.estimating.findings import measure_findings

SIDE = some.floats(20, 110)


def leaning(width, height, shift) -> Measures:
    """A parallelogram whose bottom is moved *shift* to the right: sides as the tape finds them."""
    slant = math.hypot(height, shift)
    down, up = math.hypot(width + shift, height), math.hypot(width - shift, height)
    return Measures((width,) * 3, (slant,) * 3, (down, up))


class ShapeTests(TestCase):
    @given(SIDE, SIDE, some.floats(-8, 8))
    def test_a_parallelogram_leans_by_what_it_was_pushed(self, width, height, shift):
        shape = shape_of(leaning(width, height, shift))
        self.assertAlmostEqual(shape.shift, shift, places=6)
        self.assertAlmostEqual(math.tan(math.radians(shape.lean)), shift / height, places=6)
        self.assertAlmostEqual(shape.slip, 0, places=6)

    @given(SIDE, SIDE, some.floats(1, 6))
    def test_a_tape_read_wrongly_on_both_diagonals_is_found(self, width, height, wrong):
        square = math.hypot(width, height)
        shape = shape_of(Measures((width,) * 3, (height,) * 3, (square + wrong, square + wrong)))
        self.assertAlmostEqual(shape.slip, wrong, places=6)
        self.assertAlmostEqual(shape.shift, 0, places=6)

    @given(some.lists(SIDE, min_size=3, max_size=3))
    def test_spread_and_belly(self, widths):
        shape = shape_of(Measures(widths=tuple(widths)))
        self.assertAlmostEqual(shape.width_spread, max(widths) - min(widths))
        self.assertAlmostEqual(shape.width_belly, widths[1] - (widths[0] + widths[2]) / 2)
        self.assertIsNone(shape.height_spread)
        self.assertIsNone(shape.lean)

    def test_nothing_measured_says_nothing(self):
        self.assertEqual(measure_findings(Measures()), [])
        self.assertEqual(fullness(Measures()), [])

    def test_findings_name_the_number_and_the_side(self):
        found = measure_findings(leaning(60, 72, -1.5), charted=(60, 71))
        self.assertIn("1 1/2″ to the left", found[0].text)
        self.assertEqual(found[0].weight, "talk")
        self.assertIn("charted 60″ × 71″", found[-1].text)
        self.assertIn("152.4 cm", measure_findings(leaning(60, 72, 0), "cm", (60, 60))[-1].text)

    def test_a_measure_that_no_quilt_has_is_named(self):
        for values, where in (({"widths": (None, 600.0, None)}, "widths.1"),
                              ({"heights": (0.0, None, None)}, "heights.0"),
                              ({"diagonals": (None, math.nan)}, "diagonals.1"),
                              ({"borders": (None, None, 145.0, None)}, "borders.2")):  # fmt: skip
            with self.assertRaises(MeasuringError) as caught:
                Measures(**values).check()
            self.assertEqual(caught.exception.field, where)
        Measures(diagonals=(200.0, None)).check()


class FullnessTests(TestCase):
    @given(some.sampled_from(SIDES), some.floats(10, 110), some.floats(-0.06, 0.2))
    def test_advice_follows_the_share(self, side, body, share):
        assume(min(abs(share - edge) for edge in (-0.01, 0.02, 0.05, 0.08)) > 1e-6)
        bodies = tuple(body if each == side else None for each in SIDES)
        borders = tuple(body * (1 + share) if each == side else None for each in SIDES)
        (found,) = fullness(Measures(borders=borders, bodies=bodies))
        self.assertEqual(found.side, side)
        self.assertAlmostEqual(found.inches, body * share)
        wanted = ("short" if share < -0.01 else "none" if share <= 0.02 else
                  "ease" if share <= 0.05 else "tuck" if share <= 0.08 else "talk")  # fmt: skip
        self.assertEqual(found.advice, wanted)
        # The marks share out the whole of both, and the tucks take what is above easing.
        self.assertAlmostEqual(found.parts * (found.border_part - found.body_part), body * share)
        if wanted == "tuck":
            self.assertLess((found.tucks - 1) * 0.5, body * (share - 0.05) + 1e-6)
            self.assertGreaterEqual(found.tucks * 0.5, body * (share - 0.05) - 1e-6)

    def test_sentences(self):
        measures = Measures(borders=(67.5, 77.0, 73.0, 60.0), bodies=(65.5, 72.0, 65.5, 65.5))
        texts = [f.heading + " " + f.text for f in measure_findings(measures)]
        self.assertIn("2″ full, 3.1%", texts[0])
        self.assertIn("tucks of 1/4″", texts[1])
        self.assertIn("cut it to 65 1/2″", texts[2])
        self.assertIn("short", texts[3])
