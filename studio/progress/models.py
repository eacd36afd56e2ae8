"""What a quilter told of the work: append-only, each row with where the work stands after it."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from chorograph_core.formats import read_state
from chorograph_core.route import State
from studio.jobs.models import Job


class Told(models.Model):
    """One thing that was told. *state* is where the work stands after it, *layers* what the layers were in
    which it lies: a digest for each zone/layer. *minutes* are those at the machine that are behind her.

    Where she followed a plan, *plan* is its number and *seconds* how far; then that plan goes on.
    *by_taps*: it was reckoned from what was tapped at the machine, which stays the truth. Nothing is
    altered: what is *taken_back* counts no more.
    """

    KINDS = [
        ("followed", "followed the plan"), ("stitched", "stitched otherwise"),
        ("open", "still to be stitched"), ("cut", "cut the thread"), ("bobbin", "put in a bobbin"),
    ]  # fmt: skip

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="told")
    at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    kind = models.CharField(max_length=8, choices=KINDS)
    says = models.CharField(max_length=300)
    state = models.JSONField()
    layers = models.JSONField(default=dict)
    minutes = models.FloatField(default=0)
    plan = models.BigIntegerField(null=True)
    seconds = models.FloatField(default=0)
    by_taps = models.BooleanField(default=False)
    taken_back = models.BooleanField(default=False)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["job", "-id"], name="told_last")]

    def __str__(self) -> str:
        return self.says

    def standing(self) -> State:
        """Where the work stands after it."""
        return read_state(self.state)


def last_told(job: Job) -> Told | None:
    """The last thing told of a job that still counts."""
    return Told.objects.filter(job=job, taken_back=False).order_by("-pk").first()
