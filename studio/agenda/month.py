"""Weeks ahead as rows of days, each with the hours that jobs take of it."""

from __future__ import annotations

import datetime
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from chorograph_core.estimating import Booked, WorkWeek
from studio.agenda.beside import Note
from studio.writing import first_weekday

SHOWN = 8
"""Weeks shown."""
TINTS = ("#2e7566", "#2b3a55", "#9a5b2e", "#6b7680", "#7d5413", "#5a4a6a")


@dataclass(frozen=True)
class Part:
    """A job's share of a day: *share* of the day's hours in percent; *who* stitches it, if somebody else."""

    key: str
    title: str
    hours: float
    share: float
    tint: str
    who: str = ""


@dataclass(frozen=True)
class Day:
    """One day: its hours, the jobs in it, and the jobs due."""

    day: datetime.date
    hours: float
    parts: tuple[Part, ...]
    due: tuple[Booked, ...]
    past: bool
    notes: tuple[Note, ...] = ()


def weeks_ahead(
    booked: Sequence[Booked], week: WorkWeek, today: datetime.date,
    notes: Mapping[datetime.date, Sequence[Note]] = MappingProxyType({}),
) -> list[list[Day]]:  # fmt: skip
    """Rows of seven days, from this week on, with *notes* by their day."""
    hours = dict(day for day, _ in zip(week.days(today), range(7 * SHOWN), strict=False))
    parts: dict[datetime.date, list[Part]] = defaultdict(list)
    due: dict[datetime.date, list[Booked]] = defaultdict(list)
    for number, each in enumerate(booked):
        tint = TINTS[number % len(TINTS)]
        for day, taken in each.days:
            share = 100 * taken / hours[day] if hours.get(day) else 0
            parts[day].append(Part(each.promise.key, each.promise.title, taken, share, tint))
        for day, taken in each.away:
            # Of another's day, at another machine: as wide as the day.
            parts[day].append(Part(each.promise.key, each.promise.title, taken, 100.0, tint,
                                   each.promise.away_by))  # fmt: skip
        on = due[each.promise.due] if each.promise.due else None
        # Several levels may be held for a client by one day: that is one date to her.
        if on is not None and all(other.promise.job != each.promise.job for other in on):
            on.append(each)
    begin = today - datetime.timedelta(days=(today.weekday() - first_weekday()) % 7)
    rows = []
    for row in range(SHOWN):
        days = [begin + datetime.timedelta(days=7 * row + k) for k in range(7)]
        rows.append(
            [
                Day(
                    d,
                    hours.get(d, 0.0),
                    tuple(parts[d]),
                    tuple(due[d]),
                    d < today,
                    tuple(notes.get(d, ())),
                )
                for d in days
            ]
        )
    return rows
