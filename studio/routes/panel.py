"""The route beside the sheet: what it loses by kind, its passes, its paths, and the order of work."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from types import MappingProxyType
from typing import Any

import numpy as np

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.estimating.own_rates import same_hand
from chorograph_core.formats import away_passes, read_steps, run_sheet
from chorograph_core.job import Job as CoreJob
from chorograph_core.job import order_price
from chorograph_core.reckon import Rates
from chorograph_core.route import Step
from chorograph_core.route.handing_over import on_frame_first
from chorograph_core.steering.days import days_of, days_of_two
from studio.derived import Derived
from studio.quotes.hands import by_own_hand
from studio.routes.drawings import cards_of
from studio.routes.models import Plan
from studio.workbench.handing import handover_in_words
from studio.workbench.wishing import wish_in_words
from studio.workbench.working import DAYS, EDGES, OVERSIZED, SCHOOLS, TECHNIQUES

KINDS = {
    "travel": "travel",
    "cuts": "cuts",
    "rolls": "rolling the quilt",
    "lookups": "looking up paths",
    "layings": "rulers laid more than need be",
    "changes": "thread and bobbins",
}
"""What minutes are lost to, in words."""
SAME = 0.05
"""Minutes by which two figures may differ that are the same."""
TOGETHER = "one or other of these, as not all can be least at once"


@dataclass
class Stretch:
    """What is done in one thread in one pass: *at* how many seconds it begins, and for how long; *where*, if
    not on the first machine."""

    title: str
    reach: int
    at: float
    minutes: float
    where: str = ""


@dataclass(frozen=True)
class Shown:
    """What of a panel follows from its plan alone: the *steps*, and the passes of somebody else's (*away*);
    what was *redrawn*, the *passes*, what is done in them, and the *paths* as they are drawn."""

    steps: list[Step]
    away: frozenset[int]
    redrawn: list[str]
    passes: list[dict]
    stretches: list[Stretch]
    paths: list[dict]


_SHOWN: Derived[Shown] = Derived("panel", 2)


def _shown(plan: Plan, core: CoreJob, units: str) -> Shown:
    """Asked for again with all that is told of a plan; to read and draw it takes longest."""

    def made() -> Shown:
        route = plan.route()
        begun = _first_times(route["steps"])
        threads = {thread.key: thread.name for thread in core.threads}
        ids = {zone.id for zone in core.zones}
        cards = cards_of(core, run_sheet(core, route, units))
        return Shown(
            read_steps(route), away_passes(route),
            [zone for zone in route.get("redrawn", ()) if zone in ids],
            [each for each in route.get("passes", ()) if not each.get("another")],
            _stretches(core, route, threads),
            [{**each, "at": begun.get(each["card"].key, 0)} for each in cards],
        )  # fmt: skip

    return _SHOWN((plan.pk, plan.planned, plan.job.head.body_id, units), made)


def panel_context(plan: Plan, core: CoreJob, units: str) -> dict[str, Any]:
    """Everything the route's panel shows."""
    shown = _shown(plan, core, units)
    return {
        **schools_context(core),
        "plan": plan,
        "units": units,
        "redrawn": shown.redrawn,
        "wished": [
            (wish_in_words(core, wish), plan.figures.get("unkept", {}).get(str(number), ""))
            for number, wish in enumerate(core.policy.wishes)
        ],
        "kinds": _in_whole_minutes(
            _kinds(plan.figures, core.machine.kind == "frame"),
            plan.figures.get("lost_minutes", 0.0),
            plan.figures.get("floor_lost_minutes", 0.0),
        ),
        "passes": shown.passes,
        "away": handover_in_words(core),
        "away_minutes": plan.figures.get("away_minutes", 0.0),
        "hand": by_own_hand(plan.job, core),
        "own_rates": not same_hand(core.machine.rates, Rates()),
        "stretches": shown.stretches,
        "paths": shown.paths,
    }


Hours = Sequence[tuple[date, float]]


