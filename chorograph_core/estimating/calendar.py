"""When a job can be done: hours at the machine by day, jobs promised, the earliest honest date.

One machine, jobs that may be put aside and taken up again: taking, each day, the earliest due of those
at hand keeps every promise if any order can (Jackson 1955; with days from which jobs are at hand, Horn
1974). A new job can therefore be slipped in before all promised jobs that have enough slack, and its
earliest date is where it then ends.

What of a job is handed over to somebody at another machine is laid into her own days from the day after the
rest is done; of her own jobs, too, the earliest due comes first. So that she has the time, the rest is due
so much earlier as her part takes.
"""

from __future__ import annotations

import datetime
import itertools
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

HORIZON = 800
"""Days looked ahead."""
TINY = 1e-6


@dataclass(frozen=True)
class WorkWeek:
    """Hours at the machine, Monday first; *off* are days without any.

    After a day of more than *long_day* hours the body rests: the next day has at most half that.
    *left_today* is what is left of the first day; None counts all of it. *others* are the weeks of those who
    stitch at other machines, by their names; who is not named has the same days, at a machine of her own.
    """

    hours: tuple[float, ...] = (5.0, 5.0, 5.0, 5.0, 5.0, 0.0, 0.0)
    off: frozenset[date] = frozenset()
    long_day: float = 6.0
    left_today: float | None = None
    others: Mapping[str, WorkWeek] = field(default_factory=dict)

    def of(self, who: str) -> WorkWeek:
        """The week of somebody at another machine."""
        return self.others.get(who) or replace(self, left_today=None, others={})

    def days(self, start: date) -> Iterator[tuple[date, float]]:
        """Days from *start* on, with the hours each one has."""
        before = 0.0
        for k in range(HORIZON):
            day = start + datetime.timedelta(days=k)
            hours = 0.0 if day in self.off else self.hours[day.weekday()]
            if before > self.long_day:
                hours = min(hours, self.long_day / 2)
            if k == 0 and self.left_today is not None:
                hours = min(max(self.left_today, 0.0), 24.0)
            yield day, hours
            before = hours


@dataclass(frozen=True)
class Promise:
    """A job that takes *hours* and is promised for *due*, or for no day (None).

    It cannot be begun before it is *at_hand*. What is still to be done to it once it is off the
    machine takes *finishing* hours, by the same hands, after all others. *away* are hours beside these that
    *away_by* stitches afterwards, at another machine, and then finishes it. A date that is only *held*
    for a client who has not answered yet says so; *job* is the job's own key where one job has
    several promises.
    """

    key: str
    title: str
    hours: float
    due: date | None = None
    at_hand: date | None = None
    finishing: float = 0.0
    held: bool = False
    job: str = ""
    away: float = 0.0
    away_by: str = ""

    @property
    def handed(self) -> bool:
        """Whether somebody else goes on with it."""
        return bool(self.away_by) and self.away > TINY

    @property
    def own_hours(self) -> float:
        """Hours in the studio's own days: machine and finishing, but what somebody else does."""
        return self.hours if self.handed else self.hours + self.away + self.finishing

    @property
    def all_hours(self) -> float:
        """Machine and finishing together, whoever does it."""
        return self.hours + self.away + self.finishing


@dataclass(frozen=True)
class Booked:
    """A job laid into the calendar: hours by day, and by day those of who goes on with it (*away*); *finish*
    is None beyond the horizon."""

    promise: Promise
    days: tuple[tuple[date, float], ...] = ()
    finish: date | None = None
    away: tuple[tuple[date, float], ...] = ()

    @property
    def late(self) -> int:
        """Days after its due date; 0 when in time or promised for no day."""
        if self.promise.due is None:
            return 0
        if self.finish is None:
            return HORIZON
        return max(0, (self.finish - self.promise.due).days)


@dataclass(frozen=True)
class Move:
    """A job that ends on another day than before."""

    promise: Promise
    before: date | None
    after: date | None
    late: int


@dataclass(frozen=True)
class Pushed:
    """What comes of pushing a job in: when it ends, and what moves."""

    finish: date | None
    late: int
    moves: tuple[Move, ...] = field(default=())


def schedule(promises: Iterable[Promise], week: WorkWeek, start: date) -> list[Booked]:
    """Lay jobs into the days from *start* on, the earliest due first."""
    return _laid(_by_due(promises, week, start), week, start)


