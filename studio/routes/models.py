"""A planned route. Derived: it can be thrown away and planned again from the same document."""

from __future__ import annotations

import json
import zlib

from django.db import models
from django.utils import timezone

from studio.jobs.models import Job

SILENCE = 180
"""Seconds without a word from the worker after which a plan may be asked for again."""


class Plan(models.Model):
    """The route for one state of a job's work, or how far its planning has come.

    *digest* is that of `Revision.work`: what the route depends on, words left out.
    """

    STATES = [("queued", "queued"), ("running", "running"), ("done", "done"),
              ("failed", "failed"), ("left", "left")]  # fmt: skip

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="plans")
    digest = models.CharField(max_length=64)
    state = models.CharField(max_length=8, choices=STATES, default="queued")
    progress = models.FloatField(default=0)
    message = models.CharField(max_length=300, blank=True)
    figures = models.JSONField(default=dict)
    packed = models.BinaryField(default=b"")
    planned = models.DateTimeField(null=True)
    heard_of = models.DateTimeField(default=timezone.now)
    pdf_state = models.CharField(max_length=8, blank=True)
    pdf = models.BinaryField(default=b"")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "digest"], name="planned_once")]

    def __str__(self) -> str:
        return f"{self.state} plan of {self.job_id}"

    @property
    def lost(self) -> bool:
        """Whether the worker that had it in hand has not been heard of for too long."""
        silent = timezone.now() - self.heard_of
        return self.state in ("queued", "running") and silent.total_seconds() > SILENCE

    def pack(self, route: bytes) -> None:
        """Keep the route's JSON."""
        self.packed = zlib.compress(route, 6)

    def unpacked(self) -> bytes:
        """The route's JSON."""
        return zlib.decompress(bytes(self.packed))

    def route(self) -> dict:
        """The route as parsed JSON."""
        return json.loads(self.unpacked())
