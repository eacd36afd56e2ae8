"""A plan as it is followed: its legs, which of them are done, and where the work stands by them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from chorograph_core.formats import read_steps
from chorograph_core.job import Job as CoreJob
from chorograph_core.stitching.checks import put_checks
from chorograph_core.stitching.legs import Leg, route_legs
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.progress.models import Told, last_told
from studio.routes.models import Plan
from studio.routes.planning import plan_from
from studio.stitching.models import Tap
from studio.workbench.linework import Carried

OPEN, DONE, SKIPPED, OTHER = ".", "x", "s", "o"
"""How a leg stands: to be done, done, left for later, stitched otherwise."""
STANDS = {"done": DONE, "back": OPEN, "rip": OPEN, "skip": SKIPPED, "other": OTHER}
"""What a tap makes of its leg."""


@dataclass
class Followed:
    """A plan that is followed: its *legs*, and how each *stands* (a letter for each)."""

    plan: Plan
    told: Told | None
    legs: list[Leg]
    stands: str

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
    return Followed(plan, told, legs, stands_of(plan, legs, told))


def legs_of_plan(job: Job, plan: Plan, units: str) -> list[Leg]:
    """The legs of a plan that is done."""
    core = core_job(job)
    return list(_legs(plan.pk, plan.planned, job.head.body_id, units, Carried((core, plan))))


@lru_cache(maxsize=12)
def _legs(pk: int, planned, body: str, units: str, carried: Carried) -> tuple[Leg, ...]:
    core, plan = carried.value
    legs = route_legs(core, plan.route(), units)
    put_checks(core, legs, units)
    return tuple(legs)


def stands_of(plan: Plan, legs: Sequence[Leg], told: Told | None) -> str:
    """How each leg stands: by the last tap on it, and by what was told of the plan on the profile, whichever
    came later."""
    taps = Tap.objects.filter(job=plan.job_id, plan=plan.pk, kind__in=STANDS, leg__isnull=False)
    if told is not None and told.plan == plan.pk and not told.by_taps:
        base = [DONE if end <= told.seconds + 1 else OPEN for end in _ends(legs)]
        taps = taps.filter(at__gt=told.at)
    else:
        base = [OPEN] * len(legs)
    return "".join(_with_taps(base, taps.values_list("leg", "kind")))


def _with_taps(base: list[str], taps: Iterable[tuple[int, str]]) -> list[str]:
    for leg, kind in taps:
        if 0 <= leg < len(base):
            base[leg] = STANDS[kind]
    return base


def _ends(legs: Sequence[Leg]) -> list[float]:
    return np.cumsum([leg.seconds for leg in legs]).tolist()


def steps_of(plan: Plan):
    """The steps of a plan, and from where to where down the quilt its passes reach."""
    route = plan.route()
    passes = {each["number"]: (each["top"], each["bottom"]) for each in route.get("passes", ())}
    return read_steps(route), passes


def facts_of(leg: Leg, core: CoreJob) -> dict:
    """What the log keeps of a leg."""
    return {
        "title": leg.title, "kind": leg.kind, "place": leg.place, "path": leg.path,
        "thread": leg.thread, "entry": leg.entry, "zone": leg.zone, "reach": leg.reach,
        "design": _design(leg, core), "seconds": round(leg.seconds, 1),
        "inches": round(leg.inches, 1), "parts": leg.parts,
    }  # fmt: skip


def _design(leg: Leg, core: CoreJob) -> str:
    if leg.kind != "fill":
        return ""
    entry = next((entry for entry in core.legend if entry.id == leg.entry), None)
    try:
        return entry.layers[int(leg.runs[0].rsplit("/", 2)[1])].design if entry else ""
    except (ValueError, IndexError):
        return ""
