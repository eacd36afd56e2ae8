"""Ask for a plan, plan it, and read it back."""

from __future__ import annotations

from dataclasses import replace

from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from chorograph_core.formats import route_json, route_summary
from chorograph_core.job import Job as CoreJob
from chorograph_core.job import planned_job, replayed_job
from chorograph_core.route import PlanError, Route, State
from chorograph_core.steering.standing import as_it_is_now
from studio.bookings.stock import Need, needs_of
from studio.bookings.stock import reserve as reserve_thread
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.progress.models import Told, last_told
from studio.routes.models import NOT_YET, Plan, engine
from studio.workbench.linework import DRAWINGS


class LeftOff(Exception):
    """The person does not want the plan any more."""


def plan_of(job: Job) -> Plan | None:
    """The plan for the job as it is now and from where the work stands, in whatever state; None when none was
    asked for."""
    return plan_from(job, last_told(job))


def plan_from(job: Job, told: Told | None) -> Plan | None:
    """The same, where what was *told* last is known."""
    plans = Plan.objects.filter(job=job, digest=job.head.work, engine=engine())
    plans = plans.select_related("told").defer("packed")
    if told is not None and told.plan is not None:
        going_on = plans.filter(pk=told.plan).first()
        if going_on is not None:
            return going_on
    return plans.filter(told=told).first()


def standing_of(job: Job, core: CoreJob, told: Told | None) -> tuple[State, tuple[str, ...]]:
    """Where the work stands, in the words of the job as it is now, and the zones that keep what is stitched
    in them though their design is another by now."""
    if told is None:
        return State(), ()
    return as_it_is_now(core, told.standing(), told.layers, DRAWINGS)


def note_on_job(job: Job) -> None:
    """Write on *job* what the route for its present state says, or that there is none."""
    plan = plan_of(job)
    plan = plan if plan is not None and plan.state == "done" else None
    said = {} if plan is None else {
        "minutes": plan.figures["minutes"], "yards": plan.figures["thread_yards"],
        "inches": plan.figures["stitched_inches"],
    }  # fmt: skip
    handover = core_job(job).handover if said else None
    if plan is not None and handover is not None:
        said |= {"away": plan.figures.get("away_minutes", 0.0), "away_by": handover.who}
    told = last_told(job)
    if plan is not None and plan.told is not None:
        # What is behind her counts; of thread the whole was reserved with the first plan.
        known = {key: job.planned[key] for key in ("yards", "inches") if key in job.planned}
        said = {**said, **known, "minutes": plan.told.minutes + plan.figures["minutes"]}
    if told is not None and said:
        said["behind"] = told.minutes
    if said != job.planned:
        job.planned = said
        Job.objects.filter(pk=job.pk).update(planned=said)


def threads_short(job: Job, plan: Plan | None) -> list[Need]:
    """The threads that will not reach: known once the plan is proved, for then they are reserved."""
    if plan is None or plan.state != "done" or plan.first:
        return []
    return [need for need in needs_of(job) if need.buy]


def ask_for_plan(job: Job) -> Plan:
    """Queue planning of the job as it is now, unless that is done or under way."""
    from studio.routes.tasks import plan_route

    with transaction.atomic():
        plan = plan_of(job)
        made = plan is None
        if plan is None:
            plan, made = Plan.objects.get_or_create(
                job=job, digest=job.head.work, engine=engine(), told=last_told(job)
            )
        if not made and plan.state in ("queued", "running", "done") and not plan.lost:
            return plan
        plan.state, plan.progress, plan.message, plan.improving = "queued", 0, "", False
        plan.heard_of = timezone.now()
        plan.save(update_fields=["state", "progress", "message", "heard_of", "improving"])
        transaction.on_commit(lambda: plan_route.defer(plan_id=plan.pk))
    return plan


def leave_off(job: Job) -> None:
    """Do not go on planning the job as it is now; the worker puts it down at its next step. A first
    answer stays."""
    plan = plan_of(job)
    mine = Plan.objects.filter(pk=plan.pk if plan else None)
    mine.filter(state__in=("queued", "running")).update(
        state="left", message="Left off. The job is as it was."
    )
    mine.filter(state="done", improving=True).update(improving=False, heard_of=timezone.now())


def carry_out(plan: Plan, first_answer: bool = True) -> None:
    """Plan the route and store it: a *first answer* at once and the best when it is found, unless nobody
    waits for them, and in the end with its floor and what the replay says. A failure is a sentence."""
    found: list[Route] = []

    def tell(share: float, what: str) -> None:
        wanted = Plan.objects.filter(pk=plan.pk).filter(
            Q(state__in=("queued", "running")) | Q(state="done", improving=True)
        )
        # What was found is proved, whoever wants to leave it off.
        if not wanted.update(progress=share, message=what, heard_of=timezone.now()) and not found:
            raise LeftOff

    def show(route: Route) -> None:
        # Whoever took the first answer in the meantime keeps that.
        tell(0.92, "the floor")
        found.append(route)
        _keep(plan, core, route)

    core = core_job(plan.job)
    if plan.job.head.work != plan.digest:
        plan.delete()
        return
    Plan.objects.filter(pk=plan.pk, state="queued").update(state="running")
    first: Route | None = None
    state, _ = standing_of(plan.job, core, plan.told)
    try:
        if core.policy.effort and first_answer:
            quick = replace(core, policy=replace(core.policy, effort=0))
            first = planned_job(quick, DRAWINGS, tell, state, bound=False)
            tell(0.0, "a first answer is there; looking for a better one")
            _keep(plan, core, first, improving=True)
        route = planned_job(core, DRAWINGS, tell, state, found=show if first_answer else None)
    except LeftOff:
        if first is None or not Plan.objects.filter(pk=plan.pk, state="done").exists():
            return
        # She took the first answer: it is proved as any other.
        route = first
    except PlanError as error:
        plan.state, plan.message, plan.improving = "failed", str(error), False
        plan.save(update_fields=["state", "message", "improving"])
        return
    _keep(plan, core, route, replayed_job(core, route, state))
    if plan.told is None:
        reserve_thread(plan.job, plan.figures["thread_yards"])


def _keep(
    plan: Plan,
    core: CoreJob,
    route: Route,
    faults: list[str] | None = None,
    improving: bool = False,
) -> None:
    """Store a route with what it says of itself; it was not replayed yet if nothing is said of *faults*. What
    is proved keeps the time at which it was found."""
    proves = faults is not None and plan.shown == "found"
    figures = route_summary(route, faults or [])
    if faults is None:
        figures["replay"] = NOT_YET
    figures["bobbins"] = sum(step.kind == "bobbin" for step in route.steps)
    figures["threads"] = len({step.thread for step in route.steps if step.kind == "stitch"})
    reserve = 1 + core.machine.reserve
    figures["thread_yards"] = {
        key: round(inches * reserve / 36, 1) for key, inches in route.thread_inches.items()
    }
    figures["thread_yards_all"] = round(sum(figures["thread_yards"].values()), 1)
    plan.figures = figures
    plan.pack(route_json(core, route, faults or []))
    plan.state, plan.progress = "done", 0 if improving else 1
    plan.planned = plan.planned if proves else timezone.now()
    plan.improving, plan.heard_of = improving, timezone.now()
    plan.message = "" if not faults else f"The replay found {len(faults)} faults: {faults[0]}"
    plan.save()
    note_on_job(plan.job)
