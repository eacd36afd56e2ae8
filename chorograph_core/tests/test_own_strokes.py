"""Strokes of one's own: cleaned and checked, bent along strips; attempts measured."""

from unittest import TestCase

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d
from shapely.geometry import Point, Polygon, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.attempts import AttemptError, drawn_attempt, pictured_attempt
from chorograph_core.designs.curves import resample
from chorograph_core.designs.own_strokes import cleaned_stroke, crossings_of, stroke_points
from chorograph_core.designs.settings import SettingError, read_stroke


def hill(n: int = 300, rise: float = 0.0, tremble: float = 0.0) -> np.ndarray:
    """A hill as a pad would send it, 300 wide and 160 high, *rise* higher at its end."""
    t = np.linspace(0, 1, n)
    rng = np.random.default_rng(3)
    y = 180 - 80 * (1 - np.cos(2 * np.pi * t)) - rise * t
    return np.column_stack([20 + 260 * t, y]) + rng.normal(0, tremble, (n, 2))


class CleaningTests(TestCase):
    def test_it_is_laid_from_nothing_to_one_as_wide_as_the_strip(self):
        made = np.array(read_stroke(cleaned_stroke(hill(), "strip").text))
        np.testing.assert_allclose(made[[0, -1], 0], (0, 1), atol=2e-3)
        np.testing.assert_allclose((made[:, 1].min(), made[:, 1].max()), (-1, 1), atol=0.01)
        # y = -1 is the far side: there is the hilltop, at its middle.
        self.assertAlmostEqual(made[made[:, 1].argmin(), 0], 0.5, delta=0.03)

    def test_a_trembling_hand_is_steadied_and_a_corner_stays(self):
        shaky = stroke_points(cleaned_stroke(hill(tremble=1.0), "strip").text)
        plain = stroke_points(cleaned_stroke(hill(), "strip").text)
        x = np.linspace(0.05, 0.95, 60)
        off = np.interp(x, shaky[:, 0], shaky[:, 1]) - np.interp(x, plain[:, 0], plain[:, 1])
        self.assertLess(np.abs(off).max(), 0.1)
        tent = np.array([[0, 100], [50, 0], [100, 100]], float)
        made = np.array(read_stroke(cleaned_stroke(resample(tent, 2), "strip").text))
        self.assertLess(np.hypot(*(made - (0.5, -1)).T).min(), 0.03)

    def test_ends_are_brought_to_one_level_or_every_second_one_is_turned_over(self):
        little = cleaned_stroke(hill(rise=12), "strip")
        self.assertFalse(little.turns)
        self.assertIn("one level", little.said[0])
        points = np.array(read_stroke(little.text))
        self.assertAlmostEqual(points[0, 1], points[-1, 1], places=2)
        much = cleaned_stroke(
            np.column_stack([np.linspace(0, 9, 50), np.linspace(0, 5, 50) ** 2]), "strip"
        )
        self.assertTrue(much.turns)
        self.assertIn("turned over", much.said[0])

    def test_a_figure_lies_in_the_unit_circle(self):
        made = np.array(read_stroke(cleaned_stroke(hill() * 3 + 50, "figure").text))
        self.assertAlmostEqual(np.hypot(*made.T).max(), 1.0, delta=0.01)

    def test_what_is_no_stroke_is_refused_in_words(self):
        rng = np.random.default_rng(2)
        tangle = rng.uniform(0, 100, (10_000, 2))
        for points, word in (
            (np.zeros((1, 2)), "one point"), (np.ones((40, 2)), "one point"), (tangle, "crosses itself"),
            (np.zeros((30_000, 2)), "over 20,000"), (np.full((3, 2), np.nan), "is none"),
            (np.column_stack([np.zeros(9), np.arange(9)]), "ends above"),
        ):  # fmt: skip
            with self.subTest(word), self.assertRaisesRegex(SettingError, word) as told:
                cleaned_stroke(points, "strip")
            self.assertEqual(told.exception.field, "stroke")

    def test_crossings_are_counted(self):
        t = np.linspace(0, 2 * np.pi, 200)
        eight = np.column_stack([np.sin(t + 0.3), np.sin(2 * t + 0.6)])
        self.assertEqual(crossings_of(eight), 1)
        self.assertEqual(crossings_of(hill()), 0)

    def test_stored_text_that_is_none_is_refused_or_mended(self):
        drawing = designs()["own_strip"]
        for text in (
            "",
            "1",
            "1,2",
            "a,b c,d",
            "0,0 nan,1",
            "0,0 99,1",
            "0,0 0,0",
            " ".join(["0,0 1,1"] * 300),
        ):
            with self.subTest(text[:20]), self.assertRaises(SettingError):
                drawing.clean({"stroke": text or "x"})
            kept, said = drawing.settled({"stroke": text or "x"}, 1)
            self.assertEqual(kept.get("stroke", drawing.clean().stroke), drawing.clean().stroke)
            self.assertTrue(said)


