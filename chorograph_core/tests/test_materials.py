"""Backing, batting and edge: closed formulas, and laying the cloth out for real."""

import math
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as some

from chorograph_core.chart import Fabric
from chorograph_core.estimating import Backing, Batting, Intake, Measures, backing_plan, edge_effect
from chorograph_core.estimating.backing import SEAM
from chorograph_core.estimating.batting import batting_short, fabric_notes, lightness, roll_short
from chorograph_core.estimating.findings import backing_for, materials_findings
from chorograph_core.job import Job
from chorograph_core.layouts import StraightSet
from chorograph_core.reckon import Machine

SIDE = some.floats(12, 120)


def sewn_together(count: int, cloth: float) -> float:
    """Width of *count* lengths joined one after the other, each seam eating into both."""
    width = cloth
    for _ in range(count - 1):
        width = width - SEAM + cloth - SEAM
    return width


class BackingTests(TestCase):
    @given(SIDE, SIDE, some.floats(0, 8), some.floats(30, 120))
    def test_lengths_cover_and_one_fewer_would_not(self, width, height, allowance, cloth):
        plan = backing_plan(width, height, allowance, cloth)
        for way in plan.ways:
            over, along = plan.needed if way.direction == "down" else plan.needed[::-1]
            self.assertGreaterEqual(sewn_together(way.lengths, cloth), over - 1e-6)
            if way.lengths > 1:
                self.assertLess(sewn_together(way.lengths - 1, cloth), over + 1e-6)
            self.assertAlmostEqual(way.cut, along)
            self.assertGreaterEqual(way.yards * 36, way.lengths * along - 1e-6)
            self.assertLess(way.yards * 36, way.lengths * along + 36 / 8)
            self.assertEqual(way.seams, way.lengths - 1)
            if way.halved:
                # One whole length between two halves of the other: two seams instead of one.
                self.assertGreaterEqual(2 * cloth - 4 * SEAM, over - 1e-6)
        self.assertLessEqual(plan.ways[0].yards, plan.ways[1].yards)

    @given(SIDE, SIDE, some.floats(1, 6), some.floats(10, 130), some.floats(10, 130))
    def test_large_enough_is_what_lying_it_down_shows(self, width, height, allowance, w, h):
        plan = backing_plan(width, height, allowance, 42, (w, h))
        laid = (h, w) if plan.turned else (w, h)
        fits = all(has >= top + 2 * allowance - 1e-9
                   for has, top in zip(laid, (width, height), strict=True))  # fmt: skip
        self.assertEqual(plan.large_enough, fits)
        either = any(a >= width + 2 * allowance and b >= height + 2 * allowance
                     for a, b in ((w, h), (h, w)))  # fmt: skip
        if either:
            self.assertTrue(plan.large_enough)
        self.assertAlmostEqual(laid[0] - plan.beyond[0] * 2, width)

    def test_the_greatest_measure_counts_not_the_mean(self):
        measures = Measures((80, 82.5, 80), (96, 96, 96))
        chart = StraightSet(8, 7, 12, ("plain",)).chart()
        job = Job(
            "x", chart, (), intake=Intake(measures=measures, backing=Backing("client", 89, 104.5))
        )
        self.assertEqual(job.extent, (82.5, 96))
        plan = backing_for(job.intake, job.extent, job.machine)
        self.assertEqual((plan.large_enough, plan.needed), (False, (90.5, 104)))
        self.assertEqual((plan.beyond[0], plan.missing[0]), (3.25, 1.5))
        found = materials_findings(job.intake, job.extent, (), job.machine, "binding")
        self.assertIn("too small", found[0].heading)

    @given(SIDE, SIDE, some.floats(20, 140))
    def test_a_roll_must_be_as_wide_as_the_narrower_side(self, width, height, roll):
        needed = (width + 4, height + 4)
        fits = roll >= needed[0] or roll >= needed[1]
        self.assertEqual(roll_short(needed, roll) == 0, fits)

    def test_a_roll_too_narrow_is_said(self):
        batting = Batting("wool", roll=96.0)
        found = materials_findings(Intake(batting=batting), (110, 112), (), Machine(), "binding")
        self.assertIn("18″ short", found[0].text)
        found = materials_findings(Intake(batting=batting), (100, 80), (), Machine(), "binding")
        self.assertIn("turned by a quarter", found[0].text)

    def test_a_known_quilt(self):
        plan = backing_plan(65.5, 79, 4, 42)
        down = next(way for way in plan.ways if way.direction == "down")
        self.assertEqual((down.lengths, down.cut, down.yards), (2, 87, 4.875))
        self.assertTrue(down.halved)
        self.assertIsNone(plan.large_enough)
        self.assertEqual(backing_plan(40, 40, 4, 108).ways[0].lengths, 1)

    def test_cloth_is_bought_as_shops_cut_it(self):
        """By hand: a top of 16 by 15 with 4 on every side takes one length of 23 of cloth 42 wide: 0.64
        yd, so 3/4 yd; 58.42 cm, so 0.6 m. One of 60 by 60 takes two lengths of 68: 136, 3.78 yd, so 3 7/8;
        3.454 m, so 3.5."""
        for size, said, metric in (((16, 15), "3/4 yd", "0.6 m"), ((60, 60), "3 7/8 yd", "3.5 m")):
            told = [
                " ".join(
                    f"{each.heading} {each.text}"
                    for each in materials_findings(
                        Intake(backing=Backing()), size, (), Machine(), "binding", units
                    )
                    if each.about == "backing"
                )
                for units in ("in", "cm")
            ]
            self.assertRegex(told[0], rf"(Buy|: ) ?{said}\b")
            self.assertNotIn("0 3/4", told[0])
            self.assertRegex(told[1], rf"(Buy|: ) ?{metric}\b")
            self.assertNotIn("yd", told[1])

    def test_cloth_narrower_than_its_seams(self):
        with self.assertRaises(ValueError):
            backing_plan(40, 40, 4, 1)


