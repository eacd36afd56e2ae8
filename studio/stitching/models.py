"""What was tapped at the machine, and what a studio accepted of what it teaches."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.accounts.models import Studio
from studio.jobs.models import Job


class Tap(models.Model):
    """One thing that was tapped at the machine, or written down afterwards. Append-only.

    *key* is given by the device, so that what is sent twice counts once; *seq* numbers the taps of a device.
    *claimed* is when it was by the device's clock, *at* when it was by ours. *leg* is that of the *plan* it
    was tapped on, *lasted* the seconds since the tap before, by a clock that does not jump. *facts* are
    what the leg was: what was foretold, of what, where; so that a log outlives its plan.
    """

    KINDS = [
        ("done", "done"), ("back", "taken back"), ("skip", "left for later"),
        ("other", "stitched otherwise"), ("rip", "ripped out"), ("stop", "stopped"), ("go", "went on"),
        ("rest", "break"), ("broke", "thread broke"), ("bobbin", "bobbin ran out"),
        ("needle", "new needle"), ("cut", "cut early"), ("note", "note"), ("hand", "written down"),
        ("set", "settings"),
    ]  # fmt: skip

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="taps")
    key = models.UUIDField()
    device = models.CharField(max_length=40)
    seq = models.BigIntegerField(default=0)
    at = models.DateTimeField()
    claimed = models.DateTimeField(null=True)
    received = models.DateTimeField(auto_now_add=True)
    kind = models.CharField(max_length=6, choices=KINDS)
    plan = models.BigIntegerField(null=True)
    leg = models.IntegerField(null=True)
    lasted = models.FloatField(null=True)
    text = models.CharField(max_length=500, blank=True)
    facts = models.JSONField(default=dict)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ["at", "seq", "pk"]
        constraints = [models.UniqueConstraint(fields=["job", "key"], name="tapped_once")]
        indexes = [models.Index(fields=["job", "at", "seq"], name="tap_order")]

    def __str__(self) -> str:
        return f"{self.kind} {self.leg if self.leg is not None else ''}".strip()


class Accepted(models.Model):
    """Factors that a studio accepted of what its log teaches. Append-only: the newest counts; without
    *factors* the defaults do."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="accepted")
    at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    factors = models.JSONField(default=dict)
    things = models.IntegerField(default=0)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{len(self.factors)} rates from {self.things} things"
