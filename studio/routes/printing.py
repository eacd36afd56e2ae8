"""The run sheet for page and PDF: cover, cards of paths, then pass by pass."""

from __future__ import annotations

from chorograph_core.formats import read_steps, route_svg, run_sheet
from chorograph_core.formats.run_sheet import BREAK_AFTER
from chorograph_core.job import Job as CoreJob
from studio.derived import Derived
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.paper import pdf_of
from studio.papers.kinds import Kind, Tell, Unwanted, hand_in
from studio.routes.drawings import cards_of, parts_of
from studio.routes.models import Plan
from studio.routes.planning import plan_of
from studio.workbench.linework import legend_of

LAYOUT = 7
"""Version of the run sheet's layout."""


def sheet_context(plan: Plan, units: str) -> dict:
    """Everything the run sheet's template shows."""
    core = core_job(plan.job)
    key = (plan.pk, plan.planned, plan.job.head.body_id, units, LAYOUT)
    # Looked at first and printed then, mostly: what is drawn is drawn once.
    drawn = _DRAWN(key, lambda: _drawn(core, plan.route(), units))
    return {
        **drawn,
        "core": core,
        "units": units,
        "frame": core.machine.kind == "frame",
        "figures": plan.figures,
        "break_after": BREAK_AFTER,
        "thread": [
            (thread, plan.figures["thread_yards"][thread.key])
            for thread in core.threads
            if thread.key in plan.figures.get("thread_yards", {})
        ],
        "lines": legend_of(plan.job.head.body_id, core, units),
    }


_DRAWN: Derived[dict] = Derived("run-sheet", 4, shared=True)


def _drawn(core: CoreJob, route: dict, units: str) -> dict:
    """What of a run sheet follows from its plan alone: the cards, and the parts with their maps."""
    sheet = run_sheet(core, route, units)
    cards = cards_of(core, sheet)
    return {
        "passes": [each for each in route.get("passes", []) if not each.get("another")],
        "before": sheet.before,
        "cards": [each for each in cards if not each["card"].single],
        "strips": [each for each in cards if each["card"].single],
        "parts": parts_of(core, sheet),
    }


def _made_of(job: Job) -> str | None:
    """What a run sheet depends on: a plan that is done, by what made it, and the layout of the sheet."""
    plan = plan_of(job)
    if plan is None or plan.state != "done":
        return None
    return f"{plan.pk} {plan.engine} {plan.shown} {LAYOUT}"


def _pdf(job: Job, tell: Tell) -> bytes:
    plan = plan_of(job)
    if plan is None:
        raise Unwanted
    context = sheet_context(plan, job.studio.units)
    whole = {**context, "job": job, "plan": plan}
    return pdf_of("routes/run_sheet.html", whole, job.studio.paper, tell)


RUN_SHEET = hand_in(Kind("run-sheet", "run sheet", "pdf", _made_of, _pdf, "run-sheet"))


def stored_svg(core: CoreJob, route: dict) -> bytes:
    """The stored route as SVG in true scale."""
    return route_svg(core, read_steps(route))
