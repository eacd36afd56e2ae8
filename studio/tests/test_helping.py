"""The guide beside the work, and the way through the first hours."""

from __future__ import annotations

import re

from django.test import TestCase
from django.urls import reverse

from chorograph_core.tests import long
from studio.helping.guide import STAGES, pages
from studio.jobs.models import Job
from studio.quotes.documents import issue
from studio.shelf.starting import stock
from studio.tests.helpers import make_job, make_plan, make_studio


class GuideTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.client.force_login(self.anna)

    def test_every_page_is_laid_out_and_none_of_its_links_leads_astray(self):
        self.assertGreater(len(pages()), 7)
        for key in pages():
            page = self.client.get(reverse("help-page", args=[key])).content.decode()
            body = page[page.index('<article class="prose-guide') : page.index("</article>")]
            self.assertNotRegex(body, r"\]\(|&lt;img|\.md\"")
            for address in re.findall(r'(?:href|src)="([^"#]+)', body):
                with self.subTest(key, address=address):
                    self.assertEqual(self.client.get(address).status_code, 200)

    def test_every_stage_has_its_page(self):
        self.assertEqual(set(STAGES.values()) - set(pages()), set())
        job = make_job(self.studio, self.anna)
        self.assertContains(
            self.client.get(reverse("log", args=[job.pk])), reverse("help-page", args=["log"])
        )

    def test_words_are_found_with_the_place_they_stand_in(self):
        page = self.client.get(reverse("help"), {"q": "ruler foot needle"})
        found = page.context["found"]
        self.assertTrue(found)
        for each in found:
            whole = f"{each.heading} {each.text}".lower()
            self.assertTrue(all(word in whole for word in ("ruler", "foot", "needle")))
            self.assertContains(page, f"#{each.anchor}")
        for words in ("", "zzyzx", "<script>", "\x00", "a" * 900):
            self.assertEqual(self.client.get(reverse("help"), {"q": words}).status_code, 200)

    def test_only_pictures_of_the_guide_are_given_out(self):
        for name in ("..%2F..%2FREADME.md", "settings.py", "no-such.png", "jobs.PNG"):
            self.assertEqual(self.client.get(f"/help/pictures/{name}").status_code, 404)


class FirstHoursTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        stock(self.studio)
        self.client.force_login(self.anna)

    def steps(self):
        return {step.key: step for step in self.client.get(reverse("jobs")).context["steps"]}

    def done(self):
        return {key for key, step in self.steps().items() if step.done}

    @long
    def test_steps_are_ticked_by_what_is_there_or_was_looked_at(self):
        self.assertEqual(self.done(), set())
        for step in self.steps().values():
            self.assertEqual(self.client.get(step.address).status_code, 200)
        self.client.post(reverse("first-step"), {"key": "machine"})
        self.client.post(reverse("first-step"), {"key": "quote"})
        self.assertEqual(self.done(), {"machine"})
        job = make_job(self.studio, self.anna)
        self.assertEqual(self.done(), {"machine", "top", "designs"})
        make_plan(job)
        issue(Job.objects.get(pk=job.pk), self.anna, ["light", "full"])
        self.assertEqual(self.done(), {"machine", "top", "designs", "route", "quote"})
        for step in self.steps().values():
            self.assertEqual(self.client.get(step.address).status_code, 200)

    def test_they_go_out_of_sight_for_her_alone(self):
        self.client.post(reverse("first-step"), {"key": "hidden"})
        self.assertEqual(self.steps(), {})
        _, (berta,) = make_studio("Barn")
        self.client.force_login(berta)
        self.assertEqual(len(self.steps()), 9)
