"""Template filters: lengths, times and counts the way a quilter reads them."""

from __future__ import annotations

import datetime
import re
import uuid
from decimal import Decimal, InvalidOperation

from django import template
from django.utils.html import format_html, json_script
from django.utils.safestring import SafeString
from moneyed import Money

from chorograph_core.measure import (
    SQ_METRES_PER_SQ_INCH,
    format_density,
    format_length,
    format_yards,
    in_units,
)
from studio.languages import figures, telling
from studio.languages.catalogue import SOURCE, of
from studio.writing import written_day, written_money

register = template.Library()
_SQUARE = re.compile(r"sq (in|cm)\b")
_FRACTION = re.compile(r"(\d) (\d+/\d+)")


@register.filter
def told(text):
    """A sentence or label of the code in the language of the page."""
    return telling.told(text)


@register.filter
def told_whole(text):
    """A name of ours in the language of the page; one that was put together by somebody as it is."""
    return telling.told_whole(text)


@register.filter
def figured(value):
    """A figure as it is written in the language of the page."""
    return figures.alone(value, telling.spoken())


@register.filter
def as_written(text):
    """What somebody wrote, which is said in nobody's other words."""
    return text


@register.filter
def inches(value: float, units: str = "in") -> str:
    """A length in the studio's units."""
    return told(format_length(float(value), units or "in"))


@register.filter(name="in_units")
def told_in(text: str, units: str = "in") -> str:
    """A sentence written in inches and yards, in the studio's units."""
    written = in_units(str(text), units or "in")
    if telling.spoken() == SOURCE:
        return written
    return figures.in_text(_SQUARE.sub(r"\1²", written), telling.spoken())


@register.simple_tag(takes_context=True)
def refused(context, error) -> str:
    """Why something was refused, in the studio's units; who has signed in nowhere has none."""
    studio = getattr(context.get("request"), "studio", None)
    return told(told_in(str(error), studio.units if studio else "in"))


@register.filter
def etched(text: str, units: str = "in") -> str:
    """Lines of a ruler, kept in inches."""
    if units != "cm":
        return text
    return ", ".join(in_units(f"{part.strip()}″", "cm") for part in text.split(",") if part.strip())


@register.filter
def pace(area: float, units: str = "in") -> str:
    """So many square inches, as the studio writes areas that are stitched."""
    if units == "cm":
        return told(f"{float(area) * float(SQ_METRES_PER_SQ_INCH):,.2f} m²")
    return told(f"{float(area):,.0f} sq in")


@register.filter
def density(value: float, units: str = "in") -> str:
    """How closely something is stitched, in the studio's units."""
    return told(format_density(float(value), units or "in"))


@register.filter
def density_in_words(value: float, units: str = "in") -> str:
    """The same in a sentence."""
    return told(format_density(float(value), units or "in", words=True))


@register.filter
def yards(value: float, units: str = "in") -> str:
    """A long length, given in inches, in whole yards or metres."""
    return told(format_yards(float(value), units or "in"))


@register.filter
def thread(value: float, units: str = "in") -> str:
    """A length of thread, given in yards, as the studio reads it."""
    return told(format_yards(36 * float(value), units or "in"))


@register.filter
def hours(minutes: float) -> str:
    """Minutes as hours and minutes: ``1 h 05`` or ``34 min``; what takes hardly any as ``20 s``."""
    if 1 / 24 <= float(minutes) < 0.75:
        return f"{max(5, 5 * round(12 * float(minutes)))} s"
    whole = round(float(minutes))
    if whole < 60:
        return f"{whole} min"
    return told(f"{whole // 60} h {whole % 60:02}")


@register.filter
def minutes_more(minutes: float | None) -> str:
    """A difference in minutes with its sign: ``+12 min``, ``−1 h 05``."""
    if minutes is None or abs(minutes) < 0.5:
        return told("the same") if minutes is not None else ""
    return f"{'+' if minutes > 0 else '−'}{hours(abs(minutes))}"


@register.filter
def money(amount: Money | str, currency: str = "") -> str:
    """An amount of money as it is written: a `Money`, or a figure and its *currency*."""
    if isinstance(amount, Money):
        return written_money(amount.amount, amount.currency.code)
    try:
        return written_money(Decimal(str(amount)), currency or "USD")
    except InvalidOperation:
        return str(amount)


@register.filter
def day(when: datetime.date | None, kind: str = "day") -> str:
    """A day or a moment as the studio writes it: see `written_day` for the kinds."""
    return "" if not when else written_day(when, kind)


@register.filter
def by(what) -> str:
    """Who did something: a member of the studio, or whoever *who* names."""
    author = getattr(what, "author", None)
    if author is not None:
        return author.first_name or author.username
    return getattr(what, "who", "") or told("the studio")


@register.filter
def browser(agent: str) -> str:
    """What a browser says it is, as far as it helps to know it again."""
    if not agent:
        return told("an unknown device")
    return told("a tablet or phone" if re.search("Mobi|Tablet|Touch", agent) else "a computer")


@register.filter
def unbroken(text: str) -> str:
    """The text with mixed fractions kept on one line."""
    return _FRACTION.sub("\\1\u00a0\\2", text)


@register.filter
def span(pair) -> str:
    """A low and a high figure: ``5.5–8 h`` without a dash when they are the same."""
    low, high = (f"{value:.1f}".removesuffix(".0") for value in pair)
    return told(low if low == high else f"{low}–{high}")


@register.filter
def ruler_rem(inches: float) -> str:
    """How wide a ruler of so many inches is drawn on a page."""
    return f"{1.1 * float(inches):.2f}rem"


@register.simple_tag
def swatch(colour: str, title: str = "", kind: str = "swatch") -> SafeString:
    """A dab of a colour. Drawn, since styles that stand in a page are kept out of it."""
    dab = format_html('<rect width="100%" height="100%" fill="{}"/>', colour)
    if not title:
        return format_html('<svg class="{}" aria-hidden="true">{}</svg>', kind, dab)
    return format_html(
        '<svg class="{}" role="img" aria-label="{}"><title>{}</title>{}</svg>',
        kind,
        title,
        title,
        dab,
    )


@register.simple_tag
def language() -> str:
    """The language of the page."""
    return telling.spoken()


@register.simple_tag
def scripts_said() -> SafeString:
    """What scripts say in the language of the page, for them to look up."""
    said = of(telling.spoken(), "scripts")
    return json_script(said, "scripts-said") if said else SafeString("")


@register.simple_tag
def once() -> SafeString:
    """A hidden field by which a form that is sent twice does its work once."""
    return format_html('<input type="hidden" name="once" value="{}">', uuid.uuid4())
