"""Lengths as form fields, and the file upload for an archive."""

from __future__ import annotations

from django import forms
from django.conf import settings

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


class ImportForm(forms.Form):
    """A job archive from disk."""

    archive = forms.FileField(label="Job archive (.json)")

    def clean_archive(self):
        """Refuse what is too large before reading it."""
        file = self.cleaned_data["archive"]
        if file.size > settings.LARGEST_UPLOAD:
            raise forms.ValidationError(
                f"The file is {file.size / 1e6:.0f} MB; an archive is never over "
                f"{settings.LARGEST_UPLOAD / 1e6:.0f} MB."
            )
        return file