class BattingTests(TestCase):
    @given(SIDE, SIDE, SIDE, SIDE)
    def test_short_is_the_better_way_round(self, w, h, a, b):
        short = batting_short((w, h), (a, b))
        straight = max(0, w - a) + max(0, h - b)
        turned = max(0, w - b) + max(0, h - a)
        self.assertAlmostEqual(short[0] + short[1], min(straight, turned))

    def test_lightness_of_known_colours(self):
        self.assertAlmostEqual(lightness("#ffffff"), 100, places=3)
        self.assertAlmostEqual(lightness("#000000"), 0, places=3)
        self.assertAlmostEqual(lightness("#777777"), 50, delta=0.5)

    def test_contrast_with_the_fabrics(self):
        pale, deep = Fabric("a", "shell", "#fbf7ec"), Fabric("b", "ink", "#101826")
        self.assertIn("ink", fabric_notes("#ffffff", [pale, deep])[0])
        self.assertIn("shell", fabric_notes("#202020", [pale, deep])[0])
        self.assertEqual(fabric_notes("#ffffff", [pale]), [])
        self.assertEqual(fabric_notes("#ffffff", []), [])


class FindingTests(TestCase):
    def of(self, finish="binding", **kwargs):
        found = materials_findings(Intake(**kwargs), (60, 70), (), Machine(), finish)
        return {f.about: f for f in reversed(found)}, found

    def test_backing_sentences(self):
        first, _ = self.of(backing=Backing(width=68, height=78))
        self.assertEqual(first["backing"].weight, "fine")
        first, found = self.of(backing=Backing(width=64, height=78))
        self.assertIn("4″ in width", first["backing"].text)
        self.assertIn("Pieced with 1 seam", found[1].heading)
        self.assertIn("must be 68″ × 78″", self.of(backing=Backing())[1][0].heading)
        self.assertIn("One length", self.of(backing=Backing(cloth_width=108))[1][1].heading)

    def test_batting_sentences(self):
        first, found = self.of(batting=Batting("wool", gap=4, width=60, height=90, layers=2))
        self.assertIn("4″ short", first["batting"].text)
        self.assertTrue(any("2 layers" in f.heading for f in found))
        first, _ = self.of(batting=Batting("wool", width=76, height=66))
        self.assertIn("turned", first["batting"].text)

    def test_every_finish_leaves_less_than_the_top(self):
        for finish in ("binding", "turned", "faced", "knife"):
            effect = edge_effect(finish, 60, 70)
            self.assertAlmostEqual(effect.width, 60 - 2 * effect.keeps)
            self.assertTrue(math.isclose(effect.height, 70 - 2 * effect.keeps))
            self.assertIn(effect.name, self.of(finish)[0]["edge"].heading)
