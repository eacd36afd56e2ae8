"""Routes over thirty tops beside their floors; the orders of their stages beside other ways to them."""

from __future__ import annotations

import json
import statistics
import time
from collections import Counter

from bench import orders
from bench.table import calibration, peak_megabytes, table
from bench.tops import tops
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.formats import route_json, run_sheet
from chorograph_core.job import Job, planned_job, replayed_job
from chorograph_core.route import Route
from chorograph_core.route.choosing import rounds_for
from chorograph_core.rulers import count_placements
from studio.demo import tops as demo


def main() -> None:
    """Print the tables."""
    _sampler()
    _tops()
    _orders()


def _sampler() -> None:
    job, cache = demo.sampler(), DrawingCache()
    route = planned_job(job, cache)
    again = planned_job(job, cache)
    faults = replayed_job(job, route)
    kinds = route.lost_by_kind
    floor = route.floor
    table(
        "Minutes lost, demo sampler",
        ["", "ours", "floor"],
        [
            ["travel and cuts", kinds["travel"] + kinds["cuts"], floor.travel + floor.links],
            ["rolls", kinds["rolls"], floor.rolls],
            ["looking up", kinds["lookups"], floor.lookups],
            ["layings over the fewest", kinds["layings"], 0.0],
            ["thread and bobbins", kinds["changes"], floor.changes],
            ["of one or another besides", "", floor.together],
            ["in all", route.lost_minutes, floor.lost_minutes],
        ],
    )
    sheet = run_sheet(job, json.loads(route_json(job, route, [])))
    told = {row.text for part in sheet.parts for row in part.rows if row.kind != "path"}
    table(
        "Planning, demo sampler",
        ["", "ours", "aim"],
        [
            ["minutes at the machine", route.minutes, ""],
            ["rolls, whole quilt first", route.rolls, 15],
            ["rolls, pass by pass", _by_pass(job, cache).rolls, 5],
            ["paths for a kind of block, at most", _most_paths(route), 2],
            ["different rows and cards of the run sheet", len(told) + len(sheet.cards), 60],
            ["turns a foot in ditches", _turns(route), 1.2],
            ["cuts", route.cuts, ""],
            ["seconds, first time", route.seconds, 5.0],
            ["seconds, drawings kept", again.seconds, 5.0],
            ["above the floor, percent of what could be avoided", 100 * route.gap, 12.0],
            ["faults in replay", len(faults), 0],
            ["peak MB", peak_megabytes(), 400.0],
            ["this machine: 10,000 sums of 1,000, seconds", calibration(), ""],
        ],
    )


def _by_pass(job: Job, cache: DrawingCache) -> Route:
    from dataclasses import replace

    return planned_job(replace(job, policy=replace(job.policy, stabilise="pass")), cache)


def _most_paths(route: Route) -> int:
    return max(Counter(path.title for path in route.paths).values(), default=0)


def _turns(route: Route) -> float:
    """Places where a stretch of ditch turns, a foot of it; a quarter circle counts as none."""
    ditches = [step for step in route.steps if step.kind == "stitch" and step.seams]
    inches = sum(step.inches for step in ditches)
    turns = sum(count_placements(step.points, 1e9) - 1 for step in ditches)
    return turns / max(inches / 12, 1e-9)


def _tops() -> None:
    rows, gaps = [], []
    for name, job in tops():
        cache = DrawingCache()
        began = time.perf_counter()
        route = planned_job(job, cache)
        taken = time.perf_counter() - began
        faults = replayed_job(job, route)
        gaps.append(100 * route.gap)
        rows.append(
            [name, len(job.zones), route.minutes, route.rolls, route.cuts, route.avoidable]
            + [route.floor.avoidable, 100 * route.gap, _most_paths(route), taken, len(faults)]
        )
    head = [
        "top",
        "zones",
        "minutes",
        "rolls",
        "cuts",
        "avoidable",
        "floor",
        "gap %",
        "paths",
        "s",
        "faults",
    ]
    table("Thirty tops", head, rows)
    table("What could be avoided, above its floor", ["tops", "mean %", "median %", "worst %"],
          [[str(len(gaps)), statistics.mean(gaps), statistics.median(gaps), max(gaps)]])  # fmt: skip


def _orders() -> None:
    """Each stage's order by our search, by simple ones, and by a general solver in the same time."""
    rows, beaten, count = [], 0, 0
    for name, job in tops():
        sums = [0.0] * 5
        worse = 0
        found = orders.problems(job, DrawingCache())
        for problem in found:
            began = time.perf_counter()
            mine = orders.ours(problem, rounds_for(len(problem.items), 1)).price
            taken = time.perf_counter() - began
            theirs = orders.solver(problem, taken)
            each = (
                orders.reading(problem), orders.with_doors(problem, orders.greedy(problem)),
                orders.greedy_two_opt(problem), theirs, mine,
            )  # fmt: skip
            sums = [a + b for a, b in zip(sums, each, strict=True)]
            worse += theirs < mine - 0.005
        if found:
            rows.append([name, len(found), *sums, worse])
            beaten, count = beaten + worse, count + len(found)
    head = ["top", "stages", "reading", "greedy", "with 2-opt", "solver", "ours", "beaten in"]
    table(
        "Minutes between the stations of all stages, same time for ours and the solver", head, rows
    )
    table("Stages in which the solver is better", ["stages", "better"], [[str(count), beaten]])
