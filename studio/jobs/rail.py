"""The stage rail: every stage with what is still missing in it."""

from __future__ import annotations

from dataclasses import dataclass

from django.urls import reverse

from chorograph_core.formats import Job as CoreJob
from studio.intake.changes import missing
from studio.jobs.models import Job
from studio.quotes.models import Quote
from studio.routes.planning import plan_of


@dataclass(frozen=True)
class Stage:
    """A stage: its key and name, where it leads, what it says, and whether it is done."""

    key: str
    name: str
    address: str
    says: str
    done: bool = False
    more: str = ""


def rail(job: Job, core: CoreJob, plan=None) -> list[Stage]:
    """The stages of *job* in order."""
    plan = plan if plan is not None else plan_of(job)
    here = reverse("work", args=[job.pk])
    wanted = missing(core)
    asked = f"{len(wanted)} to ask" if wanted else "done"
    patches = len(core.chart.patches)
    banned = len(core.untouchable)
    bare = max(0, len(core.zones) - banned - job.assigned)
    route = "to do"
    if plan is not None:
        route = f"planned {plan.planned:%-H:%M}" if plan.state == "done" else plan.state
    quote = Quote.objects.filter(job=job).select_related("acceptance").defer("document").first()
    priced = "to do" if quote is None else f"no. {quote.number}"
    if quote is not None and quote.accepted is not None:
        priced += ", accepted"
    return [
        Stage("intake", "Intake", reverse("intake", args=[job.pk]), asked, not wanted,
              f"still to ask: {', '.join(wanted)}" if wanted else ""),
        Stage("chart", "Chart", reverse("chart", args=[job.pk]),
              f"{patches} patches" if patches > 1 else "to do", patches > 1),
        Stage("zones", "Zones", f"{here}?stage=zones",
              f"{job.zones}{f', {banned} banned' if banned else ''}"),
        Stage("designs", "Designs", f"{here}?stage=designs", f"{bare} to do" if bare else "done",
              not bare),
        Stage("route", "Route", f"{here}?stage=route", route, plan is not None and plan.state == "done"),
        Stage("quote", "Quote", reverse("quotes", args=[job.pk]), priced,
              quote is not None and quote.accepted is not None),
    ]  # fmt: skip
