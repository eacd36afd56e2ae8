"""What a quilter drew to practise: how even it was."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.accounts.models import Studio


class Attempt(models.Model):
    """An attempt at a motif and its evenness (see `chorograph_core.designs.attempts`)."""

    WAYS = [("drawn", "drawn here"), ("pictured", "a picture")]

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="attempts")
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="attempts"
    )
    motif = models.CharField(max_length=60)
    way = models.CharField(max_length=8, choices=WAYS)
    made = models.DateTimeField(auto_now_add=True)
    apart = models.FloatField()
    gap = models.FloatField()
    varies = models.FloatField()
    trembles = models.FloatField(null=True)
    units = models.FloatField(null=True)
    filled = models.FloatField(null=True)
    pace = models.FloatField(null=True)
    direction = models.CharField(max_length=5, blank=True)
    marks = models.PositiveSmallIntegerField()

    class Meta:
        ordering = ["-made", "-pk"]
        indexes = [models.Index(fields=["studio", "person", "motif"], name="attempt_of_whom")]

    def __str__(self) -> str:
        return f"{self.motif}: {self.marks}"
