"""How long a planned job takes by the studio's own hand, as a room above knows it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from chorograph_core.job import Job as CoreJob
from studio.handing_in import HandedIn
from studio.jobs.models import Job


@dataclass(frozen=True)
class ByHand:
    """Seconds at the machine by the studio's own hand: the *mean*, and from *low* to *high* as it turns out
    four times in five; *things* that were timed say so."""

    mean: float
    low: float
    high: float
    things: int

    def hourly(self, amount: float, besides: float = 0.0) -> tuple[float, float]:
        """What *amount* brings an hour at worst and at best, *besides* being hours spent away from the
        machine."""
        return amount / (self.high / 3600 + besides), amount / (self.low / 3600 + besides)


knows_hand: HandedIn[Callable[[Job, CoreJob], ByHand | None]] = HandedIn()
"""Lets the decorated function say how long a job takes by the studio's own hand."""


def by_own_hand(job: Job, core: CoreJob) -> ByHand | None:
    """What is known of it; None while too little is timed, or nothing is planned."""
    return next((found for each in knows_hand if (found := each(job, core)) is not None), None)
