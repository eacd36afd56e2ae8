"""A start for a whole quilt: tried by the worker, for half a minute, and kept by what it is for."""

from __future__ import annotations

from functools import partial

from chorograph_core.choosing import LEVELS, Level, proposed_legend
from chorograph_core.choosing.proposing import Proposed
from chorograph_core.designs.legend import Entry
from chorograph_core.job import Job as CoreJob
from studio.audition.custom import custom_of
from studio.audition.drawn import quilt_with
from studio.derived import Derived, name_of
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.papers.kinds import Kind, Tell, hand_in
from studio.papers.making import ask_for, paper_of
from studio.papers.models import Paper
from studio.workbench.linework import linework_of

Start = tuple[tuple[Entry, ...], list[tuple[str, Proposed]]]
"""The entries of a start, and what was chosen for each of them that is new, by its name."""
_PROPOSED: Derived[Start] = Derived("proposed", 12, shared=True)
TRIED = 0.85
"""Share of the time after which all is chosen, and the quilt is drawn with it."""


def start_of(job: Job, core: CoreJob, level: Level, bare: bool, tell: Tell | None = None) -> Start:
    """The start for a job at a level, for zones without a design only (*bare*) or for all: as it was tried,
    or tried now."""
    digest, units, custom = job.head.body_id, job.studio.units, custom_of(job)

    def made() -> Start:
        lines = linework_of(digest, core)
        return proposed_legend(core, level, lines, bare, units, custom, tell)

    return _PROPOSED((digest, level.key, bare, units, repr(custom)), made)


def start_tried(job: Job, level: Level, bare: bool, ask: bool) -> Paper | None:
    """How the trying of a start stands; with *ask* it is asked for, if nobody did."""
    kind = STARTS[level.key, bare]
    return ask_for(job, kind) if ask else paper_of(job, kind)


def _made_of(level: Level, bare: bool, job: Job) -> str:
    return name_of(level.key, bare, repr(custom_of(job)))


def picture_of(job: Job, core: CoreJob, level: Level, bare: bool) -> bytes:
    """The whole quilt as a start would have it, as SVG: as it was drawn when it was tried, or drawn now."""
    tried = start_tried(job, level, bare, ask=False)
    if tried is not None and tried.state == "done":
        return bytes(tried.file)
    return quilt_with(core, start_of(job, core, level, bare)[0])


def _try(level: Level, bare: bool, job: Job, tell: Tell) -> bytes:
    """Try it, and draw the quilt with it."""
    core = core_job(job)
    legend, _ = start_of(job, core, level, bare, lambda share: tell(TRIED * share))
    tell(TRIED)
    return quilt_with(core, legend)


STARTS = {
    (level.key, bare): hand_in(
        Kind(f"start-{level.key}-{'bare' if bare else 'all'}", "start", "svg",
             partial(_made_of, level, bare), partial(_try, level, bare), "proposal")
    )
    for level in LEVELS
    for bare in (True, False)
}  # fmt: skip