def days_context(
    plan: Plan, core: CoreJob, own: Hours, hers: Hours, begins: float, units: str
) -> dict[str, Any]:
    """The days that the plan takes from where she stands: (date, the day, what is done on it, in which
    passes, who does it if somebody else). *own* days hold what is done before the quilt is carried over,
    *hers* the rest; they are the same where it is the same hands."""
    shown = _shown(plan, core, units)
    steps, away = shown.steps, shown.away
    one, two = ([each for each in days if each[1] > 0] for days in (own, hers))
    cut = core.machine.cut_seconds
    if own is hers:
        days = days_of(steps, [60 * hours for _, hours in one], cut, begins)
    else:
        minutes = ([60 * hours for _, hours in given] for given in (one, two))
        days = days_of_two(steps, *minutes, away, cut, begins)
    dates = {flag: iter(given) for flag, given in ((False, one), (True, two))}
    who = core.handover.who if core.handover is not None else ""
    threads = {thread.key: thread.name for thread in core.threads}
    ends = np.cumsum([step.seconds for step in steps])
    made = []
    for each in days:
        day, _ = next(dates[each.away])
        first, last = np.searchsorted(ends, [each.begins + 1, each.ends])
        part = [step for step in steps[first : last + 1] if step.kind == "stitch"]
        kinds = dict.fromkeys(
            ("ditches" if step.seams else "fillings", step.thread) for step in part
        )
        told = ", ".join(f"{kind} in {threads.get(thread, thread)}" for kind, thread in kinds)
        passes = sorted({step.reach for step in part} - away)
        made.append((day, each, told, passes, who if each.away else ""))
    return {"daily": made}


def schools_context(core: CoreJob) -> dict[str, Any]:
    """The orders of work that may be chosen, and which are."""
    policy = core.policy
    days = policy.days if core.handover is None else on_frame_first(policy).days
    return {
        "on_frame": core.machine.kind == "frame",
        "schools": [(key, words, key == policy.stabilise) for key, words in SCHOOLS.items()],
        "techniques": [(key, words, key == policy.technique) for key, words in TECHNIQUES.items()],
        "edges": [(key, words, key == policy.edges) for key, words in EDGES.items()],
        "days": [
            (key, words, key == days)
            for key, words in DAYS.items()
            if core.handover is None or key == days
        ],
        "oversized": [(key, words, key == policy.oversized) for key, words in OVERSIZED.items()],
    }


def path_context(plan: Plan, core: CoreJob, key: str, units: str) -> dict[str, Any] | None:
    """One path with the things in it that may be put in another order; None where there is none."""
    sheet = run_sheet(core, plan.route(), units)
    found = next((each for each in cards_of(core, sheet) if each["card"].key == key), None)
    if found is None:
        return None
    return {**found, "wish": _wish(core, plan.route()["steps"], key)}


def _wish(core: CoreJob, steps: Sequence[Mapping[str, Any]], key: str) -> tuple[str, ...]:
    """The order a person gave to this path, in whichever of its places she saw it; empty without one."""
    visits: list[set[str]] = []
    following = False
    for step in steps:
        if step["kind"] == "path":
            following = step["path"] == key
            if following:
                visits.append(set())
        elif following and step["kind"] == "stitch":
            visits[-1].add(step["run"])
    return next((order for order in core.policy.orders if set(order) in visits), ())


def price_in_words(core: CoreJob, order: tuple[str, ...], cache: DrawingCache) -> str:
    """What an order of one's own costs, in a sentence."""
    price = order_price(core, order, cache)
    if price.fault:
        return price.fault
    more = (price.wished - price.best) * 60
    where = "in one place" if price.places == 1 else f"in each of {price.places} places"
    if more < 0.5:
        return f"Costs nothing more on the path itself, {where}."
    whole = more * price.places / 60
    return f"Costs {more:.0f} s more {where}: {whole:.1f} min in all, on the paths themselves."


