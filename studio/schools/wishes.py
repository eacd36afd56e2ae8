"""Wishes of the route: a panel for the chosen zones, and what each wish would cost."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from chorograph_core.job import Job as CoreJob
from studio.accounts.access import for_studio
from studio.accounts.models import named
from studio.asking import EditError
from studio.jobs.asked import ids_of, job_for
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.routes.planning import plan_of
from studio.schools.weighing import (
    ask_for_handover,
    ask_for_wish,
    price_in,
    weighed_of,
    with_asked,
)
from studio.shelf.choices import ShelfChoices
from studio.workbench.handing import asked_handover, handover_in_words, others_of
from studio.workbench.wishing import KINDS, asked_wish, wish_from, wish_in_words


@for_studio
@require_POST
def panel(request: HttpRequest, job_id) -> HttpResponse:
    """What may be wished of the chosen zones, and what is wished already."""
    job = job_for(request, job_id)
    core = core_job(job)
    plan = plan_of(job)
    notes = plan.figures.get("unkept", {}) if plan is not None and plan.state == "done" else {}
    there = {zone.id: zone.label or zone.id for zone in core.zones}
    chosen = [name for name in ids_of(request.POST) if name in there]
    kept = [(number, wish_in_words(core, wish), notes.get(str(number), ""))
            for number, wish in enumerate(core.policy.wishes)]  # fmt: skip
    return render(request, "schools/_wish.html", {
        "job": job, "mine": ",".join(chosen), "count": len(chosen),
        "named": there[chosen[0]] if len(chosen) == 1 else "", "kinds": KINDS.items(), "kept": kept,
        "machines": others_of(request.studio, core), "away": handover_in_words(core),
        "some_away": core.handover is not None and not set(chosen).isdisjoint(core.handover.zones),
        "who": core.handover.who if core.handover is not None else "",
        "people": list(named(request.studio)),
    })  # fmt: skip


@for_studio
@require_POST
def cost(request: HttpRequest, job_id) -> HttpResponse:
    """Have a wish priced."""
    job = job_for(request, job_id)
    core = core_job(job)
    values = request.POST
    try:
        wish = asked_wish(
            core, values.get("kind", ""), values.get("mine", "").split(","), ids_of(values),
            values.get("thread", ""),
        )  # fmt: skip
        one = ask_for_wish(job, core, wish)
    except EditError as error:
        return render(request, "schools/_cost.html", {"job": job, "fault": str(error)})
    return _shown(request, job, core, one.key, one.wish)


@for_studio
@require_POST
def over_cost(request: HttpRequest, job_id) -> HttpResponse:
    """Have it priced that some zones are stitched on another machine."""
    job = job_for(request, job_id)
    core = core_job(job)
    try:
        handover = asked_handover(
            core, ShelfChoices(request.studio).machines, named(request.studio), request.POST
        )
    except EditError as error:
        return render(request, "schools/_cost.html", {"job": job, "fault": str(error)})
    form = {key: str(request.POST.get(key, "")) for key in ("machine", "who", "mine")}
    one = ask_for_handover(job, handover, form)
    return _shown(request, job, core, one.key, one.wish)


@for_studio
@require_GET
def told(request: HttpRequest, job_id, key: str) -> HttpResponse:
    """What a wish costs, as soon as it is known."""
    job = job_for(request, job_id)
    core = core_job(job)
    one = weighed_of(job).get(f"wish:{key}")
    if one is None:
        fault = "The job is another by now; wish it again."
        return render(request, "schools/_cost.html", {"job": job, "fault": fault})
    return _shown(request, job, core, one.key, one.wish)


def _shown(request: HttpRequest, job: Job, core: CoreJob, key: str, values) -> HttpResponse:
    """What is wished in words with what it costs, or how far its price is."""
    context = _told(job, key)
    if "handover" in values:
        context |= {
            "over": values["form"], "words": handover_in_words(with_asked(core, values)),
        }  # fmt: skip
        return render(request, "schools/_cost.html", context)
    wish = wish_from(values)
    context |= {
        "kind": wish.kind, "mine": ",".join(wish.zones), "others": ",".join(wish.others),
        "thread": wish.thread,
        "words": wish_in_words(core, wish),
    }  # fmt: skip
    return render(request, "schools/_cost.html", context)


def _told(job: Job, key: str) -> dict[str, Any]:
    """How far it is, and the difference to the job as it is."""
    there = weighed_of(job)
    one, now = there[key], price_in(there.get(""))
    made = price_in(one)
    waits = one.waiting or (now is None and there[""].waiting)
    found: dict[str, Any] = {"job": job, "waits": waits, "key": key.removeprefix("wish:")}
    if one.says:
        found["fault"] = one.says
    elif made is not None and now is not None:
        found |= {"more": made.whole - now.whole, "cuts": made.cuts - now.cuts,
                  "rolls": made.rolls - now.rolls}  # fmt: skip
    elif not waits:
        found["fault"] = "The planning broke off; ask again."
    return found
