"""Threads that will not reach for a job, and the changes that would make them."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import lru_cache

from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import in_units
from chorograph_core.steering.helping import in_words
from chorograph_core.steering.reaching import Reaching, ways_to_reach
from studio.bookings.stock import Need, needs_of
from studio.jobs.models import Job
from studio.jobs.revisions import core_of
from studio.progress.models import last_told
from studio.workbench.linework import DRAWINGS


@dataclass(frozen=True)
class Way:
    """A change that makes a thread reach: in words, what it saves, and what it is taken by."""

    text: str
    yards: float
    takes: str
    asked: str


@dataclass(frozen=True)
class Lasting:
    """A thread that runs short, and the ways in which it would not."""

    need: Need
    ways: tuple[Way, ...]


def short_of(job: Job, core: CoreJob, units: str) -> list[Lasting]:
    """Every thread that runs short, with what would make it last."""
    if last_told(job) is not None:
        # What is stitched takes its thread; only what is left could still be changed.
        return []
    needs = needs_of(job)
    free = tuple((need.key, float(need.free - need.yards)) for need in needs if not need.buy)
    return [
        Lasting(need, tuple(
            Way(", ".join(in_words(core, change, units) for change in made.changes), made.yards,
                _takes(core, made, units), json.dumps([c.values() for c in made.changes], sort_keys=True))
            for made in _ways(job.head.body_id, need.key, float(need.short), free)
        ))
        for need in needs if need.buy
    ]  # fmt: skip


@lru_cache(maxsize=32)
def _ways(
    digest: str, thread: str, missing: float, free: tuple[tuple[str, float], ...]
) -> tuple[Reaching, ...]:
    """Found once for a document: every change is drawn and measured."""
    return tuple(ways_to_reach(core_of(digest), thread, missing, dict(free), DRAWINGS))


def _takes(core: CoreJob, made: Reaching, units: str) -> str:
    names = {thread.key: thread.name for thread in core.threads}
    return ", ".join(
        in_units(f"{yards:.0f} yd more of {names.get(key, key)}", units)
        for key, yards in made.takes.items()
    )
