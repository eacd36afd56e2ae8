"""Jobs list, new job, import and export. Views parse, call a service, render."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from chorograph_core.formats import ArchiveError, read_archive, write_archive
from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.answers import as_file
from studio.jobs.asked import job_for
from studio.jobs.forms import ImportForm
from studio.jobs.keeping import (
    DAYS,
    KeepingError,
    drop,
    duplicate,
    put_away,
    take_back,
    take_out,
)
from studio.jobs.models import Job
from studio.jobs.notices import said_lately, steps_for
from studio.jobs.revisions import core_job, create_job
from studio.jobs.stages import rail


@for_studio
@require_GET
def job_list(request: HttpRequest) -> HttpResponse:
    """All jobs of the studio, by due date."""
    jobs = (
        Job.objects.here()
        .filter(studio=request.studio)
        .only(
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
    )
    return render(request, "jobs/list.html", {
        "jobs": jobs, "form": ImportForm(), "said": said_lately(request), "steps": steps_for(request),
    })  # fmt: skip


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
    jobs = Job.objects.here().filter(studio=request.studio)
    return render(request, "jobs/list.html", {"jobs": jobs, "form": form}, status=400)


@for_studio
@require_GET
def export_job(request: HttpRequest, job_id) -> HttpResponse:
    """The job as an archive file."""
    job = job_for(request, job_id)
    return as_file(write_archive(core_job(job)), job.title, "json")


@for_studio
@require_GET
def resting(request: HttpRequest) -> HttpResponse:
    """Jobs that are put away, and those that will be deleted."""
    jobs = Job.objects.filter(studio=request.studio)
    return render(request, "jobs/resting.html", {
        "away": jobs.filter(away__isnull=False, dropped__isnull=True),
        "dropped": jobs.filter(dropped__isnull=False), "days": DAYS,
    })  # fmt: skip


@for_studio
@require_GET
def more(request: HttpRequest, job_id) -> HttpResponse:
    """What else can be done with a job: another like it, put away, deleted."""
    return _more(request, job_for(request, job_id))


def _more(request: HttpRequest, job: Job, fault: str = "", status: int = 200) -> HttpResponse:
    core = core_job(job)
    return render(request, "jobs/more.html", {
        "job": job, "core": core, "stage": "more", "rail": rail(job, core), "units": request.studio.units,
        "fault": fault, "days": DAYS,
    }, status=status)  # fmt: skip


@for_studio
@require_POST
@once
def keep_job(request: HttpRequest, job_id) -> HttpResponse:
    """Make another like it, put it away, take it out again, delete it, or take that back."""
    job = job_for(request, job_id)
    what = request.POST.get("what", "")
    try:
        if what == "duplicate":
            return redirect("work", duplicate(job, request.user).pk)
        {"away": put_away, "out": take_out, "drop": drop, "back": take_back}[what](
            job, request.user
        )
    except KeyError:
        return _more(request, job, "Choose one of what is offered.", 422)
    except KeepingError as error:
        return _more(request, job, str(error), 422)
    return redirect("jobs" if what in ("away", "drop") else "resting")


@for_studio
@require_POST
def notices_seen(request: HttpRequest) -> HttpResponse:
    """What clients said was seen."""
    request.membership.heard = timezone.now()
    request.membership.save(update_fields=["heard"])
    return redirect("jobs")
