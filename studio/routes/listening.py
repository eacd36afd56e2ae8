"""A job knows what its route says about hours and thread: calendar and quotes read it there."""

from __future__ import annotations

from django.dispatch import receiver

from studio.jobs.signals import job_changed
from studio.routes.planning import note_on_job


@receiver(job_changed)
def note_plan(sender, *, job, **_) -> None:
    """An undo brings the figures of its route back; another change takes them away."""
    note_on_job(job)
