"""When a job can be done: hours at the machine by day, jobs promised, the earliest honest date.

One machine, jobs that may be put aside and taken up again: taking the earliest due first keeps every
promise if any order can (Jackson 1955). A new job can therefore be slipped in before all promised
jobs that have enough slack, and its earliest date is where it then ends.
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
    """

    hours: tuple[float, ...] = (5.0, 5.0, 5.0, 5.0, 5.0, 0.0, 0.0)
    off: frozenset[date] = frozenset()
    long_day: float = 6.0

    def days(self, start: date) -> Iterator[tuple[date, float]]:
        """Days from *start* on, with the hours each one has."""
        before = 0.0
        for k in range(HORIZON):
            day = start + datetime.timedelta(days=k)
            hours = 0.0 if day in self.off else self.hours[day.weekday()]
            if before > self.long_day:
                hours = min(hours, self.long_day / 2)
            yield day, hours
            before = hours


@dataclass(frozen=True)
class Promise:
    """A job that takes *hours* and is promised for *due*, or for no day (None)."""

    key: str
    title: str
    hours: float
    due: date | None = None


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


def earliest(hours: float, promises: Iterable[Promise], week: WorkWeek, start: date) -> date | None:
    """The earliest day by which a new job of *hours* can be done with no promise made later.

    A promise that cannot be kept anyway may not slip further. None beyond the horizon.
    """
    queue = _by_due(promises)
    allowed = {
        booked.promise.key: max(booked.finish or date.max, booked.promise.due or date.max)
        for booked in _laid(queue, week, start)
    }
    new = Promise("", "", hours)
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
    hours: float, wanted: date, promises: Sequence[Promise], week: WorkWeek, start: date
) -> Pushed:
    """What moves when a new job of *hours* is promised for *wanted*."""
    before = {booked.promise.key: booked for booked in schedule(promises, week, start)}
    new = Promise("\0new", "", hours, wanted)
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
    days = week.days(start)
    day, left = start, 0.0
    made = []
    for promise in queue:
        need, taken, finish = promise.hours, [], None
        while need > TINY:
            if left <= TINY:
                found = next(days, None)
                if found is None:
                    break
                day, left = found
                continue
            use = min(need, left)
            taken.append((day, use))
            need, left = need - use, left - use
        if need <= TINY:
            finish = taken[-1][0] if taken else day
        made.append(Booked(promise, tuple(taken), finish))
    return made
