"""Pages for tracing a top from a photograph."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from chorograph_core.chart import ChartError
from chorograph_core.formats.drawing import outline_path
from studio.accounts.access import for_studio
from studio.asking import EditError, number_or, spots_from
from studio.charting import tracing as tracings
from studio.charting.models import Tracing
from studio.jobs.asked import job_for
from studio.jobs.revisions import Conflict, change_job, core_job
from studio.jobs.stages import rail
from studio.photos.serving import picture


def _context(request: HttpRequest, job) -> dict:
    core = core_job(job)
    return {"job": job, "core": core, "units": request.studio.units, "stage": "chart",
            "rail": rail(job, core)}  # fmt: skip


@for_studio
@require_http_methods(["GET", "POST"])
def choose(request: HttpRequest, job_id) -> HttpResponse:
    """Choose a photograph and mark the four corners of the top in it."""
    job = job_for(request, job_id)
    photos = job.photos.all()
    wanted = request.POST.get("photo") or request.GET.get("photo")
    photo = next((each for each in photos if str(each.pk) == wanted), None)
    message, status = "", 200
    if request.method == "POST":
        try:
            if photo is None:
                raise ChartError("Choose a photograph first.", "photo")
            corners = _corners(request.POST.get("corners", ""))
            found = tracings.begin(job, photo, corners, request.user)
            return redirect("trace", job.pk, found.pk)
        except ChartError as error:
            message, status = str(error), 422
        except FileNotFoundError:
            message, status = "The file of this photograph is gone.", 422
    corners = request.POST.get("corners", "")
    guess = tracings.guessed_corners(photo) if photo and not corners else ""
    context = {**_context(request, job), "photos": photos, "photo": photo, "message": message,
               "corners": corners or guess, "guess": guess, "tracings": job.tracings.all()[:6]}  # fmt: skip
    return render(request, "charting/choose_photo.html", context, status=status)


def _corners(text: str) -> list[tuple[float, float]]:
    try:
        return spots_from(text, 4, "Mark the four corners of the top.", "corners")
    except EditError as error:
        raise ChartError(str(error), error.field) from None


def _tracing(request: HttpRequest, job_id, tracing_id) -> Tracing:
    job = job_for(request, job_id)
    found = get_object_or_404(Tracing.objects.select_related("photo"), pk=tracing_id, job=job)
    found.job = job
    return found


@for_studio
@require_GET
def flat(request: HttpRequest, job_id, tracing_id) -> HttpResponse:
    """The squared picture, to people of its studio alone."""
    found = _tracing(request, job_id, tracing_id)
    return picture(tracings.flat_name(found))


@for_studio
@require_GET
def trace(request: HttpRequest, job_id, tracing_id) -> HttpResponse:
    """The squared picture to touch."""
    found = _tracing(request, job_id, tracing_id)
    return render(
        request, "charting/trace.html", {**_context(request, found.job), **_traced(found)}
    )


def _traced(found: Tracing, message: str = "") -> dict:
    shapes = tracings.shapes_of(found)
    return {"tracing": found, "message": message, "covered": tracings.covered(found), "chosen": -1,
            "shapes": [
                (outline_path(shape, 3), " ".join(f"{x:g},{y:g}" for x, y in ring))
                for shape, ring in zip(shapes, found.shapes, strict=True)
            ]}  # fmt: skip


@for_studio
@require_POST
def change(request: HttpRequest, job_id, tracing_id, act: str) -> HttpResponse:
    """Touch a patch, mend an outline, take one out, or take the chart."""
    found = _tracing(request, job_id, tracing_id)
    message, status = "", 200
    chosen = -1
    try:
        if act == "touch":
            x, y, likeness = (_number(request, name) for name in ("x", "y", "likeness"))
            tracings.touch(found, x, y, min(60.0, max(2.0, likeness)))
        elif act == "drop":
            number = number_or(request.POST, "number", -1)
            tracings.drop(found, number if number >= 0 else None)
        elif act == "take":
            return _take(request, found)
        else:
            _mend(request, found, act)
            # What was mended is the last one now, and stays chosen.
            chosen = len(found.shapes) - 1 if act != "undo" else -1
    except (ChartError, Conflict) as error:
        message, status = str(error), 422
        chosen = _which(request, "number")
    except FileNotFoundError:
        message, status = "The file of this picture is gone; square the photograph again.", 422
    context = {"job": found.job, **_traced(found, message), "chosen": chosen}
    if request.htmx:
        return render(request, "charting/_traced.html", context, status=status)
    return render(
        request, "charting/trace.html", {**_context(request, found.job), **context}, status=status
    )


def _mend(request: HttpRequest, found: Tracing, act: str) -> None:
    """Drag a corner, split an outline, join two, or take the last change back."""
    number = _which(request, "number")
    if act == "drag":
        x, y = _number(request, "x"), _number(request, "y")
        fresh = bool(request.POST.get("fresh"))
        tracings.drag(found, number, _which(request, "corner"), x, y, fresh)
    elif act == "part":
        ends = [[_number(request, f"{name}{k}") for name in "xy"] for k in (0, 1)]
        tracings.part(found, number, ends)
    elif act == "join":
        tracings.join(found, [number, _which(request, "other")])
    else:
        tracings.undo(found)


def _which(request: HttpRequest, name: str) -> int:
    return number_or(request.POST, name, -1)


def _number(request: HttpRequest, name: str) -> float:
    try:
        value = float(request.POST.get(name, ""))
    except ValueError:
        value = float("nan")
    if not abs(value) < 1e6:
        raise ChartError("Touch the picture inside the top.", "touch")
    return value


def _take(request: HttpRequest, found: Tracing) -> HttpResponse:
    noded = tracings.traced(found)
    count = len(noded.chart.patches)
    said = f"Charted from a photograph: {len(found.shapes)} patches touched, {count} in the chart"
    change_job(found.job_id, number_or(request.POST, "base", 0), request.user,
               lambda core: tracings.with_chart(core, noded), said)  # fmt: skip
    return redirect("work", found.job_id)
