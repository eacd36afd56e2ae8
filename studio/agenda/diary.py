"""A studio's calendar for the core: its week, its promises, what they come to."""

from __future__ import annotations

import datetime
from collections.abc import Mapping

from chorograph_core.estimating import PriceList, Promise, WorkWeek
from chorograph_core.estimating.price import hours_for
from studio.accounts.models import Studio
from studio.agenda.models import DayOff, Week
from studio.jobs.models import Job

WITHOUT_LEVEL = 400.0
"""Square inches an hour for a job nobody has set a level for: honest rather than quick."""


def week_of(studio: Studio) -> WorkWeek:
    """The studio's hours and days off."""
    week = Week.objects.filter(studio=studio).first() or Week(studio=studio)
    off = set()
    for row in DayOff.objects.filter(studio=studio):
        days = min((row.last - row.first).days, 800)
        off.update(row.first + datetime.timedelta(days=k) for k in range(days + 1))
    return WorkWeek(tuple(week.hours), frozenset(off), week.long_day)


def promises_of(studio: Studio, prices: PriceList, without: Job | None = None) -> list[Promise]:
    """Every job that is not stitched yet, with the hours it will take.

    A planned route says the hours best; else the level agreed and the size of the top.
    """
    jobs = Job.objects.filter(studio=studio).exclude(thread_bookings__state="out")
    jobs = jobs.only("title", "due", "width", "height", "level", "planned", "repair_hours")
    if without is not None:
        jobs = jobs.exclude(pk=without.pk)
    return [Promise(str(job.pk), job.title, job_hours(job, prices), job.due) for job in jobs]


def job_hours(job: Job, prices: PriceList) -> float:
    """Hours a job takes; *job* carries the figures of its plan, if there is one."""
    figures: Mapping | None = getattr(job, "figures", None)
    if figures and figures.get("minutes"):
        return figures["minutes"] / 60 + prices.setup_hours
    area = job.width * job.height
    level = next((level for level in prices.levels if level.key == job.level), None)
    if level is None:
        return area / WITHOUT_LEVEL + prices.setup_hours
    return sum(hours_for(level, area, prices.setup_hours)) / 2
