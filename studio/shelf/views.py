"""The shelf: everything on it on one page; one form for each thing."""

from __future__ import annotations

from django.db.models import ProtectedError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from studio.accounts.access import for_studio
from studio.jobs.asked import job_for
from studio.jobs.rail import rail
from studio.jobs.revisions import core_job
from studio.shelf.forms import KINDS
from studio.shelf.models import Thread, with_reserved
from studio.shelf.stock import StockError, book_out, needs_of


@for_studio
@require_GET
def shelf(request: HttpRequest) -> HttpResponse:
    """All that is on the studio's shelf; threads with what is reserved."""
    studio = request.studio
    context = {
        "threads": with_reserved(Thread.objects.filter(studio=studio)),
        "battings": studio.battings.all(),
        "bobbins": studio.bobbins.all(),
        "rulers": studio.rulers.all(),
        "markers": studio.marking_tools.all(),
        "machines": studio.machines.select_related("bobbin"),
    }
    return render(request, "shelf/shelf.html", context)


@for_studio
@require_http_methods(["GET", "POST"])
def item(request: HttpRequest, kind: str, item_id: int = 0) -> HttpResponse:
    """Put something on the shelf, or correct it."""
    if kind not in KINDS:
        raise Http404("There is no such thing on a shelf.")
    model, form_class, heading, one = KINDS[kind]
    found = get_object_or_404(model, pk=item_id, studio=request.studio) if item_id else None
    form = form_class(request.POST or None, instance=found, studio=request.studio)
    if request.method == "POST" and form.is_valid():
        form.save()
        return redirect("shelf")
    context = {"form": form, "kind": kind, "heading": heading, "one": one, "item": found}
    return render(request, "shelf/item.html", context, status=400 if form.errors else 200)


@for_studio
@require_POST
def drop_item(request: HttpRequest, kind: str, item_id: int) -> HttpResponse:
    """Take something off the shelf for good."""
    if kind not in KINDS:
        raise Http404("There is no such thing on a shelf.")
    found = get_object_or_404(KINDS[kind][0], pk=item_id, studio=request.studio)
    try:
        found.delete()
    except ProtectedError:  # pragma: no cover - nothing protects shelf items yet
        raise Http404("It is still in use.") from None
    return redirect("shelf")


@for_studio
@require_http_methods(["GET", "POST"])
def job_thread(request: HttpRequest, job_id) -> HttpResponse:
    """What a job takes of the shelf's threads; a POST books it out, the job being stitched."""
    job = job_for(request, job_id)
    message, status = "", 200
    if request.method == "POST":
        try:
            book_out(job, request.user)
        except StockError as error:
            message, status = str(error), 409
        else:
            return redirect("job-thread", job.pk)
    core = core_job(job)
    context = {
        "job": job, "core": core, "stage": "thread", "rail": rail(job, core),
        "needs": needs_of(job), "message": message, "units": request.studio.units,
        "taken": job.thread_bookings.filter(state="out").select_related("thread"),
    }  # fmt: skip
    return render(request, "shelf/job_thread.html", context, status=status)
