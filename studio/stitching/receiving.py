"""Taps from a device, in whatever order and however often they come: each is kept once, and what they say
of the work is told."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from chorograph_core.job import Job as CoreJob
from chorograph_core.route.progress import cut_off, with_done
from chorograph_core.stitching.legs import Leg
from chorograph_core.stitching.standing import finished_names, stands_with
from studio.job_log.recording import record
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.plain import plain
from studio.progress.models import last_told
from studio.routes.models import Plan
from studio.routes.planning import ask_for_plan, standing_of
from studio.routes.standing import tell
from studio.stitching.following import (
    STANDS,
    Followed,
    facts_of,
    followed,
    legs_of_plan,
    steps_of,
    tapped_on,
)
from studio.stitching.models import Tap
from studio.stitching.settings import PARTS, in_words, part_of_leg, read_settings
from studio.templatetags.measures import hours

MOST = 500
"""Taps that are taken at once; a device sends the rest after them."""
EVERY = 600.0
"""Seconds of work after which it is told where she stands, if nothing else was."""
LONGEST = 6 * 3600.0
"""Seconds that one tap may say to have taken."""
OLDEST = timedelta(days=400)
TELLING = ("stop", "other", "rip", "cut", "bobbin", "skip")
"""Taps after which it is told at once where the work stands."""


@dataclass
class Received:
    """What came of taps: those that were *refused*, by their key with the reason, and a sentence if there is
    something to say."""

    refused: dict[str, str]
    says: str = ""


def receive(job: Job, values: Any, author, units: str) -> Received:
    """Keep what a device sends: ``device``, ``now`` (its clock, milliseconds) and ``taps``."""
    if not isinstance(values, Mapping) or not isinstance(values.get("taps"), list):
        return Received({}, "What the device sent could not be read. Nothing on it is lost.")
    device = plain(str(values.get("device", "")))[:40] or "a device"
    refused: dict[str, str] = {}
    read: list[Tap] = []
    for each in values["taps"][:MOST]:
        tap, why = _read(job, device, each, author)
        if tap is not None:
            read.append(tap)
        else:
            refused[str(each.get("key", ""))[:40] if isinstance(each, Mapping) else ""] = why
    _on_our_clock(read, values.get("now"))
    with transaction.atomic():
        Job.objects.select_for_update().only("pk").get(pk=job.pk)
        new = _only_new(job, read)
        plans = {p.pk: p for p in Plan.objects.filter(job=job, pk__in={t.plan for t in new})}
        says = _keep(job, new, plans, author, units)
    return Received(refused, says)


def _read(job: Job, device: str, each: Any, author) -> tuple[Tap | None, str]:
    """One tap as it was sent, or why it cannot be kept."""
    if not isinstance(each, Mapping):
        return None, "This is no tap."
    try:
        key = uuid.UUID(str(each.get("key", "")))
    except ValueError:
        return None, "This tap has no key of its own."
    kind = str(each.get("kind", ""))
    if kind not in dict(Tap.KINDS) or kind == "hand":
        return None, "Nobody knows what was tapped."
    plan, leg = _whole(each.get("plan")), _whole(each.get("leg"))
    if kind in STANDS and (plan is None or leg is None):
        return None, "It does not say what was done."
    lasted = each.get("lasted")
    known = (
        isinstance(lasted, int | float) and not isinstance(lasted, bool) and 0 <= lasted <= LONGEST
    )
    text = plain(str(each.get("text", "")))[:500]
    settings = read_settings(each.get("settings")) if kind == "set" else {}
    if kind == "set" and (not settings or leg is None):
        return None, "It does not say how the machine is set."
    return Tap(
        job=job, key=key, device=device, seq=_whole(each.get("seq")) or 0, kind=kind, plan=plan,
        leg=leg, lasted=float(lasted) if known else None, text=text, author=author,
        claimed=_moment(each.get("at")), facts={"settings": settings} if settings else {},
    ), ""  # fmt: skip


def _whole(value: Any) -> int | None:
    good = isinstance(value, int) and not isinstance(value, bool) and 0 <= value < 2**53
    return value if good else None


def _moment(value: Any) -> datetime | None:
    """Milliseconds of a device's clock as a moment; None for what is no time."""
    milliseconds = _whole(value)
    if milliseconds is None or milliseconds > 4_000_000_000_000:
        return None
    return datetime.fromtimestamp(milliseconds / 1000, UTC)


