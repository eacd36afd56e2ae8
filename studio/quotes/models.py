"""Prices, quotes that are never altered, and the links by which clients see them."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.utils import timezone

from studio.accounts.models import Studio
from studio.jobs.models import Job
from studio.quotes.frozen import Frozen


class Quote(Frozen):
    """A frozen offer. It is superseded by a newer one, never edited."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="quotes")
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="quotes")
    supersedes = models.OneToOneField(
        "self", null=True, on_delete=models.PROTECT, related_name="superseded_by"
    )

    class Meta(Frozen.Meta):
        pass

    @property
    def newer(self) -> Quote | None:
        """The quote that took this one's place."""
        return getattr(self, "superseded_by", None)

    @property
    def accepted(self) -> Acceptance | None:
        """Who accepted it, if anybody did."""
        return getattr(self, "acceptance", None)


class Acceptance(models.Model):
    """That a client took one level of a quote. Once only: the database sees to it."""

    quote = models.OneToOneField(Quote, on_delete=models.CASCADE, related_name="acceptance")
    level = models.CharField(max_length=20)
    name = models.CharField(max_length=120)
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"{self.level} by {self.name}"


def _new_key() -> str:
    return secrets.token_urlsafe(18)


class ClientLink(models.Model):
    """A link by which a client sees one quote. The address carries the *key*, signed."""

    quote = models.ForeignKey(Quote, on_delete=models.CASCADE, related_name="links")
    key = models.CharField(max_length=40, unique=True, default=_new_key, editable=False)
    made = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    expires = models.DateTimeField()
    revoked = models.DateTimeField(null=True)
    seen = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made"]
        constraints = [
            models.UniqueConstraint(
                fields=["quote"], condition=Q(revoked__isnull=True), name="one_open_link"
            )
        ]

    def __str__(self) -> str:
        return f"link to quote {self.quote_id}"

    @property
    def open(self) -> bool:
        """Whether it still leads anywhere."""
        return self.revoked is None and self.expires > timezone.now()
