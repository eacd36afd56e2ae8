"""The profile and the needle's walk: the route packed for the page."""

from __future__ import annotations

import numpy as np

from chorograph_core.job import Job as CoreJob
from studio.workbench.linework import pack

CODES = {"stitch": 0, "travel": 1, "start": 2, "tie_off": 3, "thread": 4, "bobbin": 5, "mark": 6,
         "ruler": 7, "roll": 8, "path": 9, "secure": 10, "unpick": 11, "tuck": 12}  # fmt: skip
_WORDS = {
    "stitch": "in the ditch",
    "roll": "rolling the quilt",
    "path": "looking up",
    "secure": "basting",
    "unpick": "taking out basting",
    "tuck": "laying a tuck",
}
DITCH_HEIGHT = 0.6
"""Height of ditches in the profile: they hold, they do not fill."""


def packed_steps(core: CoreJob, route: dict) -> bytes:
    """Steps as a header (see `pack`) and points of those that move.

    The header holds threads, labels, and for each step [code, thread, label, seconds, height,
    number of points, hidden, pass]; height is inches stitched a square inch of the zone. *passes* are
    [number, top, bottom] in inches down the quilt.
    """
    threads = {thread.key: k for k, thread in enumerate(core.threads)}
    areas = {zone.id: zone.polygon.area for zone in core.zones}
    names = {zone.id: zone.label or zone.id for zone in core.zones}
    for key, under in (route.get("over") or {}).items():
        areas[key] = sum(areas.get(zone, 0.0) for zone in under)
        names[key] = f"{len(under)} zones as one"
    per_run: dict[str, float] = {}
    for step in route["steps"]:
        if step["kind"] == "stitch" and step["zone"]:
            per_run[step["run"]] = per_run.get(step["run"], 0.0) + step["inches"]
    words = _WORDS if core.machine.kind == "frame" else {**_WORDS, "roll": "turning the quilt"}
    labels: dict[str, int] = {}
    rows, blocks = [], []
    for step in route["steps"]:
        points = np.asarray(step["points"], float).reshape(-1, 2)
        height = 0.0
        if step["kind"] == "stitch":
            area = areas.get(step["zone"])
            height = per_run[step["run"]] / area if area else DITCH_HEIGHT
        name = names.get(step["zone"], words.get(step["kind"], ""))
        if step.get("path") and step["path"] != "seams":
            name = f"path {step['path']}" + (f" · {name}" if name else "")
        label = labels.setdefault(name, len(labels))
        hidden = int(step["kind"] == "travel" and step["how"] in ("ditch", "edge", "link"))
        rows.append(
            [CODES[step["kind"]], threads.get(step["thread"], 0), label, step["seconds"],
             round(height, 2), len(points), hidden, step.get("reach", 1)]
        )  # fmt: skip
        if len(points):
            blocks.append(points)
    header = {
        "threads": [{"name": t.name, "colour": t.colour} for t in core.threads],
        "labels": list(labels),
        "passes": [[p["number"], p["top"], p["bottom"]] for p in route.get("passes", ())],
        "steps": rows,
    }
    return pack(header, blocks)
