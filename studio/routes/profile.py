"""The profile and the needle's walk: the route packed for the page."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.figures import wholes
from chorograph_core.formats import away_passes
from chorograph_core.job import Job as CoreJob
from chorograph_core.job import job_linework
from chorograph_core.route import State
from chorograph_core.zones.edges import done_edges, named_edges
from studio.languages.telling import told_all
from studio.routes.basting import taken_out
from studio.workbench.linework import pack

CODES = {"stitch": 0, "travel": 1, "start": 2, "tie_off": 3, "thread": 4, "bobbin": 5, "mark": 6,
         "ruler": 7, "roll": 8, "path": 9, "secure": 10, "unpick": 11, "tuck": 12, "unmark": 13,
         "move": 14}  # fmt: skip
_WORDS = {
    "stitch": "in the ditch",
    "roll": "rolling the quilt",
    "path": "looking up",
    "secure": "basting",
    "unpick": "taking out basting",
    "tuck": "laying a tuck",
    "mark": "marking",
    "unmark": "taking out marks",
}
DITCH_HEIGHT = 0.6
"""Height of ditches in the profile: they hold, they do not fill."""


Line = tuple[str, np.ndarray]


def stitched_before(core: CoreJob, state: State, cache: DrawingCache) -> list[Line]:
    """What is stitched when a plan begins: (thread, points (n, 2)) of each line."""
    if state.fresh:
        return []
    begun = {each.run: each.stitched for each in state.begun}
    lines: list[Line] = []
    ditch = ""
    for one in wholes(job_linework(core, cache)):
        for k, run in enumerate(one.linework.runs):
            name = one.key(k)
            if run.in_ditch:
                ditch = ditch or one.thread
            elif name in state.done:
                lines.append((one.thread, run.points))
            else:
                lines += [(one.thread, line) for line in begun.get(name, ())]
    edges, names = named_edges(core.chart, core.zones)
    sewn = edges[done_edges(core.chart, edges, names, state.done)]
    if len(sewn):
        whole = shapely.line_merge(shapely.multilinestrings(shapely.linestrings(sewn).tolist()))
        lines += [(ditch, shapely.get_coordinates(part)) for part in shapely.get_parts(whole)]
    return lines + [(ditch, line) for line in state.sewn]


def packed_steps(core: CoreJob, route: dict, before: Sequence[Line] = ()) -> bytes:
    """Steps as a header (see `pack`) and points of those that move.

    The header holds threads, labels, and for each step [code, thread, label, seconds, height,
    number of points, hidden, pass]; height is inches stitched a square inch of the zone, *hidden* travel that
    does not show, or basting that is taken out again: *outs* are [step, path data of where]. *passes* are
    [number, top, bottom] in inches down the quilt. What was stitched *before* the plan begins takes no time.
    """
    threads = {thread.key: k for k, thread in enumerate(core.threads)}
    areas = {zone.id: zone.polygon.area for zone in core.zones}
    names = {zone.id: zone.label or zone.id for zone in core.zones}
    for key, under in (route.get("over") or {}).items():
        areas[key] = sum(areas.get(zone, 0.0) for zone in under)
        names[key] = f"all {len(under)} zones as one"
    per_run: dict[str, float] = {}
    for step in route["steps"]:
        if step["kind"] == "stitch" and step["zone"]:
            per_run[step["run"]] = per_run.get(step["run"], 0.0) + step["inches"]
    away = away_passes(route)
    words = {**_WORDS, "move": core.machine_in(True).name}
    labels: dict[str, int] = {}
    rows, blocks = [], []
    labels[""] = 0
    for thread, line in before:
        rows.append([CODES["stitch"], threads.get(thread, 0), 0, 0, 0, len(line), 0, 1])
        blocks.append(np.asarray(line, float))
    for step in route["steps"]:
        points = np.asarray(step["points"], float).reshape(-1, 2)
        height = 0.0
        if step["kind"] == "stitch":
            area = areas.get(step["zone"])
            height = per_run[step["run"]] / area if area else DITCH_HEIGHT
        name = names.get(step["zone"], words.get(step["kind"], ""))
        if step["kind"] == "roll" and core.machine_in(step["reach"] in away).kind != "frame":
            name = "turning the quilt"
        if step.get("path") and step["path"] != "seams":
            name = f"path {step['path']}" + (f" · {name}" if name else "")
        label = labels.setdefault(name, len(labels))
        hidden = int(step["kind"] == "travel" and step["how"] in ("ditch", "edge", "link"))
        hidden = hidden or int(step["kind"] == "secure" and step["run"].startswith("hold:"))
        rows.append(
            [CODES[step["kind"]], threads.get(step["thread"], 0), label, step["seconds"],
             round(height, 2), len(points), hidden, step.get("reach", 1)]
        )  # fmt: skip
        if len(points):
            blocks.append(points)
    header = {
        "threads": [{"name": t.name, "colour": t.colour} for t in core.threads],
        "labels": told_all(list(labels)),
        "passes": [[p["number"], p["top"], p["bottom"]] for p in route.get("passes", ())],
        "outs": [[len(before) + number, path] for number, path in taken_out(core, route)],
        "steps": rows,
    }
    return pack(header, blocks)
