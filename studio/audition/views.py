"""The audition: candidates side by side where they would lie; the decision; a start for the whole quilt."""

from __future__ import annotations

from decimal import Decimal

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from chorograph_core.choosing import (
    LEVELS,
    Level,
    balance_of,
    level_of,
    ranked,
    setting_of,
    take_up_of,
)
from chorograph_core.choosing.proposing import DITCH, Proposed
from chorograph_core.designs import designs
from chorograph_core.designs.legend import role_of
from chorograph_core.job import Job as CoreJob
from studio.accounts.access import for_studio
from studio.answers import as_file
from studio.asking import EditError, base_from
from studio.audition import cards, drawn
from studio.audition.custom import custom_of
from studio.audition.starting import picture_of, start_of, start_tried
from studio.job_log.recording import record
from studio.jobs.asked import ids_of, job_for
from studio.jobs.models import Job
from studio.jobs.revisions import Conflict, NothingLeft, Unsound, change_job, core_job
from studio.jobs.stages import rail
from studio.paper import pdf_of
from studio.plain import plain
from studio.prices.lists import prices_of
from studio.templatetags.measures import money
from studio.workbench import edits
from studio.workbench.linework import DRAWINGS, linework_of
from studio.writing import written_as

FASTER = "Somebody changed the job meanwhile: {}. Look again, then take it."
MOST = 4
"""Candidates that are heard at once."""


@for_studio
@require_GET
def audition(request: HttpRequest, job_id) -> HttpResponse:
    """Up to four candidates for the chosen zones, and the others that could be heard."""
    job = job_for(request, job_id)
    try:
        return render(request, "audition/audition.html", _page(request, job))
    except EditError as error:
        return _refused(request, job, error)


def _refused(request: HttpRequest, job: Job, error: Exception) -> HttpResponse:
    core = core_job(job)
    context = {"job": job, "error": error, "core": core, "rail": rail(job, core), "stage": "designs",
               "units": request.studio.units}  # fmt: skip
    return render(request, "audition/none.html", context, status=422)


def _page(request: HttpRequest, job: Job, message: str = "") -> dict:
    core, values = core_job(job), request.GET if request.method == "GET" else request.POST
    ids = ids_of(values)
    members = edits.chosen(core, ids)
    banned = [zone for zone in members if zone.id in core.untouchable]
    if banned:
        raise EditError("The client does not want this stitched; choose other zones.", "zones")
    level, thread, wanted = _asked(core, values)
    lines = linework_of(job.head.body_id, core)
    place = setting_of(core, ids, lines, custom_of(job))
    ranking = ranked(core, place, level, thread, units=request.studio.units)
    by_key = {one.heard.design: one for one in ranking}
    missing = [key for key in wanted if key not in by_key]
    if missing:
        for one in ranked(core, place, level, thread, missing, request.studio.units):
            by_key[one.heard.design] = one
    heard = [by_key[key] for key in (wanted or list(by_key))[:MOST] if key in by_key]
    return {
        "job": job, "core": core, "rail": rail(job, core), "stage": "designs", "units": request.studio.units,
        "place": place, "ids": ids, "heading": drawn.heading(core, place), "level": level, "levels": LEVELS,
        "thread": thread or heard[0].heard.layers[0].thread, "ground": drawn.ground(core, place, lines),
        "shown": drawn.shown(core, place, heard, [_price(request, one) for one in heard]),
        "others": [one for one in ranking if one not in heard], "message": message,
        "all_designs": sorted((d for d in designs().values() if d.role in ("fill", "motif")),
                              key=lambda d: d.name),
        "asked": {"zones": ",".join(ids), "level": level.key, "thread": thread},
    }  # fmt: skip


def _asked(core: CoreJob, values) -> tuple[Level, str, list[str]]:
    """Level, thread and candidates that were asked for; what nobody knows is left out."""
    default = {"light": "light", "full": "heirloom"}.get(core.intake.wishes.level, "custom")
    level = level_of(values.get("level") or default)
    known = {thread.key for thread in core.threads}
    thread = values.get("thread", "") if values.get("thread", "") in known else ""
    wanted = [key for key in values.getlist("design") if key in designs()]
    return level, thread, list(dict.fromkeys(wanted))[:MOST]


def _price(request: HttpRequest, one: Proposed) -> str:
    """What its minutes come to at the hourly rate that the studio wishes for."""
    prices = prices_of(request.studio)
    return money(
        Decimal(str(round(one.heard.minutes / 60, 4))) * prices.wished_hourly, prices.currency
    )


