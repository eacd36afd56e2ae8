"""Lists of a studio as CSV, for whoever reckons with them elsewhere."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterable, Iterator
from decimal import Decimal
from typing import Any

from studio.accounts.models import Studio
from studio.finishing.models import Invoice
from studio.jobs.models import Job
from studio.quotes.models import Quote
from studio.shelf.models import Thread, with_reserved
from studio.stitching.models import Tap

Row = list[Any]
BEGINS = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet takes for a formula: such text is written with a mark before it."""


def cell(value: Any) -> Any:
    """A value as it is safe to open in a spreadsheet: numbers as they are, text that would be reckoned
    marked.

    >>> cell("=1+1"), cell(-2.5), cell(None)
    ("'=1+1", -2.5, '')
    """
    if value is None:
        return ""
    if isinstance(value, str) and value.startswith(BEGINS):
        return f"'{value}"
    return value


def written(rows: Iterable[Row]) -> bytes:
    """Rows as CSV (RFC 4180) in UTF-8 with a mark that spreadsheets know it by."""
    out = io.StringIO()
    writer = csv.writer(out)
    for row in rows:
        writer.writerow([cell(value) for value in row])
    return out.getvalue().encode("utf-8-sig")


def jobs(studio: Studio) -> Iterator[Row]:
    """A job a row; lengths in inches."""
    yield ["title", "client", "due", "width_in", "height_in", "zones", "with_design", "stage",
           "minutes_planned", "closed", "made"]  # fmt: skip
    for job in Job.objects.filter(studio=studio, dropped__isnull=True):
        minutes = job.planned.get("minutes")
        yield [job.title, job.client, job.due, job.width, job.height, job.zones, job.assigned, job.stage,
               None if minutes is None else round(minutes, 1), job.closed, job.made.date()]  # fmt: skip


def threads(studio: Studio) -> Iterator[Row]:
    """A thread a row, as it can be taken in again; lengths in yards."""
    yield ["name", "weight", "fibre", "colour", "cone_yd", "left_yd", "reserved_yd"]
    for each in with_reserved(Thread.objects.filter(studio=studio)):
        yield [each.name, each.weight, each.fibre, each.colour, each.cone, each.left,
               each.reserved or Decimal(0)]  # fmt: skip


def quotes(studio: Studio) -> Iterator[Row]:
    """A level of a quote a row, invoices below."""
    yield [
        "what",
        "number",
        "date",
        "job",
        "client",
        "level",
        "total",
        "currency",
        "accepted_by",
        "accepted_on",
    ]
    for quote in (
        Quote.objects.filter(studio=studio).select_related("acceptance").order_by("number")
    ):
        taken = getattr(quote, "acceptance", None)
        document = quote.document
        for level in document["levels"]:
            chosen = taken is not None and taken.level == level["key"]
            yield ["quote", quote.number, quote.at.date(), document["title"], document["client"],
                   level["name"],
                   Decimal(level["total"]), document["currency"], taken.name if taken and chosen else None,
                   taken.at.date() if taken and chosen else None]  # fmt: skip
    for invoice in Invoice.objects.filter(studio=studio).order_by("number"):
        document = invoice.document
        yield ["invoice", invoice.number, invoice.at.date(), document["title"], document["client"], None,
               Decimal(document["total"]), document["currency"], None, None]  # fmt: skip


def log(studio: Studio) -> Iterator[Row]:
    """A tap at the machine a row; seconds and inches."""
    yield [
        "at",
        "job",
        "what",
        "of",
        "place",
        "thread",
        "seconds_foretold",
        "seconds_since_last",
        "inches",
        "words",
    ]
    taps = Tap.objects.filter(job__studio=studio).order_by("job_id", "at", "seq", "pk")
    names = ("at", "job__title", "kind", "facts", "lasted", "text")
    for at, title, kind, facts, lasted, text in taps.values_list(*names).iterator():
        yield [at.isoformat(timespec="seconds"), title, kind, facts.get("title"), facts.get("place"),
               facts.get("thread"), facts.get("seconds"), lasted, facts.get("inches"), text]  # fmt: skip


TABLES: dict[str, Callable[[Studio], Iterator[Row]]] = {
    "jobs": jobs, "threads": threads, "quotes": quotes, "log": log,
}  # fmt: skip
