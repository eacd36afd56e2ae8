"""From a studio's price list to offers for a job, with the dates that go with them."""

from __future__ import annotations

import datetime
from dataclasses import dataclass

from django.utils import timezone

from chorograph_core.estimating import (
    Asked,
    Offer,
    PriceList,
    Promise,
    WorkWeek,
    earliest,
    offer,
    pushed_in,
)
from chorograph_core.estimating.calendar import Pushed
from chorograph_core.job import Job as CoreJob
from studio.agenda.diary import promises_of, week_of
from studio.jobs.models import Job
from studio.prices.lists import core_prices, prices_of


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
