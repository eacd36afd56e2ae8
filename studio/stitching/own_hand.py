"""What the log knows of a job that is still to be stitched."""

from __future__ import annotations

from chorograph_core.job import Job as CoreJob
from studio.jobs.models import Job
from studio.quotes.hands import ByHand, knows_hand
from studio.routes.planning import plan_of
from studio.stitching.following import legs_of_plan
from studio.stitching.lessons import lesson_of, to_go

FEWEST = 20
"""Things that must be timed before a range is told to anybody."""


@knows_hand
def by_the_log(job: Job, core: CoreJob) -> ByHand | None:
    """How long the planned route takes by the studio's own hand, once enough is timed."""
    things = lesson_of(job.studio).things
    plan = plan_of(job)
    if things < FEWEST or plan is None or plan.state != "done" or not plan.packed:
        return None
    legs = legs_of_plan(job, plan, job.studio.units)
    mean, low, high = to_go(job, core, legs, "." * len(legs))
    return ByHand(mean, low, high, things)
