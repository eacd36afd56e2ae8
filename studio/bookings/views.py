"""Thread of one job: what it takes of the shelf, and booking it out."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from studio.accounts.access import for_studio
from studio.bookings.stock import StockError, book_out, needs_of
from studio.jobs.asked import job_for
from studio.jobs.revisions import core_job
from studio.jobs.stages import rail


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
    return render(request, "bookings/job_thread.html", context, status=status)
