"""Another job like one there is; a job put away, or deleted after some weeks in which it can be taken
back."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

from django.db import transaction
from django.dispatch import Signal
from django.utils import timezone

from studio.jobs.models import Body, Job, Revision
from studio.jobs.revisions import core_job, create_job

DAYS = 30
"""Days after which a job that was deleted is gone."""
must_stay = Signal()
"""Asked with *job* before it is deleted: a receiver answers a sentence that says why it must stay, or
nothing."""
rests = Signal()
"""A *job* is put away or to be deleted: what it holds is free for others."""
comes_back = Signal()
"""A *job* is taken out, or back, and rests no more."""
told = Signal()
"""What was done with a *job* by its *author*, as *said*, for its book."""
going = Signal()
"""A job is deleted for good, with its files."""


class KeepingError(ValueError):
    """What cannot be done with a job. The message says why."""


def duplicate(job: Job, author) -> Job:
    """Another job with the same top, zones and designs; what was promised and measured of this one is left
    out."""
    core = core_job(job)
    wishes = replace(core.intake.wishes, level="")
    intake = replace(core.intake, wishes=wishes, at_hand="", taken="")
    fresh = replace(core, title=f"{core.title[:180]}, again", due="", intake=intake)
    return create_job(job.studio, author, fresh, f"Made from {core.title[:200]}")


def put_away(job: Job, author) -> None:
    """Out of the list and the calendar; nothing of it is lost. Raises KeepingError, as the others do."""
    _rest(job, author, "away", "Put away.", "This job is put away already.")


def take_out(job: Job, author) -> None:
    """Back into the list."""
    _come_back(job, author, "away", "Taken out again.", "This job is not put away.")


def drop(job: Job, author) -> None:
    """Delete it in some weeks, unless it must be kept."""
    for _, why in must_stay.send(Job, job=job):
        if why:
            raise KeepingError(why)
    said = f"Deleted; to be taken back within {DAYS} days."
    _rest(job, author, "dropped", said, "This job is to be deleted already.")


def take_back(job: Job, author) -> None:
    """It is not deleted after all."""
    _come_back(job, author, "dropped", "Taken back.", "This job is not to be deleted.")


@transaction.atomic
def _rest(job: Job, author, field: str, said: str, fault: str) -> None:
    if not Job.objects.filter(pk=job.pk, **{field: None}).update(**{field: timezone.now()}):
        raise KeepingError(fault)
    told.send(Job, job=job, author=author, said=said)
    rests.send(Job, job=job)


@transaction.atomic
def _come_back(job: Job, author, field: str, said: str, fault: str) -> None:
    if not Job.objects.filter(pk=job.pk).exclude(**{field: None}).update(**{field: None}):
        raise KeepingError(fault)
    told.send(Job, job=job, author=author, said=said)
    # What was put away and deleted is put away still when it is taken back.
    if Job.objects.here().filter(pk=job.pk).exists():
        comes_back.send(Job, job=job)


def clear_out() -> int:
    """Delete for good what was deleted long enough ago; how many that were."""
    gone = 0
    for job in Job.objects.filter(dropped__lt=timezone.now() - timedelta(days=DAYS)):
        if any(why for _, why in must_stay.send(Job, job=job)):
            continue
        with transaction.atomic():
            going.send(Job, job=job)
            bodies = list(Revision.objects.filter(job=job).values_list("body_id", flat=True))
            Job.objects.filter(pk=job.pk).update(head=None)
            Revision.objects.filter(job=job).update(undo=None, redo=None)
            Job.objects.get(pk=job.pk).delete()
            used = Revision.objects.filter(body_id__in=bodies).values_list("body_id", flat=True)
            Body.objects.filter(pk__in=set(bodies) - set(used)).delete()
        gone += 1
    return gone
