"""The file upload for an archive."""

from __future__ import annotations

from django import forms
from django.conf import settings


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
