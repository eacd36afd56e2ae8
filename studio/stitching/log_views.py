"""The log of a job, and what the logs of a studio teach."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from chorograph_core.estimating.own_rates import rates_with, same_hand
from chorograph_core.job import Job as CoreJob
from chorograph_core.reckon import Rates
from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.asking import EditError, base_from
from studio.jobs.asked import job_for
from studio.jobs.revisions import Conflict, change_job, core_job
from studio.jobs.stages import rail
from studio.photos.models import ABOUT
from studio.stitching.following import followed
from studio.stitching.job_times import bobbins_of_job, log_of_job, parts_of_log, write_by_hand
from studio.stitching.lessons import accept, forget, lesson_of, taught_by, to_go


@for_studio
@require_http_methods(["GET", "POST"])
@once
def log(request: HttpRequest, job_id) -> HttpResponse:
    """What it took; a POST writes down time that no tablet saw."""
    job = job_for(request, job_id)
    fault, status = None, 200
    if request.method == "POST":
        try:
            write_by_hand(job, request.POST, request.user)
            return redirect("log", job.pk)
        except EditError as error:
            fault, status = error, 400
    core = core_job(job)
    found = log_of_job(job)
    own = rates_with(request.studio.factors)
    now = followed(job, request.studio.units)
    rest = to_go(job, core, now.legs, now.stands) if now is not None else None
    context = {
        "job": job, "core": core, "stage": "log", "rail": rail(job, core), "units": request.studio.units,
        "bobbins": bobbins_of_job(found, core), "photos": job.photos.all(), "about": ABOUT, "shows": "first",
        "log": found, "rest": rest, "parts": parts_of_log(found, core), "fault": fault,
        "values": request.POST, "today": timezone.localdate().isoformat(),
        "rates": "the defaults" if same_hand(core.machine.rates, Rates()) else "rates of your own",
        "other_rates": bool(request.studio.factors) and not same_hand(core.machine.rates, own),
    }  # fmt: skip
    return render(request, "stitching/log.html", context, status=status)


@for_studio
@require_POST
def use_rates(request: HttpRequest, job_id) -> HttpResponse:
    """Work this job by the rates the studio accepted: a revision like any other."""
    job = job_for(request, job_id)

    def put(core: CoreJob) -> CoreJob:
        old = core.machine.rates
        rates = replace(rates_with(request.studio.factors), ruler_reach=old.ruler_reach,
                        edges=old.edges, lock=old.lock)  # fmt: skip
        return replace(core, machine=replace(core.machine, rates=rates))

    # Where somebody was faster the page shows the job as it is now, and asks again.
    with suppress(Conflict, EditError):
        change_job(
            job.pk, base_from(request.POST), request.user, put, "Took the rates of her own log"
        )
    return redirect("log", job.pk)


@for_studio
@require_GET
def lesson(request: HttpRequest) -> HttpResponse:
    """What the logs of all jobs teach, beside what is used."""
    return _lesson(request)


@for_studio
@require_POST
def take_lesson(request: HttpRequest) -> HttpResponse:
    """Use what she has seen from now on, or the defaults again."""
    try:
        if request.POST.get("what") == "forget":
            forget(request.studio, request.user)
        else:
            accept(request.studio, request.POST.getlist("key"), request.user)
    except EditError as error:
        return _lesson(request, str(error), 422)
    return redirect("lesson")


def _lesson(request: HttpRequest, fault: str = "", status: int = 200) -> HttpResponse:
    taught = lesson_of(request.studio)
    found, things = taught.learned, taught.things
    lines = taught_by(found, request.studio.factors)
    names = dict(request.studio.threads.values_list("key", "name"))
    breaking = [(names.get(each.key, each.key), each) for each in taught.breaking]
    return render(request, "stitching/lesson.html", {
        "lines": lines, "things": things, "aside": len(found.aside), "strays": found.strays,
        "motifs": taught.motifs, "breaking": breaking,
        "fault": fault, "accepted": request.studio.accepted.first(), "used": request.studio.factors,
    }, status=status)  # fmt: skip
