"""Pages on paper: a template laid out by WeasyPrint, with the styles and fonts that ship."""

from __future__ import annotations

from django.conf import settings
from django.template.loader import render_to_string

SIZES = {"letter": "Letter", "a4": "A4"}
"""Papers by their key, as a stylesheet calls them."""


def laid_out(template: str, context: dict, paper: str = "letter"):
    """*template* laid out on *paper*, a WeasyPrint document; it is told that it is ``printing``."""
    # WeasyPrint takes a second to load, which only those who print should wait for.
    from weasyprint import CSS, HTML

    page = render_to_string(template, {**context, "printing": True})
    size = CSS(string=f"@page {{ size: {SIZES.get(paper, 'Letter')} }}")
    base = str(settings.HERE / "static")
    return HTML(string=page, base_url=base).render(stylesheets=[size])


def pdf_of(template: str, context: dict, paper: str = "letter") -> bytes:
    """*template* as PDF, tagged for who listens to it, on *paper*."""
    return laid_out(template, context, paper).write_pdf(pdf_tags=True)
