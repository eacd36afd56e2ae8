"""A quote as page and PDF, from its frozen document alone."""

from __future__ import annotations

import datetime

from studio.paper import pdf_of
from studio.quotes.holding import held_until
from studio.quotes.models import Quote
from studio.writing import written_as


def context(quote: Quote) -> dict:
    """Everything a quote's page shows."""
    document = quote.document
    levels = [
        {**level, "earliest": _day(level["earliest"]), "chosen": bool(quote.accepted)
         and quote.accepted.level == level["key"]}
        for level in document["levels"]
    ]  # fmt: skip
    return {
        "quote": quote, "document": document, "levels": levels, "due": _day(document["due"]),
        "units": document["units"], "currency": document["currency"],
        "held": held_until(quote),
    }  # fmt: skip


def pdf(quote: Quote) -> bytes:
    """The quote as PDF, as the studio writes to its clients."""
    with written_as(quote.job.studio.locale):
        return pdf_of("quotes/quote.html", context(quote), quote.job.studio.paper)


def _day(text: str) -> datetime.date | None:
    return datetime.date.fromisoformat(text) if text else None
