"""Intake on the stage rail."""

from __future__ import annotations

from django.urls import reverse

from chorograph_core.job import Job as CoreJob
from studio.intake.changes import missing
from studio.jobs.models import Job
from studio.jobs.stages import Stage, stage


@stage(10)
def intake(job: Job, core: CoreJob) -> list[Stage]:
    """What the consult has not brought yet."""
    wanted = missing(core)
    asked = f"{len(wanted)} to ask" if wanted else "done"
    return [Stage("intake", "Intake", reverse("intake", args=[job.pk]), asked, not wanted,
                  f"still to ask: {', '.join(wanted)}" if wanted else "")]  # fmt: skip
