"""Hours at the machine by weekday, and days off."""

from __future__ import annotations

import datetime

from django.contrib.postgres.fields import ArrayField
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import F, Q

from studio.accounts.models import Membership, Studio

MOST = 800
"""Days off in a row that are looked at."""


def _five_days() -> list[float]:
    return [5.0, 5.0, 5.0, 5.0, 5.0, 0.0, 0.0]


def _seven_days() -> ArrayField:
    """Hours for each weekday, Monday first."""
    each = models.FloatField(validators=[MinValueValidator(0.0), MaxValueValidator(16.0)])
    return ArrayField(each, size=7, default=_five_days)


class Week(models.Model):
    """A studio's hours at the machine, Monday first. *left_today* is what is left of the day *today*."""

    studio = models.OneToOneField(Studio, on_delete=models.CASCADE, related_name="week")
    hours = _seven_days()
    long_day = models.FloatField(default=6.0, validators=[MinValueValidator(1.0)])
    today = models.DateField(null=True, blank=True)
    left_today = models.FloatField(
        default=0.0, validators=[MinValueValidator(0.0), MaxValueValidator(16.0)]
    )

    def __str__(self) -> str:
        return f"week of {self.studio_id}"

    def left_of(self, day) -> float:
        """Hours left on *day*, as far as somebody said so: nothing is promised on a guess."""
        return self.left_today if self.today == day else 0.0


class OwnWeek(models.Model):
    """The hours of somebody who stitches at another machine of the studio, Monday first."""

    member = models.OneToOneField(Membership, on_delete=models.CASCADE, related_name="week")
    hours = _seven_days()

    def __str__(self) -> str:
        return f"week of {self.member_id}"


class DayOff(models.Model):
    """Days without the machine, from *first* to *last*."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="days_off")
    first = models.DateField("From")
    last = models.DateField("To")
    why = models.CharField("Why", max_length=120, blank=True)

    class Meta:
        ordering = ["first"]
        constraints = [
            models.CheckConstraint(condition=Q(last__gte=F("first")), name="off_in_order")
        ]

    def __str__(self) -> str:
        return f"{self.first} to {self.last}"

    def days(self, since: datetime.date | None = None) -> list[datetime.date]:
        """Its days, those from *since* on; of very long ones not all."""
        first = max(self.first, since or self.first)
        return [
            first + datetime.timedelta(days=k)
            for k in range(min((self.last - first).days + 1, MOST))
        ]
