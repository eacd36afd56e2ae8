"""Pages on paper: a template laid out by WeasyPrint, with the styles and fonts that ship."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from threading import Lock

from django.conf import settings
from django.template.loader import render_to_string

SIZES = {"letter": "Letter", "a4": "A4"}
"""Papers by their key, as a stylesheet calls them; any other size is said as a stylesheet does."""


_printing = Lock()
"""Printing uses fonts that are shared by all that is printed in this process, one paper after the other."""


def _nothing(share: float) -> None:
    """Nobody is told."""


def laid_out(template: str, context: dict, paper: str = "letter"):
    """*template* laid out on *paper*, a WeasyPrint document; it is told that it is ``printing``."""
    with _printing:
        return _laid_out(render_to_string(template, {**context, "printing": True}), paper)


def pdf_of(
    template: str, context: dict, paper: str = "letter", tell: Callable[[float], None] = _nothing
) -> bytes:
    """*template* as PDF, tagged for who listens to it, on *paper*; *tell* is told the share that is done, by
    what each part takes of the time."""
    with _printing:
        tell(0.05)
        page = render_to_string(template, {**context, "printing": True})
        tell(0.2)
        document = _laid_out(page, paper)
        tell(0.7)
        return document.write_pdf(pdf_tags=True)


def _laid_out(page: str, paper: str):
    # WeasyPrint takes a second to load, which only those who print should wait for.
    from weasyprint import CSS, HTML

    fonts, styles = _fonts()
    size = CSS(string=f"@page {{ size: {SIZES.get(paper, paper)} }}")
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
