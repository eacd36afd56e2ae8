"""The bench table: sums redone by hand, refusals in words, templates true to size."""

import itertools
import math

import numpy as np
from django.test import TestCase
from django.urls import reverse

from chorograph_core.formats.true_size import MARGIN, OVERLAP, PAPERS, TooLarge, sheets_of
from chorograph_core.rulers import STARTING_RULERS, Ruler
from chorograph_core.rulers.sums import SumError, arc_of, arcs_in_border, line_for, lines_across
from studio.shelf.starting import stock
from studio.tests.helpers import make_job, make_studio


class SumTests(TestCase):
    def test_arcs_come_out_even_and_their_radius_is_that_of_chord_and_height(self):
        # 60 inches hold nine arcs of 6 2/3; 2 high: 6.667² / 16 + 1 = 3.778.
        answer = arcs_in_border(60, 6.5, 2, STARTING_RULERS, 0.25)
        self.assertEqual(answer.main, "9 arcs, 6 21/32″ wide and 2″ high: radius 3 25/32″")
        self.assertEqual(len(answer.dots), 10)
        self.assertAlmostEqual(answer.dots[-1], 60)
        with self.assertRaises(SumError) as caught:
            arcs_in_border(60, 6.5, 4, (), 0.25)
        self.assertEqual(caught.exception.field, "height")
        self.assertIn("3 11/32″", str(caught.exception))

    def test_one_arc_and_the_ruler_for_it(self):
        # Chord 8, height 2: radius 5; an outer edge of 4 3/4 stitches it.
        own = Ruler("own", "own arc", "arc", 12.0, convex=4.75)
        answer = arc_of(8, 2, [own], 0.25)
        self.assertEqual(answer.main, "radius 5″")
        self.assertIn("outer edge of 4 3/4″ or an inner edge of 5 1/4″", answer.more[0])
        self.assertIn("own arc, outer edge, stitches 5″: 1 laying an arc.", answer.more)
        self.assertIn("tighter than the foot", arc_of(0.4, 0.2, [own], 0.25).more[0])

    def test_spacing_three_quarters_takes_the_half_inch_line(self):
        for spacing, line in ((0.75, "1/2″"), (0.5, "1/4″"), (1.0, "3/4″")):
            self.assertTrue(
                line_for(spacing, STARTING_RULERS, 0.25).main.startswith(f"the {line} line")
            )
        told = line_for(0.9, STARTING_RULERS, 0.25)
        self.assertIn("They space 3/4″ or 1″", told.more[0])
        self.assertIn("side of the foot", line_for(0.25, STARTING_RULERS, 0.25).more[0])
        with self.assertRaises(SumError):
            line_for(0.1, STARTING_RULERS, 0.25)

    def test_lines_and_their_gaps(self):
        self.assertEqual(lines_across(12, 1, "even").dots, tuple(float(k) for k in range(1, 12)))
        rest = lines_across(10, 3, "centre")
        self.assertEqual(rest.dots, (2.0, 5.0, 8.0))
        self.assertEqual(lines_across(10, 3, "start").dots, (3.0, 6.0, 9.0))
        self.assertEqual(lines_across(10, 3, "middle").dots, (2.0, 5.0, 8.0))
        self.assertIn("no line", lines_across(2, 3, "even").main)
        with self.assertRaises(SumError):
            lines_across(400, 0.1, "even")


class SheetTests(TestCase):
    def test_all_of_a_line_is_printed_and_neighbours_share_their_crosses(self):
        line = np.array([[0, 0], [20, 0.0], [20, 14], [0, 14], [0, 0]])
        for paper, size in PAPERS.items():
            sheets = sheets_of([("edge", line)], paper)
            self.assertGreater(len(sheets), 3)
            for sheet in sheets:
                # It lies within what the printer reaches, the foot of the page left out.
                self.assertLessEqual(sheet.frame[2], size[0] - 2 * MARGIN + 1e-9)
                self.assertLessEqual(sheet.frame[3], size[1] - 2 * MARGIN - 1.2)
            spots = [spot for sheet in sheets for spot in sheet.crosses]
            alone = [a for k, a in enumerate(spots) if not any(
                math.dist(a, b) < 1e-6 for j, b in enumerate(spots) if j != k)]  # fmt: skip
            # A cross may be missing where a sheet without lines was left out.
            self.assertLess(len(alone), len(spots) / 2)
            self.assertEqual([sheet.square is not None for sheet in sheets].count(True), 1)
            columns = sorted({sheet.frame[0] for sheet in sheets})
            for a, b in itertools.pairwise(columns):
                self.assertAlmostEqual(b - a, sheets[0].frame[2] - OVERLAP)

    def test_a_whole_quilt_is_refused(self):
        with self.assertRaises(TooLarge):
            sheets_of([("edge", np.array([[0, 0], [90, 108.0]]))])


class PageTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft")
        cls.job = make_job(cls.studio, cls.anna)
        stock(cls.studio)

    def setUp(self):
        self.client.force_login(self.anna)

    def ask(self, **values):
        return self.client.get(reverse("sums"), values, headers={"HX-Request": "true"})

    def test_every_sum_has_an_answer_to_begin_with(self):
        page = self.client.get(reverse("sums"))
        self.assertContains(page, "radius", count=None)
        self.assertNotContains(page, 'class="fault"')

    def test_an_answer_while_one_types_and_a_sentence_for_what_cannot_be(self):
        self.assertContains(self.ask(sum="arc", chord="8", height="2"), "Radius 5″")
        self.assertContains(self.ask(sum="arc", chord="8", height="5"), "at most half as high")
        self.assertContains(self.ask(sum="arc", chord="wide", height="2"), "not a length")
        self.assertContains(
            self.ask(sum="lines", width="10", spacing="1", fitting="?"), "Choose how"
        )
        self.assertContains(self.ask(sum="arcs", length="0", chord="2", height="1"), "above zero")
        self.assertEqual(self.ask(sum="unheard").status_code, 404)

    def test_centimetres(self):
        self.studio.units = "cm"
        self.studio.save()
        self.assertContains(self.ask(sum="arc", chord="20", height="5"), "12.5 cm")

    def test_templates_are_pdfs_or_sentences(self):
        arc = self.client.get(
            reverse("arc-template"), {"sum": "arc", "chord": "9", "height": "2", "paper": "a4"}
        )
        self.assertEqual(arc.content[:5], b"%PDF-")
        told = self.client.get(reverse("arc-template"), {"sum": "arc", "chord": "9", "height": "7"})
        self.assertContains(told, "half as high", status_code=422)
        zones = reverse("zone-template", args=[self.job.pk])
        self.assertContains(self.client.get(zones), "Choose the zones", status_code=422)
        from studio.jobs.revisions import core_job

        zone = core_job(self.job).zones[0].id
        made = self.client.get(zones, {"zones": zone})
        self.assertEqual(made.content[:5], b"%PDF-")
