"""Parse and print lengths: inches as fractions, yards, feet, centimetres, millimetres."""

from __future__ import annotations

import math
import re
from decimal import Decimal
from fractions import Fraction

CM_PER_INCH = 2.54
METRES_PER_YARD = Decimal("0.9144")
METRES_PER_INCH = Decimal("0.0254")
SQ_METRES_PER_SQ_INCH = METRES_PER_INCH**2
INCHES_PER_YARD = 36.0
LONGEST = 100_000.0
"""No length in this craft is longer than this many inches (about 2,800 yards)."""

_UNITS = {
    "": 1.0,
    '"': 1.0,
    "in": 1.0,
    "inch": 1.0,
    "inches": 1.0,
    "'": 12.0,
    "ft": 12.0,
    "yd": 36.0,
    "yard": 36.0,
    "yards": 36.0,
    "cm": 1 / CM_PER_INCH,
    "mm": 0.1 / CM_PER_INCH,
    "m": 100 / CM_PER_INCH,
}
_VULGAR = {
    "½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8",
    "⅓": "1/3", "⅔": "2/3",
}  # fmt: skip
_QUOTES = str.maketrans({"″": '"', "”": '"', "“": '"', "′": "'", "’": "'", "⁄": "/", "–": "-"})
_NUMBER = re.compile(
    r"""(?: (?P<whole>\d+) [\s-]+ (?P<num>\d+) \s*/\s* (?P<den>\d+)   # 3 3/8, 3-3/8
          | (?P<num2>\d+) \s*/\s* (?P<den2>\d+)                       # 7/8
          | (?P<decimal>\d+(?:[.,]\d*)? | [.,]\d+)                    # 3.375, 8,5
        ) \s* (?P<unit>[a-z"']*)""",
    re.VERBOSE,
)


class LengthError(ValueError):
    """The text is no length. The message is a sentence for the person who typed it."""


def parse_length(text: str | float, unit: str = "in") -> float:
    """Return *text* as inches (float).

    *unit* is what a bare number means: ``"in"``, ``"cm"``, ``"mm"``, ``"yd"`` or ``"ft"``.
    Raises `LengthError` for anything that is not one non-negative, finite length.

    >>> parse_length("3 3/8"), parse_length("3-3/8"), parse_length("3.375")
    (3.375, 3.375, 3.375)
    >>> round(parse_length("8.5 cm"), 4)
    3.3465
    """
    if isinstance(text, bool) or text is None:
        raise LengthError("A length is missing.")
    if isinstance(text, (int, float)):
        return _checked(float(text) * _UNITS[unit], str(text))
    shown = text.strip()
    if not shown:
        raise LengthError("A length is missing.")
    if len(shown) > 40:
        raise LengthError(
            "That is too long for a length. Write it like 8.5."
            if unit == "cm"
            else "That is too long for a length. Write it like 3 3/8 or 8.5 cm."
        )
    cleaned = shown.lower().translate(_QUOTES)
    for sign, words in _VULGAR.items():
        cleaned = cleaned.replace(sign, " " + words)
    cleaned = cleaned.strip()
    if cleaned.startswith("-"):
        raise LengthError(f"“{shown}” is below zero; a length cannot be.")
    if cleaned.startswith("+"):
        cleaned = cleaned[1:].strip()
    total, position, last_unit = 0.0, 0, None
    while position < len(cleaned):
        match = _NUMBER.match(cleaned, position)
        if match is None or match.end() == position:
            raise _no_length(shown, unit)
        name = match["unit"]
        if name not in _UNITS:
            raise LengthError(f"“{name}” is not a unit known here. Use in, yd, ft, cm or mm.")
        factor = _UNITS[name] if name else _UNITS[unit]
        # Two numbers in a row make sense only as yards or feet and inches: "2 yd 4 in".
        if last_unit is not None and not factor < last_unit:
            raise _no_length(shown, unit)
        total += float(_fraction(match, shown)) * factor
        last_unit = factor if name else 0.0
        position = match.end()
        while position < len(cleaned) and cleaned[position].isspace():
            position += 1
    return _checked(total, shown)


def _fraction(match: re.Match[str], shown: str) -> Fraction:
    whole = int(match["whole"] or 0)
    num, den = match["num"] or match["num2"], match["den"] or match["den2"]
    if num is None:
        return Fraction(match["decimal"].replace(",", ".").rstrip(".") or "0")
    if int(den) == 0:
        raise LengthError(f"“{shown}” divides by zero.")
    return whole + Fraction(int(num), int(den))


def _no_length(shown: str, unit: str) -> LengthError:
    if unit == "cm":
        return LengthError(f"“{shown}” is not a length. Write it like 8.5, or like 3 3/8 in.")
    return LengthError(f"“{shown}” is not a length. Write it like 3 3/8, 3.375 or 8.5 cm.")


