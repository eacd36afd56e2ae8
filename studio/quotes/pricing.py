"""From a studio's price list to offers for a job, with the dates that go with them."""

from __future__ import annotations

import datetime
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from chorograph_core.formats import Job as CoreJob
from chorograph_core.office import (
    Asked,
    Level,
    Offer,
    PriceList,
    Promise,
    WorkWeek,
    earliest,
    offer,
    pushed_in,
)
from chorograph_core.office.calendar import Pushed
from chorograph_core.office.price import STARTING_LEVELS
from studio.accounts.models import Studio
from studio.agenda.diary import promises_of, week_of
from studio.jobs.models import Job
from studio.quotes.models import PriceLevel, Prices

HUNDRED = Decimal(100)


def prices_of(studio: Studio) -> Prices:
    """The studio's price list; made from the starting one when there is none."""
    found = Prices.objects.filter(studio=studio).first()
    if found is not None:
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
        prices.batting_area, prices.thread_yard, prices.binding_inch, prices.repair_hour,
        prices.rush / HUNDRED, prices.tax / HUNDRED, prices.taxed, prices.tax_included,
        Decimal(prices.rounding),
    )  # fmt: skip


@dataclass(frozen=True)
class Dated:
    """An offer with its earliest honest date, and what a wanted date would move."""

    offer: Offer
    earliest: datetime.date | None
    pushed: Pushed | None = None

    @property
    def warnings(self) -> list[str]:
        """Plain warnings: too little an hour, a date that cannot be held."""
        said = list(self.offer.warnings)
        if self.pushed is not None and self.pushed.late:
            when = f"{self.earliest:%-d %B}" if self.earliest else "no day in sight"
            said.append(f"Your date cannot be held; the earliest honest one is {when}.")
        elif self.pushed is not None:
            late = [move for move in self.pushed.moves if move.late]
            if late:
                names = ", ".join(move.promise.title for move in late)
                said.append(f"Your date would make late: {names}.")
        return said


def asked_of(core: CoreJob) -> Asked:
    """What is to be priced, from the intake."""
    width, height = core.size
    intake = core.intake
    area = 0.0
    if intake.batting is not None and intake.batting.source == "studio":
        more = 2 * core.machine.batting_allowance
        area = (width + more) * (height + more) * intake.batting.layers
    return Asked(width, height, area, True, intake.wishes.bind, intake.wishes.repair_hours,
                 intake.wishes.rush)  # fmt: skip


def offers_for(
    prices: PriceList, core: CoreJob, promises: list[Promise], week: WorkWeek,
    today: datetime.date | None = None,
) -> list[Dated]:  # fmt: skip
    """Every level of the price list, priced and dated for *core*."""
    today = today or timezone.localdate()
    asked = asked_of(core)
    wanted = datetime.date.fromisoformat(core.due) if core.due else None
    found = []
    for level in prices.levels:
        made = offer(prices, level, asked)
        hours = made.hours[1]
        pushed = pushed_in(hours, wanted, promises, week, today) if wanted else None
        found.append(Dated(made, earliest(hours, promises, week, today), pushed))
    return found


def dated_offers(job: Job, core: CoreJob) -> list[Dated]:
    """Offers for a stored job among all the studio has promised."""
    prices = core_prices(prices_of(job.studio))
    return offers_for(prices, core, promises_of(job.studio, prices, job), week_of(job.studio))
