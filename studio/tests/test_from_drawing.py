"""A chart from a drawing: looked at, taken, refused, undone."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from chorograph_core.tests.test_drawings import svg
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.tests.helpers import make_job, make_studio

TOP = svg('<rect width="12" height="12" fill="#eeddcc"/><path d="M6 0v11.97M0.02 6H12" fill="none"/>'
          '<circle cx="3" cy="3" r="2" fill="#224466"/><text>words</text>')  # fmt: skip


class DrawingPageTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft", "anna")
        cls.job = make_job(cls.studio, cls.anna)

    def setUp(self):
        self.client.force_login(self.anna)

    def send(self, data=TOP, look=False, name="top.svg", **values):
        headers = {"HX-Request": "true"} if look else {}
        form = {"base": "1", "file": SimpleUploadedFile(name, data), **values}
        return self.client.post(reverse("chart-drawing", args=[self.job.pk]), form, headers=headers)

    def core(self):
        return core_job(Job.objects.select_related("head").get(pk=self.job.pk))

    def test_looked_at_first(self):
        answer = self.send(look=True, width="60", tolerance="1/4")
        for word in ("60″ × 60″", "make 5 patches", "2 ends that did not quite meet", "1 texts"):
            self.assertContains(answer, word)
        self.assertEqual(Job.objects.get(pk=self.job.pk).head.number, 1)

    def test_taken_and_undone(self):
        before = self.core()
        self.assertRedirects(
            self.send(width="24", tolerance="1/8"), reverse("work", args=[self.job.pk])
        )
        core = self.core()
        self.assertEqual(
            (len(core.chart.patches), round(core.chart.width, 3), core.survey), (5, 24, None)
        )
        self.assertIn("#224466", {fabric.colour for fabric in core.chart.fabrics})
        self.assertIn("make 5 patches", self.job.book.first().text)
        self.client.post(reverse("step-back", args=[self.job.pk, "undo"]), {"base": "2"})
        self.assertEqual(self.core(), before)

    def test_refused_with_the_reason(self):
        for data, values, word in (
            (b"<svg", {}, "breaks off"), (b"hello", {}, "neither an SVG"), (b"", {}, "empty"),
            (TOP, {"width": "wide"}, "not a length"), (TOP, {"tolerance": "9"}, "Between"),
            (TOP, {"width": "400"}, "say how wide"), (svg("<text>a</text>"), {}, "only 1 texts"),
            (svg('<path d="M0 0L4 4"/>'), {}, "enclose nothing"),
        ):  # fmt: skip
            with self.subTest(word):
                answer = self.send(data, **values)
                self.assertContains(answer, word, status_code=400)
                self.assertEqual(self.send(data, look=True, **values).status_code, 200)
        self.assertEqual(Job.objects.get(pk=self.job.pk).head.number, 1)

    def test_somebody_faster_is_told_of(self):
        self.assertContains(self.send(base="7"), "changed meanwhile", status_code=400)
