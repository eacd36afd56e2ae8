"""What a studio has and does: thread on its shelf, designs it used of late."""

from __future__ import annotations

from collections import Counter

from chorograph_core.choosing import Custom
from chorograph_core.designs import designs
from studio.jobs.models import Job
from studio.jobs.revisions import core_job

QUILTS = 8
"""Jobs that are looked at for habits, the newest first."""


def custom_of(job: Job) -> Custom:
    """Of the studio of *job*, its other jobs and its shelf."""
    left = {thread.key: float(thread.left) for thread in job.studio.threads.all()}
    others = (
        job.studio.jobs.exclude(pk=job.pk)
        .select_related("head__body")
        .order_by("-head__at", "pk")[:QUILTS]
    )
    used: Counter[str] = Counter()
    quilts = 0
    for other in others:
        found = {layer.design for entry in core_job(other).legend for layer in entry.layers}
        quilts += bool(found)
        used.update(
            key for key in found if key in designs() and designs()[key].role in ("fill", "motif")
        )
    # Sorted: what is tried for it is kept by it, and every process must call it the same.
    return Custom(dict(sorted(left.items())), dict(sorted(used.items())), quilts)
