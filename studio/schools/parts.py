"""Parts of the route, marked on the profile: kept in their order, or exchanged."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from chorograph_core.formats import read_steps
from chorograph_core.job import Job as CoreJob
from chorograph_core.route.model import Wish
from chorograph_core.steering.parts import NoPart, Part, exchanged, kept_in_order, part_of
from studio.accounts.access import for_studio
from studio.asking import number_or
from studio.jobs.asked import job_for
from studio.jobs.revisions import core_job
from studio.routes.models import LONGEST
from studio.routes.planning import plan_of
from studio.workbench.wishing import wish_in_words


@for_studio
@require_GET
def part(request: HttpRequest, job_id) -> HttpResponse:
    """A part of the route from one moment to another, and what may be wished of it; with another moment
    *at*, that it is exchanged with what is filled there."""
    job = job_for(request, job_id)
    plan = plan_of(job)
    if plan is None or plan.state != "done":
        raise Http404("There is no route for the job as it is now.")
    core, route = core_job(job), plan.route()
    steps, over = read_steps(route), route.get("over") or {}
    begins, ends = sorted((_moment(request, "from"), _moment(request, "to")))
    exchanging = request.GET.get("what") == "exchange"
    context: dict[str, Any] = {"job": job, "begins": begins, "ends": ends, "exchanging": exchanging}
    try:
        mine = part_of(steps, begins, ends, over)
        context |= _told(core, mine) | {"part": mine}
        if exchanging:
            at = _moment(request, "at")
            wish = exchanged(mine, part_of(steps, at, at + 1, over), at > ends)
        else:
            wish = kept_in_order(mine)
        context["wish"] = _values(core, wish)
    except NoPart as error:
        context["fault"] = str(error)
        if exchanging and "part" in context:
            # What cannot be moved may still be kept where it is.
            with suppress(NoPart):
                context["wish"] = _values(core, kept_in_order(context["part"]))
    return render(request, "schools/_part.html", context)


def _moment(request: HttpRequest, name: str) -> int:
    return min(max(number_or(request.GET, name, 0), 0), LONGEST)


def _told(core: CoreJob, mine: Part) -> dict[str, Any]:
    names = {zone.id: zone.label or zone.id for zone in core.zones}
    threads = {thread.key: thread for thread in core.threads}
    return {
        "first": names.get(mine.zones[0], ""), "last": names.get(mine.zones[-1], ""),
        "thread": threads.get(mine.thread),
    }  # fmt: skip


def _values(core: CoreJob, wish: Wish) -> dict[str, str]:
    return {
        "kind": wish.kind, "mine": ",".join(wish.zones), "others": ",".join(wish.others),
        "thread": wish.thread, "words": wish_in_words(core, wish),
    }  # fmt: skip
