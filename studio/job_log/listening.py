"""Every change of a job goes into its book."""

from __future__ import annotations

from django.dispatch import receiver

from studio.job_log.recording import record, write_facts
from studio.jobs.keeping import told
from studio.jobs.signals import job_changed


@receiver(job_changed)
def write_down(sender, *, job, core, revision, summary, author, **_) -> None:
    """One line for the change, and the facts as they now are."""
    record(job, "change", summary, author, revision=revision)
    write_facts(job, core)


@receiver(told)
def write_what_was_said(sender, *, job, author, said, **_) -> None:
    """That it was put away or deleted, and came back."""
    record(job, "note", said, author)
