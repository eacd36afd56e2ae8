"""What the finish says of jobs that shall be deleted."""

from __future__ import annotations

from django.dispatch import receiver

from studio.finishing.models import Invoice
from studio.jobs.keeping import must_stay


@receiver(must_stay)
def billed(sender, job, **more) -> str:
    """An invoice has to be kept for years, and what it is of with it."""
    first = Invoice.objects.filter(job=job).first()
    if first is None:
        return ""
    return (
        f"Invoice {first.number} was issued for this job, and books have to be kept: "
        f"put the job away instead."
    )
