"""Forms whose figures are shown and read in the studio's units, and kept in inches and yards."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import ClassVar

from django import forms
from django.core.validators import DecimalValidator
from django.db import models

from chorograph_core.measure import METRES_PER_INCH, METRES_PER_YARD, SQ_METRES_PER_SQ_INCH


@dataclass(frozen=True)
class Kind:
    """What a figure is in: *factor* times what is kept is what a centimetre studio writes, and the words of
    its label change from *inch* to *metric*."""

    factor: Decimal
    inch: str
    metric: str


KINDS = {
    "length": Kind(100 * METRES_PER_INCH, "inches", "cm"),
    "thread": Kind(METRES_PER_YARD, "Yards", "Metres"),
    "per_area": Kind(1 / SQ_METRES_PER_SQ_INCH, "a square inch", "a square metre"),
    "per_yard": Kind(1 / METRES_PER_YARD, "a yard", "a metre"),
    "per_inch": Kind(1 / METRES_PER_INCH, "an inch", "a metre"),
    "edge": Kind(METRES_PER_INCH, "inches of edge", "metres of edge"),
    "area": Kind(SQ_METRES_PER_SQ_INCH, "Square inches", "Square metres"),
    "closeness": Kind(1 / (100 * METRES_PER_INCH), "Inches of line a square inch", "Cm of line a square cm"),
}  # fmt: skip
"""Kinds of figure. A line so long in a square inch is 1/2.54 as many centimetres in a square centimetre."""


class MeasuredForm(forms.ModelForm):
    """A model form of which *measured* says, field by field, what kind of figure it is. What is not touched
    stays exactly as it is kept."""

    measured: ClassVar[dict[str, str]] = {}

    def __init__(self, *args, units: str = "in", **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.units = units
        for name in self.measured:
            if units == "cm":
                self._shown(name)
            elif isinstance(self.initial.get(name), Decimal):
                # Kept more finely than anybody writes it.
                self.initial[name] = _tidy(self.initial[name])

    def kind_of(self, name: str) -> Kind | None:
        """What a field is in; None for one that is as it is kept."""
        return KINDS[self.measured[name]]

    def said(self, name: str, thing: models.Model) -> str:
        """What *thing* has in a field, as this form would show it."""
        words = getattr(thing, f"get_{name}_display", None)
        return words() if words else self.figure(getattr(thing, name), self.measured.get(name))

    def figure(self, kept, measured: str | None) -> str:
        """A figure as it is kept, in the units of this form; *measured* is the kind that it is of."""
        if self.units == "cm" and measured and kept not in (None, ""):
            return str(_plain(Decimal(str(kept)) * KINDS[measured].factor))
        return str(_tidy(kept) if isinstance(kept, Decimal) else kept)

    def touched(self, name: str) -> bool:
        """Whether a field says something else than what is kept."""
        return name in self.changed_data

    def _shown(self, name: str) -> None:
        kind, field = self.kind_of(name), self.fields[name]
        if kind is None:
            return
        field.label = str(field.label).replace(kind.inch, kind.metric)
        field.validators = [v for v in field.validators if not isinstance(v, DecimalValidator)]
        if type(field) is forms.IntegerField:
            # What is a whole number of square inches is none of square metres.
            field = forms.DecimalField(label=field.label, required=field.required, min_value=0)
            self.fields[name] = field
        kept = self.initial.get(name)
        if kept not in (None, ""):
            shown = _plain(Decimal(str(kept)) * kind.factor)
            self.initial[name] = float(shown) if isinstance(field, forms.FloatField) else shown

    def _clean_fields(self) -> None:
        super()._clean_fields()
        if self.units != "cm":
            return
        for name in self.measured:
            kind, value = self.kind_of(name), self.cleaned_data.get(name)
            if kind is None or value is None:
                continue
            model = self._meta.model._meta.get_field(name)
            if not self.touched(name):
                self.cleaned_data[name] = getattr(self.instance, name)
                continue
            inches = Decimal(str(value)) / kind.factor
            places = getattr(model, "decimal_places", None)
            if places is not None:
                self.cleaned_data[name] = inches.quantize(Decimal(1).scaleb(-places))
            elif model.get_internal_type() == "FloatField":
                self.cleaned_data[name] = float(inches)
            else:
                self.cleaned_data[name] = max(1, round(inches))


def _plain(number: Decimal) -> Decimal:
    """A figure with as many digits as one writes by hand. A number, so that it is known again in a form."""
    return Decimal(f"{Decimal(f'{float(number):.5g}'):f}")


def _tidy(number: Decimal) -> Decimal:
    """A figure without idle zeros, and never fewer than two places where it has any."""
    short = number.normalize()
    places = max(2, -int(short.as_tuple().exponent)) if number != number.to_integral() else 0
    return Decimal(f"{short:.{places}f}")
