"""Forms of the price list."""

from __future__ import annotations

from django import forms

from studio.accounts.seen import SeenForm
from studio.prices.models import PriceLevel, Prices


class PricesForm(SeenForm):
    """Everything but the levels."""

    class Meta:
        model = Prices
        fields = ["currency", "wished_hourly", "setup_hours", "batting_area", "thread_yard",
                  "binding_inch", "binding_pace", "repair_hour", "rush", "tax", "taxed", "tax_included",
                  "rounding"]  # fmt: skip


class LevelForm(SeenForm):
    """One level: the slow pace is the smaller figure."""

    class Meta:
        model = PriceLevel
        fields = ["name", "detail", "basis", "rate", "minimum", "slow", "quick", "density"]

    def clean(self):
        """Slow before quick."""
        values = super().clean()
        slow, quick = values.get("slow"), values.get("quick")
        if slow and quick and slow > quick:
            self.add_error("slow", "The slow pace covers fewer square inches than the quick one.")
        return values


LevelForms = forms.inlineformset_factory(
    Prices, PriceLevel, form=LevelForm, extra=0, can_delete=False, max_num=8
)
