"""Photographs: every good format, every bad file, and who sees them."""

import io
import json
import os
import stat
import subprocess
import sys
import zipfile
from pathlib import Path
from unittest import TestCase as PlainTestCase

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from PIL import Image

from chorograph_core.tests import long
from studio.charting.tracing import begin
from studio.photos.keeping import kept, name_of, storage
from studio.photos.pictures import LONGEST, PictureError, take_in
from studio.tests.helpers import make_job, make_studio, path_of
from studio.tests.pictures import enormous, picture, png, saved, sideways

SCRIPT = b"<script>alert(1)</script>" * 40


class TakingInTests(PlainTestCase):
    def test_every_format_becomes_a_plain_jpeg(self):
        for kind, options in (
            ("JPEG", {}),
            ("PNG", {}),
            ("WEBP", {}),
            ("HEIF", {}),
            ("JPEG", {"progressive": True}),
        ):
            with self.subTest(kind):
                kept = take_in(saved(kind, **options))
                image = Image.open(io.BytesIO(kept.data))
                self.assertEqual((image.format, image.size), ("JPEG", (60, 40)))
                red, blue = image.getpixel((10, 20)), image.getpixel((50, 20))
                self.assertGreater(red[0], red[2])
                self.assertGreater(blue[2], blue[0])

    def test_it_stands_upright_and_says_nothing_of_where_it_was(self):
        data = sideways()
        self.assertIn(b"SecretCamera", data)
        kept = take_in(data)
        self.assertEqual((kept.width, kept.height), (40, 60))
        for each in (kept.data, kept.small):
            image = Image.open(io.BytesIO(each))
            self.assertEqual(dict(image.getexif()), {})
            for word in (b"Secret", b"Exif", b"GPS"):
                self.assertNotIn(word, each)

    def test_clear_parts_turn_white(self):
        kept = take_in(saved("PNG", picture(mode="RGBA")))
        self.assertGreater(min(Image.open(io.BytesIO(kept.data)).getpixel((10, 20))), 240)

    def test_large_ones_shrink_in_proportion(self):
        kept = take_in(saved("JPEG", Image.new("RGB", (5000, 3000), "white")))
        self.assertEqual((kept.width, kept.height), (LONGEST, LONGEST * 3 // 5))
        self.assertEqual(Image.open(io.BytesIO(kept.small)).size, (420, 252))

    def test_other_modes(self):
        for mode in ("L", "P", "CMYK", "1"):
            kind = "JPEG" if mode == "CMYK" else "PNG"
            take_in(saved(kind, Image.new(mode, (9, 9))))

    def test_what_is_no_picture_is_said_plainly(self):
        whole = saved("JPEG", Image.effect_noise((400, 400), 90).convert("RGB"))
        for data, word in (
            (b"", "empty"),
            (SCRIPT, "no picture"),
            (b"GIF89a" + bytes(40), "no picture"),
            (saved("GIF", Image.new("P", (9, 9))), "no picture"),
            (saved("TIFF"), "no picture"),
            (whole[: len(whole) // 2], "breaks off"),
            (png()[:60], "breaks off"),
            (enormous(), "60 megapixels"),
            (enormous(60_000, 60_000), "too large"),
            (b"\x89PNG\r\n\x1a\n" + bytes(50), ""),
            (saved("HEIF")[:200], ""),
        ):
            with self.subTest(data[:12]):
                with self.assertRaises(PictureError) as caught:
                    take_in(data)
                self.assertIn(word, str(caught.exception))


class PhotoCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft")
        cls.other, (cls.berta,) = make_studio("Barn")
        cls.job = make_job(cls.studio, cls.anna)

    def send(self, *files, **more):
        self.client.force_login(self.anna)
        data = {"photos": [SimpleUploadedFile(name, body) for name, body in files], "about": "stains",
                "note": "by the seam", **more}  # fmt: skip
        return self.client.post(
            reverse("photos", args=[self.job.pk]), data, headers={"HX-Request": "true"}
        )


class PhotoPageTests(PhotoCase):
    def test_kept_shown_and_taken_out(self):
        answer = self.send(("../../evil.jpg", sideways()))
        self.assertContains(answer, "by the seam")
        photo = self.job.photos.get()
        path = path_of(photo)
        self.assertTrue(path.is_relative_to(Path(settings.MEDIA_ROOT)))
        self.assertEqual(stat.S_IMODE(path.stat().st_mode), 0o600)
        self.assertNotIn("evil", str(path))
        shown = self.client.get(reverse("photo", args=[self.job.pk, photo.pk]))
        self.assertEqual(shown["Content-Type"], "image/jpeg")
        self.assertEqual(b"".join(shown.streaming_content), path.read_bytes())
        self.assertIn("private", shown["Cache-Control"])
        self.assertEqual(self.job.book.filter(kind="photo").get().text, "Stains: by the seam")
        self.client.post(reverse("drop-photo", args=[self.job.pk, photo.pk]))
        self.assertFalse(path.exists())
        self.assertIn("Took out", self.job.book.filter(kind="photo").first().text)

    def test_a_bad_one_among_good_ones_is_named_and_the_good_are_kept(self):
        answer = self.send(("good.png", png()), ("bad.jpg", SCRIPT), ("half.png", png()[:50]))
        self.assertEqual(answer.status_code, 422)
        self.assertContains(answer, "bad.jpg", status_code=422)
        self.assertContains(answer, "half.png", status_code=422)
        self.assertEqual(self.job.photos.count(), 1)

    def test_no_file_an_unknown_subject_a_huge_file(self):
        self.assertContains(self.send(), "Choose a photograph", status_code=422)
        self.assertContains(
            self.send(("a.png", png()), about="moon"), "what the photograph shows", status_code=422
        )
        with self.settings(LARGEST_PHOTO=50):
            self.assertContains(self.send(("a.png", png())), "may have", status_code=422)
        self.assertEqual(self.job.photos.count(), 0)

    def test_another_studio_sees_none_of_it(self):
        self.send(("a.png", png()))
        photo = self.job.photos.get()
        mine = make_job(self.other, self.berta)
        self.client.force_login(self.berta)
        for job in (self.job, mine):
            for name in ("photo", "drop-photo"):
                address = reverse(name, args=[job.pk, photo.pk])
                self.assertIn(
                    404,
                    (self.client.get(address).status_code, self.client.post(address).status_code),
                )
        self.client.logout()
        self.assertEqual(
            self.client.get(reverse("photo", args=[self.job.pk, photo.pk])).status_code, 302
        )
        self.assertTrue(path_of(photo).exists())

    def test_a_lost_file_is_a_plain_404(self):
        self.send(("a.png", png()))
        photo = self.job.photos.get()
        path_of(photo).unlink()
        self.assertEqual(
            self.client.get(reverse("photo", args=[self.job.pk, photo.pk])).status_code, 404
        )


class ElsewhereTests(PhotoCase):
    """Kept with a service rather than in a folder: nothing of the application asks for a path."""

    @long
    def test_kept_shown_traced_carried_and_taken_out(self):
        kept_in_memory = {
            "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
            "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
        }
        with self.settings(STORAGES=kept_in_memory):
            self.send(("a.png", png((600, 500))))
            photo = self.job.photos.get()
            self.assertFalse(path_of(photo).exists(), "in no folder")
            shown = self.client.get(reverse("photo", args=[self.job.pk, photo.pk]))
            self.assertEqual(b"".join(shown.streaming_content), kept(name_of(photo)))
            tracing = begin(
                self.job, photo, [(0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)], self.anna
            )
            flat = self.client.get(reverse("trace-flat", args=[self.job.pk, tracing.pk]))
            self.assertTrue(b"".join(flat.streaming_content).startswith(b"\xff\xd8"))
            touch = reverse("trace-change", args=[self.job.pk, tracing.pk, "touch"])
            spot = {"x": 2, "y": 2, "likeness": 9}
            answer = self.client.post(touch, spot, headers={"HX-Request": "true"})
            self.assertEqual(answer.status_code, 200)
            box = zipfile.ZipFile(io.BytesIO(self.client.get(reverse("studio-data")).content))
            self.assertTrue([name for name in box.namelist() if name.startswith("photos/")])
            self.client.post(reverse("drop-photo", args=[self.job.pk, photo.pk]))
            self.assertFalse(storage().exists(name_of(photo)))

    def test_where_photographs_are_kept_comes_from_the_environment(self):
        told = """
import json, sys
from studio import settings
print(json.dumps(settings.STORAGES["default"]))
"""
        env = {**os.environ, "CHOROGRAPH_MEDIA": "s3://quilts/photos/of-ours",
               "CHOROGRAPH_S3_ENDPOINT": "http://127.0.0.1:9"}  # fmt: skip
        done = subprocess.run(
            [sys.executable, "-c", told], capture_output=True, text=True, env=env, cwd=settings.HOME
        )
        found = json.loads(done.stdout)
        self.assertEqual(found["BACKEND"], "storages.backends.s3.S3Storage")
        options = found["OPTIONS"]
        self.assertEqual(
            (options["bucket_name"], options["location"]), ("quilts", "photos/of-ours")
        )
        self.assertEqual((options["default_acl"], options["file_overwrite"]), ("private", False))
        self.assertEqual(options["endpoint_url"], "http://127.0.0.1:9")
