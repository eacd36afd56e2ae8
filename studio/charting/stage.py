"""Chart on the stage rail."""

from __future__ import annotations

from django.urls import reverse

from chorograph_core.job import Job as CoreJob
from studio.jobs.models import Job
from studio.jobs.stages import Stage, stage


@stage(20)
def chart(job: Job, core: CoreJob) -> list[Stage]:
    """How many patches there are; one alone is a top not charted yet."""
    patches = len(core.chart.patches)
    return [Stage("chart", "Chart", reverse("chart", args=[job.pk]),
                  f"{patches} patches" if patches > 1 else "to do", patches > 1)]  # fmt: skip
