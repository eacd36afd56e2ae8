"""The job book of one job, and the search through all of them."""

from __future__ import annotations

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.job_log.models import Entry
from studio.job_log.recording import record
from studio.job_log.search import search
from studio.jobs.asked import job_for
from studio.jobs.revisions import core_job
from studio.jobs.stages import rail
from studio.plain import plain

A_PAGE = 60


@for_studio
@require_http_methods(["GET", "POST"])
@once
def book(request: HttpRequest, job_id) -> HttpResponse:
    """Everything that happened on a job, newest first; a POST adds a note."""
    job = job_for(request, job_id)
    fault, status, text = "", 200, ""
    if request.method == "POST":
        text = plain(request.POST.get("text"))
        if text and len(text) <= 8000:
            record(job, "note", text, request.user)
            return redirect("book", job.pk)
        fault, status = (
            ("Write something first." if not text else "A note has at most 8,000 letters."),
            400,
        )
    rows = job.book.select_related("author")
    kinds = Entry.KINDS
    if not request.may_price:
        rows = rows.exclude(kind__in=Entry.PRICED)
        kinds = [each for each in kinds if each[0] not in Entry.PRICED]
    kind = request.GET.get("kind", "")
    if kind in dict(kinds):
        rows = rows.filter(kind=kind)
    core = core_job(job)
    context = {
        "job": job, "core": core, "stage": "book", "rail": rail(job, core), "kind": kind,
        "kinds": kinds, "page": Paginator(rows, A_PAGE).get_page(request.GET.get("page")),
        "fault": fault, "text": text, "units": request.studio.units,
        "photos": job.photos.all(),
    }  # fmt: skip
    return render(request, "job_log/book.html", context, status=status)


@for_studio
@require_GET
def find(request: HttpRequest) -> HttpResponse:
    """Search all job books of the studio."""
    words = plain(request.GET.get("q"), 300)
    found = search(request.studio, words, request.may_price) if words else []
    return render(request, "job_log/find.html", {"words": words, "found": found})
