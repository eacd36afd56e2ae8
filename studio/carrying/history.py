"""What happened on a job, to go out beside its archive: the book, quotes, invoices, taps, the tape at the
end, where the work stands. How it comes in again: see `history_in`."""

from __future__ import annotations

from typing import Any

from studio.jobs.models import Job
from studio.progress.models import last_told

BOOK = ("at", "who", "kind", "text")
FROZEN = ("number", "at", "document")
TAP = ("key", "device", "seq", "at", "claimed", "kind", "leg", "lasted", "text", "facts")
TOLD = ("kind", "says", "state", "layers", "minutes", "by_taps")


def history_of(job: Job) -> dict[str, Any]:
    """All of it as plain values. Who of the studio did something goes by the name others see."""
    told = last_told(job)
    return {
        "closed": job.closed, "level": job.level, "away": job.away is not None,
        "book": [
            {**_of(entry, BOOK), "who": entry.who or _name(entry.author)}
            for entry in job.book.select_related("author").order_by("pk")
        ],
        "quotes": [
            {**_of(quote, FROZEN), "supersedes": quote.supersedes and quote.supersedes.number,
             "accepted": _of(quote.accepted, ("level", "name", "at")) if quote.accepted else None}
            for quote in job.quotes.select_related("supersedes", "acceptance").order_by("number")
        ],
        "invoices": [
            {**_of(bill, FROZEN), "replaces": bill.replaces and bill.replaces.number}
            for bill in job.invoices.select_related("replaces").order_by("number")
        ],
        "measured": [_of(each, ("at", "widths", "heights")) for each in job.measured.order_by("pk")],
        "taps": [_of(tap, TAP) for tap in job.taps.order_by("pk")],
        "stands": _of(told, TOLD) if told is not None else None,
    }  # fmt: skip


def _of(row: Any, names: tuple[str, ...]) -> dict[str, Any]:
    return {name: getattr(row, name) for name in names}


def _name(person) -> str:
    return "" if person is None else person.first_name or person.username
