"""Forms of the price list."""

from __future__ import annotations

from django import forms

from studio.accounts.seen import SeenMixin
from studio.prices.models import PriceLevel, Prices


class PricesForm(SeenMixin, forms.ModelForm):
    """Everything but the levels."""

    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.note_seen()

    def _post_clean(self) -> None:
        self.refuse_stale()
        super()._post_clean()

    class Meta:
        model = Prices
        fields = ["currency", "wished_hourly", "setup_hours", "batting_area", "thread_yard",
                  "binding_inch", "binding_pace", "repair_hour", "rush", "tax", "taxed", "tax_included",
                  "rounding"]  # fmt: skip


class LevelForm(SeenMixin, forms.ModelForm):
    """One level: the slow pace is the smaller figure."""

    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.note_seen()

    def _post_clean(self) -> None:
        self.refuse_stale()
        super()._post_clean()

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
