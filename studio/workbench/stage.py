"""Zones and designs on the stage rail."""

from __future__ import annotations

from django.urls import reverse

from chorograph_core.job import Job as CoreJob
from studio.jobs.models import Job
from studio.jobs.stages import Stage, stage


@stage(30)
def zones_and_designs(job: Job, core: CoreJob) -> list[Stage]:
    """How many zones there are, and how many want a design yet."""
    here = reverse("work", args=[job.pk])
    banned = len(core.untouchable)
    bare = max(0, len(core.zones) - banned - job.assigned)
    return [
        Stage("zones", "Zones", f"{here}?stage=zones",
              f"{job.zones}{f', {banned} banned' if banned else ''}"),
        Stage("designs", "Designs", f"{here}?stage=designs", f"{bare} to do" if bare else "done",
              not bare),
    ]  # fmt: skip
