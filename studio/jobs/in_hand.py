"""Something that a worker has in hand, which from time to time says that it is still there."""

from __future__ import annotations

from django.db import models
from django.utils import timezone

SILENCE = 180
"""Seconds without a word after which the worker is taken to be gone: what it had in hand may be asked for
again."""


class InHand(models.Model):
    """When the worker was last *heard of*; until then, when it was asked for."""

    heard_of = models.DateTimeField(default=timezone.now)

    class Meta:
        abstract = True

    @property
    def silent(self) -> bool:
        """Whether nobody was heard of for too long."""
        return (timezone.now() - self.heard_of).total_seconds() > SILENCE
