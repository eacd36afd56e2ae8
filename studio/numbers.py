"""Exact numbers as model fields."""

from __future__ import annotations

from collections.abc import Callable

from django.db import models


def number(label: str, digits: int, places: int, least: Callable, **more) -> models.DecimalField:
    """A decimal of *digits* in all, *places* behind the point, held to the validator *least*."""
    return models.DecimalField(
        label, max_digits=digits, decimal_places=places, validators=[least], **more
    )
