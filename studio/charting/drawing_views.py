"""A job's chart from a drawing: look at it first, then take it."""

from __future__ import annotations

from dataclasses import replace

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from chorograph_core.chart import Chart, ChartError
from chorograph_core.formats.apart import chart_apart
from chorograph_core.formats.drawings import LARGEST, DrawingError
from chorograph_core.formats.drawn_in import TakenIn
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import format_length
from chorograph_core.zones import zones_from_patches
from studio.accounts.access import for_studio
from studio.asking import number_or
from studio.charting import readings
from studio.charting.models import Reading
from studio.charting.sheet import chart_sheet
from studio.fields import LengthField
from studio.jobs.asked import job_for
from studio.jobs.models import Job
from studio.jobs.revisions import Conflict, change_job, core_job
from studio.jobs.stages import rail

TOLERANCE = 0.0625
CHANGED = "The job was changed meanwhile. Look at it, then take the drawing again."


class DrawingForm(forms.Form):
    """A drawing, the width it stands for, and how far apart two ends may lie."""

    file = forms.FileField(label="Drawing (SVG or DXF)")
    width = LengthField(label="Width of the whole top", required=False)
    tolerance = LengthField(label="Join ends nearer than", required=False)

    def __init__(self, *args, unit: str = "in", **kwargs) -> None:
        super().__init__(*args, **kwargs)
        for name in ("width", "tolerance"):
            self.fields[name].unit = unit

    def clean_file(self):
        """Refuse what is too large before it is read."""
        file = self.cleaned_data["file"]
        if file.size > LARGEST:
            raise forms.ValidationError(
                f"The file has {file.size / 1e6:.0f} MB; a drawing has {LARGEST / 1e6:.0f} at most."
            )
        return file

    def clean_tolerance(self) -> float:
        """Between a hair and an inch."""
        value = self.cleaned_data["tolerance"] or TOLERANCE
        if not 0.001 <= value <= 1:
            raise forms.ValidationError("Between 1/1000″ and 1″.")
        return value


def taken_in(form: DrawingForm, units: str) -> TakenIn | None:
    """The chart of a valid form; a fault is added to its field and None returned."""
    values = form.cleaned_data
    file = values["file"]
    try:
        return chart_apart(
            file.read(), file.name or "", values["width"], values["tolerance"], units
        )
    except DrawingError as error:
        form.add_error("file", str(error))
    except ChartError as error:
        form.add_error(error.field if error.field in form.fields else "file", str(error))
    return None


@for_studio
@require_http_methods(["GET", "POST"])
def chart_from_drawing(request: HttpRequest, job_id) -> HttpResponse:
    """Chart a job from a drawing; with ``look`` only shows what would be taken.

    A large one is read by the worker meanwhile, and taken from there.
    """
    job = job_for(request, job_id)
    core, units = core_job(job), request.studio.units
    measured = core.intake.measures.width
    start = {"width": format_length(measured, units, 16).replace("″", "") if measured else "",
             "tolerance": format_length(TOLERANCE, units, 16).replace("″", "")}  # fmt: skip
    reading = _reading(job, request.POST.get("reading") or request.GET.get("reading", ""))
    if request.method == "POST" and reading and reading.state == "done" and not request.htmx:
        return _take(request, job, reading)
    post = request.method == "POST"
    form = DrawingForm(request.POST if post else None, request.FILES if post else None,
                       unit=units, initial=start)  # fmt: skip
    taken = None
    if post and form.is_valid():
        values = form.cleaned_data
        if values["file"].size > readings.SMALL:
            reading = readings.begin(
                job, request.user, values["file"], values["width"], values["tolerance"]
            )
            if not request.htmx:
                return redirect(f"{reverse('chart-drawing', args=[job.pk])}?reading={reading.pk}")
        else:
            reading, taken = None, taken_in(form, units)
    context = {"job": job, "core": core, "units": units, "form": form, "taken": taken,
               "reading": reading,
               "sheet": chart_sheet(taken.chart, units) if taken else None}  # fmt: skip
    if reading and not post:
        context |= _shown(reading, units)
    if request.htmx:
        return render(request, "charting/_drawing.html", context)
    if taken:
        said = f"Charted from a drawing. {' '.join(taken.said)}"
        if answer := _charted(request, job, taken.chart, said):
            return answer
        context["message"] = CHANGED
    context |= {"stage": "chart", "rail": rail(job, core)}
    status = 400 if form.errors or "message" in context else 200
    return render(request, "charting/drawing.html", context, status=status)


def _reading(job: Job, text: str) -> Reading | None:
    """The reading of this job that is asked for, without its file."""
    number = number_or({"reading": text}, "reading", 0)
    return job.readings.filter(pk=number).defer("data").first() if number else None


def _take(request: HttpRequest, job: Job, reading: Reading) -> HttpResponse:
    """Chart the job by what the worker has read."""
    said = f"Charted from a drawing. {' '.join(reading.said)}"
    if answer := _charted(request, job, readings.chart_of_reading(reading), said):
        return answer
    core, units = core_job(job), request.studio.units
    context = {"job": job, "core": core, "units": units, "form": DrawingForm(unit=units),
               "message": CHANGED, "reading": reading, "stage": "chart", "rail": rail(job, core),
               **_shown(reading, units)}  # fmt: skip
    return render(request, "charting/drawing.html", context, status=400)


def _charted(request: HttpRequest, job: Job, chart: Chart, said: str) -> HttpResponse | None:
    """Give the job its new chart; None if somebody was faster."""
    try:
        base = number_or(request.POST, "base", 0)
        change_job(job.pk, base, request.user, lambda before: _with(before, chart), said)
        return redirect("work", job.pk)
    except Conflict:
        return None


def _shown(reading: Reading, units: str) -> dict:
    """What a page shows of a reading: what was said, and the chart when there is one."""
    if reading.state != "done":
        return {}
    return {"taken": {"said": reading.said},
            "sheet": chart_sheet(readings.chart_of_reading(reading), units)}  # fmt: skip


@for_studio
@require_http_methods(["GET", "POST"])
def drawing_state(request: HttpRequest, job_id, reading_id: int) -> HttpResponse:
    """How far the worker is with a drawing; posted to, it is left off."""
    job = job_for(request, job_id)
    reading = get_object_or_404(job.readings.defer("data"), pk=reading_id)
    if request.method == "POST":
        readings.leave_off(reading)
        reading.refresh_from_db(fields=["state", "message"])
    context = {"job": job, "reading": reading, "units": request.studio.units,
               "form": DrawingForm(unit=request.studio.units),
               **_shown(reading, request.studio.units)}  # fmt: skip
    return render(request, "charting/_drawing.html", context)


def _with(core: CoreJob, chart: Chart) -> CoreJob:
    return replace(
        core, survey=None, chart=chart, zones=tuple(zones_from_patches(chart)), legend=()
    )
