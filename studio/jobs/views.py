"""Jobs list, new job, import and export. Views parse, call a service, render."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods

from chorograph_core.formats import ArchiveError, read_archive, write_archive
from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.jobs.forms import ImportForm
from studio.jobs.models import Job
from studio.jobs.revisions import core_job, create_job


@for_studio
@require_GET
def job_list(request: HttpRequest) -> HttpResponse:
    """All jobs of the studio, by due date."""
    jobs = Job.objects.filter(studio=request.studio).only(
        "title",
        "client",
        "due",
        "width",
        "height",
        "zones",
        "assigned",
        "stage",
        "thumbnail",
        "frame",
        "taken",
        "closed",
        "planned",
    )
    return render(request, "jobs/list.html", {"jobs": jobs, "form": ImportForm()})


@for_studio
@require_http_methods(["POST"])
@once
def import_job(request: HttpRequest) -> HttpResponse:
    """A job from an archive; a bad file is refused with the reason and changes nothing."""
    form = ImportForm(request.POST, request.FILES)
    if form.is_valid():
        try:
            core = read_archive(form.cleaned_data["archive"].read())
        except ArchiveError as error:
            form.add_error("archive", str(error))
        else:
            said = " ".join(["Taken in from an archive.", *core.changes])
            job = create_job(request.studio, request.user, core, said)
            return redirect("work", job.pk)
    jobs = Job.objects.filter(studio=request.studio)
    return render(request, "jobs/list.html", {"jobs": jobs, "form": form}, status=400)


@for_studio
@require_GET
def export_job(request: HttpRequest, job_id) -> HttpResponse:
    """The job as an archive file."""
    job = get_object_or_404(Job.objects.select_related("head"), pk=job_id, studio=request.studio)
    response = HttpResponse(write_archive(core_job(job)), content_type="application/json")
    name = slugify(job.title) or "job"
    response["Content-Disposition"] = f'attachment; filename="{name}.json"'
    return response
