"""A new top from numbers, and charting a job anew. Views parse, call a service, render."""

from __future__ import annotations

import uuid

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods

from chorograph_core.blocks import Block, block
from chorograph_core.blocks.own_blocks import block_name
from chorograph_core.job import Job as CoreJob
from chorograph_core.zones import zones_from_patches
from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.asking import number_or
from studio.blocks.models import own_blocks
from studio.charting.following import charted, charting, kept_places, lost_by
from studio.charting.layout_forms import NewTopForm, starting_values, values_of_layout
from studio.charting.sheet import chart_sheet, crossings_of
from studio.jobs.models import Job
from studio.jobs.revisions import Conflict, change_job, core_job, create_job
from studio.jobs.stages import rail


@for_studio
@require_http_methods(["GET", "POST"])
@once
def new_job(request: HttpRequest) -> HttpResponse:
    """A new job from a short form."""
    unit, own = request.studio.units, own_blocks(request.studio)
    form = NewTopForm(request.POST or None, initial=starting_values(unit), unit=unit, own=own)
    if request.method == "POST" and form.is_valid():
        values = form.cleaned_data
        chart = values["survey"].chart()
        due = values["due"].isoformat() if values["due"] else ""
        core = CoreJob(
            values["title"], chart, tuple(zones_from_patches(chart)), values["client"], due,
            values["survey"],
        )  # fmt: skip
        job = create_job(request.studio, request.user, core, "Charted from the form")
        return redirect("work", job.pk)
    first = {"title": "new", **starting_values(unit)}
    shown = form if form.is_bound else NewTopForm(first, unit=unit, own=own)
    context = {"form": form, "sheet": _preview(shown), "crossings": _crossings(shown)}
    return render(request, "charting/new.html", context, status=400 if form.errors else 200)


@for_studio
@require_http_methods(["GET", "POST"])
def chart_job(request: HttpRequest, job_id) -> HttpResponse:
    """Chart a job that is there already; zones and designs follow where they can, undo brings back."""
    job = get_object_or_404(Job.objects.select_related("head"), pk=job_id, studio=request.studio)
    core, unit = core_job(job), request.studio.units
    own, measures = _own(request.studio, core), core.intake.measures
    context = {"job": job, "core": core, "units": unit, "stage": "chart", "rail": rail(job, core)}
    if request.method == "POST":
        form = NewTopForm({**request.POST.dict(), "title": core.title}, unit=unit, own=own,
                          measures=measures)  # fmt: skip
        if form.is_valid():
            survey = kept_places(core.survey, form.cleaned_data["survey"])
            lost = lost_by(core, charted(core, survey))
            if lost.designed and not request.POST.get("sure"):
                # What cannot follow is asked about, not dropped.
                context |= {
                    "form": form,
                    "sheet": _preview(form, core),
                    "lost": lost,
                    "crossings": _crossings(form),
                }
                return render(request, "charting/chart.html", context, status=422)
            try:
                change_job(job.pk, number_or(request.POST, "base", 0), request.user,
                           lambda before: charted(before, survey), charting)  # fmt: skip
                return redirect("work", job.pk)
            except Conflict as conflict:
                context["since"] = conflict.since
                context["base"] = conflict.since[-1].number
    else:
        values = {"title": core.title, **values_of_layout(core.survey, unit)}
        form = NewTopForm(values, unit=unit, own=own, measures=measures)
    status = 409 if "since" in context else 400 if form.errors else 200
    context |= {"form": form, "sheet": _preview(form, core), "crossings": _crossings(form)}
    return render(request, "charting/chart.html", context, status=status)


@for_studio
@require_http_methods(["POST"])
def preview_job(request: HttpRequest) -> HttpResponse:
    """The chart while the numbers are typed, with the faults at their fields."""
    data = request.POST.copy()
    data["title"] = data.get("title") or "untitled"
    measures, own, core = None, own_blocks(request.studio), None
    if data.get("of_job"):
        jobs = Job.objects.select_related("head").filter(studio=request.studio)
        core = core_job(get_object_or_404(jobs, pk=_uuid(data["of_job"])))
        measures, own = core.intake.measures, _own(request.studio, core)
    form = NewTopForm(data, unit=request.studio.units, own=own, measures=measures)
    context = {
        "form": form,
        "sheet": _preview(form, core),
        "units": request.studio.units,
        "crossings": _crossings(form),
    }
    return render(request, "charting/_preview.html", context)


def _own(studio, core: CoreJob) -> list[Block]:
    """The studio's own blocks, and those of this top that are no longer among them."""
    known = {block.key: block for block in own_blocks(studio)}
    kept = {patch.kind: block_name(patch.kind) for patch in core.chart.patches}
    return [*known.values(), *(block(key) for key, name in kept.items()
                               if name and key not in known)]  # fmt: skip


def _uuid(text: str) -> uuid.UUID:
    try:
        return uuid.UUID(text)
    except ValueError:
        raise Http404 from None


def _crossings(form: NewTopForm) -> list:
    """The crossings that a touch on the preview opens and closes."""
    return crossings_of(form.cleaned_data["survey"]) if form.is_valid() else []


def _preview(form: NewTopForm, core: CoreJob | None = None):
    """The chart that the form makes, with what outlasts it of the job's chart that was."""
    if not form.is_valid():
        return None
    survey = form.cleaned_data["survey"]
    if core is None:
        return chart_sheet(survey.chart(), form.unit)
    return chart_sheet(charted(core, kept_places(core.survey, survey)).chart, form.unit)
