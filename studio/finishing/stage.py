"""The last stage on the rail."""

from __future__ import annotations

from django.urls import reverse

from chorograph_core.job import Job as CoreJob
from studio.jobs.models import Job
from studio.jobs.stages import Stage, stage
from studio.writing import written_day


@stage(90)
def finish(job: Job, core: CoreJob) -> list[Stage]:
    """Whether it is closed."""
    says = f"closed {written_day(job.closed)}" if job.closed else ""
    return [
        Stage(
            "finish",
            "Finish",
            reverse("finish", args=[job.pk]),
            says,
            bool(job.closed),
            priced=True,
        )
    ]
