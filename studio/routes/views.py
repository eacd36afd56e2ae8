"""Planning, the profile's data, the run sheet, the route as files."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.html import escape
from django.views.decorators.http import require_GET, require_POST

from chorograph_core.formats import away_passes, read_steps
from chorograph_core.job import Job as CoreJob
from chorograph_core.route import State
from chorograph_core.steering.why import step_at, why
from studio.accounts.access import for_studio
from studio.agenda.diary import days_booked
from studio.answers import as_content, as_file
from studio.asking import EditError, number_or
from studio.derived import Derived
from studio.jobs.asked import job_for
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.languages.telling import spoken, told
from studio.prices.lists import core_prices, prices_of
from studio.progress.models import last_told
from studio.routes.models import LONGEST, Plan
from studio.routes.panel import (
    days_context,
    panel_context,
    path_context,
    price_in_words,
    schools_context,
)
from studio.routes.planning import ask_for_plan, leave_off, plan_of, standing_of, threads_short
from studio.routes.printing import sheet_context, stored_svg
from studio.routes.profile import packed_steps, stitched_before
from studio.routes.standing import standing_context
from studio.workbench.linework import DRAWINGS
from studio.workbench.working import runs_from


@for_studio
@require_POST
def plan(request: HttpRequest, job_id) -> HttpResponse:
    """Ask for a plan of the job as it is now."""
    job = job_for(request, job_id)
    if not job.assigned:
        message = "Give at least one zone a design first; there is nothing to stitch yet."
        return render(request, "routes/_plan.html", {"job": job, "plan": None, "message": message})
    return render(request, "routes/_plan.html", {"job": job, "plan": ask_for_plan(job)})


@for_studio
@require_POST
def leave(request: HttpRequest, job_id) -> HttpResponse:
    """Do not go on planning."""
    job = job_for(request, job_id)
    leave_off(job)
    return render(request, "routes/_plan.html", {"job": job, "plan": plan_of(job)})


@for_studio
@require_GET
def state(request: HttpRequest, job_id) -> HttpResponse:
    """How far the planning is; tells the page when it is done."""
    job = job_for(request, job_id)
    found = plan_of(job)
    context = {
        "job": job,
        "plan": found,
        "short": threads_short(job, found),
        "told": last_told(job),
    }
    response = render(request, "routes/_plan.html", context)
    seen = request.GET.get("shown")
    # A first answer is shown at once, the better one when it comes. What proves it changes but some figures:
    # whoever looks closer at the route by then is not disturbed.
    if found and found.state == "done" and seen != found.shown:
        response["HX-Trigger"] = "route-proved" if seen == "found" else "board-changed"
    return response


def _finished(request: HttpRequest, job_id) -> tuple[Job, CoreJob, Plan]:
    """The job with its finished plan; 404 when there is none for the job as it is now."""
    job = job_for(request, job_id)
    found = plan_of(job)
    if found is None or found.state != "done":
        raise Http404("There is no route for the job as it is now.")
    return job, core_job(job), found


@for_studio
@require_GET
def steps(request: HttpRequest, job_id) -> HttpResponse:
    """The route's steps, packed for the profile and the needle."""
    job, core, found = _finished(request, job_id)
    state, _ = standing_of(job, core, found.told)
    key = (found.pk, found.planned, job.head.body_id, spoken())
    data = _PACKED(key, lambda: _packed(core, found, state))
    return as_content(data, request, found.named(job.head.body_id))


_PACKED: Derived[bytes] = Derived("steps", 8, shared=True)


def _packed(core: CoreJob, found: Plan, state: State) -> bytes:
    """The packed steps of a plan: the same for everybody who looks at it."""
    return packed_steps(core, found.route(), stitched_before(core, state, DRAWINGS))


@for_studio
@require_GET
def reason(request: HttpRequest, job_id) -> HttpResponse:
    """Why the route is as it is where the needle stands on the profile."""
    _, core, found = _finished(request, job_id)
    route = found.route()
    steps, away = read_steps(route), away_passes(route)
    if not steps:
        raise Http404("There is nothing to stitch in this route.")
    seconds = min(max(number_or(request.GET, "seconds", 0), 0), LONGEST)
    told = why(core, steps, step_at(steps, seconds), request.studio.units, away)
    return render(request, "routes/_why.html", {"why": told})


@for_studio
@require_GET
def panel(request: HttpRequest, job_id) -> HttpResponse:
    """The route beside the sheet; before it is planned, how it is to be."""
    job = job_for(request, job_id)
    found, core = plan_of(job), core_job(job)
    if found is None or found.state != "done":
        standing = standing_context(job, core, found, last_told(job))
        context = {**schools_context(core), **standing, "job": job}
        return render(request, "routes/_panel.html", context)
    context = panel_context(found, core, request.studio.units)
    standing = standing_context(job, core, found, last_told(job))
    begins = standing["told"].seconds if standing["along"] else 0.0
    own, hers = days_booked(request.studio, core_prices(prices_of(request.studio)), job)
    context |= standing | days_context(found, core, own, hers, begins, request.studio.units)
    return render(request, "routes/_panel.html", {**context, "job": job})


@for_studio
@require_GET
def path(request: HttpRequest, job_id, key: str) -> HttpResponse:
    """One path, to be put in another order."""
    job, core, found = _finished(request, job_id)
    context = path_context(found, core, key, request.studio.units)
    if context is None:
        raise Http404("There is no such path.")
    return render(request, "routes/_path.html", {**context, "job": job})


@for_studio
@require_POST
def order_cost(request: HttpRequest, job_id) -> HttpResponse:
    """What an order of one's own would cost."""
    job = job_for(request, job_id)
    try:
        order = runs_from(request.POST)
    except EditError as error:
        return HttpResponse(escape(told(str(error))))
    return HttpResponse(escape(told(price_in_words(core_job(job), order, DRAWINGS))))


@for_studio
@require_GET
def run_sheet(request: HttpRequest, job_id) -> HttpResponse:
    """The run sheet as a page that prints."""
    job, _, found = _finished(request, job_id)
    context = sheet_context(found, request.studio.units)
    return render(request, "routes/run_sheet.html", {**context, "job": job, "plan": found})


@for_studio
@require_GET
def route_file(request: HttpRequest, job_id, kind: str) -> HttpResponse:
    """The route as JSON, or as SVG in true scale."""
    job, core, found = _finished(request, job_id)
    data = found.unpacked() if kind == "json" else stored_svg(core, found.route())
    return as_file(data, f"{job.title} route", kind)
