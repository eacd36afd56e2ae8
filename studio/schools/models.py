"""What a way of working takes on one quilt. Derived: it can be thrown away and planned again."""

from __future__ import annotations

from django.db import models
from django.utils import timezone

from studio.jobs.in_hand import SILENCE
from studio.jobs.models import Job
from studio.progress.models import Told
from studio.routes.models import engine


class Weighed(models.Model):
    """One way of working, by its *key*: the answers in which it differs, a change that may help, or a *wish*.
    *result* are its figures, *says* the sentence where it cannot be."""

    STATES = [("queued", "queued"), ("done", "done"), ("failed", "failed")]

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="weighed")
    digest = models.CharField(max_length=64)
    engine = models.CharField(max_length=20, default=engine)
    told = models.ForeignKey(Told, null=True, on_delete=models.CASCADE, related_name="weighed")
    key = models.CharField(max_length=400)
    wish = models.JSONField(default=dict)
    state = models.CharField(max_length=8, choices=STATES, default="queued")
    result = models.JSONField(default=dict)
    says = models.CharField(max_length=300, blank=True)
    asked = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["job", "digest", "engine", "told", "key"], name="weighed_once",
                nulls_distinct=False,
            )
        ]  # fmt: skip

    def __str__(self) -> str:
        return f"{self.key or 'as it is'}: {self.state}"

    @property
    def waiting(self) -> bool:
        """Whether a worker may still have it in hand."""
        waited = (timezone.now() - self.asked).total_seconds()
        return self.state == "queued" and waited <= SILENCE
