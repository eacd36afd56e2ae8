"""What photographs hear of jobs that go for good."""

from __future__ import annotations

from django.db import transaction
from django.dispatch import receiver

from studio.jobs.keeping import going
from studio.photos.keeping import names_of, storage


@receiver(going)
def files_too(sender, job, **more) -> None:
    """Their files go with them, once it is sure that they do."""
    names = [name for photo in job.photos.all() for name in names_of(photo)]
    transaction.on_commit(lambda: [storage().delete(name) for name in names])