def _kinds(figures: Mapping[str, Any], frame: bool) -> list[tuple[str, float | None, float]]:
    """(what, minutes lost, minutes no route can do without); None where they are lost to one or another."""
    lost, floor = figures.get("lost_by_kind", {}), dict(figures.get("floor_by_kind", {}))
    # The floor knows travel and cuts together: which of them it is, is the planner's choice.
    rows = [
        ("travel and cuts", lost.get("travel", 0) + lost.get("cuts", 0), floor.get("travel", 0))
    ]
    rows += [(words, lost.get(key, 0), floor.get(key, 0)) for key, words in KINDS.items()
             if key not in ("travel", "cuts")]  # fmt: skip
    if not frame:
        rows = [
            ("turning the quilt" if row[0] == KINDS["rolls"] else row[0], *row[1:]) for row in rows
        ]
    found: list[tuple[str, float | None, float]] = [
        row for row in rows if row[1] >= 0.05 or row[2] >= 0.05
    ]
    # Who goes the shortest way looks for places that do not follow, and lays the ruler more often.
    if (together := floor.get("together", 0.0)) >= 0.5:
        found.append((TOGETHER, None, together))
    return found


def _in_whole_minutes(
    rows: Sequence[tuple[str, float | None, float]], lost: float, floor: float
) -> list[tuple[str, int | None, int]]:
    """The same in whole minutes, which add up to what is *lost* in all, and to the *floor*."""
    told = adding_up([row[1] or 0.0 for row in rows], lost)
    # Nothing is told to cost more at least than it does, nor less where both are the same.
    most = [math.inf if row[1] is None else here for row, here in zip(rows, told, strict=True)]
    same = {k: told[k] for k, row in enumerate(rows)
            if row[1] is not None and abs(row[1] - row[2]) < SAME}  # fmt: skip
    least = adding_up([row[2] for row in rows], floor, same, most)
    return [(row[0], None if row[1] is None else here, mine)
            for row, here, mine in zip(rows, told, least, strict=True)]  # fmt: skip


def adding_up(
    parts: Sequence[float], whole: float, given: Mapping[int, int] = MappingProxyType({}),
    most: Sequence[float] = (),
) -> list[int]:  # fmt: skip
    """The *parts* of a *whole* as whole numbers that add up to it, as it is rounded: those are rounded up
    that lack least of the next one. *given* are some of them, by their place, and *most* is what each is at
    most, as far as that can be.

    >>> adding_up([70.6, 19.6, 12.6, 2.5, 11.2], 116.5)
    [71, 20, 13, 2, 11]
    >>> adding_up([70.6, 19.6, 12.6, 2.5, 11.2], 116.5, {3: 3})
    [71, 20, 12, 3, 11]
    """
    found = [given.get(k, math.floor(part)) for k, part in enumerate(parts)]
    free = [k for k in range(len(parts)) if k not in given] or list(range(len(parts)))
    while free and (left := max(0, math.floor(whole + 0.5)) - sum(found)) != 0:
        if left > 0:
            under = [k for k in free if not most or found[k] < most[k]] or free
            found[max(under, key=lambda k: parts[k] - found[k])] += 1
        else:
            over = [k for k in free if found[k] > 0] or [k for k, each in enumerate(found) if each]
            found[min(over, key=lambda k: parts[k] - found[k])] -= 1
    return found


def _first_times(steps: Sequence[Mapping[str, Any]]) -> dict[str, int]:
    """Seconds after which each path is followed for the first time."""
    found: dict[str, int] = {}
    gone = 0.0
    for step in steps:
        if step["kind"] == "path":
            found.setdefault(step["path"], round(gone))
        gone += step["seconds"]
    return found


def _stretches(
    core: CoreJob, route: Mapping[str, Any], threads: Mapping[str, str]
) -> list[Stretch]:
    made: list[Stretch] = []
    gone, last = 0.0, None
    away = away_passes(route)
    for step in route["steps"]:
        if step["kind"] == "stitch":
            kind = "ditches" if step["run"].startswith("ditch:") else "fillings"
            now = (kind, step["thread"], step["reach"])
            if now != last:
                name = threads.get(step["thread"], step["thread"])
                where = core.machine_in(True).name if step["reach"] in away else ""
                made.append(Stretch(f"{kind}, {name}", step["reach"], round(gone), 0.0, where))
                last = now
        if made:
            made[-1].minutes += step["seconds"] / 60
        gone += step["seconds"]
    return made
