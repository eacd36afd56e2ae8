"""Dates that a quote promised are kept free until they lapse.

A quote holds its dates for `DAYS_HELD` days from its issue, or as long as its link is open: what the page
behind the link says is what the calendar keeps.
"""

from __future__ import annotations

import datetime

from django.utils import timezone

from studio.jobs.models import Job
from studio.quotes.models import Quote

DAYS_HELD = 7


def held_until(quote: Quote) -> datetime.date:
    """The last day on which the dates of *quote* can be had for the asking."""
    days = [timezone.localtime(quote.at).date() + datetime.timedelta(days=DAYS_HELD)]
    days += [timezone.localtime(link.expires).date() for link in quote.links.all()
             if link.revoked is None]  # fmt: skip
    return max(days)


def note_held(job: Job) -> None:
    """Write on *job* what its newest quote holds. An accepted quote holds nothing more: its date is
    the job's own from then on."""
    last = Quote.objects.filter(job=job).select_related("acceptance").order_by("-number").first()
    held: dict = {}
    if last is not None and last.accepted is None:
        levels = [[level["earliest"], level.get("booked", level["hours"][1])]
                  for level in last.document["levels"] if level["earliest"]]  # fmt: skip
        if levels:
            held = {"until": held_until(last).isoformat(), "levels": levels, "quote": last.number}
    if held != job.held:
        job.held = held
        Job.objects.filter(pk=job.pk).update(held=held)
