"""What other rooms put beside the jobs in the calendar, so that it need not know them."""

from __future__ import annotations

import datetime
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from chorograph_core.estimating import Booked, WorkWeek
from studio.accounts.models import Studio
from studio.handing_in import HandedIn


@dataclass(frozen=True)
class Note:
    """Something for a *day*: in few words, in more, and where it leads."""

    day: datetime.date
    text: str
    detail: str
    address: str


Notes = Callable[[Studio, object, Sequence[Booked], WorkWeek, datetime.date], Iterable[Note]]
beside_jobs: HandedIn[Notes] = HandedIn()
"""Puts what the decorated function says into the calendar of whoever looks at it."""


def notes_by_day(
    studio: Studio, person, booked: Sequence[Booked], week: WorkWeek, today: datetime.date
) -> dict[datetime.date, list[Note]]:
    """All notes by their day."""
    found: dict[datetime.date, list[Note]] = defaultdict(list)
    for each in beside_jobs:
        for note in each(studio, person, booked, week, today):
            found[note.day].append(note)
    return found
