"""Photographs of a top, as they were kept, and what was traced from them."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from chorograph_core.office import CONDITIONS
from studio.jobs.models import Job

ABOUT = [("whole", "The whole top"), *CONDITIONS.items(), ("other", "Something else")]


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


class Tracing(models.Model):
    """A photograph squared to its top, and the outlines found on it, in inches.

    *corners* are the top's corners in the photograph, as shares of its width and height, from the
    top left clockwise; *size* the width and height they stand for; *shapes* rings of points; *past*
    what each change took away and how many it added, so that it can be undone.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="tracings")
    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="tracings")
    corners = models.JSONField()
    width = models.FloatField()
    height = models.FloatField()
    shapes = models.JSONField(default=list)
    past = models.JSONField(default=list)
    at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"tracing of {self.photo_id}"
