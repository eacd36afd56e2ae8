"""Forms of the calendar."""

from __future__ import annotations

import datetime

from django import forms
from django.utils import timezone

from studio.agenda.models import DayOff, OwnWeek, Week
from studio.writing import first_weekday

DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def _hours_field(day: str, hours: float) -> forms.FloatField:
    return forms.FloatField(
        label=day, min_value=0, max_value=16, initial=f"{hours:g}",
        error_messages={"max_value": "Sixteen hours are the most.",
                        "min_value": "Hours cannot be below zero."},
    )  # fmt: skip


class SevenDays:
    """A field of hours for each weekday."""

    def add_days(self, hours) -> None:
        """The fields, as they stand now."""
        for k, day in enumerate(DAYS):
            self.fields[f"hours_{k}"] = _hours_field(day, hours[k])

    def days(self):
        """The weekday fields in order, from the day on which a week begins."""
        begin = first_weekday()
        return [self[f"hours_{(begin + k) % 7}"] for k in range(7)]

    @property
    def hours(self) -> list[float]:
        """The seven figures, Monday first."""
        return [self.cleaned_data[f"hours_{k}"] for k in range(7)]


class WeekForm(SevenDays, forms.ModelForm):
    """Hours at the machine."""

    class Meta:
        model = Week
        fields = ["long_day", "left_today"]
        labels = {"long_day": "A day is long above, hours", "left_today": "Left of today, hours"}

    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.initial["left_today"] = f"{self.instance.left_of(timezone.localdate()):g}"
        self.fields["left_today"].required = False
        self.add_days(self.instance.hours)

    def clean_left_today(self) -> float:
        """Nothing, where nothing was said."""
        return self.cleaned_data["left_today"] or 0.0

    def save(self, commit: bool = True) -> Week:
        """Keep the seven figures together."""
        self.instance.hours = self.hours
        self.instance.today = timezone.localdate()
        return super().save(commit)


class OwnWeekForm(SevenDays, forms.Form):
    """The hours of one member at another machine."""

    def __init__(self, name: str, member, week: OwnWeek | None, *args, **kwargs) -> None:
        super().__init__(*args, prefix=f"own-{member.pk}", **kwargs)
        self.name, self.member = name, member
        self.add_days((week or OwnWeek(member=member)).hours)

    def save(self) -> None:
        """Keep the seven figures together."""
        OwnWeek.objects.update_or_create(member=self.member, defaults={"hours": self.hours})


class DayOffForm(forms.ModelForm):
    """Days without the machine."""

    class Meta:
        model = DayOff
        fields = ["first", "last", "why"]
        widgets = {name: forms.DateInput(attrs={"type": "date"}) for name in ("first", "last")}

    def clean(self):
        """In order, and no longer than a year."""
        values = super().clean()
        first, last = values.get("first"), values.get("last")
        if first and last and last < first:
            self.add_error("last", "The last day comes after the first.")
        elif first and last and (last - first).days > 366:
            self.add_error("last", "A year off at once is the most.")
        elif last and last > timezone.localdate() + datetime.timedelta(days=5 * 366):
            self.add_error("last", "Five years ahead is as far as this calendar looks.")
        return values