class DrawingTests(TestCase):
    def test_units_begin_where_the_last_one_ended_and_bend_with_the_strip(self):
        bent = (
            Point(0, 0).buffer(9).difference(Point(0, 0).buffer(6)).intersection(box(0, 0, 10, 10))
        )
        for shape in (box(0, 0, 24, 3), bent, Polygon([(0, 0), (20, 0.8), (20, 2.2), (0, 3)])):
            drawing = designs()["own_strip"]
            made = drawing.draw(
                Space(shape), drawing.clean({"stroke": cleaned_stroke(hill(), "strip").text}), 1
            )
            self.assertEqual(len(made.runs), 1)
            self.assertTrue(shape.buffer(0.02).covers(_line(made.runs[0])))
            self.assertGreater(len(made.runs[0].units), 3)

    def test_one_alone_is_as_large_as_told_and_its_ground_keeps_off(self):
        drawing = designs()["own_single"]
        own = cleaned_stroke(hill(), "figure").text
        s = drawing.clean({"size": 5, "turned": 30, "stroke": own})
        space = Space(box(0, 0, 10, 8))
        made = drawing.draw(space, s, 0)
        self.assertAlmostEqual(np.hypot(*(made.runs[0].points - (5, 4)).T).max(), 2.5, delta=0.05)
        self.assertTrue(drawing.reserves(space, s, made).intersects(_line(made.runs[0])))

    def test_now_and_then_among_stars(self):
        drawing = designs()["stars_and_loops"]
        own = cleaned_stroke(hill(), "figure").text
        zone = Space(box(0, 0, 12, 12))
        plain = drawing.draw(zone, drawing.clean({}), 1)
        with_own = drawing.draw(zone, drawing.clean({"own": own, "every": 2}), 1)
        self.assertNotAlmostEqual(plain.inches, with_own.inches, places=1)


def _line(run):
    import shapely

    return shapely.linestrings(run.points)


class AttemptTests(TestCase):
    def machine(self, key: str, zone: Polygon) -> np.ndarray:
        drawing, space = designs()[key], Space(zone)
        return drawing.draw(space, drawing.proposed(space), 1).runs[0].points

    def test_the_machines_hand_is_marked_higher_than_a_shaky_one(self):
        rng = np.random.default_rng(2)
        for key, zone in (("ribbon_candy", box(0, 0, 6.5, 1.5)), ("swirls", box(0, 0, 6.5, 5))):
            points = resample(self.machine(key, zone), 0.05)
            drift = gaussian_filter1d(rng.normal(0, 0.25, points.shape), 5, axis=0)
            shaky = points + drift + rng.normal(0, 0.008, points.shape)
            even = drawn_attempt(points, zone, key == "ribbon_candy")
            uneven = drawn_attempt(shaky, zone, key == "ribbon_candy")
            with self.subTest(key):
                self.assertGreater(even.marks, 88)
                self.assertLess(uneven.marks, even.marks - 10)
                self.assertGreater(uneven.trembles, even.trembles)

    def test_lines_so_far_apart_are_measured_so(self):
        rows = [
            [(0, y), (8, y)] if k % 2 == 0 else [(8, y), (0, y)]
            for k, y in enumerate(np.arange(0, 6, 0.5))
        ]
        found = drawn_attempt(np.array(rows).reshape(-1, 2), box(0, -0.5, 8, 6), False)
        self.assertAlmostEqual(found.apart, 0.5, delta=0.05)

    def test_closer_in_one_place_than_in_another_is_marked_lower(self):
        def rows(places):
            lines = [((0, y), (8, y))[:: 1 if k % 2 else -1] for k, y in enumerate(places)]
            return drawn_attempt(np.array(lines).reshape(-1, 2), box(0, -0.5, 8, 6.5), False)

        even = rows(np.linspace(0, 6, 19))
        uneven = rows(6 * np.linspace(0, 1, 19) ** 1.7)
        self.assertGreater(uneven.varies, 2 * even.varies)
        self.assertLess(uneven.marks, even.marks - 8)

    def test_a_picture_of_it_measures_alike_light_on_dark_too(self):
        zone = box(0, 0, 6.5, 5)
        points = self.machine("swirls", zone)
        drawn = drawn_attempt(points, zone, False)
        for paper, ink in ((230, 40), (50, 210)):
            picture = np.full((500, 650), paper, np.uint8)
            cv2.polylines(picture, [np.int32(points * 100)], False, ink, 4, cv2.LINE_AA)
            found = pictured_attempt(picture, 6.5)
            self.assertAlmostEqual(found.apart / drawn.apart, 1.0, delta=0.25)
            self.assertGreater(found.marks, 85)

    def test_what_cannot_be_measured_is_told_in_words(self):
        for points, word in (
            ([(0, 0), (0.1, 0)], "hardly a line"),
            ([(50, 50), (90, 50)], "outside"),
        ):
            with self.assertRaisesRegex(AttemptError, word):
                drawn_attempt(np.array(points, float), box(0, 0, 4, 4), False)
        for picture, word in (
            (np.full((20, 20), 9, np.uint8), "too small"),
            (np.full((200, 200), 9, np.uint8), "No lines"),
        ):
            with self.assertRaisesRegex(AttemptError, word):
                pictured_attempt(picture, 5)
