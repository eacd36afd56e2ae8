"""At the machine: the page, the plan it follows, and the taps it sends."""

from __future__ import annotations

import json

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.templatetags.static import static
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from studio.accounts.access import for_studio
from studio.jobs.asked import job_for
from studio.jobs.revisions import core_job
from studio.languages.telling import told, told_all
from studio.routes.planning import plan_of
from studio.routes.standing import replan
from studio.stitching.following import followed
from studio.stitching.packing import packed_plan
from studio.stitching.receiving import MOST, receive, settle

LARGEST = 2_000_000


@for_studio
@never_cache
@require_GET
def stitch(request: HttpRequest, job_id) -> HttpResponse:
    """The plan as it is followed; kept on the device, so that it opens without a line."""
    job = job_for(request, job_id)
    now = followed(job, request.studio.units)
    plan = plan_of(job) if now is None else now.plan
    return render(request, "stitching/stitch.html", {"job": job, "now": now, "plan": plan})


@for_studio
@never_cache
@require_GET
def followed_plan(request: HttpRequest, job_id) -> HttpResponse:
    """Legs, places and colours of the plan, as JSON."""
    job = job_for(request, job_id)
    now = followed(job, request.studio.units)
    if now is None:
        raise Http404("There is no route that is proved, for the job as it is now.")
    core = core_job(job)
    return JsonResponse(packed_plan(job, core, now, request.studio.units))


@for_studio
@require_POST
def taps(request: HttpRequest, job_id) -> HttpResponse:
    """What was tapped; answers how every leg stands."""
    job = job_for(request, job_id)
    units = request.studio.units
    try:
        values = json.loads(request.body[:LARGEST])
    except ValueError:
        values = None
    got = receive(job, values, request.user, units)
    now = followed(job, units)
    plan = plan_of(job) if now is None else now.plan
    return JsonResponse({
        "refused": told_all(got.refused), "says": told(got.says), "most": MOST,
        "plan": plan.pk if plan is not None else None, "ready": now is not None,
        "stands": now.stands if now is not None else "",
    })  # fmt: skip


@for_studio
@require_POST
def rest(request: HttpRequest, job_id) -> HttpResponse:
    """Plan the rest anew from the legs that are done."""
    job = job_for(request, job_id)
    now = followed(job, request.studio.units)
    if now is None:
        return HttpResponse(status=409)
    core = core_job(job)
    settle(job, core, now, request.user, force=True)
    replan(job, core, request.user)
    return HttpResponse(status=204)


@require_GET
def worker(request: HttpRequest) -> HttpResponse:
    """The script that keeps the page on the device: served from the top, so that it may keep it."""
    response = render(
        request, "stitching/worker.js", {"shell": _shell()}, content_type="text/javascript"
    )
    response["Service-Worker-Allowed"] = "/"
    response["Cache-Control"] = "no-cache"
    return response


@require_GET
def manifest(request: HttpRequest) -> HttpResponse:
    """What a device needs to put Chorograph among its own."""
    return JsonResponse(
        {
            "name": "Chorograph", "short_name": "Chorograph", "start_url": reverse("jobs"),
            "display": "standalone", "background_color": "#efe8d8", "theme_color": "#1e2b3c",
            "icons": [{"src": static("studio/mark.svg"), "sizes": "any", "type": "image/svg+xml"}],
        },
        content_type="application/manifest+json",
    )  # fmt: skip


def _shell() -> list[str]:
    return [static(f"studio/{name}") for name in ("app.css", "fonts.css", "app.js", "mark.svg")]
