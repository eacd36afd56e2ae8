"""A paper of a job, made or being made. Derived: it can be thrown away and made again."""

from __future__ import annotations

from django.db import models

from studio.jobs.in_hand import InHand
from studio.jobs.models import Job


class Paper(InHand):
    """The newest paper of a *kind* of a job, or how far its making has come.

    *key* names what it is made of; it is no longer the paper once that is another.
    """

    STATES = [("queued", "queued"), ("done", "done"), ("failed", "failed")]

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="papers")
    kind = models.CharField(max_length=20)
    key = models.CharField(max_length=64)
    state = models.CharField(max_length=8, choices=STATES, default="queued")
    share = models.FloatField(default=0)
    file = models.BinaryField(default=b"")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "kind"], name="one_paper_of_a_kind")]

    def __str__(self) -> str:
        return f"{self.state} {self.kind} of {self.job_id}"

    @property
    def lost(self) -> bool:
        """Whether the worker that had it in hand has not been heard of for too long."""
        return self.state == "queued" and self.silent
