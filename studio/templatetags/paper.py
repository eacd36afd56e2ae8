"""What papers are made of."""

from __future__ import annotations

import base64

from django import template
from django.template import Context
from django.utils.html import format_html
from django.utils.safestring import SafeString

from studio.accounts.models import Logo, Studio

register = template.Library()


@register.simple_tag
def letterhead(studio: Studio, name: str, address: str = "") -> SafeString:
    """The head of a document: the studio's picture, its *name* and *address* as they were when issued."""
    logo = Logo.objects.filter(studio=studio).first()
    picture = format_html('<img class="logo" src="{}" alt="">', logo.embedded) if logo else ""
    lines = [line.strip() for line in address.splitlines() if line.strip()]
    below = format_html('<span class="address">{}</span>', " · ".join(lines)) if lines else ""
    return format_html('{}<p class="studio">{}{}</p>', picture, name, below)


@register.simple_block_tag(takes_context=True)
def picture(context: Context, content: str, frame: str, label: str, kind: str = "") -> SafeString:
    """A drawing of many lines in a view box, *frame*, as wide as its place; *label* says what it shows,
    *kind* is its class on a page.

    On paper it is embedded as a picture: the styles of the page are then not looked through for each of its
    lines. What is printed true to size is drawn without this.
    """
    drawing = format_html(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="{}" class="{}" role="img" '
        'aria-label="{}">{}</svg>', frame, kind, label, content,
    )  # fmt: skip
    if not context.get("printing"):
        return drawing
    data = base64.b64encode(drawing.encode()).decode()
    return format_html('<img alt="{}" src="data:image/svg+xml;base64,{}">', label, data)
