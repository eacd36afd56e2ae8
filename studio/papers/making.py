"""Ask for a paper, make it, say how it stands."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from studio.jobs.models import Job
from studio.papers.kinds import KINDS, Kind, Unwanted
from studio.papers.models import Paper
from studio.writing import written_as


def paper_of(job: Job, kind: Kind) -> Paper | None:
    """The paper of the job as it is now, in whatever state; None when it has to be asked for, once more when
    nobody was heard of for too long."""
    key = kind.key(job)
    found = Paper.objects.filter(job=job, kind=kind.name, key=key).defer("file").first()
    return None if key is None or found is None or found.lost else found


def ask_for(job: Job, kind: Kind) -> Paper | None:
    """Queue a paper, unless it is made or under way. None when there is nothing to print."""
    from studio.papers.tasks import print_paper

    key = kind.key(job)
    if key is None:
        return None
    with transaction.atomic():
        found = paper_of(job, kind)
        if found is not None and found.state != "failed":
            return found
        fresh = {
            "key": key,
            "state": "queued",
            "share": 0.0,
            "heard_of": timezone.now(),
            "file": b"",
        }
        found, _ = Paper.objects.update_or_create(job=job, kind=kind.name, defaults=fresh)
        transaction.on_commit(lambda: print_paper.defer(paper_id=found.pk, key=key))
    return found


def carry_out(paper_id: int, key: str) -> None:
    """Make the paper that was asked for with *key*. If the job has another by now, or another was asked for,
    this one is nobody's."""
    wanted = Paper.objects.filter(pk=paper_id, key=key, state="queued")
    paper = wanted.select_related("job__head", "job__studio").first()
    if paper is None:
        return
    kind = KINDS[paper.kind]
    if kind.key(paper.job) != key:
        wanted.delete()
        return

    def tell(share: float) -> None:
        if not wanted.update(share=share, heard_of=timezone.now()):
            raise Unwanted

    try:
        with written_as(paper.job.studio.locale):
            made = kind.make(paper.job, tell)
    except Unwanted:
        return
    except Exception:
        wanted.update(state="failed")
        raise
    wanted.update(file=made, state="done", share=1)
