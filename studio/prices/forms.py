"""Forms of the price list."""

from __future__ import annotations

from django import forms

from studio.accounts.measured import Kind
from studio.accounts.seen import SeenForm
from studio.prices.models import PriceLevel, Prices


class PricesForm(SeenForm):
    """Everything but the levels."""

    class Meta:
        model = Prices
        fields = ["currency", "wished_hourly", "setup_hours", "batting_area", "thread_yard",
                  "binding_inch", "binding_pace", "repair_hour", "rush", "tax", "taxed", "tax_included",
                  "rounding"]  # fmt: skip

    measured = {"batting_area": "per_area", "thread_yard": "per_yard", "binding_inch": "per_inch",
                "binding_pace": "edge"}  # fmt: skip


class LevelForm(SeenForm):
    """One level: the slow pace is the smaller figure."""

    class Meta:
        model = PriceLevel
        fields = ["name", "detail", "basis", "rate", "minimum", "slow", "quick", "density"]

    measured = {"rate": "per_area", "slow": "area", "quick": "area", "density": "closeness"}

    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        if self.units == "cm":
            self.fields["basis"].choices = [("area", "by square metre"), ("hour", "by the hour")]

    def kind_of(self, name: str) -> Kind | None:
        """A rate by the hour is one in any unit."""
        if name == "rate" and self["basis"].value() == "hour":
            return None
        return super().kind_of(name)

    def said(self, name: str, thing) -> str:
        """A rate as it was priced when it was kept, whatever this form prices it by."""
        if name == "rate":
            return self.figure(thing.rate, "per_area" if thing.basis == "area" else None)
        return super().said(name, thing)

    def touched(self, name: str) -> bool:
        """A rate says something else once it is priced otherwise."""
        return super().touched(name) or (name == "rate" and "basis" in self.changed_data)

    def clean(self):
        """Slow before quick."""
        values = super().clean()
        slow, quick = values.get("slow"), values.get("quick")
        if slow and quick and slow > quick:
            self.add_error("slow", "The slow pace covers less than the quick one.")
        return values


LevelForms = forms.inlineformset_factory(
    Prices, PriceLevel, form=LevelForm, extra=0, can_delete=False, max_num=8
)
