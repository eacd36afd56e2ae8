"""Views by which a quilter tells where her work stands."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from studio.accounts.access import for_studio
from studio.asking import EditError, number_or
from studio.jobs.asked import ids_of, job_for
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.progress.models import last_told
from studio.routes.models import LONGEST
from studio.routes.planning import plan_of
from studio.routes.standing import replan, take_back, tell_followed, tell_otherwise


@for_studio
@require_POST
def here(request: HttpRequest, job_id) -> HttpResponse:
    """She is at a place along the plan, and ties off there if she says so."""

    def tell(job: Job) -> None:
        plan = plan_of(job)
        if plan is None or plan.state != "done" or str(plan.pk) != request.POST.get("plan"):
            raise EditError("The plan is another one by now; look where you are on it.")
        if plan.first:
            # The better one that is still looked for would be another way.
            raise EditError(
                "Take this route first, or wait for the better one: then say where you are."
            )
        seconds = number_or(request.POST, "seconds", -1)
        if not 0 <= seconds <= LONGEST:
            raise EditError("Drag the needle along the profile to where you are.")
        tell_followed(
            job, core_job(job), plan, seconds, bool(request.POST.get("cut")), request.user
        )

    return _told(request, job_id, tell)


@for_studio
@require_POST
def otherwise(request: HttpRequest, job_id) -> HttpResponse:
    """Something was done that the plan does not say."""

    def tell(job: Job) -> None:
        zones = ids_of(request.POST)
        tell_otherwise(job, core_job(job), request.POST.get("what", ""), zones, request.user)

    return _told(request, job_id, tell)


@for_studio
@require_POST
def back(request: HttpRequest, job_id) -> HttpResponse:
    """What was told last counts no more."""
    return _told(request, job_id, take_back)


@for_studio
@require_POST
def rest(request: HttpRequest, job_id) -> HttpResponse:
    """Plan the rest anew from where the work stands."""
    return _told(request, job_id, lambda job: _replanned(request, job))


def _replanned(request: HttpRequest, job: Job) -> None:
    replan(job, core_job(job), request.user)


def _told(request: HttpRequest, job_id, tell: Callable[[Job], None]) -> HttpResponse:
    """Tell it, unless somebody told something else since the page was made."""
    job = job_for(request, job_id)
    last = last_told(job)
    try:
        if request.POST.get("after", "") != (str(last.pk) if last is not None else ""):
            said = last.says if last is not None else "What was told last was taken back."
            raise EditError(f"Somebody told something else meanwhile. {said} Look again.")
        tell(job)
    except EditError as error:
        return render(request, "workbench/_fault.html", {"error": error, "job": job}, status=422)
    response = HttpResponse(status=204)
    response["HX-Trigger"] = "board-changed"
    return response
