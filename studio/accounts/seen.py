"""Forms on things without revisions: what somebody else changed meanwhile is not written over."""

from __future__ import annotations

import hashlib

from django import forms
from django.db import models

from studio.accounts.measured import MeasuredForm


def mark_of(instance: models.Model, names: list[str]) -> str:
    """What a form showed, as one word."""
    values = [str(instance.serializable_value(name)) for name in names]
    return hashlib.sha256("\0".join(values).encode()).hexdigest()[:16]


class SeenForm(MeasuredForm):
    """Carries a mark of what was stored when the page was made, and refuses to write over what has
    changed since. It must be validated inside the transaction that saves."""

    seen = forms.CharField(required=False, widget=forms.HiddenInput)

    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        if self.instance.pk:
            self.initial["seen"] = mark_of(self.instance, self.marked())

    def _post_clean(self) -> None:
        # Before the instance is given what was written.
        self.refuse_stale()
        super()._post_clean()

    def marked(self) -> list[str]:
        """The fields that the form shows."""
        return [name for name in self._meta.fields if name != "seen"]

    def refuse_stale(self) -> None:
        """Add a fault if somebody was faster."""
        if not self.instance.pk or not self.data.get(self.add_prefix("seen")):
            return
        now = type(self.instance).objects.select_for_update().filter(pk=self.instance.pk).first()
        if now is None:
            self.add_error(None, "This was taken off meanwhile; nothing was kept.")
        elif mark_of(now, self.marked()) != self.data[self.add_prefix("seen")]:
            told = "; ".join(
                f"{self.fields[name].label}: {self.said(name, now)}"
                for name in self.marked()
                if name in self.changed_data
                or self.instance.serializable_value(name) != now.serializable_value(name)
            )
            self.add_error(None, f"Somebody changed this while you were writing. It now says: {told}. "
                           f"What you wrote is below; look at both and keep it again.")  # fmt: skip
            self.data = self.data.copy()
            self.data[self.add_prefix("seen")] = mark_of(now, self.marked())
