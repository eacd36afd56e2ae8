"""The bench table: each sum a form that answers while one types; templates to print."""

from __future__ import annotations

import numpy as np
import shapely
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from chorograph_core.designs.engine.arcs import arc
from chorograph_core.formats.true_size import PAPERS, TooLarge, sheets_of
from chorograph_core.job import job_linework
from chorograph_core.measure import format_length, written_length
from chorograph_core.rulers.rows import FITTINGS
from studio.accounts.access import for_studio
from studio.answers import as_file
from studio.asking import EditError
from studio.jobs.asked import ids_of, job_for
from studio.jobs.revisions import core_job
from studio.paper import pdf_of
from studio.shelf.choices import rulers_of
from studio.shelf.models import Machine
from studio.sums.asked import BY_KEY, SUMS, answered

MOST_ZONES = 40


@for_studio
@require_GET
def bench(request: HttpRequest) -> HttpResponse:
    """All sums, each with its answer; of one that is asked for, its answer alone."""
    units = request.studio.units
    rulers, foot = rulers_of(request.studio), _foot(request)
    wanted = request.GET.get("sum", "")
    shown = []
    for each in SUMS:
        values = {field.name: written_length(field.inches, units) for field in each.fields}
        if each.key == wanted:
            values |= {key: value for key, value in request.GET.items() if key != "sum"}
        told = {"sum": each, "fields": [(field, values.get(field.name, "")) for field in each.fields],
                "fitting": values.get("fitting", "even"), "query": ""}  # fmt: skip
        try:
            told["answer"] = answered(each, values, rulers, foot, units)
            told["dots"] = [format_length(dot, units, 32) for dot in told["answer"].dots[:60]]
        except EditError as error:
            told["fault"], told["field"] = str(error), error.field
        shown.append(told)
    context = {"sums": shown, "fittings": FITTINGS, "rulers": len(rulers), "papers": PAPERS}
    if wanted and request.headers.get("HX-Request"):
        found = next((told for told in shown if told["sum"].key == wanted), None)
        if found is None:
            raise Http404("There is no such sum.")
        return render(request, "sums/_answer.html", {"told": found, "papers": PAPERS})
    return render(request, "sums/bench.html", context)


def _foot(request: HttpRequest) -> float:
    """The foot of the studio's machine, from needle to ruler edge."""
    machine = Machine.objects.filter(studio=request.studio).first()
    return float(machine.foot_radius) if machine else 0.25


@for_studio
@require_GET
def arc_template(request: HttpRequest) -> HttpResponse:
    """An arc of the bench table true to size: the line that is stitched, its chord and its middle."""
    units, key = request.studio.units, request.GET.get("sum", "arc")
    if key not in BY_KEY or not BY_KEY[key].printed:
        raise Http404("There is no such template.")
    foot = _foot(request)
    try:
        answer = answered(BY_KEY[key], request.GET, (), foot, units)
    except EditError as error:
        return render(request, "sums/refused.html", {"error": error}, status=422)
    line = arc((0, 0), (answer.chord, 0), -answer.height)
    middle = answer.chord / 2
    axes = [[[0, 0], [answer.chord, 0]], [[middle, 0.4], [middle, -answer.height - 0.4]]]
    lines = [("stitched", line), *(("axis", np.array(axis, float)) for axis in axes)]
    title = (
        f"Arc {format_length(answer.chord, units, 16)} by {format_length(answer.height, units, 16)}"
    )
    return _printed(request, lines, title)


@for_studio
@require_GET
def zone_template(request: HttpRequest, job_id) -> HttpResponse:
    """Zones of a job true to size with all that is stitched and marked in them."""
    job = job_for(request, job_id)
    core = core_job(job)
    wanted = set(ids_of(request.GET)[:MOST_ZONES])
    zones = [zone for zone in core.zones if zone.id in wanted]
    if not zones:
        error = EditError("Choose the zones that are to be printed.")
        return render(request, "sums/refused.html", {"error": error, "job": job}, status=422)
    lines = [("edge", shapely.get_coordinates(ring)) for zone in zones
             for ring in (zone.polygon.exterior, *zone.polygon.interiors)]  # fmt: skip
    entries = {core.entry_of().get(zone.id, "") for zone in zones} - {""}
    for one in job_linework(core, None, entries) if entries else ():
        if one.zone not in wanted:
            continue
        lines += [("stitched", points) for run in one.linework.runs for points, *_ in run.pieces()
                  if len(points) > 1 and not run.in_ditch]  # fmt: skip
        lines += [("axis", mark.points) for mark in one.linework.marks
                  if mark.kind == "line" and len(mark.points) > 1]  # fmt: skip
    title = zones[0].label if len(zones) == 1 else f"{len(zones)} zones"
    return _printed(request, lines, f"{job.title}: {title}")


def _printed(request: HttpRequest, lines, title: str) -> HttpResponse:
    paper = request.GET.get("paper", request.studio.paper)
    paper = paper if paper in PAPERS else "letter"
    try:
        sheets = sheets_of(lines, paper)
    except TooLarge as error:
        words = EditError(f"{error} Choose fewer zones.")
        return render(request, "sums/refused.html", {"error": words}, status=422)
    page = pdf_of("sums/template.html", {"sheets": sheets, "title": title}, paper)
    return as_file(page, "template", "pdf")
