"""The work view: sheet, legend, drawer, and every change made from there."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from chorograph_core.designs.drawing import EDGE_FINISHES
from chorograph_core.designs.legend import main_layer
from chorograph_core.formats.drawing import outline_path
from chorograph_core.job import Job as CoreJob
from chorograph_core.job import job_linework
from chorograph_core.zones.checks import checks
from chorograph_core.zones.figures import secondary_figures
from chorograph_core.zones.places import places_of, sides_together, sisters_of
from studio.accounts.access import for_studio
from studio.accounts.models import named
from studio.answers import as_content
from studio.asking import EditError, base_from
from studio.blocks.models import own_blocks
from studio.charting.following import AskFirst
from studio.charting.sheet import zone_classes, zone_sheet
from studio.derived import Derived, name_of
from studio.jobs.asked import ids_of, job_for
from studio.jobs.models import Job
from studio.jobs.revisions import (
    Conflict,
    NothingLeft,
    Unsound,
    change_job,
    core_job,
    redo,
    undo,
)
from studio.jobs.stages import rail
from studio.plain import plain
from studio.shelf.choices import ShelfChoices
from studio.workbench import edits
from studio.workbench.advice import Advice, advice
from studio.workbench.changes import CHANGES, Asked
from studio.workbench.extras import extras
from studio.workbench.linework import (
    DRAWINGS,
    legend_of,
    linework_of,
    packed_linework,
)

STAGES = ["zones", "designs", "route"]


@for_studio
@require_GET
def work(request: HttpRequest, job_id) -> HttpResponse:
    """The whole work view."""
    job = job_for(request, job_id)
    stage = request.GET.get("stage", job.stage)
    stage = stage if stage in STAGES else "zones"
    return render(request, "workbench/work.html", {**_context(request, job), "stage": stage})


@for_studio
@require_GET
def panel(request: HttpRequest, job_id) -> HttpResponse:
    """What changes with every revision: head line, rail, sheet, legend, route figures."""
    job = job_for(request, job_id)
    stage = request.GET.get("stage", job.stage)
    context = {**_context(request, job), "stage": stage if stage in STAGES else "zones"}
    return render(request, "workbench/_board.html", context)


def _context(request: HttpRequest, job: Job) -> dict:
    core, digest, units = core_job(job), job.head.body_id, request.studio.units
    lines = legend_of(digest, core, units)
    advised = _ADVISED((digest, units), lambda: advice(core, lines, units))
    open_zones = len(core.zones) - len(core.untouchable)
    return {
        "job": job,
        "core": core,
        "sheet": zone_sheet(core, request.studio.units),
        "lines": lines,
        "advice": advised,
        "units": units,
        "lines_of": name_of(digest),
        "unassigned": max(0, open_zones - job.assigned),
        "rail": rail(job, core),
        "checks": _CHECKS((digest,), lambda: _checks(core)),
        "figures": _FIGURES((digest,), lambda: _figures(core)),
        "places": _PLACES((digest,), lambda: _places(core)),
        "taken_in": job.head.summary.partition("archive. ")[2] if job.head.number == 1 else "",
        **extras(job, core),
        "revisions": job.revisions.select_related("author").order_by("-number")[:12],
    }


_CHECKS: Derived = Derived("checks", shared=True)
_FIGURES: Derived = Derived("figures", shared=True)
_PLACES: Derived[list[dict]] = Derived("places", shared=True)
_LINES: Derived[bytes] = Derived("lines", 8)
_ADVISED: Derived[list[Advice]] = Derived("advised", shared=True)


def _checks(core: CoreJob):
    """What is wrong with chart and zones; depends on nothing but the document."""
    return checks(core.chart, core.zones, EDGE_FINISHES[core.policy.edge_finish])


def _figures(core: CoreJob):
    """Shapes that appear between blocks, at most four kinds of them."""
    return secondary_figures(core.chart, core.zones)[:4]


def _places(core: CoreJob) -> list[dict]:
    """The kinds of place of a top, those without a design first, each with a picture and what it is of."""
    given, left_out = core.entry_of(), core.untouchable
    classes = [number for number, _ in zone_classes(core)]
    found = []
    for group in sides_together(places_of(core.chart, core.zones, classes)):
        place = group[0]
        zones = [zone for each in group for zone in each.zones if zone not in left_out]
        bare = [zone for zone in zones if zone not in given]
        x0, y0, x1, y1 = place.shape.bounds
        side = max(x1 - x0, y1 - y0) * 1.1
        fabric = core.chart.fabric(place.fabric)
        if zones:
            found.append({
                "place": place, "zones": zones, "bare": len(bare), "fabric": fabric,
                "name": place.names if len(zones) > 1 else place.name,
                "least": min(each.size[0] for each in group), "most": max(each.size[0] for each in group),
                "d": outline_path(place.shape, 3),
                "frame": f"{(x0 + x1 - side) / 2:.3f} {(y0 + y1 - side) / 2:.3f} {side:.3f} {side:.3f}",
            })  # fmt: skip
    return sorted(found, key=lambda each: not each["bare"])


@for_studio
@require_GET
def linework(request: HttpRequest, job_id) -> HttpResponse:
    """All linework, packed for the canvas."""
    job = job_for(request, job_id)
    core = core_job(job)
    colours = {thread.key: thread.colour for thread in core.threads}
    digest = job.head.body_id
    data = _LINES((digest,), lambda: packed_linework(linework_of(digest, core), colours))
    return as_content(data, request, name_of(digest))


@for_studio
@require_POST
def preview(request: HttpRequest, job_id) -> HttpResponse:
    """Linework for the drawer's settings, not kept: packed for the canvas, or the fault."""
    job = job_for(request, job_id)
    core = core_job(job)
    try:
        changed = _entry_change(request.POST, request.studio.units)(core)
    except EditError as error:
        return render(request, "workbench/_fault.html", {"error": error}, status=422)
    wanted = _entry_meant(request.POST, core, changed)
    drawn = job_linework(changed, DRAWINGS, {wanted})
    entry = next(each for each in changed.legend if each.id == wanted)
    own = [one for one in drawn if one.layer == main_layer(entry)]
    if own and not any(one.linework.runs for one in own):
        error = edits.nothing_drawn(changed, entry, own)
        return render(request, "workbench/_fault.html", {"error": error}, status=422)
    colours = {thread.key: thread.colour for thread in core.threads}
    return HttpResponse(packed_linework(drawn, colours), content_type="application/octet-stream")


