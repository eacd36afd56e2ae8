"""New tops, archives in and out, and what a person can get wrong."""

import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from chorograph_core.formats import read_archive
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.tests.helpers import make_job, make_studio

GOOD = {
    "title": "Harbour", "block": "sawtooth_star", "second_block": "nine_patch", "block_size": "9 1/2",
    "rows": "3", "columns": "2", "sashing": "1 1/4", "cornerstones": "on", "border1": "2",
    "corner1": "mitred",
}  # fmt: skip


class NewTopTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio()

    def setUp(self):
        self.client.force_login(self.anna)

    def test_a_top_is_charted_from_the_form(self):
        answer = self.client.post(reverse("new-job"), GOOD)
        job = Job.objects.get()
        self.assertRedirects(answer, reverse("work", args=[job.pk]))
        self.assertAlmostEqual(job.width, 2 * 9.5 + 1.25 + 4)
        self.assertEqual(job.zones, len(core_job(job).chart.patches))

    def test_the_chart_is_shown_while_typing(self):
        answer = self.client.post(reverse("preview-job"), GOOD)
        self.assertContains(answer, "24 1/4″")
        self.assertContains(answer, "<path", count=3 * (17 + 9) + 3 + 4 + 2 + 4 + 1)

    def test_numbers_that_do_not_go_together_are_named_and_kept(self):
        cases = {
            "block_size": "nine", "rows": "0", "columns": "", "sashing": "14", "border1": "-1",
            "border3": "2", "due": "soon",
        }  # fmt: skip
        for field, bad in cases.items():
            with self.subTest(field):
                answer = self.client.post(reverse("new-job"), {**GOOD, field: bad})
                self.assertEqual(answer.status_code, 400)
                self.assertTrue(
                    answer.context["form"].errors.get(field), answer.context["form"].errors
                )
                self.assertContains(answer, bad or "9 1/2", status_code=400)
        self.assertFalse(Job.objects.exists())

    def test_ten_thousand_blocks_are_too_many(self):
        answer = self.client.post(reverse("new-job"), {**GOOD, "rows": "100", "columns": "100"})
        self.assertEqual(answer.status_code, 400)
        self.assertContains(answer, "10,000 blocks", status_code=400)

    def test_the_studios_unit_is_what_a_bare_number_means(self):
        self.studio.units = "cm"
        self.studio.save()
        self.client.post(
            reverse("new-job"), {**GOOD, "block_size": "25.4", "sashing": "", "border1": ""}
        )
        self.assertAlmostEqual(Job.objects.get().width, 20)


class ArchiveTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio()
        cls.job = make_job(cls.studio, cls.anna)

    def setUp(self):
        self.client.force_login(self.anna)

    def upload(self, data: bytes):
        return self.client.post(
            reverse("import-job"), {"archive": SimpleUploadedFile("j.json", data)}
        )

    def test_out_and_in_again(self):
        data = self.client.get(reverse("export-job", args=[self.job.pk])).content
        self.assertEqual(read_archive(data), core_job(self.job))
        answer = self.upload(data)
        copy = Job.objects.exclude(pk=self.job.pk).get()
        self.assertRedirects(answer, reverse("work", args=[copy.pk]))
        self.assertEqual(core_job(copy), core_job(self.job))
        # A whole pair is a character like any other.
        self.assertEqual(
            self.upload(data.replace(b"A small top", b"\\ud83e\\udeb6 top")).status_code, 302
        )

    def test_bad_files_are_refused_with_the_reason(self):
        data = self.client.get(reverse("export-job", args=[self.job.pk])).content
        newer = json.dumps({**json.loads(data), "version": 7}).encode()
        crossed = json.loads(data)
        crossed["chart"]["patches"][0]["polygon"] = [[[0, 0], [4, 4], [4, 0], [0, 4]]]
        cases = [
            (data[: len(data) // 2], "line"), (newer, "newer"), (json.dumps(crossed).encode(), "patches[0]"),
            (b"\0" * 30_000_000, "30 MB"), (data.replace(b'"loft": 0.09', b'"loft": NaN'), "NaN"),
            (data.replace(b"A small top", b"A \\u0000 top"), "no writing has"),
            (data.replace(b"A small top", b"A \\ud800 top"), "no writing has"),
            (data.replace(b"A small top", b"A \\udc00 top"), "no writing has"),
            (b"", "empty"), (b"PK\x03\x04\xff\xfe", "text"),
        ]  # fmt: skip
        for bad, word in cases:
            with self.subTest(word):
                answer = self.upload(bad)
                self.assertContains(answer, word, status_code=400)
        self.assertEqual(Job.objects.count(), 1)
