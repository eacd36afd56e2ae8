"""What follows from a document is worked out once, whoever asks, and kept by what it follows from."""

import tempfile
import threading
import time
from unittest.mock import patch

from django.test import SimpleTestCase, override_settings
from django.urls import reverse

from studio import derived
from studio.derived import Derived, name_of
from studio.tests.helpers import make_plan
from studio.tests.test_work import WorkCase


def shared_in(folder: str):
    """Settings of an installation whose processes share a folder."""
    backend = "django.core.cache.backends.filebased.FileBasedCache"
    return override_settings(CACHES={"derived": {"BACKEND": backend, "LOCATION": folder}})


class DerivedTests(SimpleTestCase):
    def test_many_who_ask_at_once_wait_for_one(self):
        made, answers = [], []

        def slow():
            time.sleep(0.05)
            made.append(1)
            return len(made)

        kept: Derived[int] = Derived("x")
        threads = [
            threading.Thread(target=lambda: answers.append(kept(("a",), slow))) for _ in range(8)
        ]
        for each in threads:
            each.start()
        for each in threads:
            each.join()
        self.assertEqual(answers, [1] * 8)

    def test_what_breaks_off_is_tried_again_by_the_next(self):
        kept: Derived[int] = Derived("x")

        def broken():
            raise ValueError("no")

        with self.assertRaises(ValueError):
            kept(("a",), broken)
        self.assertEqual(kept(("a",), lambda: 4), 4)

    def test_the_least_used_goes(self):
        kept: Derived[int] = Derived("x", most=2)
        for key in "abac":
            kept((key,), lambda: 1)
        self.assertEqual(kept(("a",), lambda: 2), 1)
        self.assertEqual(kept(("b",), lambda: 2), 2)

    def test_processes_share_a_folder_and_another_version_of_the_code_reads_nothing_of_it(self):
        with tempfile.TemporaryDirectory() as folder, shared_in(folder):
            self.assertEqual(Derived("x", shared=True)(("a",), lambda: 1), 1)
            # Another process keeps nothing yet.
            self.assertEqual(Derived("x", shared=True)(("a",), lambda: 2), 1)
            self.assertEqual(Derived("y", shared=True)(("a",), lambda: 3), 3)
            self.assertEqual(Derived("x")(("a",), lambda: 4), 4, "not shared")
            with patch.object(derived, "code", return_value="newer"):
                self.assertEqual(Derived("x", shared=True)(("a",), lambda: 5), 5)

    def test_none_is_an_answer_too(self):
        with tempfile.TemporaryDirectory() as folder, shared_in(folder):
            Derived("x", shared=True)(("a",), lambda: None)
            self.assertIsNone(Derived("x", shared=True)(("a",), lambda: 2))


class NamedTests(WorkCase):
    """Linework and steps stand under names that say of what they are."""

    def test_a_browser_keeps_what_it_asked_for_by_its_name(self):
        make_plan(self.job)
        self.job.refresh_from_db()
        page = self.client.get(reverse("work", args=[self.job.pk]), {"stage": "route"})
        name = name_of(self.job.head.body_id)
        self.assertContains(page, f"?of={name}")
        address = reverse("linework", args=[self.job.pk])
        named = self.client.get(address, {"of": name})
        self.assertIn("immutable", named["Cache-Control"])
        self.assertIn("private", named["Cache-Control"])
        self.assertEqual(named.content, self.client.get(address).content)
        for other in ({}, {"of": "another"}):
            self.assertIn("no-store", self.client.get(address, other)["Cache-Control"])
        plan = self.job.plans.get()
        steps = reverse("plan-steps", args=[self.job.pk])
        shown = plan.named(self.job.head.body_id)
        self.assertContains(page, f"{steps}?of={shown}")
        self.assertIn("immutable", self.client.get(steps, {"of": shown})["Cache-Control"])
