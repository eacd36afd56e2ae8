"""What comes from outside: whatever it is, the answer is a sentence and never an error of ours."""

import datetime
import json
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from chorograph_core.designs import designs
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.formats import write_document
from chorograph_core.job import job_linework
from chorograph_core.tests import long
from studio.agenda.models import DayOff
from studio.asking import EditError, base_from, number_or, whole_from
from studio.jobs.models import Job
from studio.tests.helpers import ChangingCase, make_job, make_studio
from studio.workbench import linework as workbench_linework
from studio.workbench import views as workbench_views


class NumberTests(SimpleTestCase):
    def test_only_plain_digits_are_a_number(self):
        self.assertEqual(whole_from({"n": " 12 "}, "n"), 12)
        for text in ("²", "٣", "1²", "9" * 5000, "-1", "1.5", "1e3", "x", "\0", "1 000"):
            with self.subTest(text[:9]), self.assertRaises(EditError) as told:
                whole_from({"n": text}, "n", 1)
            self.assertEqual(told.exception.field, "n")
            self.assertEqual(number_or({"n": text}, "n", 7), 7)

    def test_a_base_that_is_none(self):
        for text in ("", "²", "9" * 5000, "newest"):
            with self.subTest(text[:9]), self.assertRaises(EditError):
                base_from({"base": text})


class EntryTests(ChangingCase):
    def keep(self, **values):
        self.job.refresh_from_db()
        zone = self.core.zones[0].id
        return self.client.post(reverse("keep", args=[self.job.pk]), {
            "base": self.job.head.number, "zones": zone, "design": "crosshatch", **values})  # fmt: skip

    def test_an_entry_nobody_has(self):
        for entry in ("\0", "x" * 100_000, "e999", "'; drop table"):
            for name in ("keep", "preview"):
                with self.subTest(entry[:9], name=name):
                    answer = self.client.post(reverse(name, args=[self.job.pk]), {
                        "base": 1, "zones": self.core.zones[0].id, "design": "crosshatch",
                        "entry": entry})  # fmt: skip
                    self.assertContains(answer, "no longer there", status_code=422)
        self.assertEqual(Job.objects.get(pk=self.job.pk).head.number, 1)

    def test_percent_is_taken_where_the_message_invites_it(self):
        answer = self.keep(design="ribbon_candy", set_plump="45%")
        self.assertEqual(answer.status_code, 204, answer.content)
        layer = next(e for e in self.core.legend if e.layers[-1].design == "ribbon_candy"
                     and self.core.zones[0].id in e.zones).layers[-1]  # fmt: skip
        self.assertAlmostEqual(layer.settings["plump"], 0.45)
        told = self.keep(design="ribbon_candy", set_plump="95%")
        self.assertContains(told, "goes from 18% to 80%", status_code=422)

    def test_lines_may_run_on_through_zones_that_touch(self):
        first = self.core.zones[0]
        near = [z.id for z in self.core.zones if z.polygon.touches(first.polygon)][:3]
        answer = self.keep(zones=",".join([first.id, *near]), over="region")
        self.assertEqual(answer.status_code, 204, answer.content)
        entry = next(e for e in self.core.legend if first.id in e.zones)
        self.assertEqual(entry.layers[-1].over, "region")
        page = self.client.post(
            reverse("drawer", args=[self.job.pk]), {"entry": entry.id, "zones": ""}
        )
        self.assertContains(page, '<option value="region"')
        pieces = [one for one in job_linework(self.core) if one.entry == entry.id]
        self.assertGreater(len({one.zone for one in pieces if one.linework.runs}), 1)
        self.assertTrue(all(run.figure for one in pieces for run in one.linework.runs))

    def test_a_layer_that_cannot_be_drawn_is_said_at_its_entry(self):
        """A design that breaks takes neither the page nor the other entries with it, nor is it kept."""
        crosshatch = type(designs()["crosshatch"])
        with (
            mock.patch.object(crosshatch, "draw", side_effect=RuntimeError("oh")),
            mock.patch.object(workbench_linework, "DRAWINGS", DrawingCache()),
            mock.patch.object(workbench_views, "DRAWINGS", DrawingCache()),
            self.assertLogs("chorograph_core.designs.drawing", "ERROR"),
        ):
            workbench_linework._DRAWN.clear()
            workbench_views._ADVISED.clear()
            workbench_linework._LEGENDS.clear()
            for name in ("work", "board"):
                page = self.client.get(reverse(name, args=[self.job.pk]))
                self.assertContains(page, "Crosshatch cannot be drawn in this shape")
                self.assertContains(page, "Choose another design or setting")
                self.assertContains(page, "meander")
            self.assertEqual(
                self.client.get(reverse("linework", args=[self.job.pk])).status_code, 200
            )
            for name in ("preview", "keep"):
                answer = self.client.post(reverse(name, args=[self.job.pk]), {
                    "base": 1, "zones": self.core.zones[0].id, "design": "crosshatch"})  # fmt: skip
                self.assertContains(answer, "cannot be drawn in this shape", status_code=422)
        workbench_linework._DRAWN.clear()
        workbench_views._ADVISED.clear()
        workbench_linework._LEGENDS.clear()
        self.assertEqual(Job.objects.get(pk=self.job.pk).head.number, 1)

    def test_what_was_changed_on_the_way_in_is_said(self):
        document = write_document(self.core)
        document["legend"][0]["layers"][-1]["settings"]["spacing"] = 99
        file = SimpleUploadedFile("job.json", json.dumps(document).encode())
        answer = self.client.post(reverse("import-job"), {"archive": file}, follow=True)
        self.assertContains(answer, "Taken in with changes")
        self.assertContains(answer, "spacing 99″ became")

    @long
    def test_candy_the_short_way_never_breaks_a_page(self):
        for zone in self.core.zones:
            self.keep(zones=zone.id, design="ribbon_candy", set_turn="short", set_margin="0")
        for name in ("work", "board", "linework"):
            with self.subTest(name):
                answer = self.client.get(reverse(name, args=[self.job.pk]))
                self.assertEqual(answer.status_code, 200)


class AddressTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.client.force_login(self.anna)

    @long
    def test_intake_leads_nowhere_else(self):
        job = make_job(self.studio, self.anna)
        form = self.client.get(reverse("intake", args=[job.pk])).context["form"]
        page = {name: form[name].value() for name in form.fields}
        page = {k: v for k, v in page.items() if v not in (None, False)}
        for then in ("https://elsewhere.example/", "//elsewhere.example", "\\\\x", "\0",
                     "sign-out", "x" * 9000):  # fmt: skip
            with self.subTest(then[:20]):
                base = str(Job.objects.get(pk=job.pk).head.number)
                values = {**page, "base": base, "then": then}
                answer = self.client.post(reverse("intake", args=[job.pk]), values)
                self.assertRedirects(answer, reverse("intake", args=[job.pk]))

    def test_a_day_off_without_end(self):
        for last in ("9999-12-31", "2300-01-01"):
            answer = self.client.post(reverse("calendar"), {
                "what": "off", "first": "2026-12-24", "last": last, "why": ""})  # fmt: skip
            self.assertEqual(answer.status_code, 400)
        self.assertFalse(DayOff.objects.exists())
        # One that was stored before the rule does no harm either.
        DayOff.objects.create(studio=self.studio, first=datetime.date(2026, 12, 1),
                              last=datetime.date.max)  # fmt: skip
        self.assertEqual(self.client.get(reverse("calendar")).status_code, 200)

    def test_a_form_in_another_charset_is_refused_before_anything_looks(self):
        self.client.logout()
        with self.assertNoLogs("django.request", "ERROR"):
            answer = self.client.post(reverse("sign-in"), b"username=+AGEAbg-",
                content_type="application/x-www-form-urlencoded; charset=utf-7")  # fmt: skip
        self.assertContains(answer, "UTF-8", status_code=415)

    def test_an_address_that_cannot_be_right(self):
        self.assertEqual(self.client.get("/jobs/" + "x" * 9000).status_code, 400)