def earliest(
    hours: float, promises: Iterable[Promise], week: WorkWeek, start: date,
    at_hand: date | None = None, away: float = 0.0, away_by: str = "",
) -> date | None:  # fmt: skip
    """The earliest day by which a new job of *hours*, and *away* of them besides, can be done with no promise
    made later.

    A promise that cannot be kept anyway may not slip further. None beyond the horizon.
    """
    queue = _by_due(promises, week, start)
    allowed = {
        booked.promise.key: max(booked.finish or date.max, booked.promise.due or date.max)
        for booked in _laid(queue, week, start)
    }
    new = Promise("", "", hours, None, at_hand, away=away, away_by=away_by)
    for place in range(len(queue) + 1):
        laid = _laid([*queue[:place], new, *queue[place:]], week, start)
        kept = all(
            booked.finish is not None and booked.finish <= allowed[booked.promise.key]
            for booked in laid[place + 1 :]
            if booked.promise.due is not None
        )
        if kept:
            return laid[place].finish
    return None  # pragma: no cover - the last place is always kept


def pushed_in(
    hours: float, wanted: date, promises: Sequence[Promise], week: WorkWeek, start: date,
    at_hand: date | None = None, away: float = 0.0, away_by: str = "",
) -> Pushed:  # fmt: skip
    """What moves when a new job of *hours*, and *away* of them besides, is promised for *wanted*."""
    before = {booked.promise.key: booked for booked in schedule(promises, week, start)}
    new = Promise("\0new", "", hours, wanted, at_hand, away=away, away_by=away_by)
    finish, late, moves = None, 0, []
    for booked in schedule([*promises, new], week, start):
        if booked.promise.key == new.key:
            finish, late = booked.finish, booked.late
        elif booked.finish != before[booked.promise.key].finish:
            old = before[booked.promise.key].finish
            moves.append(Move(booked.promise, old, booked.finish, booked.late))
    return Pushed(finish, late, tuple(moves))


def _by_due(promises: Iterable[Promise], week: WorkWeek, start: date) -> list[Promise]:
    return sorted(promises, key=lambda p: (_own_due(p, week, start) or date.max, p.title, p.key))


def _own_due(promise: Promise, week: WorkWeek, start: date) -> date | None:
    """By when the studio's own part is to be done: early enough for who goes on with it, by her days."""
    due = promise.due
    if due is None or not promise.handed:
        return due
    left = promise.away + promise.finishing
    hers = itertools.takewhile(lambda each: each[0] <= due, week.of(promise.away_by).days(start))
    for day, hours in reversed(list(hers)):
        left -= hours
        if left <= TINY:
            return day - datetime.timedelta(days=1)
    return start


def _laid(queue: Sequence[Promise], week: WorkWeek, start: date) -> list[Booked]:
    """The studio's own part of each job, then what others go on with."""
    own = _filled([(p.own_hours, p.at_hand) for p in queue], week, start)
    made = [Booked(promise, days, end) for promise, (days, end) in zip(queue, own, strict=True)]
    for who in dict.fromkeys(p.away_by for p in queue if p.handed):
        hers = [k for k, p in enumerate(queue) if p.handed and p.away_by == who]
        # What ends beyond the horizon never comes to her.
        hers = sorted((k for k in hers if made[k].finish is not None),
                      key=lambda k: (queue[k].due or date.max, k))  # fmt: skip
        asked = [(queue[k].away + queue[k].finishing, _day_after(made[k].finish)) for k in hers]
        for k, (days, end) in zip(hers, _filled(asked, week.of(who), start), strict=True):
            made[k] = replace(made[k], away=days, finish=end)
    return made


def _day_after(day: date | None) -> date:
    return (day or date.max - datetime.timedelta(days=1)) + datetime.timedelta(days=1)


def _filled(
    asked: Sequence[tuple[float, date | None]], week: WorkWeek, start: date
) -> list[tuple[tuple[tuple[date, float], ...], date | None]]:
    """Each day's hours go to the first of those *asked*, (hours, at hand from), that is at hand and not done:
    for each its hours by day, and the day it is done."""
    need = [hours for hours, _ in asked]
    taken: list[list[tuple[date, float]]] = [[] for _ in asked]
    # A job without hours is done on the day it is at hand.
    finish = [max(start, at or start) if hours <= TINY else None for hours, at in asked]
    open_jobs = [k for k, hours in enumerate(need) if hours > TINY]
    for day, hours in week.days(start):
        if not open_jobs:
            break
        left = hours
        for k in list(open_jobs):
            if left <= TINY:
                break
            at_hand = asked[k][1]
            if at_hand is not None and at_hand > day:
                continue
            use = min(need[k], left)
            taken[k].append((day, use))
            need[k], left = need[k] - use, left - use
            if need[k] <= TINY:
                finish[k] = day
                open_jobs.remove(k)
    return [(tuple(days), end) for days, end in zip(taken, finish, strict=True)]
