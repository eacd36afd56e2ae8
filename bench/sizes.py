"""How planning grows with the top: zones, seconds until the route is there and until it is proved, memory,
gap to the floor."""

from __future__ import annotations

import time
from dataclasses import replace

from bench.table import peak_megabytes, table
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job, job_linework, planned_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.route import Policy
from chorograph_core.zones import zones_from_patches

SIZES = [(1, 2, 1.0), (3, 5, 3.0), (6, 6, 6.5), (9, 12, 15.0)]
"""Rows, columns, and the seconds aimed at."""


def main() -> None:
    """Plan tops of growing size."""
    rows: list[list] = []
    found: list[float] = []
    for down, across, limit in SIZES:
        job = _job(down, across)
        cache = DrawingCache()
        began = time.perf_counter()
        job_linework(job, cache)
        drawn = time.perf_counter() - began
        route = planned_job(job, cache, found=lambda first: found.append(first.seconds))
        rows.append(
            [f"{down} × {across} blocks", route.zones, drawn, found[-1], limit, route.seconds,
             route.lost_minutes, route.floor.lost_minutes, 100 * route.gap, peak_megabytes()]
        )  # fmt: skip
    head = ["top", "zones", "drawing s", "route s", "aim s", "proved s", "lost", "floor", "gap %",
            "peak MB"]  # fmt: skip
    table("Planning by size", head, rows)


def _job(rows: int, columns: int) -> Job:
    survey = StraightSet(
        rows, columns, 8, ("sawtooth_star", "nine_patch"), 1.25, False, True, (Border(4, "mitred"),)
    )
    chart = survey.chart()
    zones = tuple(zones_from_patches(chart))
    ditch = Layer("ditch", {}, "clear", 10)
    kinds = {
        "meander": lambda p: p.block and p.fabric == "a" and p.kind == "sawtooth_star",
        "loops": lambda p: p.block and p.fabric == "a",
        "inset_echo": lambda p: p.fabric == "c",
        "crosshatch": lambda p: p.block,
        "ribbon_candy": lambda p: p.role == "sashing",
        "parallel": lambda p: p.role == "cornerstone",
        "half_feather": lambda p: p.role == "border",
    }
    groups: dict[str, list[str]] = {}
    for zone in zones:
        patch = chart.patch(zone.patches[0])
        groups.setdefault(next(k for k, fits in kinds.items() if fits(patch)), []).append(zone.id)
    legend = tuple(
        Entry(key, key, tuple(ids), (ditch, Layer(key, {}, "indigo")))
        for key, ids in groups.items()
    )
    return replace(Job("Size", chart, zones, survey=survey, legend=legend), policy=Policy())
