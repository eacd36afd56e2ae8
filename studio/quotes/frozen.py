"""Documents about money: frozen, numbered within a studio, one in place of another but never altered."""

from __future__ import annotations

from typing import Literal

from django.conf import settings
from django.db import models
from django.db.models import F

from studio.jobs.models import Job
from studio.prices.lists import prices_of
from studio.prices.models import Prices


class Frozen(models.Model):
    """A *document* under a *number* of its own, as plain JSON that no later change can reach. What is made
    of it says whose it is, ``studio`` and ``job``."""

    number = models.PositiveIntegerField()
    at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    document = models.JSONField()

    class Meta:
        abstract = True
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["studio", "number"], name="%(class)s_number_once")
        ]

    def __str__(self) -> str:
        return f"{type(self).__name__} {self.number}"

    def save(self, *args, **kwargs) -> None:
        """Frozen once it is issued."""
        if self.pk is not None:
            raise TypeError(f"{self} is never changed; issue a new one.")
        super().save(*args, **kwargs)


def numbered(job: Job, field: Literal["last_number", "last_invoice"]) -> Prices:
    """The studio's price list with the next number in *field*, its row locked: two documents issued at once
    get two numbers, one after the other. Within a transaction, in which the job is locked first: what is
    decided of it cannot slip in between."""
    Job.objects.select_for_update().only("pk").get(pk=job.pk)
    prices = Prices.objects.select_for_update().get(pk=prices_of(job.studio).pk)
    setattr(prices, field, F(field) + 1)
    prices.save(update_fields=[field])
    prices.refresh_from_db()
    return prices
