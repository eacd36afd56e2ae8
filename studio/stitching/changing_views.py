"""The card on which a design is changed at the machine."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from chorograph_core.formats.drawing import outline_path
from chorograph_core.job import Job as CoreJob
from studio.accounts.access import for_studio
from studio.asking import EditError, base_from, number_or
from studio.jobs.asked import job_for
from studio.jobs.models import Job
from studio.jobs.revisions import Conflict, change_job, core_job
from studio.routes.planning import standing_of
from studio.routes.standing import replan
from studio.stitching.changing import (
    Spot,
    chosen_design,
    kept,
    look_at,
    spot_of,
    tiles_for,
    view_of,
)
from studio.stitching.following import Followed, followed
from studio.stitching.receiving import settle
from studio.workbench.setting_rows import FIRST, setting_rows
from studio.workbench.tray import space_of, tray_of


@for_studio
@never_cache
@require_GET
def change_card(request: HttpRequest, job_id) -> HttpResponse:
    """The card for a leg, with the design and settings asked for, drawn in its zone."""
    job = job_for(request, job_id)
    core = core_job(job)
    values, units = request.GET, request.studio.units
    try:
        spot = _spot(job, core, values, units)
    except EditError as error:
        return render(request, "stitching/_change.html", {"fault": str(error)})
    fault, look, main = "", None, spot.main
    try:
        drawing, settings = chosen_design(core, spot, values, units)
    except EditError as error:
        fault = str(error)
        drawing, settings = chosen_design(core, spot, {}, units)
    try:
        look = look_at(core, spot, drawing, settings)
    except EditError as error:
        fault = fault or str(error)
    tray, rest = (tray_of(core, spot.zone, main, rest=rest) for rest in (False, True))
    rows = [row for row in setting_rows(drawing, vars(settings), units, space_of(core, spot.zone))
            if row["parameter"].kind != "stroke"]  # fmt: skip
    touched = request.headers.get("HX-Trigger", "")
    return render(request, "stitching/_change.html", {
        "job": job, "spot": spot, "design": drawing, "look": look, "fault": fault, "units": units,
        "rows": rows[:FIRST], "rest": rows[FIRST:],
        "opened": any(touched.startswith(f"c-{row['parameter'].key}") for row in rows[FIRST:]),
        "tiles": tiles_for((*tray.tiles, *rest.tiles), drawing.key),
        "frame": tray.frame, "ground": tray.outline,
        "outline": outline_path(spot.zone.polygon, 3), "view": view_of(spot.zone),
        "base": job.head.number, "leg": values.get("leg"), "plan": values.get("plan"),
        "whom": values.get("whom", "all"),
        "colour": next((t.colour for t in core.threads if t.key == main.thread), "#1e2b3c"),
    })  # fmt: skip


@for_studio
@require_POST
def change_design(request: HttpRequest, job_id) -> HttpResponse:
    """Keep the change; what is stitched stays, and the rest is planned anew from the needle's place."""
    job = job_for(request, job_id)
    core = core_job(job)
    values, units = request.POST, request.studio.units
    try:
        base = base_from(values)
        spot = _spot(job, core, values, units)
        drawing, settings = chosen_design(core, spot, values, units)
        whom = values.get("whom", "all")
        count = len(spot.zones(whom))
        settle(job, core, _followed(job, values, units), request.user, force=True)
        summary = f"{drawing.name} from here, changed at the machine: {count} zone{'' if count == 1 else 's'}"
        change_job(job.pk, base, request.user,
                   lambda now: kept(now, spot, drawing, settings, whom), summary)  # fmt: skip
    except EditError as error:
        return render(request, "stitching/_changed.html", {"fault": str(error)}, status=422)
    except Conflict:
        says = "Somebody changed this job a moment ago. Open the card again; nothing was changed by you."
        return render(request, "stitching/_changed.html", {"fault": says}, status=409)
    job = job_for(request, job_id)
    replan(job, core_job(job), request.user)
    answer = render(request, "stitching/_changed.html", {"count": count, "name": drawing.name})
    answer["HX-Retarget"] = "#s-change-card"
    return answer


def _followed(job: Job, values, units: str) -> Followed:
    now = followed(job, units)
    if now is None:
        raise EditError("The rest is being planned anew just now; look again in a moment.")
    if values.get("plan") != str(now.plan.pk):
        raise EditError("Another plan is followed by now: close this, and look where you are.")
    return now


def _spot(job: Job, core: CoreJob, values, units: str) -> Spot:
    now = _followed(job, values, units)
    state, _ = standing_of(job, core, now.plan.told)
    return spot_of(core, now, number_or(values, "leg", -1), state)
