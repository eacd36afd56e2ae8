"""From a studio's stored price list to the one the core reckons with."""

from __future__ import annotations

from decimal import Decimal

from django.db import transaction

from chorograph_core.estimating import Level, PriceList
from chorograph_core.estimating.price import STARTING_LEVELS
from studio.accounts.models import Studio
from studio.prices.models import PriceLevel, Prices

HUNDRED = Decimal(100)


def prices_of(studio: Studio) -> Prices:
    """The studio's price list; made from the starting one when there is none."""
    found = Prices.objects.filter(studio=studio).first()
    if found is not None:
        found.studio = studio
        return found
    with transaction.atomic():
        prices, made = Prices.objects.get_or_create(studio=studio)
        if made:
            PriceLevel.objects.bulk_create(
                PriceLevel(prices=prices, place=k, key=level.key, name=level.name,
                           detail=level.detail, basis=level.basis, rate=level.rate,
                           minimum=level.minimum, slow=int(level.pace[0]),
                           quick=int(level.pace[1]), density=level.density)
                for k, level in enumerate(STARTING_LEVELS)
            )  # fmt: skip
    # Read back what was stored: defaults are plain numbers until then.
    prices.refresh_from_db()
    prices.studio = studio
    return prices


def core_prices(prices: Prices) -> PriceList:
    """The price list as the core reckons with it."""
    levels = tuple(
        Level(row.key, row.name, row.detail, row.basis, row.rate, row.minimum,
              (float(row.slow), float(row.quick)), row.density)
        for row in prices.levels.all()
    )  # fmt: skip
    return PriceList(
        prices.currency, levels, prices.wished_hourly, float(prices.setup_hours),
        prices.batting_area, prices.thread_yard, prices.binding_inch, float(prices.binding_pace),
        prices.repair_hour,
        prices.rush / HUNDRED, prices.tax / HUNDRED, prices.taxed, prices.tax_included,
        Decimal(prices.rounding), prices.studio.units,
    )  # fmt: skip
