"""Lengths as form fields."""

from __future__ import annotations

from django import forms

from chorograph_core.measure import LengthError, parse_length


class LengthField(forms.CharField):
    """A length as a quilter writes it; cleans to inches."""

    def __init__(self, *, unit: str = "in", **kwargs) -> None:
        super().__init__(max_length=40, **kwargs)
        self.unit = unit

    def clean(self, value):
        """Inches as a float; 0 when empty and not required."""
        text = super().clean(value)
        if not text:
            return 0.0
        try:
            return parse_length(text, self.unit)
        except LengthError as error:
            raise forms.ValidationError(str(error)) from None
