"""Thread that a job will take off the shelf, or has taken."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from studio.jobs.models import Job
from studio.shelf.models import NOT_BELOW, Thread


class Booking(models.Model):
    """Yards of a thread that a job will take (reserved) or has taken (booked out)."""

    STATES = [("reserved", "reserved"), ("out", "booked out")]

    thread = models.ForeignKey(Thread, on_delete=models.CASCADE, related_name="bookings")
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="thread_bookings")
    yards = models.DecimalField(max_digits=9, decimal_places=1, validators=[NOT_BELOW])
    state = models.CharField(max_length=8, choices=STATES, default="reserved")
    at = models.DateTimeField(auto_now=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["thread", "job"], condition=Q(state="reserved"), name="reserved_once"
            ),
            models.CheckConstraint(condition=Q(yards__gte=0), name="booking_not_negative"),
        ]

    def __str__(self) -> str:
        return f"{self.yards} yd of {self.thread_id} {self.state}"
