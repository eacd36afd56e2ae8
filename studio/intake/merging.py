"""Two people on one intake: what the later one typed, laid over what the earlier one kept."""

from __future__ import annotations

from django import forms
from django.http import QueryDict


def typed(form: forms.Form, data: QueryDict) -> dict:
    """What was typed into each field, in the shape `values_of` gives."""
    found = {}
    for name, field in form.fields.items():
        if isinstance(field, forms.BooleanField):
            found[name] = name in data
        elif isinstance(field, forms.MultipleChoiceField):
            found[name] = data.getlist(name)
        else:
            found[name] = data.get(name, "").strip()
    return found


def changed(typed_values: dict, base: dict) -> set[str]:
    """The fields whose content differs from what the person was shown."""
    return {name for name, value in typed_values.items() if _plain(value) != _plain(base.get(name))}


def laid_over(newest: dict, typed_values: dict, own: set[str]) -> dict:
    """The newest values with the person's own changes over them, as data for a form."""
    values = {**newest, **{name: typed_values[name] for name in own}}
    return {name: value for name, value in values.items() if value not in (False, None)}


def _plain(value):
    if isinstance(value, (list, tuple)):
        return sorted(map(str, value))
    if isinstance(value, bool):
        return value
    return "" if value is None else str(value).strip()
