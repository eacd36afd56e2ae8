"""Papers that the worker makes: asked for, looked after, fetched."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from studio.accounts.access import for_studio
from studio.answers import as_file
from studio.jobs.asked import job_for
from studio.papers.kinds import KINDS
from studio.papers.making import ask_for, paper_of


@for_studio
@require_http_methods(["GET", "POST"])
def paper(request: HttpRequest, job_id, kind: str) -> HttpResponse:
    """A POST asks the worker for a paper; a GET fetches it, or says how far it is."""
    job = job_for(request, job_id)
    wanted = KINDS.get(kind)
    if wanted is None:
        raise Http404("There is no such paper.")
    found = ask_for(job, wanted) if request.method == "POST" else paper_of(job, wanted)
    if request.method == "POST" and found is None:
        raise Http404("There is nothing to print yet.")
    if request.htmx:
        return render(request, "papers/_paper.html", {"job": job, "kind": wanted, "paper": found})
    if request.method == "POST":
        return redirect(wanted.stands_on, job.pk)
    if found is None or found.state != "done":
        raise Http404("This has not been made yet.")
    return as_file(bytes(found.file), f"{job.title} {wanted.title}", wanted.ending)
