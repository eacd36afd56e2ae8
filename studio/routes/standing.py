"""Tell where the work stands: along the plan, or otherwise; the rest is planned from there."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from django.db import transaction

from chorograph_core.formats import read_steps, state_values
from chorograph_core.job import Job as CoreJob
from chorograph_core.route import State
from chorograph_core.route.progress import cut_off, ripped_out, with_bobbin, with_done
from chorograph_core.steering.standing import (
    full_bobbin,
    layers_of,
    names_in,
    stands_after,
    touched,
)
from studio.asking import EditError
from studio.job_log.recording import record
from studio.jobs.models import Job
from studio.progress.models import Told, last_told
from studio.routes.models import Plan
from studio.routes.planning import ask_for_plan, note_on_job, standing_of
from studio.templatetags.measures import hours
from studio.workbench.linework import DRAWINGS

OTHERWISE = {
    "stitched": "Stitched already",
    "skipped": "Left for later",
    "ripped": "Ripped out",
    "cut": "Cut the thread",
    "bobbin": "Put in a full bobbin",
}
"""What may be told that the plan does not say, in words."""


def tell_followed(job: Job, core: CoreJob, plan: Plan, seconds: float, cut: bool, author) -> Told:
    """She followed *plan* for so many *seconds*, and ties off there if *cut*."""
    route = plan.route()
    steps = read_steps(route)
    whole = sum(step.seconds for step in steps)
    seconds = min(max(seconds, 0.0), whole)
    before, _ = standing_of(job, core, plan.told)
    tops = {each["number"]: each["top"] for each in route.get("passes", ())}
    state = stands_after(core, steps, tops, seconds, before)
    state = cut_off(state) if cut else state
    gone = seconds / 60
    says = f"Stands {hours(gone + _behind(plan))} into the work"
    says += ", thread cut." if cut else "."
    return tell(job, core, "followed", says, state, gone + _behind(plan), author,
                 plan=plan.pk, seconds=seconds)  # fmt: skip


def tell_otherwise(
    job: Job, core: CoreJob, what: str, zones: Collection[str], author
) -> Told:  # fmt: skip
    """Something that the plan does not say; the rest is planned anew at once. Raises EditError."""
    told = last_told(job)
    state, _ = standing_of(job, core, told)
    there = {zone.id for zone in core.zones}
    chosen = sorted(set(zones) & there)
    if what not in OTHERWISE:
        raise EditError("Choose one of what is offered.")
    if what in ("stitched", "skipped", "ripped") and not chosen:
        raise EditError("Touch the zones on the sheet first.")
    count = f"{len(chosen)} zone{'s' if len(chosen) != 1 else ''}"
    if what == "stitched":
        names = names_in(core, chosen, DRAWINGS)
        made = with_done(state, names)
        kind, says = "stitched", f"Stitched otherwise than planned: {count}."
    elif what in ("skipped", "ripped"):
        names = names_in(core, chosen, DRAWINGS, ditches=False)
        if what == "ripped" and not _any_done(state, names):
            raise EditError("Nothing is stitched in what you chose; there is nothing to rip out.")
        made = ripped_out(state, names)
        word = "Ripped out" if what == "ripped" else "Left for later"
        kind, says = "open", f"{word}: {count}."
    elif what == "cut":
        made, kind, says = cut_off(state), "cut", "Cut the thread."
    else:
        made = with_bobbin(state, full_bobbin(core, state))
        kind, says = "bobbin", "Put in a full bobbin."
    minutes = told.minutes if told is not None else 0.0
    made_told = tell(job, core, kind, says, made, minutes, author)
    ask_for_plan(job)
    return made_told


def take_back(job: Job) -> None:
    """What was told last counts no more."""
    told = last_told(job)
    if told is None:
        raise EditError("Nothing was told that could be taken back.")
    if told.by_taps:
        raise EditError("This was tapped at the machine: take it back there, leg by leg.")
    Told.objects.filter(pk=told.pk).update(taken_back=True)
    note_on_job(job)


def replan(job: Job, core: CoreJob, author) -> Plan:
    """Plan the rest from where the work stands, though the plan was followed so far."""
    told = last_told(job)
    if told is not None and told.plan is not None:
        # What was told stays as it was: the same place, told anew without the plan that led to it.
        state, _ = standing_of(job, core, told)
        tell(
            job,
            core,
            "followed",
            f"{told.says} The rest is planned anew.",
            state,
            told.minutes,
            author,
        )
    return ask_for_plan(job)


def standing_context(
    job: Job, core: CoreJob, plan: Plan | None, told: Told | None
) -> dict[str, Any]:
    """Where the work stands by what was *told* last, for the panel."""
    along = plan is not None and told is not None and told.plan == plan.pk
    left = None
    if plan is not None and plan.state == "done":
        left = plan.figures["minutes"] - (told.seconds / 60 if told is not None and along else 0)
    kept: tuple[str, ...] = ()
    if told is not None:
        _, kept = standing_of(job, core, told)
    return {"told": told, "along": along, "left": left, "keeps": len(kept)}


def _behind(plan: Plan) -> float:
    return plan.told.minutes if plan.told is not None else 0.0


def _any_done(state: State, names: Collection[str]) -> bool:
    return not state.done.isdisjoint(names) or any(b.run in names for b in state.begun)


def tell(job: Job, core: CoreJob, kind: str, says: str, state: State, minutes: float, author,
         **more) -> Told:  # fmt: skip
    """Write down where the work stands, with *minutes* at the machine behind her."""
    with transaction.atomic():
        told = Told.objects.create(
            job=job, author=author, kind=kind, says=says, state=state_values(state), minutes=minutes,
            layers=touched(state, layers_of(core)), **more,
        )  # fmt: skip
        if not more.get("by_taps") or kind != "followed":
            record(job, "work", says, author)
    note_on_job(job)
    return told
