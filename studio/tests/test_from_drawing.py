"""A chart from a drawing: looked at, taken, refused, undone."""

from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from chorograph_core.tests import long
from chorograph_core.tests.test_drawings import svg
from studio.charting import readings
from studio.charting.models import Reading
from studio.charting.tasks import read_drawing_in
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.tests.helpers import make_job, make_studio

TOP = svg('<rect width="12" height="12" fill="#eeddcc"/><path d="M6 0v11.97M0.02 6H12" fill="none"/>'
          '<circle cx="3" cy="3" r="2" fill="#224466"/><text>words</text>')  # fmt: skip

LARGE = TOP.replace(b"<text>words", b"<text>" + b"words " * 60_000)


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

    @long
    def test_looked_at_first(self):
        answer = self.send(look=True, width="60", tolerance="1/4")
        for word in ("60″ × 60″", "make 5 patches", "2 ends that did not quite meet", "1 texts"):
            self.assertContains(answer, word)
        self.assertEqual(Job.objects.get(pk=self.job.pk).head.number, 1)

    @long
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

    @long
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

    @long
    def test_a_large_one_is_read_by_the_worker_and_taken_from_there(self):
        answer = self.send(LARGE, look=True, width="24")
        self.assertContains(answer, "waiting for the worker")
        reading = self.job.readings.get()
        state = reverse("drawing-state", args=[self.job.pk, reading.pk])
        self.assertContains(self.client.get(state), "hx-trigger")
        told = []
        update = Reading.objects.filter(pk=reading.pk)
        with mock.patch.object(readings, "chart_apart", wraps=readings.chart_apart) as read:
            readings.carry_out(reading)
        self.assertEqual(read.call_count, 1)
        told = update.values_list("state", "progress", "data").get()
        self.assertEqual((told[0], told[1], bytes(told[2])), ("done", 1.0, b""))
        page = self.client.get(state)
        self.assertContains(page, "make 5 patches")
        self.assertContains(page, f'value="{reading.pk}"')
        form = {"base": "9", "reading": reading.pk}
        address = reverse("chart-drawing", args=[self.job.pk])
        self.assertContains(self.client.post(address, form), "changed meanwhile", status_code=400)
        taken = self.client.post(address, {**form, "base": "1"})
        self.assertRedirects(taken, reverse("work", args=[self.job.pk]))
        self.assertEqual(len(self.core().chart.patches), 5)
        self.assertContains(self.client.get(address, {"reading": reading.pk}), "make 5 patches")

    @long
    def test_it_can_be_left_off_at_any_step(self):
        steps = []
        whole = readings.chart_apart

        def slow(*given):
            def tell(share, what):
                steps.append(what)
                if len(steps) == 2:
                    self.client.post(state)
                given[-1](share, what)

            return whole(*given[:-1], tell)

        self.send(LARGE, look=True)
        reading = self.job.readings.get()
        state = reverse("drawing-state", args=[self.job.pk, reading.pk])
        with mock.patch.object(readings, "chart_apart", slow):
            readings.carry_out(reading)
        reading.refresh_from_db()
        self.assertEqual((reading.state, len(steps)), ("left", 2))
        self.assertContains(self.client.get(state), "Left off")
        read_drawing_in(reading.pk)
        self.assertEqual(self.job.readings.get().state, "left")
        self.assertEqual(Job.objects.get(pk=self.job.pk).head.number, 1)

    @long
    def test_what_cannot_be_read_says_so_when_the_worker_comes_to_it(self):
        self.assertEqual(self.send(b"hello" * 90_000).status_code, 302)
        reading = self.job.readings.get()
        page = self.client.get(
            reverse("chart-drawing", args=[self.job.pk]), {"reading": str(reading.pk)}
        )
        self.assertContains(page, "waiting for the worker")
        read_drawing_in(reading.pk)
        state = reverse("drawing-state", args=[self.job.pk, reading.pk])
        self.assertContains(self.client.get(state), "neither an SVG")
        with mock.patch.object(readings, "carry_out", side_effect=MemoryError):
            self.send(LARGE, look=True)
            last = self.job.readings.first()
            with self.assertRaises(MemoryError):
                read_drawing_in(last.pk)
        last.refresh_from_db()
        self.assertEqual(last.state, "failed")
        for text in ("x", "-1", "9" * 30, ""):
            page = self.client.get(reverse("chart-drawing", args=[self.job.pk]), {"reading": text})
            self.assertEqual(page.status_code, 200)

    def test_only_the_last_few_are_kept(self):
        for _ in range(readings.KEPT + 2):
            self.send(LARGE, look=True)
        self.assertEqual(self.job.readings.count(), readings.KEPT)

    @long
    def test_somebody_faster_is_told_of(self):
        self.assertContains(self.send(base="7"), "changed meanwhile", status_code=400)
