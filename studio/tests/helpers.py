"""Studios, people and jobs for tests."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from django.contrib.auth import get_user_model
from django.test import TestCase
from django.urls import reverse

from chorograph_core.tests.shapes import designed, small_top
from studio.accounts.models import Membership, Studio
from studio.demo import tops as demo
from studio.jobs.models import Job
from studio.jobs.revisions import core_job, create_job
from studio.photos.keeping import name_of, storage
from studio.photos.models import Photo
from studio.routes.models import Plan
from studio.routes.planning import carry_out


def make_studio(name: str = "Loft", *people: str) -> tuple[Studio, list]:
    """A studio and the people who work in it."""
    studio = Studio.objects.create(name=name)
    made = []
    for person in people or (f"{name.lower()}-anna",):
        user = get_user_model().objects.create_user(person, password="thread-and-needle")
        Membership.objects.create(studio=studio, person=user)
        made.append(user)
    return studio, made


def make_job(studio: Studio, author, rows: int = 1, columns: int = 1) -> Job:
    """A small designed job."""
    return create_job(studio, author, designed(small_top(rows, columns)), "made for a test")


class ChangingCase(TestCase):
    """A signed-in person with a small designed job, whose work view she changes."""

    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.job = make_job(self.studio, self.anna)
        self.client.force_login(self.anna)

    def change(self, act: str, status: int = 204, **values):
        """Post one change on the newest revision."""
        self.job.refresh_from_db()
        values = {"base": self.job.head.number, **values}
        answer = self.client.post(reverse("change", args=[self.job.pk, act]), values)
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer

    @property
    def core(self):
        """The job as it is now."""
        return core_job(Job.objects.select_related("head").get(pk=self.job.pk))


def make_applique_job(studio: Studio, author, applique: str = "outline") -> Job:
    """A job with leaves sewn on and half its zones designed."""
    core = demo.pinwheels()
    core = replace(core, policy=replace(core.policy, applique=applique))
    return create_job(studio, author, core, "made for a test")


def intake_form(**changes) -> dict:
    """What a browser posts for an intake: every text field, and the changes."""
    return {"base": "1", "title": "A small top", "client": "", "cloth_width": "42",
            "backing_source": "client", "edge_finish": "binding", "applique": "full",
            "level": "", **changes}  # fmt: skip


def path_of(photo: Photo, small: bool = False) -> Path:
    """The file of a photograph, where photographs are kept in a folder."""
    return Path(storage().path(name_of(photo, small)))


def make_plan(job: Job) -> Plan:
    """The job's route, planned here and now."""
    plan = Plan.objects.create(job=job, digest=job.head.work)
    carry_out(plan, first_answer=False)
    return plan
