"""Out and in: tables, threads from a table, all of a studio, the calendar for others to look at."""

from __future__ import annotations

import uuid

from django.core import signing
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from chorograph_core.formats.drawing_out import drawing_svg
from chorograph_core.formats.schemas import schema_file
from studio.accounts.access import for_studio
from studio.accounts.models import Studio
from studio.addresses import whole_address
from studio.agenda.diary import calendar_of
from studio.answers import as_file
from studio.carrying import threads_in, whole, whole_in
from studio.carrying.tables import TABLES, written
from studio.jobs.asked import job_for
from studio.jobs.revisions import core_job
from studio.workbench.linework import linework_of
from studio.writing import write_as


@for_studio
@require_GET
def carrying(request: HttpRequest) -> HttpResponse:
    """All that can be taken out, and in."""
    return _page(request)


def _page(request: HttpRequest, status: int = 200, **more) -> HttpResponse:
    key = request.studio.calendar_key
    address = whole_address(request, reverse("calendar-feed", args=[key])) if key else ""
    context = {"tables": TABLES, "feed": address, **more}
    return render(request, "carrying/carrying.html", context, status=status)


@for_studio
@require_GET
def table(request: HttpRequest, name: str) -> HttpResponse:
    """A list as CSV."""
    if name not in TABLES:
        raise Http404("There is no such table.")
    return as_file(written(TABLES[name](request.studio)), name, "csv")


@for_studio
@require_POST
def threads(request: HttpRequest) -> HttpResponse:
    """Threads from a CSV: first the look at them, then, with the same file carried along, taken in."""
    file = request.FILES.get("threads")
    try:
        if file is not None:
            data = file.read(threads_in.LARGEST + 1)
        else:
            data = signing.loads(
                request.POST.get("looked", ""), salt="threads", max_age=3600
            ).encode()
        rows = threads_in.read(request.studio, data)
    except threads_in.TableError as error:
        return _page(request, 422, fault=str(error))
    except signing.BadSignature:
        return _page(request, 422, fault="Choose the file once more.")
    if file is None:
        new, corrected = threads_in.take_in(request.studio, rows)
        return _page(
            request,
            taken=f"{new} thread{'' if new == 1 else 's'} new on the shelf, {corrected} corrected.",
        )
    looked = signing.dumps(
        data.decode("utf-8-sig", errors="replace"), salt="threads", compress=True
    )
    return _page(request, rows=rows, looked=looked, sound=sum(not row.faults for row in rows))


@for_studio
@require_GET
def studio_data(request: HttpRequest) -> HttpResponse:
    """All of the studio as one file."""
    title = f"{request.studio} {timezone.localdate():%Y-%m-%d}"
    return as_file(whole.whole_of(request.studio), title, "zip")


@for_studio
@require_POST
def studio_data_in(request: HttpRequest) -> HttpResponse:
    """Take in what another installation wrote."""
    file = request.FILES.get("whole")
    if file is None or file.size > whole_in.LARGEST:
        return _page(request, 422, fault="Choose the file that a studio was written to.")
    try:
        taken = whole_in.take_in(request.studio, request.user, file.read())
    except whole_in.WholeError as error:
        return _page(request, 422, fault=str(error))
    return _page(request, taken=f"Taken in: {taken}.", faults=taken.faults[:20])


@for_studio
@require_POST
def calendar_key(request: HttpRequest) -> HttpResponse:
    """A new address for the calendar, which makes the old one lead nowhere; or none."""
    request.studio.calendar_key = None if request.POST.get("what") == "none" else uuid.uuid4()
    request.studio.save(update_fields=["calendar_key"])
    return redirect("carrying")


@require_GET
def calendar_feed(request: HttpRequest, key: uuid.UUID) -> HttpResponse:
    """The calendar behind its secret address: when there is work on which top, no client and no money."""
    studio = Studio.objects.filter(calendar_key=key).first()
    if studio is None:
        raise Http404("There is no such calendar.")
    write_as(studio.locale)
    response = HttpResponse(calendar_of(studio), content_type="text/calendar; charset=utf-8")
    response["Cache-Control"] = f"private, max-age={15 * 60}"
    response["X-Robots-Tag"] = "noindex"
    return response


@require_GET
def schema(request: HttpRequest, name: str) -> HttpResponse:
    """What an archive or a route looks like, for whoever reads or writes them."""
    response = HttpResponse(schema_file(name).read_bytes(), content_type="application/schema+json")
    response["Cache-Control"] = f"public, max-age={24 * 3600}"
    return response


@for_studio
@require_GET
def drawing(request: HttpRequest, job_id) -> HttpResponse:
    """Chart and linework for another program, in layers."""
    job = job_for(request, job_id)
    core = core_job(job)
    return as_file(drawing_svg(core, linework_of(job.head.body_id, core)), job.title, "svg")
