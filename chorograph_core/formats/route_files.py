"""The route as JSON, as SVG in true scale, and as a summary of figures."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from typing import Any
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from chorograph_core.job import Job
from chorograph_core.route import Route, Step


def route_summary(route: Route, faults: list[str]) -> dict[str, Any]:
    """Figures of a route; *faults* are what `replay` found."""
    return {
        "zones": route.zones,
        "stitched_inches": round(route.stitched_inches, 2),
        "travel_inches": {k: round(v, 2) for k, v in route.travel_inches.items()},
        "cuts": route.cuts,
        "minutes": round(route.minutes, 2),
        "lost_minutes": round(route.lost_minutes, 3),
        "floor_lost_minutes": round(route.floor.lost_minutes, 3),
        "lost_by_kind": {k: round(v, 2) for k, v in route.lost_by_kind.items()},
        "floor_by_kind": {
            "travel": round(route.floor.travel + route.floor.links, 2),
            "changes": round(route.floor.changes, 2),
            "rolls": round(route.floor.rolls, 2),
            "lookups": round(route.floor.lookups, 2),
        },
        "rolls": route.rolls,
        "passes": len(route.passes),
        "paths": len(route.paths),
        "seconds": round(route.seconds, 3),
        "unkept": {str(number): why for number, why in route.notes.items()},
        "replay": faults or "clean",
    }


def route_json(job: Job, route: Route, faults: list[str]) -> bytes:
    """The route as JSON: figures, then steps with points in inches to four decimals."""
    document = {
        "format": "chorograph-route",
        "version": 2,
        "units": "in",
        "title": job.title,
        "figures": route_summary(route, faults),
        "floor": {
            "links": round(route.floor.links, 4),
            "changes": round(route.floor.changes, 4),
            "stages": [[name, round(minutes, 4)] for name, minutes in route.floor.stages],
            "rolls": round(route.floor.rolls, 4),
            "lookups": round(route.floor.lookups, 4),
            "layings": route.floor.layings,
        },
        "passes": [
            {"number": each.number, "top": round(each.top, 4), "bottom": round(each.bottom, 4)}
            for each in route.passes
        ],
        "paths": [
            {"key": path.key, "title": path.title, "stations": list(path.stations)}
            for path in route.paths
        ],
        "redrawn": list(route.redrawn),
        "over": {key: list(zones) for key, zones in route.figures.items()},
        "steps": [
            {
                "kind": step.kind, "how": step.how, "thread": step.thread, "zone": step.zone,
                "entry": step.entry, "run": step.run, "inches": round(step.inches, 3),
                "seconds": round(step.seconds, 2), "price": round(step.price, 4),
                "count": step.count, "reason": step.reason, "reach": step.reach,
                "station": step.station, "path": step.path, "seams": list(step.seams),
                "points": np.round(step.points, 4).tolist(),
                "marks": list(step.marks),
                "instead": None if math.isinf(step.instead) else round(step.instead, 4),
            }
            for step in route.steps
        ],
    }  # fmt: skip
    return json.dumps(document, ensure_ascii=False, allow_nan=False).encode("utf-8")


def route_svg(job: Job, steps: Sequence[Step]) -> bytes:
    """A route's steps as SVG, one path for each run in stitching order; 1 user unit is 1 inch."""
    colours = {thread.key: thread.colour for thread in job.threads}
    x0, y0, x1, y1 = job.chart.outline.bounds
    width, height = x1 - x0, y1 - y0
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}in" height="{height:g}in" '
        f'viewBox="{x0:g} {y0:g} {width:g} {height:g}">',
        f"<title>{escape(job.title)}</title>",
        "<desc>1 user unit is 1 inch. Paths stand in stitching order.</desc>",
        '<g fill="none" stroke-width="0.04" stroke-linecap="round" stroke-linejoin="round">',
    ]
    runs: list[tuple[str, str, str, list[np.ndarray]]] = []
    for step in steps:
        if step.kind not in ("stitch", "travel") or not len(step.points):
            continue
        name = step.run if step.kind == "stitch" or step.run else f"travel:{step.how}"
        if runs and runs[-1][0] == name and not name.startswith("travel:"):
            runs[-1][3].append(step.points)
        else:
            runs.append((name, step.thread, step.kind, [step.points]))
    for number, (name, thread, kind, parts) in enumerate(runs, 1):
        points = np.concatenate(parts)
        dash = ' stroke-dasharray="0.15 0.1"' if kind == "travel" else ""
        lines.append(
            f'<path id="r{number}" data-run={quoteattr(name)} data-thread={quoteattr(thread)} '
            f'stroke={quoteattr(colours.get(thread, "#1e2b3c"))}{dash} d="{svg_path(points)}"/>'
        )
    lines += ["</g>", "</svg>", ""]
    return "\n".join(lines).encode("utf-8")


def read_steps(document: dict[str, Any]) -> list[Step]:
    """The steps of a route that was written by `route_json`."""
    return [
        Step(
            **{
                **entry,
                "points": np.asarray(entry["points"], float).reshape(-1, 2),
                "seams": tuple(entry.get("seams", ())),
                "marks": tuple(entry.get("marks", ())),
                "instead": math.inf if (v := entry.get("instead", 0.0)) is None else v,
            }
        )
        for entry in document["steps"]
    ]


def svg_path(points: np.ndarray, digits: int = 4) -> str:
    """Path data for a polyline (n, 2)."""
    rounded = np.round(points, digits).tolist()
    return "M" + " ".join(f"{x:g},{y:g}" for x, y in rounded)
