"""The short form for a new top, and the file upload for an archive."""

from __future__ import annotations

from django import forms
from django.conf import settings

from chorograph_core.chart import Border, ChartError, StraightSet, block_library
from chorograph_core.measure import LengthError, format_length, parse_length


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


def _blocks() -> list[tuple[str, str]]:
    return [(key, block.name) for key, block in block_library().items()]


CORNERS = [("butted", "butted"), ("mitred", "mitred")]


class NewTopForm(forms.Form):
    """Everything a straight set needs. Lengths are finished sizes."""

    title = forms.CharField(max_length=200, label="Title")
    client = forms.CharField(max_length=200, required=False, label="Client")
    due = forms.DateField(
        required=False, label="Due", widget=forms.DateInput(attrs={"type": "date"})
    )
    block = forms.ChoiceField(choices=_blocks, label="Block", initial="sawtooth_star")
    second_block = forms.ChoiceField(
        choices=lambda: [("", "the same")] + _blocks(), required=False, label="Every other block"
    )
    block_size = LengthField(label="Block, finished", initial="12")
    rows = forms.IntegerField(label="Rows", initial=5, min_value=1, max_value=2500)
    columns = forms.IntegerField(label="Columns", initial=4, min_value=1, max_value=2500)
    sashing = LengthField(label="Sashing width", required=False, initial="1 1/2")
    outer_sashing = forms.BooleanField(label="Also outside", required=False)
    cornerstones = forms.BooleanField(label="Cornerstones", required=False, initial=True)
    border1 = LengthField(label="Border 1", required=False, initial="1 1/2")
    corner1 = forms.ChoiceField(choices=CORNERS, required=False, label="corners")
    border2 = LengthField(label="Border 2", required=False, initial="5")
    corner2 = forms.ChoiceField(choices=CORNERS, required=False, label="corners")
    border3 = LengthField(label="Border 3", required=False)
    corner3 = forms.ChoiceField(choices=CORNERS, required=False, label="corners")
    border4 = LengthField(label="Border 4", required=False)
    corner4 = forms.ChoiceField(choices=CORNERS, required=False, label="corners")

    def __init__(self, *args, unit: str = "in", **kwargs) -> None:
        super().__init__(*args, **kwargs)
        for bound in self.fields.values():
            if isinstance(bound, LengthField):
                bound.unit = unit

    def clean(self):
        """Put the numbers together; faults of the layout are named at their field."""
        values = super().clean()
        if self.errors:
            return values
        borders, gap = [], False
        for number in range(1, 5):
            width = values[f"border{number}"]
            if width and gap:
                self.add_error(f"border{number}", f"Border {number - 1} has no width yet.")
            gap = gap or not width
            if width:
                borders.append(Border(width, values.get(f"corner{number}") or "butted"))
        blocks = [values["block"]] + ([values["second_block"]] if values["second_block"] else [])
        survey = StraightSet(
            values["rows"], values["columns"], values["block_size"], tuple(blocks),
            values["sashing"], values["outer_sashing"], values["cornerstones"], tuple(borders),
        )  # fmt: skip
        try:
            survey.check()
        except ChartError as error:
            name = {"blocks": "block"}.get(error.field, error.field)
            self.add_error(name if name in self.fields else None, str(error))
        values["survey"] = survey
        return values


def values_of_survey(survey: StraightSet | None, unit: str) -> dict:
    """What the form shows for a layout; the starting figures when there is none."""
    if survey is None:
        return {n: f.initial for n, f in NewTopForm.base_fields.items() if f.initial}

    def show(inches: float) -> str:
        return format_length(inches, unit, 16).replace("″", "") if inches else ""

    blocks = [*survey.blocks, ""][:2]
    values = {
        "block": blocks[0], "second_block": blocks[1], "block_size": show(survey.block_size),
        "rows": survey.rows, "columns": survey.columns, "sashing": show(survey.sashing),
    }  # fmt: skip
    for number, border in enumerate(survey.borders[:4], 1):
        values[f"border{number}"], values[f"corner{number}"] = show(border.width), border.corner
    flags = {"outer_sashing": survey.outer_sashing, "cornerstones": survey.cornerstones}
    return values | {name: "on" for name, on in flags.items() if on}


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
