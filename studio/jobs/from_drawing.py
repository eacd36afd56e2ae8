"""A job's chart from a drawing: look at it first, then take it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from chorograph_core.chart import ChartError, faults
from chorograph_core.chart.layouts import LARGEST_TOP
from chorograph_core.chart.noding import Noded, chart_of
from chorograph_core.formats import Job as CoreJob
from chorograph_core.formats.drawings import LARGEST, DrawingError, read_drawing
from chorograph_core.measure import format_length
from chorograph_core.zones import zones_from_patches
from studio.accounts.access import for_studio
from studio.jobs.asked import job_for
from studio.jobs.forms import LengthField
from studio.jobs.rail import rail
from studio.jobs.revisions import Conflict, change_job, core_job
from studio.jobs.sheet import chart_sheet

TOLERANCE = 0.0625


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


@dataclass(frozen=True)
class TakenIn:
    """A chart read from a drawing, with everything worth telling about it."""

    noded: Noded
    said: tuple[str, ...]


def taken_in(form: DrawingForm, units: str) -> TakenIn | None:
    """The chart of a valid form; a fault is added to its field and None returned."""
    values = form.cleaned_data
    file = values["file"]
    try:
        drawing = read_drawing(file.read(), file.name or "")
        x0, y0, x1, y1 = drawing.bounds
        if max(x1 - x0, y1 - y0) <= 0:
            raise DrawingError("The drawing has no extent.")
        factor = values["width"] / (x1 - x0) if values["width"] and x1 > x0 else 1.0
        if max(x1 - x0, y1 - y0) * factor > LARGEST_TOP:
            raise DrawingError(
                f"It comes to {format_length((x1 - x0) * factor, units)} × "
                f"{format_length((y1 - y0) * factor, units)}: say how wide the top is.", ""
            )  # fmt: skip
        noded = chart_of(drawing.scaled(factor), values["tolerance"])
    except DrawingError as error:
        form.add_error("file", str(error))
        return None
    except ChartError as error:
        form.add_error(error.field if error.field in form.fields else "file", str(error))
        return None
    return TakenIn(noded, _said(noded, drawing, units))


def _said(noded: Noded, drawing, units: str) -> tuple[str, ...]:
    """What was taken, what was mended, what was left out."""
    chart = noded.chart
    said = [f"{len(drawing.lines):,} lines make {len(chart.patches):,} patches, "
            f"{format_length(chart.width, units)} × {format_length(chart.height, units)}."]  # fmt: skip
    if noded.joined:
        said.append(f"{noded.joined} ends that did not quite meet were joined.")
    if noded.slivers:
        said.append(f"{noded.slivers} slivers were given to their neighbours.")
    if noded.islands:
        said.append(f"{noded.islands} patches beside the top were left out.")
    if noded.loose:
        said.append(f"{noded.loose} pieces of line close nothing and were left out.")
    if drawing.left_out:
        parts = ", ".join(f"{count} {what}" for what, count in drawing.left_out.items())
        said.append(f"Not taken: {parts}.")
    broken = faults(chart)
    said += [fault.sentence() for fault in broken[:5]]
    return tuple(said)


@for_studio
@require_http_methods(["GET", "POST"])
def chart_from_drawing(request: HttpRequest, job_id) -> HttpResponse:
    """Chart a job from a drawing; with ``look`` only shows what would be taken."""
    job = job_for(request, job_id)
    core, units = core_job(job), request.studio.units
    measured = core.intake.measures.width
    start = {"width": format_length(measured, units, 16).replace("″", "") if measured else "",
             "tolerance": format_length(TOLERANCE, units, 16).replace("″", "")}  # fmt: skip
    post = request.method == "POST"
    form = DrawingForm(request.POST if post else None, request.FILES if post else None,
                       unit=units, initial=start)  # fmt: skip
    taken = taken_in(form, units) if post and form.is_valid() else None
    context = {"job": job, "core": core, "units": units, "form": form, "taken": taken,
               "sheet": chart_sheet(taken.noded.chart, units) if taken else None}  # fmt: skip
    if request.htmx:
        return render(request, "jobs/_drawing.html", context)
    if taken:
        said = f"Charted from a drawing. {' '.join(taken.said)}"
        try:
            base = int(request.POST.get("base") or 0)
            change_job(job.pk, base, request.user, lambda before: _with(before, taken), said)
            return redirect("work", job.pk)
        except (Conflict, ValueError):
            form.add_error(
                None, "The job was changed meanwhile. Look at it, then take the drawing again."
            )
    context |= {"stage": "chart", "rail": rail(job, core)}
    return render(request, "jobs/drawing.html", context, status=400 if form.errors else 200)


def _with(core: CoreJob, taken: TakenIn) -> CoreJob:
    chart = taken.noded.chart
    return replace(
        core, survey=None, chart=chart, zones=tuple(zones_from_patches(chart)), legend=()
    )
