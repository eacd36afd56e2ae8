"""What a request of the work view asks for: which job, which zones."""

from __future__ import annotations

from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from studio.jobs.models import Job


def job_for(request: HttpRequest, job_id) -> Job:
    """The job, if it belongs to the person's studio; 404 otherwise."""
    jobs = Job.objects.select_related("head", "head__undo", "head__redo")
    job = get_object_or_404(jobs, pk=job_id, studio=request.studio)
    job.studio = request.studio
    return job


def asked(request: HttpRequest):
    """What a panel is asked for. Many zones do not fit in an address, so scripts post them."""
    return request.POST if request.method == "POST" else request.GET


def ids_of(values) -> list[str]:
    return [name for name in values.get("zones", "").split(",") if name]
