"""The log of one job: what its taps say, and time that no tablet saw."""

from __future__ import annotations

import math
import re
import uuid
from dataclasses import dataclass
from datetime import datetime, time

from django.utils import timezone

from chorograph_core.designs import designs
from chorograph_core.estimating.own_rates import NAMES
from chorograph_core.job import Job as CoreJob
from chorograph_core.stitching.log import Bobbin, Log, Sum, Tapped, bobbins_of, log_of
from studio.asking import EditError
from studio.jobs.models import Job
from studio.plain import plain
from studio.stitching.models import Tap

LONGEST_DAY = 16 * 60
FIELDS = ("kind", "at", "device", "plan", "leg", "lasted", "facts", "text")
"""What the log reads of a tap."""


def log_of_job(job: Job) -> Log:
    """What the taps of a job say."""
    rows = Tap.objects.filter(job=job).values_list(*FIELDS)
    return log_of([Tapped(*row) for row in rows], timezone.get_current_timezone())


def parts_of_log(log: Log, core: CoreJob) -> list[tuple[str, list[Sum]]]:
    """What was foretold and what it took: by part, motif, path, technique and thread."""
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

    def path(piece) -> str:
        way, letter = piece.facts.get("way", ""), piece.facts.get("path", "")
        return f"{letter}, {way}" if way else ""

    return [
        ("by part", log.by(part)),
        ("by motif and layout", log.by(motif)),
        ("by path", log.by(path)),
        ("by technique", log.by_technique(NAMES)),
        ("by thread", log.by(lambda piece: threads.get(piece.facts.get("thread", ""), ""))),
    ]


@dataclass(frozen=True)
class Bobbins:
    """What bobbins gave: each with its thread's name, the inches *foretold* that one holds, and the mean of
    those that *ran out* by themselves (None where none did)."""

    each: list[tuple[Bobbin, str]]
    foretold: float
    mean: float | None

    @property
    def early(self) -> bool:
        """Whether they hold clearly less than the plan counts on."""
        return self.mean is not None and self.mean < 0.97 * self.foretold


def bobbins_of_job(log: Log, core: CoreJob) -> Bobbins:
    """What the bobbins of a job gave, against what the plan counts on."""
    names = {thread.key: thread.name for thread in core.threads}
    found = bobbins_of(log)
    # Another machine has bobbins of another size: they are shown, and compared with nothing.
    out = [each.inches for each in found if each.ran_out and not each.on]
    mean = sum(out) / len(out) if out else None
    return Bobbins([(each, names.get(each.thread, each.thread)) for each in found],
                   36 * core.machine.bobbin_yards, mean)  # fmt: skip


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
