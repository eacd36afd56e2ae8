"""Thread in stock: reserved when a route is planned, booked out when it is stitched."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import ROUND_UP, Decimal

from django.db import IntegrityError, transaction
from django.db.models import F

from chorograph_core.measure import in_units
from studio.bookings.models import Booking
from studio.job_log.recording import record
from studio.jobs.models import Job
from studio.shelf.models import Thread, with_reserved

TENTH = Decimal("0.1")


class StockError(ValueError):
    """The thread cannot be taken. The message says how much is missing."""


@dataclass(frozen=True)
class Need:
    """What a job takes of a thread, in yards, top and bobbin together.

    *thread* is the one on the shelf, None where the shelf has none of that key. *free* is what is
    left when all other jobs have what was reserved for them, nothing where that is more than there is;
    *short* what is missing of *yards* then, and *buy* how many cones make that good.
    """

    key: str
    name: str
    yards: Decimal
    thread: Thread | None
    free: Decimal
    short: Decimal
    buy: int


def reserve(job: Job, yards: Mapping[str, float]) -> None:
    """Reserve what the route of *job* needs, *yards* of top thread by key, in place of what was.

    As much again is reserved for the bobbin. Nothing is refused here: what runs short is shown.
    """
    threads = {t.key: t for t in Thread.objects.filter(studio=job.studio_id, key__in=list(yards))}
    with transaction.atomic():
        held = Booking.objects.select_for_update().filter(job=job, state="reserved")
        held.exclude(thread__in=list(threads.values())).delete()
        for key, thread in threads.items():
            needed = _tenths(2 * yards[key])
            Booking.objects.update_or_create(
                job=job, thread=thread, state="reserved", defaults={"yards": needed}
            )


def needs_of(job: Job) -> list[Need]:
    """What is reserved for *job*, and whether there is enough."""
    held = Booking.objects.filter(job=job, state="reserved").values_list("thread", "yards")
    mine = dict(held)
    threads = with_reserved(Thread.objects.filter(pk__in=mine))
    return [_need(thread, mine[thread.pk]) for thread in threads]


def _need(thread: Thread, yards: Decimal) -> Need:
    # What others lack is told of them: no job misses more than it takes.
    free = max(Decimal(0), thread.left - (thread.reserved - yards))
    short = max(Decimal(0), yards - free)
    buy = math.ceil(short / thread.cone)
    return Need(thread.key, thread.name, yards, thread, free, short, buy)


def book_out(job: Job, author, used: Mapping[str, Decimal] | None = None) -> list[Booking]:
    """Take from the shelf what was reserved for *job*, now that it is stitched; or what was *used*, yards by
    key of the thread, where that is known.

    Raises `StockError` when a cone does not hold it; then nothing at all is taken. The database
    refuses to go below zero, so two who book at the same moment cannot both have the last yards.
    """
    with transaction.atomic():
        held = list(
            Booking.objects.select_for_update(of=("self",))
            .filter(job=job, state="reserved")
            .select_related("thread")
            .order_by("thread")
        )
        if not held:
            raise StockError("Nothing is reserved for this job: plan its route first.")
        for booking in held:
            booking.yards = (used or {}).get(booking.thread.key, booking.yards)
            _take(booking.thread, booking.yards)
            booking.state, booking.author = "out", author
            booking.save()
        said = ", ".join(f"{b.thread.name} {b.yards:.0f} yd" for b in held)
        said = in_units(f"Stitched. Thread taken off the shelf: {said}.", job.studio.units)
        record(job, "thread", said, author)
    return held


def _take(thread: Thread, yards: Decimal) -> None:
    try:
        with transaction.atomic():
            Thread.objects.filter(pk=thread.pk).update(left=F("left") - yards)
    except IntegrityError:
        left = Thread.objects.values_list("left", flat=True).get(pk=thread.pk)
        said = (
            f"{thread.name}: {yards:.0f} yd are needed and {left:.0f} yd are on the shelf. "
            f"Put the new cone on the shelf first, or correct what is left."
        )
        raise StockError(in_units(said, thread.studio.units)) from None


def _tenths(yards: float) -> Decimal:
    return Decimal(repr(float(yards))).quantize(TENTH, ROUND_UP)
