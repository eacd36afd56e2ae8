"""The shelf: everything on it on one page; one form for each thing."""

from __future__ import annotations

from django.db import IntegrityError, transaction
from django.db.models import ProtectedError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.shelf.forms import KINDS
from studio.shelf.models import Thread, with_reserved


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
@once
def item(request: HttpRequest, kind: str, item_id: int = 0) -> HttpResponse:
    """Put something on the shelf, or correct it."""
    if kind not in KINDS:
        raise Http404("There is no such thing on a shelf.")
    model, form_class, heading, one = KINDS[kind]
    found = get_object_or_404(model, pk=item_id, studio=request.studio) if item_id else None
    form = form_class(request.POST or None, instance=found, studio=request.studio)
    if request.method == "POST":
        try:
            with transaction.atomic():
                if form.is_valid():
                    form.save()
                    return redirect("shelf")
        except IntegrityError:
            form.add_error(
                None, "Somebody put the same on the shelf at this moment; look, and try again."
            )
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
