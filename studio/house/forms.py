"""Forms about the studio itself."""

from __future__ import annotations

import io

from django import forms
from django.conf import settings
from PIL import Image

from studio.accounts.models import Studio
from studio.photos.pictures import PictureError, take_in

LOGO = (600, 240)
"""Pixels that a logo has at most, across and down."""


class HouseForm(forms.ModelForm):
    """Name, address, logo, units, dates and paper."""

    logo = forms.FileField(required=False, label="A picture for the head of documents")
    no_logo = forms.BooleanField(required=False, label="Without a picture")

    class Meta:
        model = Studio
        fields = ["name", "address", "units", "locale", "paper"]
        labels = {"name": "Name of the studio", "address": "Address, as it stands on documents",
                  "units": "Lengths in", "locale": "Language, dates and money",
                  "paper": "Documents are printed on"}  # fmt: skip

    def clean_logo(self):
        """The picture, made small, as PNG bytes; None where none was given."""
        file = self.cleaned_data["logo"]
        if file is None:
            return None
        if file.size > settings.LARGEST_PHOTO:
            raise forms.ValidationError("This picture is too large; a small one is enough.")
        data = file.read()
        try:
            # Looked at as carefully as a photograph; what is kept is drawn anew.
            take_in(data)
        except PictureError as error:
            raise forms.ValidationError(str(error)) from None
        picture = Image.open(io.BytesIO(data)).convert("RGBA")
        picture.thumbnail(LOGO)
        made = io.BytesIO()
        picture.save(made, "PNG", optimize=True)
        return made.getvalue()
