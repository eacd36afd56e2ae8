"""Measure again, bill what was agreed, take the thread off the shelf, close the job."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal, InvalidOperation
from typing import Any

from django.db import transaction
from django.utils import timezone

from chorograph_core.estimating.price import Line, extra, totalled
from chorograph_core.measure import METRES_PER_YARD, format_length
from studio.asking import EditError, length_from
from studio.bookings.stock import StockError, book_out
from studio.finishing.models import Invoice, Measured
from studio.job_log.recording import record
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.plain import plain
from studio.prices.lists import core_prices
from studio.quotes.frozen import numbered
from studio.quotes.models import Acceptance
from studio.templatetags.measures import money

EXTRAS = 4
"""Lines that an invoice may have beyond the quote."""
LARGEST = Decimal("99999")
LEAST, MOST = 4.0, 200.0
"""Inches that a quilt measures."""


def measure(job: Job, values: Mapping[str, Any], author, units: str) -> Measured:
    """The tape laid once more. Raises EditError at the field."""
    found: dict[str, list[float | None]] = {"width": [], "height": []}
    for side, places in found.items():
        for number in range(3):
            field = f"{side}{number}"
            given = str(values.get(field, "")).strip()
            places.append(
                length_from(values, field, units, LEAST, MOST, "A quilt measures between "
                            f"{format_length(LEAST, units)} and {format_length(MOST, units)}.")
                if given else None
            )  # fmt: skip
        if not any(place is not None for place in places):
            raise EditError("Lay the tape at least once each way.", f"{side}1")
    made = Measured.objects.create(
        job=job, author=author, widths=found["width"], heights=found["height"]
    )
    width, height = (format_length(inches, units) for inches in made.size)
    record(job, "work", f"Measured when it was done: {width} by {height}.", author)
    return made


def accepted_level(job: Job) -> tuple[Acceptance, dict] | None:
    """What the client accepted last, with the level as it was quoted."""
    taken = (
        Acceptance.objects.filter(quote__job=job).select_related("quote").order_by("-at").first()
    )
    if taken is None:
        return None
    level = next(each for each in taken.quote.document["levels"] if each["key"] == taken.level)
    return taken, level


def extras_from(values: Mapping[str, Any]) -> list[tuple[str, Decimal]]:
    """Lines beyond the quote: a name and an amount each, below zero for what is taken off. Raises
    EditError."""
    found = []
    for number in range(EXTRAS):
        name = plain(values.get(f"extra{number}"), 120)
        text = str(values.get(f"amount{number}", "")).strip().replace(",", ".")
        if not name and not text:
            continue
        if not name:
            raise EditError("Say what this amount is for.", f"extra{number}")
        try:
            amount = Decimal(text)
        except InvalidOperation:
            raise EditError("An amount is written like 12.50.", f"amount{number}") from None
        if not amount.is_finite() or not 0 < abs(amount) <= LARGEST:
            raise EditError("An amount is written like 12.50.", f"amount{number}")
        found.append((name, amount))
    return found


def bill(job: Job, values: Mapping[str, Any], author) -> Invoice:
    """Freeze an invoice from the accepted quote and the extras in *values*, in place of the job's last one.
    Raises EditError."""
    extras = extras_from(values)
    core = core_job(job)
    with transaction.atomic():
        prices = numbered(job, "last_invoice")
        agreed = accepted_level(job)
        if agreed is None and not extras:
            raise EditError("No quote was accepted: write down at least one line.", "extra0")
        last = Invoice.objects.filter(job=job).order_by("-number").first()
        listed = core_prices(prices)
        lines = [extra(listed, name, amount) for name, amount in extras]
        document = _document(job, core, agreed, lines, listed)
        if Decimal(document["total"]) < 0:
            raise EditError("More is taken off than was agreed.", "amount0")
        made = Invoice.objects.create(
            studio=job.studio, job=job, number=prices.last_invoice, author=author,
            document=document, replaces=last,
        )  # fmt: skip
        instead = f", in place of {last.number}" if last else ""
        told = money(document["total"], document["currency"])
        record(job, "quote", f"Invoice {made.number} issued{instead}: {told}.", author)
    return made


def _document(job: Job, core, agreed, lines: Sequence[Line], listed) -> dict:
    """Everything that the invoice shows. What was quoted stands as it was quoted, tax and rounding with it;
    extras are taxed as the studio taxes now."""
    tax, total = totalled(listed, lines) if lines else (None, None)
    rows = [{"name": li.name, "detail": "", "amount": str(li.amount.amount)} for li in lines]
    taxes = Decimal(str(tax.amount)) if tax is not None else Decimal(0)
    whole = Decimal(str(total.amount)) if total is not None else Decimal(0)
    quoted, currency = None, listed.currency
    if agreed is not None:
        taken, level = agreed
        currency = taken.quote.document["currency"]
        quoted = {
            "number": taken.quote.number, "level": level["name"], "name": taken.name,
            "at": taken.at.date().isoformat(), "lines": level["lines"], "total": level["total"],
        }  # fmt: skip
        taxes += Decimal(level["tax"])
        whole += Decimal(level["total"])
    return {
        "studio": job.studio.name, "address": job.studio.address,
        "title": core.title, "client": core.client, "quoted": quoted,
        "extras": rows, "tax": str(taxes), "total": str(whole), "currency": currency,
        "units": job.studio.units,
    }  # fmt: skip


def worked_amount(invoice: Invoice) -> Decimal:
    """What of an invoice was for work: without goods and tax, as far as its lines tell."""
    document = invoice.document
    lines = [*(document["quoted"] or {"lines": []})["lines"], *document["extras"]]
    goods = ("batting", "thread", "binding")
    return sum(
        (
            Decimal(line["amount"])
            for line in lines
            if line["name"].lower().split(" ")[0] not in goods
        ),
        Decimal(0),
    )


def used_from(job: Job, values: Mapping[str, Any]) -> dict[str, Decimal]:
    """Yards used, by the key of the thread, where something was written down: metres, where the studio
    measures so. Raises EditError."""
    used = {}
    metric = job.studio.units == "cm"
    name = "Metres" if metric else "Yards"
    for booking in job.thread_bookings.filter(state="reserved").select_related("thread"):
        field = f"used-{booking.thread.key}"
        text = str(values.get(field, "")).strip().replace(",", ".")
        if not text:
            continue
        try:
            yards = Decimal(text)
        except InvalidOperation:
            raise EditError(f"{name} are written like 120.", field) from None
        if not yards.is_finite() or not 0 <= yards <= 100_000:
            raise EditError(f"{name} are written like 120.", field)
        yards = yards / METRES_PER_YARD if metric else yards
        used[booking.thread.key] = yards.quantize(Decimal("0.1"))
    return used


def take_thread(job: Job, values: Mapping[str, Any], author) -> None:
    """Take off the shelf what was used. Raises EditError."""
    try:
        book_out(job, author, used_from(job, values))
    except StockError as error:
        raise EditError(str(error)) from None


def close(job: Job, author) -> None:
    """Close the job into the book; once. Raises EditError."""
    today = timezone.localdate()
    if not Job.objects.filter(pk=job.pk, closed__isnull=True).update(closed=today):
        raise EditError("This job is closed already.")
    record(job, "work", "Closed: stitched, measured and sent home.", author)


def reopen(job: Job, author) -> None:
    """Take the job out of the book again. Raises EditError."""
    if not Job.objects.filter(pk=job.pk, closed__isnull=False).update(closed=None):
        raise EditError("This job is not closed.")
    record(job, "work", "Taken up again.", author)
