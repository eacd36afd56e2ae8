"""Practice over weeks: attempts plotted, and motifs that a quilt will want and that were not practised
lately."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.db.models import Max
from django.utils import timezone

from chorograph_core.designs import designs
from studio.accounts.models import Studio
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.motifs.models import Attempt
from studio.writing import written_day

LEFT, RIGHT, TOP, BOTTOM = 28.0, 312.0, 8.0, 100.0
"""The room that is plotted in."""
RUSTY = timedelta(days=21)
NEXT = 4
"""Jobs that are looked at, the earliest due first."""


@dataclass(frozen=True)
class Rusty:
    """A motif that a job wants and that was not practised for a while; *last* is when it was, None for
    never."""

    key: str
    name: str
    job: Job
    last: Any


def plotted(tried: Sequence[Attempt]) -> dict[str, Any]:
    """Attempts as dots (x, y, direction, words), the time they span, and the mean of each direction."""
    rows = sorted(tried, key=lambda each: each.made)
    if not rows:
        return {"dots": [], "ways": []}
    first, last = rows[0].made, rows[-1].made
    span = max((last - first).total_seconds(), 1.0)
    by_way: dict[str, list[int]] = defaultdict(list)
    dots = []
    for each in rows:
        share = (each.made - first).total_seconds() / span if len(rows) > 1 else 0.5
        x = LEFT + (RIGHT - LEFT) * share
        y = BOTTOM - (BOTTOM - TOP) * each.marks / 100
        going = f", going {each.direction}" if each.direction else ""
        dots.append((x, y, each.direction, f"{each.marks} on {written_day(each.made)}{going}"))
        by_way[f"going {each.direction}" if each.direction else "round"].append(each.marks)
    ways = [
        (way, len(marks), round(sum(marks) / len(marks))) for way, marks in sorted(by_way.items())
    ]
    return {"dots": dots, "ways": ways, "first": first, "last": last}


def rusty(studio: Studio, person) -> list[Rusty]:
    """Freehand motifs of the next jobs that *person* has not practised for three weeks, once each."""
    known = designs()
    practised = dict(
        Attempt.objects.filter(studio=studio, person=person)
        .values_list("motif")
        .annotate(Max("made"))
    )
    found: dict[str, Rusty] = {}
    jobs = Job.objects.here().filter(studio=studio, closed__isnull=True, assigned__gt=0)
    for job in jobs.select_related("head")[:NEXT]:
        for entry in core_job(job).legend:
            for layer in entry.layers:
                design = known.get(layer.design)
                last = practised.get(layer.design)
                if design is None or design.family != "freehand" or layer.design in found:
                    continue
                if last is None or timezone.now() - last > RUSTY:
                    found[layer.design] = Rusty(layer.design, design.name, job, last)
    return list(found.values())[:6]
