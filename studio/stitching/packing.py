"""What a device needs to follow a plan without a line to the server: legs, places, colours, rulers."""

from __future__ import annotations

from typing import Any

import numpy as np

from chorograph_core.designs.curves import thin
from chorograph_core.formats.drawing import outline_path
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import format_yards
from chorograph_core.route.marking import PENS
from chorograph_core.route.stations import figure_stations, stations_of
from chorograph_core.rulers.placing import placements_along, settled_sides
from chorograph_core.steering.standing import full_bobbin
from chorograph_core.stitching.checks import gap_checks, last_checks
from chorograph_core.stitching.legs import Leg
from chorograph_core.stitching.setting_up import usual_settings
from chorograph_core.zones import bans_of
from studio.bookings.stock import needs_of
from studio.derived import Derived
from studio.jobs.models import Job
from studio.languages.telling import told_all
from studio.routes.planning import standing_of
from studio.stitching.following import Followed, steps_of
from studio.stitching.settings import part_of_leg, settings_of
from studio.workbench.linework import linework_of

DIGITS = 2
SAID = frozenset(
    {"title", "detail", "check", "on", "paths", "stations", "open", "last", "place", "usual"}
)
"""What of a plan is read, and not only drawn."""
MOST_RULERS = 80
"""Layings that are drawn in one leg; more are too many to be looked at."""


def packed_plan(job: Job, core: CoreJob, now: Followed, units: str) -> dict[str, Any]:
    """The plan as one document."""
    before, _ = standing_of(job, core, now.plan.told)
    full = full_bobbin(core, before)
    key = (now.plan.pk, now.plan.planned, job.head.body_id, units)
    same = _SAME(key, lambda: _same(job.head.body_id, units, core, now))
    return {
        **told_all(same, SAID),
        "plan": now.plan.pk,
        "title": job.title,
        "units": units,
        "stands": now.stands,
        "fresh": now.bobbin,
        "threaded": before.thread,
        "aside": dict(before.aside),
        "bobbin": [before.bobbin if before.bobbin is not None else full, full],
        "behind": now.plan.told.minutes if now.plan.told is not None else 0.0,
        "first": told_all([*same["open"], *_first(job, core, units)]),
        "settings": settings_of(job, core),
    }


_SAME: Derived[dict[str, Any]] = Derived("stitched", 8)


def _same(body: str, units: str, core: CoreJob, now: Followed) -> dict[str, Any]:
    """What of it is the same whoever follows it, and how far: legs and places, colours, rulers."""
    route = now.plan.route()
    steps, _ = steps_of(now.plan)
    stations = [
        *stations_of(core.chart, core.zones),
        *figure_stations(route.get("over") or {}, core.zones),
    ]
    there = {leg.station for leg in now.legs}
    pen = PENS[core.policy.pen]
    return {
        "frame": core.machine.kind == "frame",
        "away_bobbin": core.machine_in(True).bobbin_yards * 36,
        "foot": core.machine.foot_radius,
        "threads": {t.key: {"name": t.name, "colour": t.colour} for t in core.threads},
        "paths": {each["key"]: each["title"] for each in route.get("paths", ())},
        "passes": sum(not each.get("another") for each in route.get("passes", ())),
        "stations": {each.key: each.name for each in stations if each.key in there},
        "patches": [
            [outline_path(zone.polygon, DIGITS), core.chart.fabric(_fabric(core, zone)).colour]
            for zone in core.zones
        ],
        "pen": {"name": core.policy.pen, "minutes": pen.life or 0, "wetted": pen.wetted},
        "last": last_checks(core),
        "open": gap_checks(core, linework_of(body, core), units),
        "usual": usual_settings(core),
        "legs": [_leg(core, leg, steps) for leg in now.legs],
    }


def _first(job: Job, core: CoreJob, units: str) -> list[str]:
    """What is said of this very quilt before she begins, or goes on."""
    told = []
    bans = [*bans_of(core.zones, core.chart, core.policy.applique).values()]
    if left := bans.count("leave"):
        told.append(
            f"{left} zone{'s are' if left > 1 else ' is'} left open: the client forbids it."
        )
    told += [
        f"{need.name} will not reach: {format_yards(36 * float(need.short), units)} are missing."
        for need in needs_of(job) if need.buy
    ]  # fmt: skip
    return told


def _fabric(core: CoreJob, zone) -> str:
    return core.chart.patch(zone.patches[0]).fabric if zone.patches else core.chart.fabrics[0].key


def _leg(core: CoreJob, leg: Leg, steps) -> dict[str, Any]:
    mine = steps[leg.first : leg.stop]
    return {
        "n": leg.number, "kind": leg.kind, "title": leg.title, "detail": leg.detail,
        "thread": leg.thread, "station": leg.station, "place": leg.place, "path": leg.path,
        "reach": leg.reach, "on": leg.on, "seconds": round(leg.seconds, 1), "spi": leg.spi, "cut": leg.cut,
        "starts": leg.starts, "box": leg.box, "check": leg.check, "first": leg.first,
        "stop": leg.stop, "took": round(leg.took, 1), "zone": leg.zone,
        "part": part_of_leg(leg),
        "rulers": _rulers(core, leg, mine),
    }  # fmt: skip


def _rulers(core: CoreJob, leg: Leg, mine) -> list[list[Any]]:
    """Where the ruler lies, laying by laying: its edge, and the line beside it."""
    if core.policy.straight == "eye" or not any(step.kind == "ruler" for step in mine):
        return []
    foot = core.machine.foot_radius
    laid = [
        each
        for step in mine
        if step.kind == "stitch" and step.how in ("straight", "curved") and not step.seams
        for each in placements_along(step.points, core.rulers, foot, "")
        if not each.by_hand
    ][:MOST_RULERS]
    return [
        [_flat(each.pose), _flat(each.stitched)]
        for each in settled_sides(laid, foot, core.machine_in(bool(leg.on)).kind)
    ]


def _flat(line: np.ndarray) -> list[float]:
    return np.round(thin(np.asarray(line, float), 0.02), DIGITS).ravel().tolist()
