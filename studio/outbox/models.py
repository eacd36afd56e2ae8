"""A simulated outbox: letters that would have been sent. Nothing leaves the machine."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.accounts.models import Studio
from studio.jobs.models import Job


class Letter(models.Model):
    """A letter to a client, as it would have gone out."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="letters")
    to = models.CharField(max_length=200)
    subject = models.CharField(max_length=200)
    text = models.TextField()
    at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return self.subject


class Mail(models.Model):
    """A mail that would have been sent: for a *studio*, or to a *person* about herself, such as the way to a
    new password."""

    studio = models.ForeignKey(Studio, null=True, on_delete=models.CASCADE, related_name="mails")
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.CASCADE, related_name="mails"
    )
    to = models.EmailField()
    subject = models.CharField(max_length=200)
    text = models.TextField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return self.subject
