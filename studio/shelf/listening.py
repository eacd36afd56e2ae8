"""A new studio finds something on its shelf."""

from __future__ import annotations

from django.dispatch import receiver

from studio.accounts.signals import studio_made
from studio.shelf.starting import stock


@receiver(studio_made)
def stock_shelf(sender, *, studio, **_) -> None:
    """Put the starting sets there."""
    stock(studio)
