"""Ways of working side by side."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from studio.accounts.access import for_studio
from studio.asking import EditError
from studio.jobs.asked import job_for
from studio.jobs.revisions import core_job
from studio.schools.lasting import short_of
from studio.schools.weighing import ask_for_all, ask_for_mix, asked_mix, table_context


@for_studio
@require_GET
def schools(request: HttpRequest, job_id) -> HttpResponse:
    """The page, or its table alone as it fills."""
    job = job_for(request, job_id)
    core = core_job(job)
    try:
        mix, fault = asked_mix(request.GET, core), ""
    except EditError as error:
        mix, fault = {}, str(error)
    context = table_context(job, core, request.studio.units, mix)
    page = "schools/_table.html" if request.htmx else "schools/schools.html"
    context["short"] = short_of(job, core, request.studio.units)
    return render(request, page, {**context, "job": job, "core": core, "fault": fault})


@for_studio
@require_POST
def price(request: HttpRequest, job_id) -> HttpResponse:
    """Have all of them priced, or the mix that is asked for."""
    job = job_for(request, job_id)
    core = core_job(job)
    mix: dict[str, str] = {}
    fault = ""
    if not job.assigned:
        fault = "Give at least one zone a design first; there is nothing to stitch yet."
    else:
        try:
            mix = asked_mix(request.POST, core)
            if request.POST.get("what") == "mix":
                if not mix:
                    raise EditError(
                        "This is how the job is worked now; choose something else first."
                    )
                ask_for_mix(job, mix)
            else:
                ask_for_all(job, core)
        except EditError as error:
            fault = str(error)
    context = table_context(job, core, request.studio.units, mix)
    context["short"] = short_of(job, core, request.studio.units)
    return render(request, "schools/_table.html",
                  {**context, "job": job, "core": core, "fault": fault})  # fmt: skip
