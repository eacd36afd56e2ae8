"""When a job can be done: hours at the machine by day, jobs promised, the earliest honest date.

One machine, jobs that may be put aside and taken up again: taking, each day, the earliest due of those
at hand keeps every promise if any order can (Jackson 1955; with days from which jobs are at hand, Horn
1974). A new job can therefore be slipped in before all promised jobs that have enough slack, and its
earliest date is where it then ends.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date

HORIZON = 800
"""Days looked ahead."""
TINY = 1e-6


@dataclass(frozen=True)
class WorkWeek:
    """Hours at the machine, Monday first; *off* are days without any.

    After a day of more than *long_day* hours the body rests: the next day has at most half that.
    *left_today* is what is left of the first day; None counts all of it.
    """

    hours: tuple[float, ...] = (5.0, 5.0, 5.0, 5.0, 5.0, 0.0, 0.0)
    off: frozenset[date] = frozenset()
    long_day: float = 6.0
    left_today: float | None = None

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
    machine takes *finishing* hours, by the same hands, after all others. A date that is only *held*
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

    @property
    def all_hours(self) -> float:
        """Machine and finishing together."""
        return self.hours + self.finishing


@dataclass(frozen=True)
class Booked:
    """A job laid into the calendar: hours by day; *finish* is None beyond the horizon."""

    promise: Promise
    days: tuple[tuple[date, float], ...] = ()
    finish: date | None = None

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
    return _laid(_by_due(promises), week, start)


def earliest(
    hours: float, promises: Iterable[Promise], week: WorkWeek, start: date,
    at_hand: date | None = None,
) -> date | None:  # fmt: skip
    """The earliest day by which a new job of *hours* can be done with no promise made later.

    A promise that cannot be kept anyway may not slip further. None beyond the horizon.
    """
    queue = _by_due(promises)
    allowed = {
        booked.promise.key: max(booked.finish or date.max, booked.promise.due or date.max)
        for booked in _laid(queue, week, start)
    }
    new = Promise("", "", hours, None, at_hand)
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
    at_hand: date | None = None,
) -> Pushed:  # fmt: skip
    """What moves when a new job of *hours* is promised for *wanted*."""
    before = {booked.promise.key: booked for booked in schedule(promises, week, start)}
    new = Promise("\0new", "", hours, wanted, at_hand)
    finish, late, moves = None, 0, []
    for booked in schedule([*promises, new], week, start):
        if booked.promise.key == new.key:
            finish, late = booked.finish, booked.late
        elif booked.finish != before[booked.promise.key].finish:
            old = before[booked.promise.key].finish
            moves.append(Move(booked.promise, old, booked.finish, booked.late))
    return Pushed(finish, late, tuple(moves))


def _by_due(promises: Iterable[Promise]) -> list[Promise]:
    return sorted(promises, key=lambda p: (p.due or date.max, p.title, p.key))


def _laid(queue: Sequence[Promise], week: WorkWeek, start: date) -> list[Booked]:
    """Each day's hours go to the first of the queue that is at hand and not done."""
    need = [promise.all_hours for promise in queue]
    taken: list[list[tuple[date, float]]] = [[] for _ in queue]
    # A job without hours is done on the day it is at hand.
    finish = [max(start, p.at_hand or start) if p.all_hours <= TINY else None for p in queue]
    open_jobs = [k for k, hours in enumerate(need) if hours > TINY]
    for day, hours in week.days(start):
        if not open_jobs:
            break
        left = hours
        for k in list(open_jobs):
            if left <= TINY:
                break
            at_hand = queue[k].at_hand
            if at_hand is not None and at_hand > day:
                continue
            use = min(need[k], left)
            taken[k].append((day, use))
            need[k], left = need[k] - use, left - use
            if need[k] <= TINY:
                finish[k] = day
                open_jobs.remove(k)
    return [
        Booked(promise, tuple(days), end)
        for promise, days, end in zip(queue, taken, finish, strict=True)
    ]
