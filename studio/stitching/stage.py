"""The machine and the log on the stage rail."""

from __future__ import annotations

from django.urls import reverse

from chorograph_core.job import Job as CoreJob
from studio.jobs.models import Job
from studio.jobs.stages import Stage, stage
from studio.templatetags.measures import hours


@stage(70)
def stitch(job: Job, core: CoreJob) -> list[Stage]:
    """How much of it is stitched, and what it took."""
    behind, whole = job.planned.get("behind", 0.0), job.planned.get("minutes", 0.0)
    says = "to do"
    if behind:
        says = "done" if whole and behind >= whole - 1 else f"{hours(behind)} in"
    done = bool(behind and whole and behind >= whole - 1)
    return [
        Stage("stitch", "Stitch", reverse("stitch", args=[job.pk]), says, done),
        Stage("log", "Log", reverse("log", args=[job.pk]), ""),
    ]
