"""What the logs of a studio teach, and what it took of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from django.db.models import Max

from chorograph_core.estimating.learning import Factor, Learned, learned
from chorograph_core.estimating.own_rates import LEAST, MOST, NAMES, by_default
from chorograph_core.job import Job as CoreJob
from chorograph_core.stitching.legs import Leg
from chorograph_core.stitching.log import Tapped, log_of, timed_of
from studio.accounts.models import Studio
from studio.asking import EditError
from studio.jobs.models import Job
from studio.stitching.habits import Breaking, Habit, habits_of
from studio.stitching.job_times import FIELDS
from studio.stitching.models import Accepted, Tap

NEWEST = 20_000
"""Taps that teach: the newest of a studio; a hand changes over the years."""
ENOUGH = 0.25
"""How much of a factor the data must say before it may be accepted."""


@dataclass
class Taught:
    """A line of what the log teaches: its *name*, the *factor* and whether it says enough to be used;
    *used* is the one that was accepted."""

    key: str
    name: str
    factor: Factor
    enough: bool
    used: float | None

    @property
    def percent(self) -> int:
        """How many per cent longer (or shorter, below 0) than the default."""
        return round(100 * (self.factor.mean - 1))


@dataclass(frozen=True)
class Lesson:
    """What logs teach: factors (*learned*) from so many *things*, motifs and layouts as they went, threads
    that broke."""

    learned: Learned
    things: int
    motifs: tuple[Habit, ...] = ()
    breaking: tuple[Breaking, ...] = ()


def lesson_of(studio: Studio) -> Lesson:
    """What the newest taps of all jobs teach."""
    newest = Tap.objects.filter(job__studio=studio).aggregate(newest=Max("pk"))["newest"]
    return _lesson(studio.pk, newest) if newest is not None else Lesson(learned([]), 0)


@lru_cache(maxsize=32)
def _lesson(studio: int, newest: int) -> Lesson:
    """The same, by the newest tap: taps are never altered, so nothing else can change it."""
    rows = Tap.objects.filter(job__studio=studio, pk__lte=newest).order_by("-at", "-seq", "-pk")
    rows = rows.values_list("job_id", *FIELDS)[:NEWEST]
    jobs: dict[Any, list[Tapped]] = {}
    for job, *row in reversed(rows):
        jobs.setdefault(job, []).append(Tapped(*row))
    logs = [log_of(taps) for taps in jobs.values()]
    timed = [each for log in logs for each in timed_of(log.pieces)]
    motifs, breaking = habits_of(logs)
    return Lesson(learned(timed), len(timed), tuple(motifs), tuple(breaking))


def to_go(job: Job, core: CoreJob, legs: Sequence[Leg], stands: str) -> tuple[float, float, float]:
    """Seconds that the legs still to be done take by her own hand, as far as the log knows it: the mean,
    and the range that holds it four times in five."""
    parts: dict[str, float] = {}
    for leg, state in zip(legs, stands, strict=True):
        if state not in "xo":
            for name, seconds in leg.parts.items():
                parts[name] = parts.get(name, 0.0) + seconds
    return lesson_of(job.studio).learned.estimate(by_default(parts, core.machine.rates))


def taught_by(lesson: Learned, used: dict[str, float]) -> list[Taught]:
    """Line by line, those first that say most of the time."""
    lines = [Taught(key, NAMES[key], factor, factor.share >= ENOUGH, used.get(key))
             for key, factor in lesson.factors.items() if key in NAMES]  # fmt: skip
    return sorted(lines, key=lambda each: -each.factor.hours)


def accept(studio: Studio, keys, author) -> Accepted:
    """Take what the log teaches of *keys* as the studio's own rates from now on. Raises EditError."""
    lesson = lesson_of(studio)
    enough = {line.key: line.factor.mean for line in taught_by(lesson.learned, {}) if line.enough}
    chosen = {key: round(min(max(enough[key], LEAST), MOST), 3) for key in keys if key in enough}
    if not chosen:
        raise EditError("Choose at least one line of which the log says enough.")
    # What was accepted earlier of other things stays.
    factors = {**studio.factors, **chosen}
    made = Accepted.objects.create(
        studio=studio, author=author, factors=factors, things=lesson.things
    )
    studio.factors = factors
    studio.save(update_fields=["factors"])
    return made


def forget(studio: Studio, author) -> Accepted:
    """Go back to the defaults; the log stays."""
    made = Accepted.objects.create(studio=studio, author=author, factors={}, things=0)
    studio.factors = {}
    studio.save(update_fields=["factors"])
    return made
