"""Lost minutes on the demo sampler: simple ways of ordering, ours, and the floor."""

from __future__ import annotations

import time

import numpy as np

from bench.table import calibration, peak_megabytes, table
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.job import job_linework, planned_job, replayed_job
from chorograph_core.route.network import build
from studio.demo import tops as demo


def main() -> None:
    """Plan the sampler and print the table."""
    job = demo.sampler()
    cache = DrawingCache()
    drawn = job_linework(job, cache)
    before = time.perf_counter()
    route = planned_job(job, cache)
    planned = time.perf_counter() - before
    again = planned_job(job, cache).seconds
    faults = replayed_job(job, route)
    rows = [
        ["zones in reading order, nearest end", *_baseline(job, route, route.drawn, "reading")],
        ["nearest end of all, greedily", *_baseline(job, route, route.drawn, "greedy")],
        ["nearest end, closed drawings", *_baseline(job, route, drawn, "greedy")],
        ["ours", route.lost_minutes, route.cuts, planned],
        ["floor", route.floor.lost_minutes, "", ""],
    ]
    table("Lost minutes, demo sampler", ["", "lost min", "cuts", "seconds"], rows)
    table(
        "Planning, demo sampler",
        ["", "ours", "limit"],
        [
            ["seconds, first time", route.seconds, 2.0],
            ["seconds, drawings kept", again, 2.0],
            ["above the floor, percent", 100 * route.gap, 10.0],
            ["faults in replay", len(faults), 0],
            ["peak MB", peak_megabytes(), 400.0],
            ["this machine: 10,000 sums of 1,000, seconds", calibration(), ""],
        ],
    )


def _baseline(job, route, drawn, order: str) -> tuple[float, int, float]:
    """Lost minutes of a simple planner that may use the same hidden ways and the same cuts."""
    began = time.perf_counter()
    network = build(job.chart, job.zones, drawn, job.policy, job.machine.rates)
    cut = job.machine.cut_seconds / 60
    lost, cuts = 0.0, 0
    threads = list(dict.fromkeys(t for t in (o.thread for o in drawn if o.design == "ditch")))
    for thread in threads:
        required = {n for n, link in enumerate(network.links) if link.thread == thread}
        more, starts = _ditches(network, required, cut, order)
        lost, cuts = lost + more, cuts + starts
    for thread in dict.fromkeys(trail.drawn.thread for trail in network.trails):
        trails = [t for t in network.trails if t.drawn.thread == thread]
        more, starts = _fills(network, trails, cut, order)
        lost, cuts = lost + more, cuts + starts
    links = sum(
        job.machine.rates.seconds(float(np.hypot(*np.diff(points, axis=0).T).sum()), technique) / 60
        for one in drawn
        for run in one.linework.runs
        for points, technique, kind in run.pieces()
        if kind != "stitch" and len(points) > 1
    )
    # Threads and bobbins are changed as often as on our own route.
    changes = sum(step.price for step in route.steps if step.kind in ("thread", "bobbin"))
    return lost + links + changes, cuts, time.perf_counter() - began


def _fills(network, trails, cut: float, order: str) -> tuple[float, int]:
    """Stitch *trails* one after the other, entering each by its nearest end."""
    if order == "reading":
        trails = sorted(
            trails, key=lambda t: tuple(round(v / 6) for v in network.nodes[t.heads[0]][::-1])
        )
    left = list(trails)
    lost, cuts, at = cut, 1, None
    while left:
        choices = left if order == "greedy" else left[:1]
        options = [(t, option) for t in choices for option in t.options()]
        if at is None:
            trail, option = options[0]
        else:
            prices = _prices(network, at, {entry for _, (entry, _) in options}, cut)
            trail, option = min(options, key=lambda o: prices.get(o[1][0], cut))
            price = prices.get(option[0], cut)
            lost += min(price, cut)
            cuts += price >= cut
        left.remove(trail)
        at = option[1]
    return lost, cuts


def _ditches(network, required: set[int], cut: float, order: str) -> tuple[float, int]:
    """Stitch required ditches, at each corner any that is left, else go to the nearest one."""
    left = set(required)
    lost, cuts = cut, 1
    rank = {n: tuple(network.links[n].points.mean(axis=0)[::-1].round(0)) for n in required}
    at = network.links[min(left, key=rank.get)].a
    while left:
        here = [n for _, _, n in network.ways[at] if n in left]
        if here:
            number = min(here, key=rank.get)
            left.discard(number)
            link = network.links[number]
            at = link.b if link.a == at else link.a
            continue
        if order == "reading":
            goals = {network.links[min(left, key=rank.get)].a}
        else:
            goals = {node for n in left for node in (network.links[n].a, network.links[n].b)}
        prices = _prices(network, at, goals, cut)
        at = min(goals, key=lambda node: prices.get(node, cut))
        lost += min(prices.get(at, cut), cut)
        cuts += prices.get(at, cut) >= cut
    return lost, cuts


def _prices(network, start: int, goals: set[int], limit: float) -> dict[int, float]:
    """Cheapest ways from *start* to the first of *goals* found (Dijkstra, stopping there)."""
    import heapq

    cost, queue = {start: 0.0}, [(0.0, start)]
    while queue:
        gone, node = heapq.heappop(queue)
        if node in goals:
            return {node: gone}
        if gone > cost[node] or gone > limit:
            continue
        for beyond, price, _ in network.ways[node]:
            if gone + price < cost.get(beyond, np.inf):
                cost[beyond] = gone + price
                heapq.heappush(queue, (gone + price, beyond))
    return {}
