"""A job and its revisions. What is stored is the archive document; all else is derived."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from studio.accounts.models import Studio


class Body(models.Model):
    """A job document, stored once for each different content. *digest* is its SHA-256."""

    digest = models.CharField(max_length=64, primary_key=True)
    document = models.JSONField()

    def __str__(self) -> str:
        return self.digest[:12]


class JobQuerySet(models.QuerySet):
    """Jobs, those that are put away or to be deleted among them."""

    def here(self) -> JobQuerySet:
        """Those that are neither put away nor to be deleted."""
        return self.filter(away__isnull=True, dropped__isnull=True)


class Job(models.Model):
    """One client's top. What lists show is copied from the document.

    *width* and *height* are those measured where the tape was laid, else the chart's; *level* the
    level of work wished for, *taken* the day of the consult. *planned* holds what its route says
    (``minutes``, ``yards`` of top thread by key), empty when there is none for the job as it is; *held*
    the dates that a quote promised and until when they are kept free (see `quotes.holding`). *closed* is the
    day on which it was stitched, billed and sent home. *away*: put away since then; *dropped*: to be
    deleted, said then.
    """

    STAGES = [
        ("chart", "Chart"), ("zones", "Zones"), ("designs", "Designs"), ("route", "Route"),
        ("stitch", "Stitch"),
    ]  # fmt: skip

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="jobs")
    title = models.CharField(max_length=200)
    client = models.CharField(max_length=200, blank=True)
    due = models.DateField(null=True, blank=True)
    width = models.FloatField(default=0)
    height = models.FloatField(default=0)
    zones = models.PositiveIntegerField(default=0)
    assigned = models.PositiveIntegerField(default=0)
    stage = models.CharField(max_length=12, choices=STAGES, default="zones")
    thumbnail = models.JSONField(default=list)
    frame = models.CharField(max_length=60, default="0 0 1 1")
    head = models.ForeignKey("Revision", null=True, on_delete=models.PROTECT, related_name="+")
    level = models.CharField(max_length=20, blank=True)
    taken = models.DateField(null=True, blank=True)
    repair_hours = models.FloatField(default=0)
    bind = models.BooleanField(default=False)
    at_hand = models.DateField(null=True, blank=True)
    planned = models.JSONField(default=dict)
    held = models.JSONField(default=dict)
    closed = models.DateField(null=True, blank=True)
    made = models.DateTimeField(auto_now_add=True)
    away = models.DateTimeField(null=True, blank=True)
    dropped = models.DateTimeField(null=True, blank=True)

    objects = JobQuerySet.as_manager()

    class Meta:
        ordering = [
            models.F("closed").asc(nulls_first=True), models.F("due").asc(nulls_last=True), "title",
        ]  # fmt: skip

    def __str__(self) -> str:
        return self.title


class Revision(models.Model):
    """One change: who, when, what. Never altered. *undo* and *redo* say where those lead.

    *work* is the digest of what a route depends on: a revision that only changes words keeps it.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now_add=True)
    summary = models.CharField(max_length=300)
    work = models.CharField(max_length=64, default="")
    body = models.ForeignKey(Body, on_delete=models.PROTECT)
    undo = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="+")
    redo = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="numbered_once")]

    def __str__(self) -> str:
        return f"{self.number}: {self.summary}"

    def save(self, *args, **kwargs) -> None:
        """Append only: a revision that is stored stays as it is."""
        if self.pk is not None:
            raise TypeError("A revision is never changed.")
        super().save(*args, **kwargs)

    @property
    def is_step(self) -> bool:
        """Whether it is an undo or a redo."""
        return self.summary.startswith(("Undo: ", "Redo: "))