def _entry_change(values, units: str) -> Callable[[CoreJob], CoreJob]:
    def change(core: CoreJob) -> CoreJob:
        layers = edits.layers_from(values, core, units)
        name = plain(values.get("name"), 60)
        return edits.keep_entry(core, values.get("entry", ""), name, ids_of(values), layers)

    return change


@for_studio
@require_POST
def keep(request: HttpRequest, job_id) -> HttpResponse:
    """Keep the drawer's settings as an entry of the legend."""
    values = request.POST.copy()
    name = plain(values.get("name"), 60) or values.get("design", "").replace("_", " ")
    ids = ids_of(values)
    if values.get("only") == "first" and len(ids) > 1:
        # The first one is a test: an entry of its own, its sisters stay as they are.
        ids = ids[:1]
        values["zones"], values["entry"] = ids[0], ""
    if values.get("only") == "sisters":
        # The test was good: what the first one has is carried to all that are like it.
        core = core_job(job_for(request, job_id))
        sisters = sisters_of(core.chart, core.zones, ids)
        ids = [*ids, *(name for name in sisters if name not in core.untouchable)]
        values["zones"] = ",".join(ids)

    def kept(core: CoreJob) -> CoreJob:
        changed = _entry_change(values, request.studio.units)(core)
        edits.drawn_first(changed, _entry_meant(values, core, changed), DRAWINGS)
        return changed

    return _change(
        request, job_id, kept, f"{name} in {len(ids)} zone{'s' if len(ids) != 1 else ''}"
    )


def _entry_meant(values, before: CoreJob, after: CoreJob) -> str:
    """The entry that the drawer is about: the one it names, else the one that is new."""
    fresh = {entry.id for entry in after.legend} - {entry.id for entry in before.legend}
    return values.get("entry") or next(iter(fresh))


@for_studio
@require_POST
def change(request: HttpRequest, job_id, what: str) -> HttpResponse:
    """One of the changes that need no drawer."""
    made = CHANGES[what]
    asked = Asked(
        ids_of(request.POST), request.POST, request.FILES, request.studio.units,
        tuple(block.key for block in own_blocks(request.studio)) if made.own_blocks else (),
        ShelfChoices(request.studio).machines if made.machines else {},
        named(request.studio) if made.machines else (),
    )  # fmt: skip
    return _change(request, job_id, lambda core: made.act(core, asked), made.says(asked))


@for_studio
@require_POST
def step_back(request: HttpRequest, job_id, which: str) -> HttpResponse:
    """Undo or redo."""
    job = job_for(request, job_id)
    move = undo if which == "undo" else redo
    return _done(request, job, lambda base: move(job.pk, base, request.user))


def _change(request: HttpRequest, job_id, how, summary: str) -> HttpResponse:
    job = job_for(request, job_id)
    return _done(request, job, lambda base: change_job(job.pk, base, request.user, how, summary))


def _done(request: HttpRequest, job: Job, act) -> HttpResponse:
    """Act on the revision the person saw; tell her if somebody was faster or it cannot be."""
    try:
        base = base_from(request.POST)
    except EditError as error:
        return render(request, "workbench/_fault.html", {"error": error}, status=400)
    try:
        act(base)
    except Conflict as conflict:
        context = {"job": job, "since": conflict.since}
        return render(request, "workbench/_conflict.html", context, status=409)
    except AskFirst as asked_for:
        values = [(key, value) for key, value in request.POST.items() if key != "sure"]
        context = {"lost": asked_for.lost, "values": values, "address": request.path}
        return render(request, "workbench/_ask.html", context, status=422)
    except (EditError, NothingLeft, Unsound) as error:
        return render(request, "workbench/_fault.html", {"error": error, "job": job}, status=422)
    response = HttpResponse(status=204)
    response["HX-Trigger"] = "board-changed"
    return response
