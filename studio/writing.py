"""How dates, times and money are written: as a studio says (its *locale*), by Babel.

Whose page or paper is being written is set once, by what opens it (`write_as`); filters and sentences
follow.
"""

from __future__ import annotations

import contextlib
import datetime
from collections.abc import Iterator
from contextvars import ContextVar
from decimal import Decimal

from babel import Locale
from babel.dates import format_date, format_skeleton, format_time
from babel.numbers import format_currency
from django.utils import timezone, translation
from django.utils.translation.trans_real import parse_accept_lang_header

from studio.languages.catalogue import NAMES, SOURCE

PLAIN = ""
"""Days first, hours to 24, money as most write it in English."""


def language_of(locale: str) -> str:
    """The language of a locale, as far as it is spoken here."""
    language = locale.partition("_")[0]
    return language if language in NAMES else SOURCE


LOCALES = {
    PLAIN: "the day first, hours to 24", "en_US": "the United States", "en_CA": "Canada",
    "en_GB": "Britain", "en_IE": "Ireland", "en_AU": "Australia", "en_NZ": "New Zealand", "en_IN": "India",
    "nl_NL": "Nederland", "nl_BE": "België",
}  # fmt: skip
CHOICES = [
    (
        key,
        f"{NAMES[language_of(key)]}, {f'as in {name}' if language_of(key) == SOURCE and key else name}",
    )
    for key, name in LOCALES.items()
]
SKELETONS = {
    "day": "MMMd", "day_year": "yMMMd", "weekday": "MMMEd", "weekday_year": "yMMMEd", "long": "MMMMd",
    "name": "EEE",
}  # fmt: skip
"""Kinds of date by what stands in them (Unicode's date field symbols)."""

_now: ContextVar[str] = ContextVar("locale", default=PLAIN)


def write_as(locale: str) -> None:
    """From here on, in this request or task, dates and money are written so, and pages speak its language."""
    _now.set(locale if locale in LOCALES else PLAIN)
    translation.activate(language_of(locale))


def locale_for(languages: str) -> str:
    """Of what a browser wants (its ``Accept-Language``), the first locale that is written here: how pages
    speak before anybody has signed in.

    >>> locale_for("fr-CH, nl-BE;q=0.9, en;q=0.8"), locale_for("nl"), locale_for("en-GB")
    ('nl_BE', 'nl_NL', '')
    """
    for wanted, _ in parse_accept_lang_header(languages.lower()):
        language, _, place = wanted.partition("-")
        if language == SOURCE:
            return PLAIN
        if language in NAMES:
            exact = f"{language}_{place.upper()}"
            return (
                exact
                if exact in LOCALES
                else next(key for key in LOCALES if key.startswith(language))
            )
    return PLAIN


@contextlib.contextmanager
def written_as(locale: str) -> Iterator[None]:
    """The same within a block."""
    token = _now.set(locale if locale in LOCALES else PLAIN)
    try:
        with translation.override(language_of(locale)):
            yield
    finally:
        _now.reset(token)


def _dates() -> Locale:
    return Locale.parse(_now.get() or "en_GB")


def written_day(day: datetime.date, kind: str = "day") -> str:
    """A day: ``name`` (Fri), ``day`` (27 Nov), ``day_year``, ``weekday`` (Fri 27 Nov), ``weekday_year``,
    ``long`` (27 November), ``long_year``, ``full`` (with its weekday), or ``day_time``, ``day_year_time``,
    ``weekday_time`` and ``time`` for a moment."""
    if isinstance(day, datetime.datetime) and timezone.is_aware(day):
        day = timezone.localtime(day)
    if kind == "time":
        return _time(day)
    if kind.endswith("_time"):
        return f"{written_day(day, kind.removesuffix('_time'))}, {_time(day)}"
    if kind in ("long_year", "full"):
        return format_date(day, "full" if kind == "full" else "long", locale=_dates())
    return format_skeleton(SKELETONS[kind], day, locale=_dates(), fuzzy=True)


def _time(at: datetime.date) -> str:
    return format_time(at, "short", locale=_dates()).replace("\u202f", "\u00a0")


def written_money(amount: Decimal, currency: str) -> str:
    """An amount of money."""
    return format_currency(amount, currency, locale=_now.get() or "en")


def first_weekday() -> int:
    """With which day a week begins, Monday being 0."""
    return _dates().first_week_day
