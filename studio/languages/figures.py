"""Figures and the names of days and months as a language writes them, by Babel.

The code writes ``1,021.5 yd`` in every language; where somebody reads it, marks are exchanged here.
"""

from __future__ import annotations

import functools
import re
from decimal import Decimal
from typing import Any

from babel import Locale

from studio.languages.catalogue import SOURCE

_GROUPED = r"\d{1,3}(?:,\d{3})+"
_COUNTED = (
    r"cm|mm|m²|m\b|in\b|in/|in²|%|°|MB|min\b|h\b|u\b|keer\b|uur\b|per\b|sq\b|yd|–|inch|centi|s\b"
)
_IN_TEXT = re.compile(
    rf"(?<![\w.,])(?:{_GROUPED}(?:\.\d+)?|\d+\.\d+(?=\s?(?:{_COUNTED})))(?![\d])"
    rf"|(?<=[$€£])(?:{_GROUPED}|\d+)(?:\.\d\d)?(?!\d|\.\d)"
)
"""Figures of a sentence: with a decimal point where it says what they count (what has none may be the name of
a block), or with thousands."""
_ALONE = re.compile(rf"[+−–-]?(?:{_GROUPED}(?:\.\d+)?|\d+\.\d+)(?:–\d+(?:\.\d+)?)?|\d+–\d+\.\d+")
_UNITS = frozenset("yd in cm m mm min s h u wt MB sq US".split())  # noqa: SIM905


@functools.cache
def _exchanged(language: str) -> dict[int, str]:
    symbols = Locale.parse(language).number_symbols["latn"]
    return str.maketrans({".": symbols["decimal"], ",": symbols["group"]})


@functools.cache
def beside_figures(language: str) -> frozenset[str]:
    """Words that stand in figures and dates beside the numbers: units, names of days and months."""
    locale = Locale.parse(language)
    names = [
        *locale.months["format"]["abbreviated"].values(),
        *locale.days["format"]["abbreviated"].values(),
    ]
    return _UNITS | {name.strip(".") for name in names}


def in_text(text: str, language: str) -> str:
    """A sentence with its figures as the language writes them."""
    if language == SOURCE:
        return text
    return _IN_TEXT.sub(lambda found: found[0].translate(_exchanged(language)), text)


def alone(value: Any, language: str) -> Any:
    """A figure that stands by itself as the language writes it; anything else as it is."""
    if language == SOURCE:
        return value
    text = str(value) if isinstance(value, (float, Decimal)) else value
    if isinstance(text, str) and _ALONE.fullmatch(text):
        return text.translate(_exchanged(language))
    return value
