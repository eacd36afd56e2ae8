"""The shelf: everything on it on one page; one form for each thing."""

from __future__ import annotations

from django.db import IntegrityError, transaction
from django.db.models import ProtectedError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from chorograph_core.formats.drawing import outline_path
from chorograph_core.measure import format_inches
from chorograph_core.rulers.outlines import lines_of, outline_of
from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.shelf.choices import core_ruler
from studio.shelf.forms import KINDS
from studio.shelf.models import Ruler, Thread, with_reserved


def drawn(ruler: Ruler) -> dict:
    """A ruler as SVG, to scale, and what it stitches in words."""
    core = core_ruler(ruler)
    plate = outline_of(core)
    x0, y0, x1, y1 = plate.bounds
    stitches = [f"{edge.name} stitches {format_inches(edge.radius, 16)}"
                for edge in core.edges(0.25) if edge.radius]  # fmt: skip
    return {
        "d": outline_path(plate, 3),
        "frame": f"{x0 - 0.1:.3f} {y0 - 0.1:.3f} {x1 - x0 + 0.2:.3f} {y1 - y0 + 0.2:.3f}",
        "width": x1 - x0 + 0.2,
        "lines": " ".join(f"M{line[0, 0]:.3f},{line[0, 1]:.3f}H{line[-1, 0]:.3f}" for line in lines_of(core)),
        "stitches": ", ".join(stitches),
    }  # fmt: skip


@for_studio
@require_GET
def shelf(request: HttpRequest) -> HttpResponse:
    """All that is on the studio's shelf; threads with what is reserved."""
    studio = request.studio
    context = {
        "threads": with_reserved(Thread.objects.filter(studio=studio)),
        "battings": studio.battings.all(),
        "bobbins": studio.bobbins.all(),
        "rulers": [(ruler, drawn(ruler)) for ruler in studio.rulers.all()],
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
    context = {"form": form, "kind": kind, "heading": heading, "one": one, "item": found,
               "drawn": drawn(found) if isinstance(found, Ruler) else None}  # fmt: skip
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
