"""What a studio is: name, address, picture, units, paper; how it works, and how long things take it."""

from __future__ import annotations

import io
from dataclasses import replace

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from PIL import Image

from chorograph_core.reckon import Rates
from chorograph_core.route import Policy
from chorograph_core.tests import long
from chorograph_core.tests.shapes import designed, small_top
from studio.accounts.models import Logo
from studio.jobs.revisions import core_job, create_job
from studio.paper import laid_out
from studio.quotes.documents import issue
from studio.shelf.starting import stock
from studio.tests.helpers import make_job, make_studio
from studio.tests.pictures import png


class HouseCase(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.client.force_login(self.anna)

    def keep(self, status=302, **values):
        given = {"name": "Loft", "address": "", "units": "in", "paper": "letter", **values}
        answer = self.client.post(reverse("house"), given)
        self.assertEqual(answer.status_code, status, answer.content[:300])
        self.studio.refresh_from_db()
        return answer


class DocumentTests(HouseCase):
    def test_name_address_and_picture_head_what_is_issued_from_then_on(self):
        stock(self.studio)
        job = make_job(self.studio, self.anna)
        before = issue(job, self.anna, ["light", "full"])
        picture = SimpleUploadedFile("mark.png", png())
        self.keep(name="The High Loft", address="Mill Lane 4\nOuse", logo=picture)
        after = issue(job, self.anna, ["light", "full"])
        page = self.client.get(reverse("quote", args=[job.pk, after.number]))
        self.assertContains(page, "Mill Lane 4 · Ouse")
        self.assertContains(page, "data:image/png;base64")
        # What was issued stays as it was issued.
        old = self.client.get(reverse("quote", args=[job.pk, before.number]))
        self.assertNotContains(old, "Mill Lane")
        self.assertContains(old, '<p class="studio">Loft')
        self.keep(no_logo="on")
        self.assertFalse(Logo.objects.exists())

    def test_what_is_no_picture_is_said_at_its_field_and_the_rest_is_not_lost(self):
        answer = self.keep(400, address="Mill Lane 4", logo=SimpleUploadedFile("a.svg", b"<svg/>"))
        self.assertContains(answer, "no picture", status_code=400)
        self.assertContains(answer, "Mill Lane 4", status_code=400)
        self.assertEqual(self.studio.address, "")
        self.assertContains(self.keep(400, name=""), "required", status_code=400)
        self.assertEqual(self.studio.name, "Loft")

    @long
    def test_a_large_picture_is_kept_small(self):
        large = io.BytesIO()
        Image.new("RGB", (3000, 2000), "#a63a2b").save(large, "PNG")
        self.keep(logo=SimpleUploadedFile("large.png", large.getvalue()))
        kept = Image.open(io.BytesIO(bytes(Logo.objects.get().picture)))
        self.assertLessEqual(max(kept.size), 600)
        self.assertAlmostEqual(kept.width / kept.height, 1.5, delta=0.02)

    def test_paper_is_the_studios(self):
        for paper, size in (("letter", (816, 1056)), ("a4", (793.7, 1122.5))):
            page = laid_out("sums/template.html", {"paper": paper, "sheets": []}, paper)
            sheet = laid_out(
                "finishing/care.html", {"studio": self.studio, "units": "in", "size": (9, 9)}, paper
            ).pages[0]
            with self.subTest(paper):
                self.assertAlmostEqual(sheet.width, size[0], delta=1)
                self.assertAlmostEqual(sheet.height, size[1], delta=1)
                self.assertTrue(page.pages)

    def test_what_is_printed_true_to_size_is_as_large_as_it_says(self):
        lines = [("axis", "M0,0L6,8")] * 60
        sheet = {"name": "A1", "frame": (0, 0, 6, 8), "paths": lines, "crosses": []}
        panel = {"frame": "0 0 3 4", "size": (3, 4), "zone": "M0,0H3V4H0Z", "path": "M0,0L3,4",
                 "ends": ((0, 0), (3, 4)), "numbers": [(1, 1, 1)] * 60, "name": "small"}  # fmt: skip
        for template, context, size in (
            ("sums/template.html", {"paper": "letter", "sheets": [sheet]}, (6, 8)),
            ("audition/card.html", {"panels": [panel]}, (3, 4)),
        ):
            drawings = _drawings(laid_out(template, context).pages[0])
            with self.subTest(template):
                self.assertIn((size[0] * 96, size[1] * 96), drawings)


def _drawings(page) -> list[tuple[float, float]]:
    """Sizes of all drawings on a page, in CSS pixels: 96 to an inch."""
    return [(box.width, box.height) for box in page._page_box.descendants()
            if str(box.element_tag).endswith(("svg", "img"))]  # fmt: skip


class WaysTests(HouseCase):
    def test_new_jobs_are_worked_as_the_studio_works_and_old_ones_stay(self):
        before = make_job(self.studio, self.anna)
        answers = {"stabilise": "pass", "tails": "bury", "pen": "fading", "edge_finish": "turned",
                   "reach": "sit", "technique": "nonsense"}  # fmt: skip
        self.assertRedirects(
            self.client.post(reverse("house-ways"), answers), reverse("house-ways")
        )
        self.studio.refresh_from_db()
        fresh = replace(designed(small_top(1, 2)), policy=Policy())
        core = core_job(create_job(self.studio, self.anna, fresh, "made for a test"))
        policy = core.policy
        self.assertEqual((policy.stabilise, policy.pen, policy.edge_finish, policy.technique),
                         ("pass", "fading", "turned", "mixed"))  # fmt: skip
        self.assertTrue(core.machine.bury and core.machine.seated)
        self.assertEqual(core_job(before).policy.stabilise, "quilt")
        page = self.client.get(reverse("house-ways")).content.decode()
        for value in ("pass", "bury", "fading", "turned", "sit", "mixed"):
            self.assertRegex(page, rf'value="{value}" checked')

    def test_in_a_centimetre_studio_it_speaks_of_centimetres(self):
        self.keep(units="cm")
        for name in ("house-ways", "house-rates"):
            page = self.client.get(reverse(name)).content.decode()
            self.assertNotIn("″", page)
            self.assertNotIn("inches a minute", page)


class RatesTests(HouseCase):
    def page(self):
        return self.client.get(reverse("house-rates"))

    def test_what_is_written_by_hand_foretells_new_jobs(self):
        lines = {line.key: line for line, _ in self.page().context["lines"]}
        self.assertEqual((lines["ditch"].text, lines["cut"].text), ("45", "60"))
        values = {f"rate_{key}": line.text for key, line in lines.items()}
        values |= {"rate_ditch": "30", "rate_cut": "90"}
        self.assertRedirects(
            self.client.post(reverse("house-rates"), values), reverse("house-rates")
        )
        self.studio.refresh_from_db()
        # By hand: 45 / 30 and 90 / 60.
        self.assertEqual(self.studio.factors, {"ditch": 1.5, "cut": 1.5})
        rates = core_job(make_job(self.studio, self.anna)).machine.rates
        self.assertEqual((rates.speeds["ditch"], rates.cut), (30, 90))
        self.assertEqual(rates.bobbin, Rates().bobbin)
        self.keep(units="cm")
        lines = {line.key: line for line, _ in self.page().context["lines"]}
        self.assertEqual((lines["ditch"].text, lines["ditch"].what), ("76.2", "cm a minute"))
        # Kept as it stands nothing changes.
        self.client.post(
            reverse("house-rates"), {f"rate_{k}": line.text for k, line in lines.items()}
        )
        self.studio.refresh_from_db()
        self.assertEqual(self.studio.factors, {"ditch": 1.5, "cut": 1.5})

    def test_what_nobody_does_is_refused_at_its_field(self):
        for value in ("0", "-4", "fast", "1e99", "nan", "2"):
            answer = self.client.post(reverse("house-rates"), {"rate_ditch": value})
            with self.subTest(value):
                self.assertContains(answer, 'aria-invalid="true"', status_code=422)
                self.assertContains(answer, f'value="{value}"', status_code=422)
        self.studio.refresh_from_db()
        self.assertEqual(self.studio.factors, {})
