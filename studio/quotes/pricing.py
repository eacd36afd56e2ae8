"""From a studio's price list to offers for a job, with the dates that go with them."""

from __future__ import annotations

import datetime
from dataclasses import dataclass, replace

from django.utils import timezone

from chorograph_core.estimating import (
    Asked,
    Offer,
    PriceList,
    Promise,
    WorkWeek,
    earliest,
    finishing_hours,
    offer,
    pushed_in,
)
from chorograph_core.estimating.calendar import Pushed
from chorograph_core.job import Job as CoreJob
from studio.agenda.diary import away_hours, promises_of, week_of
from studio.jobs.models import Job
from studio.prices.lists import core_prices, prices_of
from studio.writing import written_day


@dataclass(frozen=True)
class Dated:
    """An offer with its earliest honest date, and what a wanted date would move.

    *hours* is all that is booked for it; *planned*: hours and thread are those of the planned route.
    """

    offer: Offer
    earliest: datetime.date | None
    pushed: Pushed | None = None
    hours: float = 0.0
    planned: bool = False

    @property
    def warnings(self) -> list[str]:
        """Plain warnings: too little an hour, a date that cannot be held."""
        said = list(self.offer.warnings)
        if self.pushed is not None and self.pushed.late:
            when = written_day(self.earliest, "long") if self.earliest else "no day in sight"
            said.append(f"Your date cannot be held; the earliest honest one is {when}.")
        elif self.pushed is not None:
            late = [move for move in self.pushed.moves if move.late]
            if late:
                names = ", ".join(move.promise.title for move in late)
                said.append(f"Your date would make late: {names}.")
        return said


def asked_of(core: CoreJob) -> Asked:
    """What is to be priced, from the intake: the area as measured, the batting to reach beyond the
    greatest measures."""
    width, height = core.extent
    intake = core.intake
    area = 0.0
    if intake.batting is not None and intake.batting.source == "studio":
        more = 2 * core.machine.batting_allowance
        area = (width + more) * (height + more) * intake.batting.layers
    machine = core.loaded_machine
    return Asked(*core.size, area, True, intake.wishes.bind, intake.wishes.repair_hours,
                 intake.wishes.rush, loft=machine.loft, reserve=machine.reserve)  # fmt: skip


def planned_for(job: Job, core: CoreJob, prices: PriceList) -> tuple[str, Asked]:
    """The key of the level that the planned route is of, empty when there is none, and what is to be
    priced once hours and thread are known.

    That is the level agreed; where none is, the one whose line is as dense as what is drawn.
    """
    asked = asked_of(core)
    if not job.planned or not prices.levels:
        return "", asked
    # As much again as the top thread lies on the bobbin; the route's reserve is in its yards.
    yards = 2 * sum(job.planned["yards"].values())
    hours = job.planned["minutes"] / 60 + prices.setup_hours
    level = next((level for level in prices.levels if level.key == core.intake.wishes.level), None)
    if level is None:
        dense = job.planned.get("inches", 0.0) / max(asked.area, 1.0)
        level = min(prices.levels, key=lambda each: abs(each.density - dense))
    return level.key, replace(asked, hours=hours, yards=yards)


def offers_for(
    prices: PriceList, job: Job, core: CoreJob, promises: list[Promise], week: WorkWeek,
    today: datetime.date | None = None,
) -> list[Dated]:  # fmt: skip
    """Every level of the price list, priced and dated for *core*.

    Dated by the same hours that the calendar books: the longer figure, repairs and finishing in it,
    not before the quilt is at hand.
    """
    today = today or timezone.localdate()
    planned, known = planned_for(job, core, prices)
    bare = asked_of(core)
    wanted = datetime.date.fromisoformat(core.due) if core.due else None
    at_hand = datetime.date.fromisoformat(core.intake.at_hand) if core.intake.at_hand else None
    finishing = finishing_hours(prices, *core.size, core.intake.wishes.bind)
    found = []
    for level in prices.levels:
        made = offer(prices, level, known if level.key == planned else bare)
        hours = made.hours[1] + finishing
        away, who = away_hours(job) if level.key == planned else (0.0, "")
        asked = (promises, week, today, at_hand, away, who)
        pushed = pushed_in(hours - away, wanted, *asked) if wanted else None
        first = earliest(hours - away, *asked)
        found.append(Dated(made, first, pushed, hours, level.key == planned))
    return found


def dated_offers(job: Job, core: CoreJob) -> list[Dated]:
    """Offers for a stored job among all the studio has promised."""
    prices = core_prices(prices_of(job.studio))
    return offers_for(prices, job, core, promises_of(job.studio, prices, job), week_of(job.studio))
