"""A planned route. Derived: it can be thrown away and planned again from the same document."""

from __future__ import annotations

import zlib

import msgspec
from django.db import models

from chorograph_core.designs.drawing import ENGINE as DRAWING
from chorograph_core.route.planner import ENGINE as PLANNING
from studio.derived import name_of
from studio.jobs.in_hand import InHand
from studio.jobs.models import Job
from studio.languages.telling import spoken
from studio.progress.models import Told

NOT_YET = "not yet"
"""What stands in the figures of a first answer in place of what the replay found."""
LONGEST = 10_000_000
"""Seconds along a plan; a quilt takes a hundred thousand."""


def engine() -> str:
    """The version of what draws and plans: what an older one made is made again."""
    return f"{DRAWING}.{PLANNING}"


class Plan(InHand):
    """The route for one state of a job's work, or how far its planning has come.

    *digest* is that of `Revision.work`: what the route depends on, words left out; *engine* the
    version of what planned it. A plan that is done and *improving* is a first answer: a better one is being
    looked for; one that is not, and says nothing of its replay yet, is being proved. *told* is from where
    it goes on; None for a plan from the first stitch.
    """

    STATES = [("queued", "queued"), ("running", "running"), ("done", "done"),
              ("failed", "failed"), ("left", "left")]  # fmt: skip

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="plans")
    digest = models.CharField(max_length=64)
    told = models.ForeignKey(Told, null=True, on_delete=models.CASCADE, related_name="plans")
    engine = models.CharField(max_length=20, default=engine)
    state = models.CharField(max_length=8, choices=STATES, default="queued")
    progress = models.FloatField(default=0)
    message = models.CharField(max_length=300, blank=True)
    figures = models.JSONField(default=dict)
    packed = models.BinaryField(default=b"")
    planned = models.DateTimeField(null=True)
    improving = models.BooleanField(default=False)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["job", "digest", "engine", "told"],
                name="planned_once_from",
                nulls_distinct=False,
            )
        ]

    def __str__(self) -> str:
        return f"{self.state} plan of {self.job_id}"

    @property
    def lost(self) -> bool:
        """Whether the worker that had it in hand has not been heard of for too long."""
        waiting = self.state in ("queued", "running") or self.first
        return waiting and self.silent

    @property
    def first(self) -> bool:
        """Whether it is a first answer: shown, and neither bettered nor proved yet."""
        return self.state == "done" and self.figures.get("replay") == NOT_YET

    @property
    def shown(self) -> str:
        """Which of its answers it is by now: what a page shows is another when this is."""
        if not self.first:
            return "proved"
        return "first" if self.improving else "found"

    def named(self, body: str) -> str:
        """A name for what is shown of it with the document *body*: another plan, another name."""
        return name_of(self.pk, str(self.planned), body, spoken())

    def pack(self, route: bytes) -> None:
        """Keep the route's JSON."""
        self.packed = zlib.compress(route, 6)

    def unpacked(self) -> bytes:
        """The route's JSON."""
        return zlib.decompress(bytes(self.packed))

    def route(self) -> dict:
        """The route as parsed JSON."""
        return msgspec.json.decode(self.unpacked())
