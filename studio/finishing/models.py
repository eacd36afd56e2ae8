"""What a quilt measured when it was done, and its invoice. Nothing here is ever altered."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.accounts.models import Studio
from studio.jobs.models import Job
from studio.quotes.frozen import Frozen


class Measured(models.Model):
    """The tape, laid once more: inches across and down at three places each, None where it was not laid. The
    newest counts."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="measured")
    at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    widths = models.JSONField()
    heights = models.JSONField()

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.widths} x {self.heights}"

    @property
    def size(self) -> tuple[float, float]:
        """The mean width and height."""
        return _mean(self.widths), _mean(self.heights)


def _mean(values: list[float | None]) -> float:
    known = [value for value in values if value is not None]
    return sum(known) / len(known)


class Invoice(Frozen):
    """A frozen bill. One that is wrong is followed by another in its place."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="invoices")
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="invoices")
    replaces = models.OneToOneField(
        "self", null=True, on_delete=models.PROTECT, related_name="replaced_by"
    )

    class Meta(Frozen.Meta):
        pass

    @property
    def newer(self) -> Invoice | None:
        """The invoice that took this one's place."""
        return getattr(self, "replaced_by", None)
