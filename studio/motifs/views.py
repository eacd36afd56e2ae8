"""Motifs: their strokes to follow, motifs of one's own, attempts measured."""

from __future__ import annotations

from django.db import IntegrityError, transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from chorograph_core.designs import designs
from chorograph_core.designs.attempts import AttemptError, Evenness, drawn_attempt
from chorograph_core.designs.registry import for_strokes
from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.accounts.seen import mark_of
from studio.asking import EditError
from studio.motifs.asked import attempt_from, stroke_from
from studio.motifs.models import Attempt
from studio.motifs.practising import plotted, rusty
from studio.motifs.strokes import all_motifs, followed, motif_named
from studio.plain import plain
from studio.shelf.models import OwnMotif

SHOWN = 6
"""Attempts that are listed."""
PLOTTED = 150
"""Attempts that are plotted."""


@for_studio
@require_GET
def motif_list(request: HttpRequest) -> HttpResponse:
    """All motifs: the studio's own, and those that ship."""
    own = [
        (each, followed(designs()[each.designs[0]], {"stroke": each.stroke}, small=True))
        for each in OwnMotif.objects.filter(studio=request.studio)
    ]
    shipped = [(each, followed(each, small=True)) for each in all_motifs()]
    return render(request, "motifs/list.html", {
        "own": own, "shipped": shipped, "rusty": rusty(request.studio, request.user),
    })  # fmt: skip


@for_studio
@require_http_methods(["GET", "POST"])
@once
def own(request: HttpRequest, own_id: int = 0) -> HttpResponse:
    """Draw a motif of one's own, or change one."""
    found = get_object_or_404(OwnMotif, pk=own_id, studio=request.studio) if own_id else None
    context: dict = {"item": found, "name": found.name if found else "", "points": "",
                     "kind": found.kind if found else "strip", "status": 200}  # fmt: skip
    seen = mark_of(found, ["name", "kind", "stroke"]) if found else ""
    context["seen"] = seen
    if found:
        context |= _shown(found.kind, found.stroke)
    if request.method == "POST":
        name, kind = plain(request.POST.get("name"), 60), _kind_in(request.POST)
        drawn = request.POST.get("points", "")
        context |= {"name": name, "kind": kind, "points": drawn[:200_000]}
        try:
            if not name:
                raise EditError("Give the motif a name.", "name")
            file = request.FILES.get("file")
            if found is not None and file is None and not drawn.strip() and kind == found.kind:
                text = found.stroke
            else:
                text = stroke_from(request.POST, file).text
            if found is not None and request.POST.get("seen", seen) != seen:
                # What she drew stays below; what stands on the shelf is shown beside it.
                words = f"Somebody changed this motif meanwhile; it is called “{found.name}” now."
                words += " Look, and keep it again."
                raise EditError(words, "name")
            _keep(request, found, name, kind, text)
            return redirect("motifs")
        except EditError as error:
            context |= {"fault": str(error), "field": error.field, "status": 422}
    return render(request, "motifs/own.html", context, status=context["status"])


def _kind_in(values) -> str:
    return "figure" if values.get("kind") == "figure" else "strip"


def _keep(request: HttpRequest, found: OwnMotif | None, name: str, kind: str, text: str) -> None:
    item = found or OwnMotif(studio=request.studio)
    item.name, item.kind, item.stroke = name, kind, text
    try:
        with transaction.atomic():
            item.save()
    except IntegrityError:
        raise EditError(f"There is a motif called “{name}” already.", "name") from None


def _shown(kind: str, stroke: str) -> dict:
    """How a stroke comes out in zones: along a strip, bent; or scattered, and one alone."""
    return {"drawings": [followed(each, {"stroke": stroke}) for each in for_strokes(kind)]}


@for_studio
@require_POST
def look(request: HttpRequest) -> HttpResponse:
    """How what was drawn comes out, or what is wrong with it."""
    try:
        made = stroke_from(request.POST, request.FILES.get("file"))
    except EditError as error:
        return render(request, "motifs/_look.html", {"fault": str(error)}, status=422)
    context = {"said": made.said, **_shown(_kind_in(request.POST), made.text)}
    return render(request, "motifs/_look.html", context)


@for_studio
@require_POST
def drop(request: HttpRequest, own_id: int) -> HttpResponse:
    """Take an own motif off the shelf; jobs that use it keep it."""
    get_object_or_404(OwnMotif, pk=own_id, studio=request.studio).delete()
    return redirect("motifs")


@for_studio
@require_GET
def card(request: HttpRequest, key: str) -> HttpResponse:
    """A motif's stroke, to be followed slowly, and a sheet to try it on."""
    return render(request, "motifs/card.html", _card(request, key))


def _attempts(request: HttpRequest, key: str):
    return Attempt.objects.filter(studio=request.studio, person=request.user, motif=key)


def _card(request: HttpRequest, key: str) -> dict:
    named = motif_named(key, request.studio)
    if named is None:
        raise Http404("There is no such motif.")
    design, given, name = named
    tried = _attempts(request, key)
    return {
        "key": key, "design": design, "name": name, "own": key.startswith("own-"),
        "drawn": followed(design, given), "best": tried.order_by("-marks").first(),
        "tried": tried[:SHOWN], "plot": plotted(tried[:PLOTTED]),
        "unit": "in" if request.studio.units == "in" else "cm",
    }  # fmt: skip


@for_studio
@require_POST
def attempt(request: HttpRequest, key: str) -> HttpResponse:
    """Measure an attempt as the machine's own drawing is measured."""
    context = _card(request, key)
    shown = context["drawn"]
    file = request.FILES.get("file")
    try:
        made = attempt_from(request.POST, file, shown, request.studio.units)
    except EditError as error:
        context |= {"fault": str(error), "field": error.field}
        whole = request.headers.get("HX-Request") is None
        page = "motifs/card.html" if whole else "motifs/_attempt.html"
        return render(request, page, context, status=422)
    kept = Attempt.objects.create(
        studio=request.studio, person=request.user, motif=key, marks=made.marks,
        way="pictured" if file is not None else "drawn", **vars(made),
    )  # fmt: skip
    if request.headers.get("HX-Request") is None:
        return redirect("motif", key)
    best = context["best"]
    context["plot"] = plotted(_attempts(request, key)[:PLOTTED])
    context |= {"made": made, "machine": _machine(shown),
                "better": best is None or kept.marks > best.marks}  # fmt: skip
    return render(request, "motifs/_attempt.html", context)


def _machine(shown) -> Evenness | None:
    try:
        return drawn_attempt(shown.line, shown.zone, shown.strip)
    except AttemptError:
        return None
