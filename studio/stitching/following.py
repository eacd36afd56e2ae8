"""A plan as it is followed: its legs, which of them are done, and where the work stands by them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from django.db.models import QuerySet

from chorograph_core.estimating.own_rates import by_default
from chorograph_core.formats import read_steps
from chorograph_core.job import Job as CoreJob
from chorograph_core.stitching.checks import put_checks
from chorograph_core.stitching.legs import Leg, route_legs
from studio.derived import Derived
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.progress.models import Told, last_told
from studio.routes.models import Plan
from studio.routes.planning import plan_from
from studio.stitching.models import Tap

OPEN, DONE, SKIPPED, OTHER = ".", "x", "s", "o"
"""How a leg stands: to be done, done, left for later, stitched otherwise."""
STANDS = {"done": DONE, "back": OPEN, "rip": OPEN, "skip": SKIPPED, "other": OTHER}
"""What a tap makes of its leg."""


@dataclass
class Followed:
    """A plan that is followed: its *legs*, and how each *stands* (a letter for each). *bobbin* is the leg at
    which a full one was put in that the plan knows nothing of; None where there was none."""

    plan: Plan
    told: Told | None
    legs: list[Leg]
    stands: str
    bobbin: int | None = None

    @property
    def at(self) -> int:
        """The leg to be done next; the number of legs when all are."""
        found = self.stands.find(OPEN)
        return len(self.legs) if found < 0 else found

    @property
    def behind(self) -> set[int]:
        """The legs that count as stitched."""
        return {k for k, each in enumerate(self.stands) if each in (DONE, OTHER)}


def followed(job: Job, units: str) -> Followed | None:
    """The plan of the job as it is now, as far as it was followed; None where there is none that is
    proved."""
    told = last_told(job)
    plan = plan_from(job, told)
    if plan is None or plan.state != "done" or plan.first:
        return None
    legs = legs_of_plan(job, plan, units)
    return Followed(plan, told, legs, stands_of(plan, legs), bobbin_of(plan))


def legs_of_plan(job: Job, plan: Plan, units: str) -> list[Leg]:
    """The legs of a plan that is done."""
    core, key = core_job(job), (plan.pk, plan.planned, job.head.body_id, units)
    return list(_LEGS(key, lambda: _legs(core, plan, units)))


_LEGS: Derived[tuple[Leg, ...]] = Derived("legs", 12)


def _legs(core: CoreJob, plan: Plan, units: str) -> tuple[Leg, ...]:
    legs = route_legs(core, plan.route(), units)
    put_checks(core, legs, units)
    return tuple(legs)


def stands_of(plan: Plan, legs: Sequence[Leg]) -> str:
    """How each leg stands: by the last tap on it, and by what was last said of the plan on the profile,
    whichever came later."""
    taps = _taps_on(plan)
    said = Told.objects.filter(job=plan.job_id, plan=plan.pk, by_taps=False, taken_back=False)
    told = said.order_by("-pk").first()
    if told is None:
        return _with_taps([OPEN] * len(legs), taps)
    base = [DONE if end <= told.seconds + 1 else OPEN for end in _ends(legs)]
    return _with_taps(base, taps.filter(at__gt=told.at))


def tapped_on(plan: Plan, legs: Sequence[Leg]) -> str:
    """How each leg stands by the taps alone."""
    return _with_taps([OPEN] * len(legs), _taps_on(plan))


def _taps_on(plan: Plan) -> QuerySet[Tap]:
    return Tap.objects.filter(job=plan.job_id, plan=plan.pk, kind__in=STANDS, leg__isnull=False)


def bobbin_of(plan: Plan) -> int | None:
    """The leg at which the bobbin ran out or was changed otherwise than planned, the last time."""
    changed = Tap.objects.filter(job=plan.job_id, plan=plan.pk, kind="bobbin", leg__isnull=False)
    return changed.values_list("leg", flat=True).last()


def _with_taps(stands: list[str], taps: QuerySet[Tap]) -> str:
    for leg, kind in taps.values_list("leg", "kind"):
        if leg < len(stands):
            stands[leg] = STANDS[kind]
    return "".join(stands)


def _ends(legs: Sequence[Leg]) -> list[float]:
    return np.cumsum([leg.seconds for leg in legs]).tolist()


def steps_of(plan: Plan):
    """The steps of a plan, and from where to where down the quilt its passes reach."""
    route = plan.route()
    passes = {each["number"]: (each["top"], each["bottom"]) for each in route.get("passes", ())}
    return read_steps(route), passes


def facts_of(leg: Leg, core: CoreJob) -> dict:
    """What the log keeps of a leg: *seconds* as the job foretold them, *parts* as the defaults would, by
    which all hands are told."""
    return {
        "title": leg.title, "kind": leg.kind, "place": leg.place, "path": leg.path, "way": leg.way,
        "thread": leg.thread, "entry": leg.entry, "zone": leg.zone, "reach": leg.reach, "on": leg.on,
        "design": _design(leg, core), "seconds": round(leg.seconds, 1),
        "inches": round(leg.inches, 1), "took": round(leg.took, 1),
        "parts": by_default(leg.parts, core.machine.rates),
    }  # fmt: skip


def _design(leg: Leg, core: CoreJob) -> str:
    if leg.kind != "fill":
        return ""
    entry = next((entry for entry in core.legend if entry.id == leg.entry), None)
    try:
        return entry.layers[int(leg.runs[0].rsplit("/", 2)[1])].design if entry else ""
    except (ValueError, IndexError):
        return ""
