"""Pages about the studio itself: what it is, how it works, how long things take it."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods
from shapely.geometry import box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs.drawing import EDGE_FINISHES
from chorograph_core.estimating import finish_in_words
from chorograph_core.job import Job as CoreJob
from chorograph_core.steering.schools import QUESTIONS, worked
from studio.accounts.access import for_studio
from studio.accounts.models import Logo
from studio.asking import EditError
from studio.house.forms import HouseForm
from studio.house.rates import factors_from, lines_of


@for_studio
@require_http_methods(["GET", "POST"])
def house(request: HttpRequest) -> HttpResponse:
    """Name, address, logo, units, paper."""
    form = HouseForm(request.POST or None, request.FILES or None, instance=request.studio)
    logo = Logo.objects.filter(studio=request.studio).first()
    if request.method == "POST" and form.is_valid():
        form.save()
        if form.cleaned_data["logo"]:
            values = {"picture": form.cleaned_data["logo"]}
            Logo.objects.update_or_create(studio=request.studio, defaults=values)
        elif form.cleaned_data["no_logo"] and logo is not None:
            logo.delete()
        return redirect("house")
    if form.errors:
        # What was typed stands in the fields; the head of the page is the studio's still.
        request.studio.refresh_from_db()
    context = {"form": form, "logo": logo}
    return render(request, "house/house.html", context, status=400 if form.errors else 200)


@for_studio
@require_http_methods(["GET", "POST"])
def ways(request: HttpRequest) -> HttpResponse:
    """Where quilters differ: how new jobs are worked here."""
    studio = request.studio
    if request.method == "POST":
        kept = {question.key: request.POST[question.key] for question in QUESTIONS
                if request.POST.get(question.key) in {each.key for each in question.answers}}  # fmt: skip
        if request.POST.get("edge_finish") in EDGE_FINISHES:
            kept["edge_finish"] = request.POST["edge_finish"]
        studio.ways = kept
        studio.save(update_fields=["ways"])
        return redirect("house-ways")
    plain = CoreJob("", Chart(box(0, 0, 1, 1), (Patch("a", box(0, 0, 1, 1)),)), ())
    now = worked(plain, studio.ways)
    asked = [(question, question.now(now)) for question in QUESTIONS]
    edges = [(key, *finish_in_words(key, studio.units)) for key in EDGE_FINISHES]
    context = {"asked": asked, "edges": edges, "edge": now.policy.edge_finish}
    return render(request, "house/ways.html", context)


@for_studio
@require_http_methods(["GET", "POST"])
def rates(request: HttpRequest) -> HttpResponse:
    """How long things take, written by hand."""
    studio, fault, status = request.studio, None, 200
    if request.method == "POST":
        try:
            studio.factors = factors_from(studio, request.POST)
            studio.save(update_fields=["factors"])
            return redirect("house-rates")
        except EditError as error:
            fault, status = error, 422
    lines = [(line, request.POST.get(f"rate_{line.key}", line.text)) for line in lines_of(studio)]
    return render(request, "house/rates.html", {"lines": lines, "fault": fault}, status=status)