def _on_our_clock(taps: list[Tap], now: Any) -> None:
    """When each was by our clock: a device's own may be wrong, and may jump between two taps. What was tapped
    later on one device never comes before what was tapped earlier, and nothing comes out of the future."""
    here, there = timezone.now(), _moment(now)
    aside = here - there if there is not None else timedelta()
    taps.sort(key=lambda tap: tap.seq)
    latest = here
    for tap in reversed(taps):
        meant = here if tap.claimed is None else tap.claimed + aside
        tap.at = min(max(meant, here - OLDEST), latest)
        latest = tap.at


def _only_new(job: Job, taps: list[Tap]) -> list[Tap]:
    known = set(
        Tap.objects.filter(job=job, key__in=[t.key for t in taps]).values_list("key", flat=True)
    )
    new: dict[uuid.UUID, Tap] = {}
    for tap in taps:
        if tap.key not in known:
            new.setdefault(tap.key, tap)
    # A second batch of a device goes on after its first.
    last = Tap.objects.filter(job=job, device=taps[0].device).last() if new else None
    for tap in new.values():
        if last is not None and tap.seq > last.seq:
            tap.at = max(tap.at, last.at)
    return list(new.values())


def _keep(job: Job, new: list[Tap], plans: Mapping[int, Plan], author, units: str) -> str:
    if not new:
        return ""
    core = core_job(job)
    legs: dict[int, list[Leg]] = {}
    for pk, plan in plans.items():
        if plan.state == "done" and plan.packed:
            legs[pk] = legs_of_plan(job, plan, units)
    for tap in new:
        mine = legs.get(tap.plan or 0, [])
        if tap.leg is not None and tap.leg < len(mine):
            here = mine[tap.leg]
            if tap.kind == "set":
                tap.facts |= {"thread": here.thread, "part": part_of_leg(here)}
                thread = next((t.name for t in core.threads if t.key == here.thread), here.thread)
                said = f"Set for {thread}, {PARTS[part_of_leg(here)]}"
                record(job, "work", f"{said}: {in_words(tap.facts['settings'], units)}.", author)
            else:
                tap.facts = facts_of(here, core)
    Tap.objects.bulk_create(new)
    now = followed(job, units)
    says = _late(job, core, [t for t in new if now is None or t.plan != now.plan.pk], plans, legs,
                 author)  # fmt: skip
    if says:
        return says
    if now is not None:
        settle(job, core, now, author, new)
    return ""


def settle(
    job: Job, core: CoreJob, now: Followed, author, new: Iterable[Tap] = (), force: bool = False
) -> None:
    """Tell where the work stands by the legs that are done, if that is worth telling."""
    told = now.told
    along = told is not None and told.plan == now.plan.pk
    behind = now.behind
    seconds = sum(now.legs[k].seconds for k in behind)
    before = told.seconds if told is not None and along else 0.0
    kinds = {tap.kind for tap in new}
    worth = force or not kinds.isdisjoint(TELLING) or now.at == len(now.legs)
    if not (abs(seconds - before) >= EVERY or (worth and (behind or along))):
        return
    steps, passes = steps_of(now.plan)
    begins, _ = standing_of(job, core, now.plan.told)
    state = stands_with(core, steps, now.legs, behind, passes, begins, now.bobbin)
    if kinds & {"stop", "cut"}:
        state = cut_off(state)
    minutes = seconds / 60 + (now.plan.told.minutes if now.plan.told is not None else 0.0)
    says = f"At the machine: {hours(minutes)} of the work stitched."
    tell(job, core, "followed", says, state, minutes, author, plan=now.plan.pk, seconds=seconds,
         by_taps=True)  # fmt: skip


def _late(job: Job, core: CoreJob, late: list[Tap], plans, legs, author) -> str:
    """Taps on a plan that is followed no more, such as from a device that was away: what they finished counts
    as stitched, and the rest is planned anew. What they say, in a sentence; empty where they say nothing."""
    names: set[str] = set()
    for pk, mine in legs.items():
        tapped = {
            t.leg
            for t in late
            if t.plan == pk and t.kind in ("done", "other") and t.leg is not None
        }
        if not tapped:
            continue
        stands = tapped_on(plans[pk], mine)
        done = {k for k, each in enumerate(stands) if each in "xo"}
        steps, _ = steps_of(plans[pk])
        names |= finished_names(steps, mine, done, tapped & done)
    if not names:
        unknown = any(t.plan not in plans for t in late if t.kind in STANDS)
        return (
            "Some of it was tapped on a plan that is not there; it stands in the log."
            if unknown
            else ""
        )
    told = last_told(job)
    state, _ = standing_of(job, core, told)
    fresh = names - state.done
    if not fresh:
        return ""
    minutes = told.minutes if told is not None else 0.0
    says = "Stitched on another plan meanwhile; the rest is planned anew."
    tell(job, core, "stitched", says, with_done(state, fresh), minutes, author)
    ask_for_plan(job)
    return says
