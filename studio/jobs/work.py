"""The work view: sheet, legend, drawer, and every change made from there."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from chorograph_core.designs.legend import EDGE_FINISHES
from chorograph_core.formats import Job as CoreJob
from chorograph_core.formats import drawn_job
from chorograph_core.zones.checks import checks
from chorograph_core.zones.figures import secondary_figures
from studio.accounts.access import for_studio
from studio.blocks.models import own_blocks
from studio.jobs import applique, cuts, edits, piecing
from studio.jobs.advice import advice
from studio.jobs.asked import ids_of, job_for
from studio.jobs.drawing import drawn_of, legend_lines, packed_linework
from studio.jobs.models import Job
from studio.jobs.rail import rail
from studio.jobs.revisions import (
    Conflict,
    NothingLeft,
    Unsound,
    change_job,
    core_job,
    core_of,
    redo,
    undo,
)
from studio.jobs.sheet import zone_sheet
from studio.plain import plain
from studio.routes.planning import DRAWINGS, plan_of
from studio.shelf.stock import needs_of

STAGES = ["zones", "designs", "route"]


@for_studio
@require_GET
def work(request: HttpRequest, job_id) -> HttpResponse:
    """The whole work view."""
    job = job_for(request, job_id)
    stage = request.GET.get("stage", job.stage)
    stage = stage if stage in STAGES else "zones"
    return render(request, "work/work.html", {**_context(request, job), "stage": stage})


@for_studio
@require_GET
def panel(request: HttpRequest, job_id) -> HttpResponse:
    """What changes with every revision: head line, rail, sheet, legend, route figures."""
    job = job_for(request, job_id)
    stage = request.GET.get("stage", job.stage)
    context = {**_context(request, job), "stage": stage if stage in STAGES else "zones"}
    return render(request, "work/_board.html", context)


def _context(request: HttpRequest, job: Job) -> dict:
    core = core_job(job)
    lines, advised = _legend(job.head.body_id)
    plan = plan_of(job)
    open_zones = len(core.zones) - len(core.untouchable)
    return {
        "job": job,
        "core": core,
        "sheet": zone_sheet(core, request.studio.units),
        "lines": lines,
        "advice": advised,
        "plan": plan,
        "units": request.studio.units,
        "unassigned": max(0, open_zones - job.assigned),
        "rail": rail(job, core, plan),
        "checks": _checks(job.head.body_id),
        "figures": _figures(job.head.body_id),
        "short": [need for need in needs_of(job) if need.buy]
        if plan and plan.state == "done"
        else [],
        "revisions": job.revisions.select_related("author").order_by("-number")[:12],
    }


@lru_cache(maxsize=16)
def _checks(digest: str):
    """What is wrong with chart and zones; depends on nothing but the document."""
    core = core_of(digest)
    return checks(core.chart, core.zones, EDGE_FINISHES[core.policy.edge_finish])


@lru_cache(maxsize=16)
def _figures(digest: str):
    """Shapes that appear between blocks, at most four kinds of them."""
    core = core_of(digest)
    return secondary_figures(core.chart, core.zones)[:4]


def _figure(values) -> int:
    text = values.get("number", "")
    return int(text) if text.isdigit() else -1


@lru_cache(maxsize=16)
def _legend(digest: str):
    """The legend and its advice, which depend on nothing but the document."""
    core = core_of(digest)
    lines = legend_lines(core, drawn_of(digest, core))
    return lines, advice(core, lines)


@for_studio
@require_GET
def linework(request: HttpRequest, job_id) -> HttpResponse:
    """All linework, packed for the canvas."""
    job = job_for(request, job_id)
    core = core_job(job)
    colours = {thread.key: thread.colour for thread in core.threads}
    data = packed_linework(drawn_of(job.head.body_id, core), colours)
    return HttpResponse(data, content_type="application/octet-stream")


@for_studio
@require_POST
def preview(request: HttpRequest, job_id) -> HttpResponse:
    """Linework for the drawer's settings, not kept: packed for the canvas, or the fault."""
    job = job_for(request, job_id)
    core = core_job(job)
    try:
        changed = _entry_change(request.POST)(core)
    except edits.EditError as error:
        return render(request, "work/_fault.html", {"error": error}, status=422)
    wanted = request.POST.get("entry") or ({e.id for e in changed.legend}
                                           - {e.id for e in core.legend} or {""}).pop()  # fmt: skip
    drawn = drawn_job(changed, DRAWINGS, {wanted})
    colours = {thread.key: thread.colour for thread in core.threads}
    return HttpResponse(packed_linework(drawn, colours), content_type="application/octet-stream")