def _checked(inches: float, shown: str) -> float:
    if not math.isfinite(inches):
        raise LengthError(f"“{shown}” is not a length.")
    if inches < 0:
        raise LengthError(f"“{shown}” is below zero; a length cannot be.")
    if inches > LONGEST:
        raise LengthError(f"“{shown}” is longer than any quilt.")
    return inches


def format_inches(inches: float, denominator: int = 8, mark: str = "″") -> str:
    """Print *inches* as a mixed fraction, to the nearest 1/*denominator*.

    >>> format_inches(3.375), format_inches(65.5), format_inches(0.74), format_inches(2)
    ('3 3/8″', '65 1/2″', '3/4″', '2″')
    """
    # A half goes up, as on paper, not to the nearest even mark.
    rounded = Fraction(math.floor(abs(inches) * denominator + 0.5), denominator)
    rounded = -rounded if inches < 0 else rounded
    sign = "−" if rounded < 0 else ""
    rounded = abs(rounded)
    whole, rest = divmod(rounded, 1)
    if rest == 0:
        return f"{sign}{whole}{mark}"
    lead = f"{whole} " if whole else ""
    return f"{sign}{lead}{rest.numerator}/{rest.denominator}{mark}"


def format_cm(inches: float) -> str:
    """Print *inches* as centimetres with one decimal.

    >>> format_cm(3.375)
    '8.6 cm'
    """
    return f"{inches * CM_PER_INCH:.1f} cm"


def format_length(inches: float, units: str = "in", denominator: int = 8) -> str:
    """Print *inches* the way the studio wants it: ``"in"`` or ``"cm"``."""
    return format_cm(inches) if units == "cm" else format_inches(inches, denominator)


def format_density(inches: float, units: str = "in", words: bool = False) -> str:
    """How closely something is stitched, given in inches of line a square inch; in a sentence with *words*.

    >>> format_density(2.54), format_density(2.54, "cm"), format_density(1.6, words=True)
    ('2.5 in/in²', '1.0 cm/cm²', '1.6 inches a square inch')
    """
    if units == "cm":
        value = inches / CM_PER_INCH
        return f"{value:.1f} centimetres a square centimetre" if words else f"{value:.1f} cm/cm²"
    return f"{inches:.1f} inches a square inch" if words else f"{inches:.1f} in/in²"


def written_length(inches: float, unit: str = "in") -> str:
    """*inches* as one would write them into a field: `parse_length` reads exactly that length back.

    Sixteenths where they are exact, centimetres to their last decimal, else decimal inches.

    >>> written_length(3.1875), written_length(0.3), written_length(0.75, "cm")
    ('3 3/16', '0.3 in', '1.905 cm')
    """
    shortest = f"{inches * CM_PER_INCH:.5f}".rstrip("0").rstrip(".")
    text = f"{shortest} cm" if unit == "cm" else format_inches(inches, 16, "")
    exact = abs(parse_length(text, unit) - inches) < 1e-9
    return text if exact else f"{inches:.10g} in"


def format_yards(inches: float, unit: str = "in") -> str:
    """Print a long length of thread or cloth in whole yards, or metres where *unit* is ``"cm"``, rounded
    up: thread is never cut short.

    >>> format_yards(100), format_yards(100, "cm")
    ('3 yd', '3 m')
    """
    if unit == "cm":
        return f"{math.ceil(inches * CM_PER_INCH / 100 - 1e-9):,} m"
    return f"{math.ceil(inches / INCHES_PER_YARD - 1e-9):,} yd"


_INCHES = re.compile(r"(\d[\d,]*(?:\.\d+)?(?: \d+/\d+|/\d+)?) ?″")
_SQUARE = re.compile(r"(\d[\d,]*(?:\.\d+)?) sq in\b")
_YARDS = re.compile(r"(\d[\d,]*(?:\.\d+)?) yd\b")


def in_units(text: str, unit: str = "in") -> str:
    """A sentence that was written in inches, square inches and yards, in *unit*.

    >>> in_units("gaps of 1 1/2″ in 40 sq in take 12 yd", "cm")
    'gaps of 3.8 cm in 258 sq cm take 11 m'
    """
    if unit != "cm":
        return text

    def number(found: re.Match[str]) -> float:
        return float(found[1].replace(",", ""))

    text = _INCHES.sub(lambda m: format_length(parse_length(m[1].replace(",", "")), unit), text)
    text = _SQUARE.sub(lambda m: f"{number(m) * CM_PER_INCH**2:,.0f} sq cm", text)
    return _YARDS.sub(lambda m: f"{number(m) * float(METRES_PER_YARD):,.0f} m", text)
