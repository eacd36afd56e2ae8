"""Pages on paper: a template laid out by WeasyPrint, with the styles and fonts that ship."""

from __future__ import annotations

from django.conf import settings
from django.template.loader import render_to_string


def laid_out(template: str, context: dict):
    """*template* laid out on paper, a WeasyPrint document; it is told that it is ``printing``."""
    # WeasyPrint takes a second to load, which only those who print should wait for.
    from weasyprint import HTML

    page = render_to_string(template, {**context, "printing": True})
    return HTML(string=page, base_url=str(settings.HERE / "static")).render()


def pdf_of(template: str, context: dict) -> bytes:
    """*template* as PDF."""
    return laid_out(template, context).write_pdf()
