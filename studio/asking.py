"""What comes from outside, read by one small set of helpers that answer with a sentence."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from typing import Any

from chorograph_core.measure import LengthError, parse_length

MOST_POINTS = 2000
"""Points of one stroke on the sheet; a hand makes a few hundred."""
COLOUR = re.compile(r"#[0-9a-fA-F]{6}")


class EditError(ValueError):
    """The change cannot be made. *field* names the setting, the message says why; *others* are the zones,
    by id, in which it could be."""

    def __init__(self, message: str, field: str = "", others: Sequence[str] = ()) -> None:
        super().__init__(message)
        self.field, self.others = field, tuple(others)


def length_from(
    values: Mapping[str, Any], field: str, unit: str, low: float = 0.0, high: float = math.inf,
    what: str = "",
) -> float:  # fmt: skip
    """A length in inches from a form. Raises `EditError` at *field*; *what* says what it must be."""
    try:
        inches = parse_length(str(values.get(field, "")), unit)
    except LengthError as error:
        raise EditError(str(error), field) from None
    if not low <= inches <= high:
        raise EditError(what, field)
    return inches


def colour_from(values: Mapping[str, Any]) -> str:
    """A colour ``#rrggbb`` from a form. Raises `EditError` at field ``colour``."""
    colour = str(values.get("colour", ""))
    if not COLOUR.fullmatch(colour):
        raise EditError("A colour is written like #7f9cae.", "colour")
    return colour.lower()


def points_from(text: str, field: str) -> list[tuple[float, float]]:
    """What was drawn on the sheet, ``x,y x,y …`` in inches. Raises `EditError` at *field*."""
    try:
        points = [tuple(map(float, pair.split(","))) for pair in text.split()[:MOST_POINTS]]
    except ValueError:
        points = [()]
    if any(len(point) != 2 or not all(map(math.isfinite, point)) for point in points):
        raise EditError("What was drawn could not be read; draw it again.", field)
    return points  # type: ignore[return-value]


def whole_from(
    values: Mapping[str, Any], field: str, default: int | None = None, low: int = 0,
    high: int = 2**31 - 1, what: str = "This is a whole number.",
) -> int:  # fmt: skip
    """A whole number from a form, written in plain digits. Raises `EditError` at *field* saying *what*
    it must be; *default* stands for one that is missing."""
    text = str(values.get(field) or "").strip()
    if not text and default is not None:
        return default
    # Superscripts and other scripts have digits, too, that no number is made of here.
    if not (text.isascii() and text.isdigit() and len(text) <= 12):
        raise EditError(what, field)
    number = int(text)
    if not low <= number <= high:
        raise EditError(what, field)
    return number


def number_or(values: Mapping[str, Any], field: str, default: int) -> int:
    """A whole number from a form, *default* for whatever is none."""
    try:
        return whole_from(values, field, default)
    except EditError:
        return default


def base_from(values: Mapping[str, Any]) -> int:
    """The revision that a page was made from. Raises `EditError` where it is not said."""
    return whole_from(values, "base", what="The page is out of date; load it again.")


def spots_from(text: str, count: int, what: str, field: str) -> list[tuple[float, float]]:
    """Exactly *count* places ``x,y`` that are numbers. Raises `EditError` saying *what*."""
    try:
        spots = points_from(str(text)[:4000], field)
    except EditError:
        spots = []
    if len(spots) != count or any(abs(v) > 1e6 for spot in spots for v in spot):
        raise EditError(what, field)
    return spots
