"""A studio's calendar for the core: its week, its promises, what they come to."""

from __future__ import annotations

import datetime

from django.utils import timezone

from chorograph_core.estimating import (
    PriceList,
    Promise,
    WorkWeek,
    booked_hours,
    finishing_hours,
    schedule,
)
from chorograph_core.formats import calendar_file
from studio.accounts.models import Studio, named
from studio.agenda.models import DayOff, OwnWeek, Week
from studio.jobs.models import Job
from studio.languages.telling import told
from studio.prices.lists import core_prices, prices_of


def week_of(studio: Studio) -> WorkWeek:
    """The studio's hours and days off."""
    week = Week.objects.filter(studio=studio).first() or Week(studio=studio)
    off = set()
    for row in DayOff.objects.filter(studio=studio):
        off.update(row.days())
    left = week.left_of(timezone.localdate())
    kept = {each.member_id: each.hours for each in OwnWeek.objects.filter(member__studio=studio)}
    others = {
        name: WorkWeek(tuple(kept[member.pk]), frozenset(off), week.long_day)
        for name, member in (named(studio) if kept else {}).items()
        if member.pk in kept
    }
    return WorkWeek(tuple(week.hours), frozenset(off), week.long_day, left, others)


def promises_of(studio: Studio, prices: PriceList, without: Job | None = None) -> list[Promise]:
    """Every job that is not stitched yet, with the hours it will take, and dates that are held.

    The hours are those of `booked_hours`, the rule that quotes are dated by, too. A quote that is open
    keeps its dates free: for every level it offers, since the client may take any of them.
    """
    open_jobs = Job.objects.here().filter(studio=studio, closed__isnull=True)
    jobs = open_jobs.exclude(thread_bookings__state="out").only(
        "title", "due", "width", "height", "level", "planned", "repair_hours", "bind", "at_hand",
        "held",
    )  # fmt: skip
    if without is not None:
        jobs = jobs.exclude(pk=without.pk)
    today = timezone.localdate()
    return [promise for job in jobs for promise in job_promises(job, prices, today)]


def job_promises(job: Job, prices: PriceList, today: datetime.date) -> list[Promise]:
    """What one job takes up: its own hours, or those a quote holds for it."""
    key = str(job.pk)
    if job.held.get("until", "") >= today.isoformat():
        return _held(job, key)
    finishing = finishing_hours(prices, job.width, job.height, job.bind)
    hours = booked_hours(prices, job.level, job.width * job.height, job.repair_hours,
                         job.planned.get("minutes"))  # fmt: skip
    # What is stitched already takes no more days.
    hours = max(0.0, hours - job.planned.get("behind", 0.0) / 60)
    away, who = away_hours(job)
    away = min(away, hours)
    return [Promise(key, job.title, hours - away, job.due, job.at_hand, finishing, job=key, away=away,
                    away_by=who)]  # fmt: skip


def away_hours(job: Job) -> tuple[float, str]:
    """The hours of a planned route that somebody else stitches at another machine, and who; none where nobody
    is named."""
    who = job.planned.get("away_by", "")
    return (job.planned.get("away", 0.0) / 60 if who else 0.0), who


def calendar_of(studio: Studio) -> bytes:
    """Days booked and days off from today on, as iCalendar."""
    today = timezone.localdate()
    promises = promises_of(studio, core_prices(prices_of(studio)))
    days = [
        (day, row.why) for row in studio.days_off.filter(last__gte=today) for day in row.days(today)
    ]
    now = timezone.now().replace(microsecond=0)
    return calendar_file(studio.name, schedule(promises, week_of(studio), today), days, now, told)


Hours = list[tuple[datetime.date, float]]
"""Days with the hours of each."""


def days_booked(studio: Studio, prices: PriceList, job: Job) -> tuple[Hours, Hours]:
    """The days that the calendar gives a job, and those of whoever goes on with it at another machine; all
    days there are from the last of them on, should it take longer."""
    today = timezone.localdate()
    week = week_of(studio)
    booked = schedule(promises_of(studio, prices), week, today)
    mine = next((each for each in booked if each.promise.job == str(job.pk)), None)

    def on(given: Hours, week: WorkWeek) -> Hours:
        after = given[-1][0] if given else today - datetime.timedelta(days=1)
        return given + [(day, hours) for day, hours in week.days(today) if day > after]

    own = on(list(mine.days) if mine is not None else [], week)
    if mine is None or not mine.promise.handed:
        return own, own
    return own, on(list(mine.away), week.of(mine.promise.away_by))


def _held(job: Job, key: str) -> list[Promise]:
    """Promises that keep every level's date free: by the first date the hours of the shortest level,
    by each later one what the next takes more."""
    made: list[Promise] = []
    booked = 0.0
    for number, (due, hours) in enumerate(sorted(map(tuple, job.held["levels"]))):
        if hours > booked + 1e-6:
            made.append(
                Promise(f"{key}/{number}", job.title, hours - booked,
                        datetime.date.fromisoformat(due), job.at_hand, 0.0, True, key)
            )  # fmt: skip
            booked = hours
    return made
