"""Charts that are being made from something else: a drawing the worker reads, a traced photograph."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from studio.jobs.in_hand import InHand
from studio.jobs.models import Job
from studio.photos.models import Photo


class Reading(InHand):
    """A drawing that the worker reads into a chart: the file, how far it is, and what came of it.

    *document* is an archive that holds nothing but the chart; *said* what was taken and mended.
    """

    STATES = [("queued", "queued"), ("running", "running"), ("done", "done"),
              ("failed", "failed"), ("left", "left")]  # fmt: skip

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="readings")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now_add=True)
    name = models.CharField(max_length=200)
    data = models.BinaryField(default=b"")
    width = models.FloatField(default=0)
    tolerance = models.FloatField()
    state = models.CharField(max_length=8, choices=STATES, default="queued")
    progress = models.FloatField(default=0)
    message = models.CharField(max_length=400, blank=True)
    said = models.JSONField(default=list)
    document = models.JSONField(default=dict)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.state} reading of {self.name}"

    @property
    def lost(self) -> bool:
        """Whether the worker that had it in hand has not been heard of for too long."""
        return self.state in ("queued", "running") and self.silent


class Tracing(models.Model):
    """A photograph squared to its top, and the outlines found on it, in inches.

    *corners* are the top's corners in the photograph, as shares of its width and height, from the
    top left clockwise; *size* the width and height they stand for; *shapes* rings of points; *past*
    what each change took away and how many it added, so that it can be undone.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="tracings")
    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="tracings")
    corners = models.JSONField()
    width = models.FloatField()
    height = models.FloatField()
    shapes = models.JSONField(default=list)
    past = models.JSONField(default=list)
    at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"tracing of {self.photo_id}"
