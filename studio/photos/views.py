"""Photographs of a job: taken in, shown to people of its studio alone, taken out."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from studio.accounts.access import for_studio
from studio.jobs.asked import job_for
from studio.photos.keeping import keep_photo, name_of, take_out
from studio.photos.models import ABOUT, Photo
from studio.photos.pictures import PictureError
from studio.photos.serving import picture


@for_studio
@require_POST
def photos(request: HttpRequest, job_id) -> HttpResponse:
    """Take photographs in; each that cannot be is named with the reason, the others are kept."""
    job = job_for(request, job_id)
    faults = []
    files = request.FILES.getlist("photos")
    if not files:
        faults.append("Choose a photograph first.")
    for file in files[:20]:
        try:
            keep_photo(
                job, request.user, file, request.POST.get("about", ""), request.POST.get("note", "")
            )
        except PictureError as error:
            faults.append(f"{file.name[:60]}: {error}")
    context = {"job": job, "photos": job.photos.all(), "about": ABOUT, "photo_faults": faults,
               "shows": request.POST.get("about", "")}  # fmt: skip
    if request.htmx:
        return render(request, "photos/_photos.html", context, status=422 if faults else 200)
    if faults:
        return render(request, "photos/photos.html", context, status=422)
    return redirect("intake", job.pk)


def _photo(request: HttpRequest, job_id, photo_id) -> Photo:
    found = Photo.objects.select_related("job")
    return get_object_or_404(found, pk=photo_id, job_id=job_id, job__studio=request.studio)


@for_studio
@require_GET
def photo(request: HttpRequest, job_id, photo_id) -> HttpResponse:
    """A photograph, to people of its studio alone."""
    found = _photo(request, job_id, photo_id)
    return picture(name_of(found, small="small" in request.GET))


@for_studio
@require_POST
def drop_photo(request: HttpRequest, job_id, photo_id) -> HttpResponse:
    """Take a photograph out."""
    found = _photo(request, job_id, photo_id)
    take_out(found, request.user)
    job = job_for(request, job_id)
    if request.htmx:
        context = {"job": job, "photos": job.photos.all(), "about": ABOUT}
        return render(request, "photos/_photos.html", context)
    return redirect("intake", job.pk)
