"""The quote on the stage rail."""

from __future__ import annotations

from django.urls import reverse

from chorograph_core.job import Job as CoreJob
from studio.jobs.models import Job
from studio.jobs.stages import Stage, stage
from studio.quotes.models import Quote


@stage(60)
def quote(job: Job, core: CoreJob) -> list[Stage]:
    """The newest quote, and whether it was accepted."""
    last = Quote.objects.filter(job=job).select_related("acceptance").defer("document").first()
    accepted = last is not None and last.accepted is not None
    says = "to do" if last is None else f"no. {last.number}{', accepted' if accepted else ''}"
    return [Stage("quote", "Quote", reverse("quotes", args=[job.pk]), says, accepted, priced=True)]
