"""The log of a job, and what the logs of a studio teach."""

from __future__ import annotations

import math
import re
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, time
from functools import lru_cache
from typing import Any

from django.db.models import Max
from django.utils import timezone

from chorograph_core.designs import designs
from chorograph_core.estimating.learning import Factor, Learned, learned
from chorograph_core.estimating.own_rates import LEAST, MOST, NAMES, by_default
from chorograph_core.job import Job as CoreJob
from chorograph_core.stitching.legs import Leg
from chorograph_core.stitching.log import Log, Sum, Tapped, log_of, timed_of
from studio.accounts.models import Studio
from studio.asking import EditError
from studio.jobs.models import Job
from studio.plain import plain
from studio.stitching.habits import Breaking, Habit, habits_of
from studio.stitching.models import Accepted, Tap

NEWEST = 20_000
"""Taps that teach: the newest of a studio; a hand changes over the years."""
LONGEST_DAY = 16 * 60
ENOUGH = 0.25
"""How much of a factor the data must say before it may be accepted."""
FIELDS = ("kind", "at", "device", "plan", "leg", "lasted", "facts", "text")


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


def log_of_job(job: Job) -> Log:
    """What the taps of a job say."""
    rows = Tap.objects.filter(job=job).values_list(*FIELDS)
    return log_of([Tapped(*row) for row in rows], timezone.get_current_timezone())


def parts_of_log(log: Log, core: CoreJob) -> list[tuple[str, list[Sum]]]:
    """What was foretold and what it took: by part, by thread, by motif."""
    threads = {thread.key: thread.name for thread in core.threads}
    known = designs()

    def part(piece) -> str:
        facts = piece.facts
        if facts.get("kind") == "ditch":
            return "in the ditch"
        if facts.get("kind") == "fill":
            entry = next((e for e in core.legend if e.id == facts.get("entry")), None)
            return entry.name if entry is not None else facts.get("design", "")
        return {"roll": "rolling", "thread": "changing the thread", "bobbin": "bobbins",
                "mark": "marking", "unmark": "marks out", "secure": "basting",
                "unpick": "basting out", "tuck": "tucks"}.get(facts.get("kind", ""), "")  # fmt: skip

    def motif(piece) -> str:
        design = known.get(piece.facts.get("design", ""))
        return design.name if design is not None else ""

    return [
        ("by part", log.by(part)),
        ("by motif and layout", log.by(motif)),
        ("by thread", log.by(lambda piece: threads.get(piece.facts.get("thread", ""), ""))),
    ]


def write_by_hand(job: Job, values, author) -> Tap:
    """Time that no tablet saw: "third row", "1 h 10". Raises EditError."""
    what = plain(values.get("what"))[:300]
    if not what:
        raise EditError("Say what was stitched.", "what")
    minutes = minutes_from(str(values.get("took", "")))
    day = str(values.get("day", "")) or timezone.localdate().isoformat()
    try:
        when = datetime.combine(datetime.fromisoformat(day).date(), time(12))
    except ValueError:
        raise EditError("Write the day as 2026-11-24.", "day") from None
    at = timezone.make_aware(when)
    if at.date() > timezone.localdate():
        raise EditError("That day is still to come.", "day")
    return Tap.objects.create(job=job, key=uuid.uuid4(), device="by hand", at=at, kind="hand",
                              text=what, facts={"minutes": minutes}, author=author)  # fmt: skip


def minutes_from(text: str) -> int:
    """Minutes as one writes them: 1 h 10, 1:10, 70, 70 min, 1.5 h. Raises EditError."""
    words = text.strip().lower().replace(",", ".")
    found = re.fullmatch(
        r"(?:(\d+(?:\.\d+)?)\s*h(?:ours?)?)?\s*(?:(\d+)\s*(?:min(?:utes?)?)?)?", words
    )
    clock = re.fullmatch(r"(\d{1,2}):(\d{2})", words)
    if clock:
        minutes = 60.0 * int(clock[1]) + int(clock[2])
    elif found and words:
        minutes = 60 * float(found[1] or 0) + float(found[2] or 0)
    else:
        raise EditError("Write it as 1 h 10, or in minutes.", "took")
    if not (math.isfinite(minutes) and 1 <= round(minutes) <= LONGEST_DAY):
        raise EditError("Between a minute and sixteen hours for one day.", "took")
    return round(minutes)


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