def _entry_change(values) -> Callable[[CoreJob], CoreJob]:
    def change(core: CoreJob) -> CoreJob:
        layers = edits.layers_from(values, core)
        name = plain(values.get("name"), 60)
        return edits.keep_entry(core, values.get("entry", ""), name, ids_of(values), layers)

    return change


@for_studio
@require_POST
def keep(request: HttpRequest, job_id) -> HttpResponse:
    """Keep the drawer's settings as an entry of the legend."""
    name = plain(request.POST.get("name"), 60) or request.POST.get("design", "").replace("_", " ")
    ids = ids_of(request.POST)
    return _change(request, job_id, _entry_change(request.POST), f"{name} in {len(ids)} zones")


@for_studio
@require_POST
def change(request: HttpRequest, job_id, what: str) -> HttpResponse:
    """One of the changes that need no drawer."""
    ids = ids_of(request.POST)
    entry = request.POST.get("entry", "")
    name, sure = plain(request.POST.get("name"), 60), bool(request.POST.get("sure"))
    ways: dict[str, tuple[Callable[[CoreJob], CoreJob], str]] = {
        "join": (lambda core: edits.join_zones(core, ids), f"Joined {len(ids)} zones"),
        "flow": (edits.flow_background, "Let the background flow together"),
        "part": (lambda core: edits.part_zones(core, ids), "Took zones apart"),
        "name": (
            lambda core: edits.name_zones(core, ids, name),
            f"Named {len(ids)} zones {name}",
        ),
        "unname": (lambda core: edits.unname_zones(core, name), f"Took the name {name} off"),
        "ban": (lambda core: edits.ban_zones(core, ids, True), f"Forbade stitching in {len(ids)}"),
        "allow": (lambda core: edits.ban_zones(core, ids, False), f"Allowed {len(ids)} zones"),
        "cut": (
            lambda core: cuts.cut_zones(core, ids, request.POST, request.studio.units),
            f"Cut {len(ids)} zones",
        ),
        "free": (
            lambda core: cuts.let_in_shape(core, request.POST),
            "Let in a shape drawn by hand",
        ),
        "exchange": (
            lambda core: edits.meant(
                core, piecing.exchange_blocks(core, ids, request.POST, _own(request)), sure
            ),
            "Exchanged blocks",
        ),
        "through": (
            lambda core: edits.meant(core, piecing.run_through(core, ids), sure),
            "Let the sashing run through",
        ),
        "place": (
            lambda core: piecing.place_block(
                core, request.POST, request.studio.units, _own(request)
            ),
            "Placed a block",
        ),
        "recolour": (lambda core: piecing.recolour(core, request.POST), "Recoloured a fabric"),
        "figures": (
            lambda core: edits.join_figures(core, _figure(request.POST)),
            "Joined the figures between blocks",
        ),
        "sew": (
            lambda core: applique.sew_on(core, request.POST, request.studio.units),
            "Sewed a shape on",
        ),
        "sew-drawing": (
            lambda core: applique.sew_drawing(
                core, request.POST, request.FILES.get("file"), request.studio.units
            ),
            "Sewed on the shapes of a drawing",
        ),
        "sewn": (lambda core: applique.set_sewn(core, ids, True), "Said what is appliqué"),
        "pieced": (lambda core: applique.set_sewn(core, ids, False), "Said what is pieced in"),
        "unsew": (lambda core: applique.take_off(core, ids), "Took a shape off"),
        "behind": (
            lambda core: applique.run_zones_behind(core, ids),
            "Let zones run behind what lies on them",
        ),
        "front": (lambda core: applique.bring_zones_front(core, ids), "Brought zones to the front"),
        "drop": (lambda core: edits.drop_entry(core, entry), "Took an entry out of the legend"),
    }
    return _change(request, job_id, *ways[what])


def _own(request: HttpRequest) -> list[str]:
    return [block.key for block in own_blocks(request.studio)]


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
        base = int(request.POST.get("base", ""))
    except ValueError:
        error = edits.EditError("The page is out of date; load it again.")
        return render(request, "work/_fault.html", {"error": error}, status=400)
    try:
        act(base)
    except Conflict as conflict:
        context = {"job": job, "since": conflict.since}
        return render(request, "work/_conflict.html", context, status=409)
    except edits.AskFirst as asked_for:
        values = [(key, value) for key, value in request.POST.items() if key != "sure"]
        context = {"lost": asked_for.lost, "values": values, "address": request.path}
        return render(request, "work/_ask.html", context, status=422)
    except (edits.EditError, NothingLeft, Unsound) as error:
        return render(request, "work/_fault.html", {"error": error}, status=422)
    response = HttpResponse(status=204)
    response["HX-Trigger"] = "board-changed"
    return response
