"""What is asked at the bench table, and the answers."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from chorograph_core.rulers import Ruler
from chorograph_core.rulers.rows import FITTINGS
from chorograph_core.rulers.sums import (
    Answer,
    SumError,
    arc_of,
    arcs_in_border,
    line_for,
    lines_across,
)
from studio.asking import EditError, length_from

FAR = 400.0
"""Inches; no quilt is longer."""


@dataclass(frozen=True)
class Field:
    """A field of a sum: its name, its label, and what stands in it at first, in inches."""

    name: str
    label: str
    inches: float


@dataclass(frozen=True)
class Sum:
    """A sum: its name, what it is for, its fields, and how it is reckoned."""

    key: str
    title: str
    fields: tuple[Field, ...]
    act: Callable[[Mapping[str, float], str, tuple[Ruler, ...], float, str], Answer]
    fittings: bool = False
    printed: bool = False


SUMS = (
    Sum("arcs", "Arcs along a border",
        (Field("length", "Length of the side", 52.0), Field("chord", "Wished width", 6.5),
         Field("height", "Height", 2.75)),
        lambda v, _, rulers, foot, unit: arcs_in_border(v["length"], v["chord"], v["height"], rulers, foot,
                                                        unit), printed=True),
    Sum("arc", "One arc",
        (Field("chord", "From end to end", 8.0), Field("height", "Height in the middle", 2.0)),
        lambda v, _, rulers, foot, unit: arc_of(v["chord"], v["height"], rulers, foot, unit), printed=True),
    Sum("line", "Which line for a spacing", (Field("spacing", "Spacing", 0.75),),
        lambda v, _, rulers, foot, unit: line_for(v["spacing"], rulers, foot, unit)),
    Sum("lines", "Lines across a width",
        (Field("width", "Width", 10.0), Field("spacing", "Wished spacing", 0.75)),
        lambda v, fitting, _, __, unit: lines_across(v["width"], v["spacing"], fitting, unit), fittings=True),
)  # fmt: skip
BY_KEY = {each.key: each for each in SUMS}


def answered(
    asked: Sum, values: Mapping[str, Any], rulers: tuple[Ruler, ...], foot: float, unit: str
) -> Answer:
    """The answer to *asked* for what was written.

    Raises `EditError` that names the field.
    """
    lengths = {
        field.name: length_from(values, field.name, unit, 0.0, FAR,
                                f"{field.label}: no quilt is so long.")
        for field in asked.fields
    }  # fmt: skip
    fitting = str(values.get("fitting") or "even")
    if fitting not in dict(FITTINGS):
        raise EditError("Choose how the lines are fitted.", "fitting")
    try:
        return asked.act(lengths, fitting, rulers, foot, unit)
    except SumError as error:
        raise EditError(str(error), error.field) from None
