"""A job begun at the counter: a plain field of the right size, to be charted later."""

from __future__ import annotations

import datetime

from django import forms
from shapely.geometry import box

from chorograph_core.chart import Chart, Fabric, Patch
from chorograph_core.estimating import Intake, Measures, MeasuringError
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import format_length
from chorograph_core.zones import zones_from_patches
from studio.fields import LengthField


class ConsultForm(forms.Form):
    """The first four things asked."""

    title = forms.CharField(max_length=200, label="What shall we call it")
    client = forms.CharField(max_length=200, required=False, label="Client")
    width = LengthField(label="Width, across the middle")
    height = LengthField(label="Height, down the middle")

    def __init__(self, *args, unit: str = "in", **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.unit = unit
        self.fields["width"].unit = self.fields["height"].unit = unit

    def clean(self):
        """A size that a quilt can have."""
        values = super().clean()
        for name, group in (("width", "widths"), ("height", "heights")):
            if name in values:
                try:
                    Measures(**{group: (None, values[name], None)}).check()
                except MeasuringError as error:
                    self.add_error(name, str(error))
        return values


def uncharted(values: dict, today: datetime.date) -> CoreJob:
    """A job whose chart is one field, with the two measures taken down."""
    width, height = values["width"], values["height"]
    shape = box(0, 0, width, height)
    label = f"{format_length(width)} × {format_length(height)}"
    chart = Chart(shape, (Patch("top", shape, "field", "a", None, label),),
                  (Fabric("a", "not yet charted", "#e7dcc3", 0.0, True),))  # fmt: skip
    measures = Measures((None, width, None), (None, height, None))
    intake = Intake(taken=today.isoformat(), measures=measures)
    return CoreJob(values["title"], chart, tuple(zones_from_patches(chart)), values["client"],
                   intake=intake)  # fmt: skip
