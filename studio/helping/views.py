"""The guide beside the work."""

from __future__ import annotations

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from studio.accounts.access import for_studio
from studio.helping.first_hours import HIDDEN
from studio.helping.guide import pages, picture_of, search
from studio.plain import plain


@for_studio
@require_GET
def contents(request: HttpRequest) -> HttpResponse:
    """What there is, and what was looked for in it."""
    words, units = plain(request.GET.get("q"), 200), request.studio.units
    return render(
        request,
        "helping/help.html",
        {"pages": pages(units), "words": words, "found": search(words, units)},
    )


@for_studio
@require_GET
def page(request: HttpRequest, key: str) -> HttpResponse:
    """A page of the guide."""
    found = pages(request.studio.units).get(key)
    if found is None:
        raise Http404("There is no such page in the guide.")
    return render(
        request, "helping/help.html", {"pages": pages(request.studio.units), "page": found}
    )


@for_studio
@require_GET
def picture(request: HttpRequest, name: str) -> HttpResponse:
    """A picture in the guide."""
    path = picture_of(name)
    if path is None:
        raise Http404("There is no such picture.")
    response = FileResponse(path.open("rb"), content_type="image/png")
    response["Cache-Control"] = "private, max-age=86400"
    return response


@for_studio
@require_POST
def first_step(request: HttpRequest) -> HttpResponse:
    """A step was looked at, or all of them shall be out of sight."""
    key = plain(request.POST.get("key"), 20)
    membership = request.membership
    if key in (HIDDEN, "machine", "threads", "rulers", "prices") and key not in membership.steps:
        membership.steps = [*membership.steps, key]
        membership.save(update_fields=["steps"])
    return redirect("jobs")
