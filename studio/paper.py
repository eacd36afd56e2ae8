"""Pages on paper: a template laid out by WeasyPrint, with the styles and fonts that ship."""

from __future__ import annotations

from functools import lru_cache
from threading import Lock

from django.conf import settings
from django.template.loader import render_to_string

SIZES = {"letter": "Letter", "a4": "A4"}
"""Papers by their key, as a stylesheet calls them."""


_printing = Lock()
"""Printing uses fonts that are shared by all that is printed in this process, one paper after the other."""


def laid_out(template: str, context: dict, paper: str = "letter"):
    """*template* laid out on *paper*, a WeasyPrint document; it is told that it is ``printing``."""
    with _printing:
        return _laid_out(template, context, paper)


def pdf_of(template: str, context: dict, paper: str = "letter") -> bytes:
    """*template* as PDF, tagged for who listens to it, on *paper*."""
    with _printing:
        return _laid_out(template, context, paper).write_pdf(pdf_tags=True)


def _laid_out(template: str, context: dict, paper: str):
    # WeasyPrint takes a second to load, which only those who print should wait for.
    from weasyprint import CSS, HTML

    page = render_to_string(template, {**context, "printing": True})
    fonts, styles = _fonts()
    size = CSS(string=f"@page {{ size: {SIZES.get(paper, 'Letter')} }}")
    base = str(settings.HERE / "static")
    return HTML(string=page, base_url=base).render(font_config=fonts, stylesheets=[styles, size])


@lru_cache(maxsize=1)
def _fonts():
    """The fonts that ship, unpacked once: that takes two seconds, more than most papers."""
    from weasyprint import CSS
    from weasyprint.text.fonts import FontConfiguration

    fonts = FontConfiguration()
    return fonts, CSS(
        filename=str(settings.HERE / "static" / "studio" / "fonts.css"), font_config=fonts
    )
