"""A studio that measures in centimetres writes and reads nothing else."""

import re

import numpy as np
from django.test import TestCase
from django.urls import reverse

from chorograph_core.layouts import OpenField
from chorograph_core.measure import parse_length
from chorograph_core.tests import long
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.schools.models import Weighed
from studio.schools.weighing import ask_for_all
from studio.schools.weighing import carry_out as weigh
from studio.tests.helpers import ChangingCase, make_plan, make_studio


class DrawerTests(ChangingCase):
    def setUp(self):
        super().setUp()
        self.studio.units = "cm"
        self.studio.save()
        self.entry = next(e for e in self.core.legend if e.layers[-1].design == "crosshatch")

    def fields(self) -> dict:
        page = self.client.post(reverse("drawer", args=[self.job.pk]), {"entry": self.entry.id})
        pattern = r'name="(set_\w+|breathing_first|spi|passes|seed)" value="([^"]*)"'
        found = dict(re.findall(pattern, page.content.decode()))
        self.assertIn("set_spacing", found)
        return found

    def keep(self, **values):
        self.job.refresh_from_db()
        return self.client.post(reverse("keep", args=[self.job.pk]), {
            "base": self.job.head.number, "entry": self.entry.id, "design": "crosshatch",
            "zones": ",".join(self.entry.zones), **values})  # fmt: skip

    def spacing(self) -> float:
        entry = next(e for e in self.core.legend if e.id == self.entry.id)
        return entry.layers[-1].settings["spacing"]

    def test_a_bare_number_is_a_centimetre(self):
        self.assertEqual(self.keep(set_spacing="2").status_code, 204)
        self.assertAlmostEqual(self.spacing(), 2 / 2.54)
        self.assertEqual(self.keep(set_spacing="3/4 in").status_code, 204)
        self.assertAlmostEqual(self.spacing(), 0.75)
        told = self.keep(set_spacing="90")
        self.assertContains(told, "goes from 0.5 cm to 30.5 cm", status_code=422)

    def test_the_limits_can_be_written_as_they_are_told(self):
        for told, inches in (("0,5", 0.5 / 2.54), ("30.5", 12.0), ("0.476", 0.1875)):
            with self.subTest(told):
                self.assertEqual(self.keep(set_spacing=told).status_code, 204)
                self.assertAlmostEqual(self.spacing(), inches)

    def test_a_drawer_that_is_opened_and_kept_changes_nothing(self):
        for spacing in ("2", "1,9", "3/16 in", "0.777 in"):
            with self.subTest(spacing):
                self.keep(set_spacing=spacing)
                before = self.spacing()
                self.keep(**self.fields())
                self.assertAlmostEqual(self.spacing(), before, places=9)

    def test_the_legend_speaks_in_centimetres(self):
        self.keep(set_spacing="2")
        page = self.client.get(reverse("work", args=[self.job.pk]))
        self.assertContains(page, "2.0 cm · 45°")


class InchDrawerTests(DrawerTests):
    """The same in inches: what lies between two sixteenths is not rounded by looking at it."""

    def setUp(self):
        super().setUp()
        self.studio.units = "in"
        self.studio.save()

    def test_a_bare_number_is_a_centimetre(self):
        self.assertEqual(self.keep(set_spacing="2").status_code, 204)
        self.assertAlmostEqual(self.spacing(), 2)
        told = self.keep(set_spacing="90")
        self.assertContains(told, "goes from 3/16″ to 12″", status_code=422)

    def test_the_limits_can_be_written_as_they_are_told(self):
        for told, inches in (("3/16", 0.1875), ("12", 12.0)):
            with self.subTest(told):
                self.assertEqual(self.keep(set_spacing=told).status_code, 204)
                self.assertAlmostEqual(self.spacing(), inches)

    def test_the_legend_speaks_in_centimetres(self):
        self.keep(set_spacing="1 1/8")
        page = self.client.get(reverse("work", args=[self.job.pk]))
        self.assertContains(page, "1 1/8″ · 45°")


class ChartTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.studio.units = "cm"
        self.studio.save()
        self.client.force_login(self.anna)

    def test_an_empty_form_has_round_centimetres(self):
        page = self.client.get(reverse("new-job"))
        self.assertEqual(page.context["form"]["block_size"].value(), "30")
        self.assertContains(page, 'data-units="cm"')
        self.assertContains(page, "164.0 cm")
        # The graticule counts centimetres: every 25 to the end of the longer side.
        figures = re.findall(r">(\d+)</text>", page.content.decode())
        self.assertEqual(figures[:7], ["0", "25", "50", "75", "100", "125", "150"])

    def test_blocks_placed_by_centimetres_with_their_comma(self):
        self.client.post(reverse("new-job"), {
            "title": "Field", "layout": "open_field", "width": "120", "height": "150",
            "placed_text": "30,5 pinwheel at 15,2; 40\n20 plain square at 80, 100"})  # fmt: skip
        survey = core_job(Job.objects.select_related("head").get(title="Field")).survey
        self.assertIsInstance(survey, OpenField)
        found = [(p.size, p.x, p.y) for p in survey.placed]
        wanted = [(30.5, 15.2, 40), (20, 80, 100)]
        for one, other in zip(found, wanted, strict=True):
            for inches, cm in zip(one, other, strict=True):
                self.assertAlmostEqual(inches, cm / 2.54)
        page = self.client.get(reverse("chart", args=[Job.objects.get(title="Field").pk]))
        line = page.context["form"]["placed_text"].value().splitlines()[0]
        self.assertEqual(line, "30.5 cm pinwheel at 15.2 cm, 40 cm")
        self.assertAlmostEqual(parse_length("30.5 cm"), 30.5 / 2.54)


class HandsTests(ChangingCase):
    """Ways of working, reasons, wishes and where she stands, without an inch."""

    @long
    def test_no_inch_is_told(self):
        self.studio.units = "cm"
        self.studio.save()
        plan = make_plan(self.job)
        ask_for_all(self.job, self.core)
        for one in Weighed.objects.filter(key__startswith="help:") | Weighed.objects.filter(key=""):
            weigh(one)
        zone = self.core.zones[0].id
        pages = [
            self.client.get(reverse(name, args=[self.job.pk])) for name in ("schools", "plan-panel")
        ]
        pages.append(self.client.post(reverse("wishes", args=[self.job.pk]), {"zones": zone}))
        pages += [
            self.client.get(reverse("plan-why", args=[self.job.pk]), {"seconds": round(share * 60)})
            for share in np.linspace(0, plan.figures["minutes"], 60)
        ]
        for page in pages:
            self.assertEqual(page.status_code, 200)
            self.assertNotRegex(page.content.decode(), "″|\\binch")
        self.assertTrue(any(b" cm" in page.content for page in pages))
