"""What bookings hear of jobs that rest, and come back."""

from __future__ import annotations

from django.dispatch import receiver

from studio.bookings.models import Booking
from studio.bookings.stock import reserve
from studio.jobs.keeping import comes_back, rests


@receiver(rests)
def set_free(sender, job, **more) -> None:
    """Thread that was reserved for it is free for others."""
    Booking.objects.filter(job=job, state="reserved").delete()


@receiver(comes_back)
def reserve_again(sender, job, **more) -> None:
    """What its planned route needs is reserved again, if it is still to be stitched."""
    if job.planned.get("yards") and not job.closed:
        reserve(job, job.planned["yards"])
