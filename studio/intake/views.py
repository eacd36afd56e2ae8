"""The consult: intake form with findings as one types, photographs, the consult sheet."""

from __future__ import annotations

import datetime

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from chorograph_core.estimating.findings import materials_findings, measure_findings
from chorograph_core.estimating.measuring import shape_of
from chorograph_core.job import Job as CoreJob
from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.answers import as_file
from studio.asking import EditError, base_from
from studio.intake import sheet
from studio.intake.changes import describe
from studio.intake.forms import IntakeForm, values_of
from studio.intake.merging import changed, laid_over, typed
from studio.intake.newcomer import ConsultForm, uncharted
from studio.jobs.asked import job_for
from studio.jobs.models import Job
from studio.jobs.revisions import Conflict, change_job, core_job, core_of, create_job
from studio.jobs.stages import rail
from studio.photos.models import ABOUT
from studio.prices.lists import prices_of
from studio.quotes.pricing import dated_offers
from studio.shelf.choices import ShelfChoices

NEXT = ("intake", "chart", "work", "quotes", "consult-sheet")
"""Pages of the job that keeping an intake may lead to."""

HINTS = {
    "in": {"width": "65 1/2", "height": "79", "gap": "4", "loft": "0.09"},
    "cm": {"width": "165", "height": "200", "gap": "10", "loft": "0.23"},
}
"""What stands in fields that are still empty."""


@for_studio
@require_http_methods(["GET", "POST"])
@once
def new_consult(request: HttpRequest) -> HttpResponse:
    """A client stands there: title, client and size make a job, the rest is asked on its intake."""
    form = ConsultForm(request.POST or None, unit=request.studio.units)
    if request.method == "POST" and form.is_valid():
        core = uncharted(form.cleaned_data, timezone.localdate())
        job = create_job(request.studio, request.user, core, "Consult begun")
        return redirect("intake", job.pk)
    context = {"form": form, "hints": HINTS[request.studio.units]}
    return render(request, "intake/new.html", context, status=400 if form.errors else 200)


@for_studio
@require_http_methods(["GET", "POST"])
def intake(request: HttpRequest, job_id) -> HttpResponse:
    """The intake of a job; a POST keeps it as a new revision."""
    job = job_for(request, job_id)
    core = core_job(job)
    shelf = _shelf(request)
    if request.method == "GET":
        form = _form(request, core, shelf, initial=values_of(core, shelf, request.studio.units))
        return _page(request, job, core, form)
    form = _form(request, core, shelf, request.POST)
    if not form.is_valid():
        return _page(request, job, core, form, status=400)
    units = request.studio.units
    try:
        base = base_from(request.POST)
        change_job(job.pk, base, request.user, form.applied_to,
                   lambda before, after: describe(before, after, units))  # fmt: skip
    except EditError:
        return _page(request, job, core, form, status=400)
    except Conflict as conflict:
        return _both(request, job_id, form, conflict, shelf, base)
    then = request.POST.get("then")
    return redirect(then if then in NEXT else "intake", job.pk)


def _both(request, job_id, form, conflict, shelf, base: int) -> HttpResponse:
    """Somebody else was faster: what she typed is laid over what is there now, and both are shown."""
    job = job_for(request, job_id)
    core = core_job(job)
    units = request.studio.units
    seen = job.revisions.filter(number=base).first()
    before = values_of(core_of(seen.body_id) if seen else core, shelf, units)
    newest = values_of(core, shelf, units)
    mine = typed(form, request.POST)
    own = changed(mine, before)
    merged = _form(request, core, shelf, laid_over(newest, mine, own))
    merged.is_valid()
    theirs = {name: newest[name] for name in own & changed(newest, before) if name in newest}
    labels = [(merged.fields[name].label, value) for name, value in theirs.items()]
    return _page(request, job, core, merged, status=409, since=conflict.since, theirs=labels)


def _shelf(request: HttpRequest) -> ShelfChoices:
    levels = prices_of(request.studio).levels.values_list("key", "name")
    return ShelfChoices(request.studio, list(levels))


def _form(request, core: CoreJob, shelf, data=None, **kwargs) -> IntakeForm:
    if data is not None and not request.may_price:
        # Who sees no prices neither reads the client's budget nor writes it.
        data = data.copy()
        data["budget"] = core.intake.wishes.budget
    return IntakeForm(data, shelf=shelf, unit=request.studio.units, stored_due=core.due, **kwargs)


def _page(request, job: Job, core: CoreJob, form, status: int = 200, **more) -> HttpResponse:
    shown = form.applied_to(core) if form.is_bound and form.is_valid() else core
    context = {
        "job": job, "core": core, "form": form, "units": request.studio.units, "stage": "intake",
        "rail": rail(job, core), "photos": job.photos.all(), "about": ABOUT,
        "hints": HINTS[request.studio.units],
        **_looked(job, shown, request.studio.units), **more,
    }  # fmt: skip
    return render(request, "intake/intake.html", context, status=status)


def _looked(job: Job, core: CoreJob, units: str) -> dict:
    """Findings, offers and the leaning drawing for a job as it stands in the form."""
    charted = (core.chart.width, core.chart.height) if len(core.chart.patches) > 1 else None
    found = measure_findings(core.intake.measures, units, charted)
    found += materials_findings(core.intake, core.extent, core.chart.fabrics, core.machine,
                                core.policy.edge_finish, units)  # fmt: skip
    return {
        "findings": found,
        "size": core.size,
        "offers": dated_offers(job, core),
        "drawing": sheet.measured_drawing(
            core.intake.measures, shape_of(core.intake.measures), core.size
        ),
        "chosen_level": core.intake.wishes.level,
        "wanted": datetime.date.fromisoformat(core.due) if core.due else None,
    }


@for_studio
@require_POST
def look(request: HttpRequest, job_id) -> HttpResponse:
    """What the form says while it is typed; a field that cannot be read is told and left out."""
    job = job_for(request, job_id)
    core = core_job(job)
    shelf = _shelf(request)
    units = request.studio.units
    form = _form(request, core, shelf, request.POST)
    shown = core
    if form.is_valid():
        shown = form.applied_to(core)
    else:
        stored = values_of(core, shelf, units)
        readable = set(form.fields) - set(form.errors)
        rest = _form(request, core, shelf, laid_over(stored, typed(form, request.POST), readable))
        if rest.is_valid():
            shown = rest.applied_to(core)
    context = {"job": job, "form": form, "units": units, **_looked(job, shown, units)}
    return render(request, "intake/_look.html", context)


@for_studio
@require_GET
def consult_sheet(request: HttpRequest, job_id) -> HttpResponse:
    """The consult sheet as a page that prints."""
    job = job_for(request, job_id)
    return render(request, "intake/consult_sheet.html", sheet.context(job, request.studio.units))


@for_studio
@require_GET
def consult_sheet_pdf(request: HttpRequest, job_id) -> HttpResponse:
    """The consult sheet as PDF, one page."""
    job = job_for(request, job_id)
    return as_file(sheet.pdf(job, request.studio.units), "consult sheet", "pdf")