@for_studio
@require_POST
def take(request: HttpRequest, job_id) -> HttpResponse:
    """Keep one candidate for all zones, or for the first as a test; the book says what was heard."""
    job = job_for(request, job_id)
    values = request.POST
    core = core_job(job)
    taken = values.get("taken", "")
    ids = ids_of(values)
    try:
        if taken not in designs():
            raise EditError("Choose one of the candidates.", "design")
        edits.chosen(core, ids)
        level, thread, heard = _asked(core, values)
        place = setting_of(core, ids, linework_of(job.head.body_id, core), custom_of(job))
        best = ranked(core, place, level, thread, [taken], request.studio.units)[0]
        kept = [place.pattern.id] if values.get("only") == "first" else ids
        name = designs()[taken].name

        def change(now: CoreJob) -> CoreJob:
            changed = edits.keep_entry(now, "", "", kept, [DITCH, *best.heard.layers])
            edits.drawn_first(changed, changed.legend[-1].id, DRAWINGS)
            return changed

        change_job(job.pk, base_from(values), request.user, change, f"{name} in {len(kept)} zones")
    except Conflict as conflict:
        message = FASTER.format(conflict.since[0].summary)
        return render(request, "audition/audition.html", _page(request, job, message), status=409)
    except (EditError, NothingLeft, Unsound) as error:
        return _refused(request, job, error)
    others = [designs()[key].name for key in heard if key != taken]
    note = plain(values.get("note"), 400)
    record(job, "note", drawn.sentence(name, others, len(kept), level, note), request.user)
    return redirect(f"{reverse('work', args=[job.pk])}?stage=designs")


@for_studio
@require_GET
def paper(request: HttpRequest, job_id) -> HttpResponse:
    """The audition on paper, for the client: drawings, what each comes to, and why."""
    job = job_for(request, job_id)
    try:
        with written_as(request.studio.locale):
            page = pdf_of("audition/paper.html", _page(request, job), request.studio.paper)
    except EditError as error:
        return _refused(request, job, error)
    return as_file(page, "audition", "pdf")


@for_studio
@require_GET
def proposal_picture(request: HttpRequest, job_id) -> HttpResponse:
    """The whole quilt as the start would have it."""
    job = job_for(request, job_id)
    core = core_job(job)
    level, _, _ = _asked(core, request.GET)
    made = picture_of(job, core, level, request.GET.get("what") != "all")
    return HttpResponse(made, "image/svg+xml")


@for_studio
@require_http_methods(["GET", "POST"])
def proposal(request: HttpRequest, job_id) -> HttpResponse:
    """A start for the whole quilt at a level: what for each kind of place, and why; a POST takes it. The
    worker tries it; a page that waits for it looks again from time to time."""
    job = job_for(request, job_id)
    core = core_job(job)
    values = request.POST if request.method == "POST" else request.GET
    level, _, _ = _asked(core, values)
    bare = values.get("what") != "all" and any(
        role_of(la) != "ditch" for e in core.legend for la in e.layers
    )
    message = ""
    if request.method == "POST":
        try:
            base = base_from(values)
            # Who was slower is told so at once: nothing is tried for a quilt that is another by now.
            legend, told = start_of(job, core, level, bare) if base == job.head.number else ((), [])
            if base == job.head.number and not told:
                raise EditError(
                    "Every zone has a design already; ask for all of them anew.", "what"
                )
            change_job(job.pk, base, request.user, lambda now: now.with_legend(legend),
                       f"A start at {level.name} work for {len(told)} kinds of place")  # fmt: skip
            return redirect(f"{reverse('work', args=[job.pk])}?stage=designs")
        except Conflict as conflict:
            message = FASTER.format(conflict.since[0].summary)
        except (EditError, NothingLeft, Unsound) as error:
            message = str(error)
    told, tried = [], None
    if "level" in values:
        tried = start_tried(job, level, bare, ask="wait" not in values)
        if tried is not None and tried.state == "done":
            told = start_of(job, core, level, bare)[1]
    minutes = sum(best.heard.minutes for _, best in told)
    prices = prices_of(request.studio)
    context = {
        "job": job, "core": core, "rail": rail(job, core), "stage": "designs", "units": request.studio.units,
        "level": level, "levels": LEVELS, "told": told, "minutes": minutes, "bare": bare, "message": message,
        "asked": "level" in values, "tried": tried,
        "price": money(Decimal(str(round(minutes / 60, 4))) * prices.wished_hourly, prices.currency),
    }  # fmt: skip
    return render(request, "audition/proposal.html", context, status=422 if message else 200)


@for_studio
@require_GET
def balance(request: HttpRequest, job_id) -> HttpResponse:
    """How evenly the quilt is stitched: a map, parts against each other, zones unlike the rest."""
    job = job_for(request, job_id)
    core = core_job(job)
    units = request.studio.units
    found = balance_of(core, linework_of(job.head.body_id, core), units)
    taken = take_up_of(core, found.zones, units)
    x0, y0, x1, y1 = core.chart.outline.bounds
    context = {
        "job": job, "core": core, "rail": rail(job, core), "stage": "designs", "units": units,
        "found": found, "taken": taken, "shapes": drawn.shaded(core, found, units),
        "steps": drawn.steps(found, units),
        "frame": f"{x0:.2f} {y0:.2f} {x1 - x0:.2f} {y1 - y0:.2f}",
    }  # fmt: skip
    return render(request, "audition/balance.html", context)


@for_studio
@require_GET
def practice(request: HttpRequest, key: str) -> HttpResponse:
    """A motif's stroke card, true to size."""
    design = designs().get(key)
    if design is None or design.family != "freehand":
        raise Http404("There is no such motif.")
    context = {"design": design, "studio": request.studio, "panels": cards.panels(design)}
    return as_file(pdf_of("audition/card.html", context, request.studio.paper), design.key, "pdf")
