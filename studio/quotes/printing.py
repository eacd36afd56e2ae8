"""A quote as page and PDF, from its frozen document alone."""

from __future__ import annotations

import datetime

from django.conf import settings
from django.template.loader import render_to_string

from studio.quotes.models import Quote


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
    }  # fmt: skip


def pdf(quote: Quote) -> bytes:
    """The quote as PDF."""
    from weasyprint import HTML

    page = render_to_string("quotes/quote.html", {**context(quote), "printing": True})
    return HTML(string=page, base_url=str(settings.HERE / "static")).write_pdf()


def _day(text: str) -> datetime.date | None:
    return datetime.date.fromisoformat(text) if text else None
