"""A studio, and the people who work in it."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Studio(models.Model):
    """Everything belongs to a studio; *units* is how it writes lengths. *factors* are the rates it accepted
    of what its log taught, as multiples of the defaults."""

    UNITS = [("in", "inches as fractions"), ("cm", "centimetres")]

    name = models.CharField(max_length=120)
    units = models.CharField(max_length=2, choices=UNITS, default="in")
    factors = models.JSONField(default=dict, blank=True)

    def __str__(self) -> str:
        return self.name


class Sent(models.Model):
    """A form that was sent and did its work, by the token its page was made with."""

    token = models.UUIDField(primary_key=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    location = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(auto_now_add=True, db_index=True)

    def __str__(self) -> str:
        return str(self.token)


class Membership(models.Model):
    """That a person works in a studio."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="memberships")
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships"
    )

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["studio", "person"], name="once_in_a_studio")
        ]

    def __str__(self) -> str:
        return f"{self.person} in {self.studio}"
