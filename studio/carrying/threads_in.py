"""Threads from a CSV: looked at first, then taken in."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, field
from decimal import Decimal, InvalidOperation

from django.db import transaction

from chorograph_core.measure import METRES_PER_YARD
from studio.accounts.models import Studio
from studio.plain import plain
from studio.shelf.forms import ThreadForm
from studio.shelf.models import Thread

LARGEST = 500_000
MOST = 500
COLUMNS = {
    "name": ("name", "thread", "colour name", "color name"), "weight": ("weight", "wt", "weight (wt)"),
    "fibre": ("fibre", "fiber", "material"), "colour": ("colour", "color", "hex"),
    "cone": ("cone_yd", "cone", "yards", "yd", "length", "yards on a full cone"),
    "left": ("left_yd", "left", "stock", "yards left in all"),
    "cone_m": ("cone_m", "metres", "meters", "m"), "left_m": ("left_m",),
}  # fmt: skip
"""Columns by what they may be called."""


@dataclass
class Read:
    """A row as it was read: the *values* for a form, what is wrong with it, and the thread it would be
    *instead* of, which has its name already."""

    number: int
    values: dict[str, str]
    faults: list[str] = field(default_factory=list)
    instead: Thread | None = None

    @property
    def cone(self) -> float | None:
        """Yards on a full cone; None for what is no number."""
        return _number(self.values["cone"])

    @property
    def left(self) -> float | None:
        """Yards left in all; None for what is no number."""
        return _number(self.values["left"])


def _number(text: str) -> float | None:
    try:
        return float(Decimal(text))
    except (InvalidOperation, OverflowError):
        return None


class TableError(ValueError):
    """The file cannot be read. The message says why."""


def read(studio: Studio, data: bytes) -> list[Read]:
    """The rows of a CSV. Raises TableError."""
    if len(data) > LARGEST:
        raise TableError("This file is too large for a list of threads.")
    text = _decoded(data)
    try:
        dialect = csv.Sniffer().sniff(text[:4000], delimiters=",;\t")
    except csv.Error:
        dialect = csv.excel
    rows = list(csv.reader(io.StringIO(text), dialect))
    rows = [row for row in rows if any(cell.strip() for cell in row)]
    if not rows:
        raise TableError("There is nothing in this file.")
    heads = [plain(cell, 60).lower().strip() for cell in rows[0]]
    places = {key: next((heads.index(name) for name in names if name in heads), -1)
              for key, names in COLUMNS.items()}  # fmt: skip
    if places["name"] < 0:
        raise TableError("The first row says what the columns are; one of them is the name.")
    if len(rows) - 1 > MOST:
        raise TableError(f"{MOST} threads are the most at once.")
    known = {thread.name.lower(): thread for thread in Thread.objects.filter(studio=studio)}
    return [_row(studio, number, row, places, known) for number, row in enumerate(rows[1:], 2)]


def _decoded(data: bytes) -> str:
    for coding in ("utf-8-sig", "cp1252"):
        try:
            return data.decode(coding).replace("\0", "")
        except UnicodeDecodeError:
            continue
    raise TableError("This is no text.")


def _row(studio: Studio, number: int, row: list[str], places, known) -> Read:
    def said(key: str) -> str:
        at = places[key]
        text = plain(row[at], 120) if 0 <= at < len(row) else ""
        return text[1:] if text[:2] in ("'=", "'+", "'-", "'@") else text

    values = {key: said(key) for key in ("name", "weight", "fibre", "colour", "cone", "left")}
    for key in ("cone", "left"):
        if not values[key] and said(f"{key}_m"):
            values[key] = _yards(said(f"{key}_m"))
    values["weight"] = values["weight"].lower().removesuffix("wt").strip() or "40"
    values["colour"] = values["colour"] or "#6b7680"
    values["left"] = values["left"] or values["cone"] or "0"
    found = Read(number, values, instead=known.get(values["name"].lower()))
    form = _form(studio, found)
    shown = ThreadForm(studio=studio, units=studio.units).fields
    for name, faults in form.errors.items():
        label = shown[name].label if name in shown else ""
        found.faults += [f"{label}: {fault}" for fault in faults]
    return found


def _yards(text: str) -> str:
    try:
        return str((Decimal(text.replace(",", ".")) / METRES_PER_YARD).quantize(Decimal("0.1")))
    except InvalidOperation:
        return text


def _form(studio: Studio, row: Read) -> ThreadForm:
    # The file says yards, or metres by a column of its own, whatever the studio measures in.
    return ThreadForm(row.values, instance=row.instead, studio=studio, units="in")


@transaction.atomic
def take_in(studio: Studio, rows: list[Read]) -> tuple[int, int]:
    """Put the sound rows on the shelf: how many are new, and how many were there and are corrected."""
    new = corrected = 0
    for row in rows:
        form = _form(studio, row)
        if row.faults or not form.is_valid():
            continue
        form.save()
        corrected, new = (corrected + 1, new) if row.instead else (corrected, new + 1)
    return new, corrected
