"""A few minutes of practice in the calendar, before a quilt that wants a motif not drawn for weeks."""

from __future__ import annotations

import datetime
from collections import defaultdict
from collections.abc import Iterator, Sequence

from django.urls import reverse

from chorograph_core.estimating import Booked, WorkWeek
from studio.accounts.models import Studio
from studio.agenda.beside import Note, beside_jobs
from studio.motifs.practising import rusty

MINUTES = 10
"""Minutes that are put aside for a motif."""
MOST = 3
"""Motifs that are practised in a day: more is a lesson, no warming up."""
AHEAD = 60
"""Days that are looked through for one with hours at the machine."""


@beside_jobs
def practice_days(
    studio: Studio, person, booked: Sequence[Booked], week: WorkWeek, today: datetime.date
) -> Iterator[Note]:
    """Practice on the last working day before a job begins; on its first where there is none before."""
    begins = {each.promise.job: each.days[0][0] for each in reversed(booked) if each.days}
    working = [day for day, _ in zip((d for d, hours in week.days(today) if hours > 0), range(AHEAD),
                                     strict=False)]  # fmt: skip
    wanted: dict[datetime.date, list[str]] = defaultdict(list)
    for each in rusty(studio, person):
        first = begins.get(str(each.job.pk))
        if first is not None:
            day = max((day for day in working if day < first), default=first)
            wanted[day].append(f"{each.name[:1].lower()}{each.name[1:]}")
    for day, names in wanted.items():
        chosen = names[:MOST]
        yield Note(
            day, f"{MINUTES * len(chosen)} min practice", ", ".join(chosen), reverse("motifs")
        )
