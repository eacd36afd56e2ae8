"""Store and change jobs: every change is a new revision, none overwrites another's."""

from __future__ import annotations

import datetime
import hashlib
import json
from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from chorograph_core.estimating import SIDES, Measures, fullness
from chorograph_core.estimating.own_rates import rates_with
from chorograph_core.formats import ArchiveError, read_document, write_document
from chorograph_core.job import Job as CoreJob
from chorograph_core.reckon import Rates
from chorograph_core.route import Policy
from chorograph_core.steering.schools import worked
from studio.accounts.models import Studio
from studio.jobs.models import Body, Job, Revision
from studio.jobs.signals import job_changed
from studio.jobs.thumbnail import thumbnail
from studio.shelf.choices import rulers_of


class Conflict(Exception):
    """Somebody else changed the job first. *since* are the revisions the person has not seen."""

    def __init__(self, since: list[Revision]) -> None:
        super().__init__("The job was changed meanwhile.")
        self.since = since


class Unsound(Exception):
    """What a change would leave could not be read again; it is not kept."""


class NothingLeft(Exception):
    """There is nothing to undo or redo."""


def digest_of(document: dict[str, Any]) -> str:
    """SHA-256 of a document in a canonical spelling."""
    text = json.dumps(document, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()


WORDS = ("title", "client", "due", "survey", "blocks", "groups", "intake")
"""Parts of a document that no stitch depends on (but the batting and tucks, see `work_digest`)."""


def work_digest(document: dict[str, Any]) -> str:
    """Digest of what a route depends on, so that a word in the intake leaves the route standing."""
    batting = (document.get("intake") or {}).get("batting") or {}
    rest = {key: value for key, value in document.items() if key not in WORDS}
    loft = [batting.get("loft"), batting.get("layers")]
    tucks = _tucks(document)
    # A job without any keeps the digest it had.
    return digest_of({**rest, "loft": loft, **({"tucks": tucks} if tucks else {})})


def _tucks(document: dict[str, Any]) -> list[list]:
    """The tucks that a border takes: steps of the plan."""
    measures = (document.get("intake") or {}).get("measures") or {}
    four = {key: tuple(measures.get(key) or ()) for key in ("borders", "bodies")}
    if any(len(each) != len(SIDES) for each in four.values()):
        return []
    return [[each.side, each.tucks] for each in fullness(Measures(**four)) if each.tucks]


@lru_cache(maxsize=24)
def core_of(digest: str) -> CoreJob:
    """The job whose document has this *digest*."""
    return read_document(Body.objects.get(pk=digest).document, own=True)


def core_job(job: Job) -> CoreJob:
    """The job as the core sees it, at its newest revision."""
    return core_of(job.head.body_id)


def create_job(studio: Studio, author: AbstractBaseUser | None, core: CoreJob, summary: str) -> Job:
    """Store a new job with its first revision."""
    # A job carries the rulers it is laid out for; those of the studio, whoever wrote the archive.
    core = replace(core, rulers=rulers_of(studio) or core.rulers)
    if studio.factors and core.machine.rates == Rates():
        # It takes as long as the studio's own hand does, as far as she accepted what her log says.
        machine = replace(core.machine, rates=rates_with(studio.factors))
        core = replace(core, machine=machine)
    if studio.ways and core.policy == Policy():
        core = worked(core, studio.ways)
    with transaction.atomic():
        job = Job.objects.create(studio=studio, title=core.title)
        _append(job, author, core, summary, None, None)
    return job


def change_job(
    job_id,
    base: int | None,
    author,
    change: Callable[[CoreJob], CoreJob],
    summary: str | Callable[[CoreJob, CoreJob], str],
) -> Revision:
    """Apply *change* to the newest document, if *base* is still the newest revision.

    *base* None stands for whatever is newest: for changes that touch nothing a person has on her
    screen. *summary* may be made from before and after. Raises `Conflict` if somebody was faster;
    whatever *change* raises leaves the job as it was.
    """
    with transaction.atomic():
        job = _locked(job_id, base)
        before = core_job(job)
        after = change(before).settled()
        if after == before:
            return job.head
        said = summary if isinstance(summary, str) else summary(before, after)
        return _append(job, author, after, said, job.head, None)


def undo(job_id, base: int, author) -> Revision:
    """Go back one change, as a new revision."""
    return _step(job_id, base, author, "undo")


def redo(job_id, base: int, author) -> Revision:
    """Take back an undo, as a new revision."""
    return _step(job_id, base, author, "redo")


def _step(job_id, base: int, author, way: str) -> Revision:
    """Take over the content an undo or redo leads to; from there, both go on as they did then."""
    with transaction.atomic():
        try:
            job = _locked(job_id, base)
        except Conflict as conflict:
            # Quick fingers: the page did not have the last step yet, but it was her own.
            if any(each.author_id != author.pk or not each.is_step for each in conflict.since):
                raise
            job = _locked(job_id, None)
        head = job.head
        goal = getattr(head, way)
        if goal is None:
            raise NothingLeft(f"There is nothing to {way}.")
        told, forth = (head, head) if way == "undo" else (goal, goal.redo)
        summary = f"{way.capitalize()}: {told.summary}"
        return _append(job, author, core_of(goal.body_id), summary, goal.undo, forth)


def _locked(job_id, base: int | None) -> Job:
    job = Job.objects.select_for_update().get(pk=job_id)
    job.head = Revision.objects.select_related("undo", "redo", "author").get(pk=job.head_id)
    if base is not None and job.head.number != base:
        since = job.revisions.filter(number__gt=base).select_related("author")
        raise Conflict(list(since))
    return job


def _refuse_unsound(core: CoreJob) -> None:
    """No fault of ours may leave a job that cannot be opened: names must be told apart."""
    for what in (core.zones, core.chart.patches):
        if len({each.id for each in what}) != len(what):
            raise Unsound("That change went wrong and was not kept. The job is as it was.")


def _append(job: Job, author, core: CoreJob, summary: str, back, forth) -> Revision:
    _refuse_unsound(core)
    try:
        # Read back before it is stored: what cannot be read again is not kept, and a 10 that comes
        # back as 10.0 makes no second document of the same content.
        document = write_document(read_document(write_document(core), own=True))
    except ArchiveError as error:
        raise Unsound(f"That change went wrong and was not kept: {error}") from None
    digest = digest_of(document)
    Body.objects.get_or_create(digest=digest, defaults={"document": document})
    number = job.head.number + 1 if job.head_id else 1
    revision = Revision.objects.create(
        job=job, number=number, author=author, summary=summary[:300], body_id=digest,
        undo=back, redo=forth, work=work_digest(document),
    )  # fmt: skip
    job.head = revision
    job.title, job.client = core.title[:200] or "Untitled", core.client[:200]
    job.due = _date(core.due)
    job.width, job.height = core.size
    job.repair_hours = core.intake.wishes.repair_hours
    job.bind, job.at_hand = core.intake.wishes.bind, _date(core.intake.at_hand)
    job.thumbnail = thumbnail(core.chart)
    job.frame = f"0 0 {core.chart.width:.1f} {core.chart.height:.1f}"
    job.zones = len(core.zones)
    job.assigned = sum(len(entry.zones) for entry in core.legend)
    open_zones = len(core.zones) - len(core.untouchable)
    job.stage = (
        "chart" if len(core.chart.patches) == 1 and not job.assigned
        else "zones" if not job.assigned
        else "route" if job.assigned >= open_zones else "designs"
    )  # fmt: skip
    job.level = core.intake.wishes.level[:20]
    job.taken = _date(core.intake.taken)
    job.save()
    job_changed.send(Job, job=job, core=core, revision=revision, summary=summary, author=author)
    return revision


def _date(text: str) -> datetime.date | None:
    try:
        return datetime.date.fromisoformat(text) if text else None
    except ValueError:
        return None
