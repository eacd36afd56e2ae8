"""The route on the stage rail, and what the work view shows of it."""

from __future__ import annotations

from typing import Any

from django.urls import reverse

from chorograph_core.job import Job as CoreJob
from studio.jobs.models import Job
from studio.jobs.stages import Stage, stage
from studio.progress.models import last_told
from studio.routes.models import Plan
from studio.routes.planning import plan_from, threads_short
from studio.routes.standing import standing_context
from studio.workbench.extras import on_board
from studio.writing import written_day


def _plan(job: Job) -> Plan | None:
    """The job's plan, asked for once for each job in hand: rail and board both show it."""
    if not hasattr(job, "shown_plan"):
        job.shown_told = last_told(job)
        job.shown_plan = plan_from(job, job.shown_told)
    return job.shown_plan


@stage(50)
def route(job: Job, core: CoreJob) -> list[Stage]:
    """Whether a route is planned, and when."""
    plan = _plan(job)
    says = "to do"
    if plan is not None:
        says = (
            f"planned {written_day(plan.planned, 'time')}" if plan.state == "done" else plan.state
        )
    return [Stage("route", "Route", f"{reverse('work', args=[job.pk])}?stage=route", says,
                  plan is not None and plan.state == "done")]  # fmt: skip


@on_board
def planned(job: Job, core: CoreJob) -> dict[str, Any]:
    """The plan, where the work stands, and the threads that will not reach for it."""
    plan = _plan(job)
    done = plan is not None and plan.state == "done"
    return {
        "plan": plan,
        "steps_of": plan.named(job.head.body_id) if done else "",
        "short": threads_short(job, plan),
        **standing_context(job, core, plan, job.shown_told),
    }
