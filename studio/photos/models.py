"""Photographs of a top, as they were kept."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from chorograph_core.estimating import CONDITIONS
from studio.jobs.models import Job

ABOUT = [
    ("whole", "The whole top"), *CONDITIONS.items(), ("first", "The first block of a kind"),
    ("done", "The finished quilt"), ("other", "Something else"),
]  # fmt: skip


class Photo(models.Model):
    """One photograph. Its files lie in the media folder under its id; nobody else's name is used."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="photos")
    about = models.CharField(max_length=20, choices=ABOUT, default="whole")
    note = models.CharField(max_length=300, blank=True)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ["at"]

    def __str__(self) -> str:
        return f"{self.get_about_display()}{f': {self.note}' if self.note else ''}"
