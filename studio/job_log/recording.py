"""Write into the job book."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.contrib.auth.models import AbstractBaseUser

from chorograph_core.job import Job as CoreJob
from studio.job_log.facts import facts_of
from studio.job_log.models import Entry, Facts

if TYPE_CHECKING:
    from studio.jobs.models import Job, Revision


def record(
    job: Job,
    kind: str,
    text: str,
    author: AbstractBaseUser | None = None,
    who: str = "",
    revision: Revision | None = None,
) -> Entry:
    """Add a line to the book of *job*; *who* names somebody who is no member of the studio."""
    return Entry.objects.create(
        job=job, kind=kind, text=text, author=author, who=who[:200], revision=revision
    )


def write_facts(job: Job, core: CoreJob) -> None:
    """Write anew what the job is like now, for searching."""
    Facts.objects.update_or_create(job=job, defaults={"text": facts_of(core)})
