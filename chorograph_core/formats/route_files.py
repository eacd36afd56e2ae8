"""The route as JSON, and as a summary of figures."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import msgspec
import numpy as np

from chorograph_core.formats.route_document import (
    FORMAT,
    VERSION,
    Figures,
    FloorByKind,
    FloorParts,
    PassPart,
    PathPart,
    RouteFile,
    StepPart,
)
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
            "together": round(route.floor.together, 2),
        },
        "rolls": route.rolls,
        "away_minutes": round(route.away_minutes, 2),
        "passes": sum(not each.another for each in route.passes) or len(route.passes),
        "paths": len(route.paths),
        "seconds": round(route.seconds, 3),
        "unkept": {str(number): why for number, why in route.notes.items()},
        "replay": faults or "clean",
    }


def route_json(job: Job, route: Route, faults: list[str]) -> bytes:
    """The route as JSON: figures, then steps with points in inches to four decimals."""
    figures = route_summary(route, faults)
    floor = FloorParts(
        links=round(route.floor.links, 4), changes=round(route.floor.changes, 4),
        stages=[(name, round(minutes, 4)) for name, minutes in route.floor.stages],
        rolls=round(route.floor.rolls, 4), lookups=round(route.floor.lookups, 4),
        layings=route.floor.layings, together=round(route.floor.together, 4),
    )  # fmt: skip
    document = RouteFile(
        format=FORMAT,
        version=VERSION,
        units="in",
        title=job.title,
        figures=Figures(**{**figures, "floor_by_kind": FloorByKind(**figures["floor_by_kind"])}),
        floor=floor,
        passes=[
            PassPart(each.number, round(each.top, 4), round(each.bottom, 4), each.another)
            for each in route.passes
        ],
        paths=[PathPart(path.key, path.title, list(path.stations)) for path in route.paths],
        redrawn=list(route.redrawn),
        over={key: list(zones) for key, zones in route.figures.items()},
        steps=[_step(step) for step in route.steps],
    )
    for step in route.steps:
        if not np.isfinite(step.points).all():
            # It would be written as nothing at all.
            raise ValueError(step.run)
    return msgspec.json.encode(document)


def _step(step: Step) -> StepPart:
    return StepPart(
        kind=step.kind, how=step.how, thread=step.thread, zone=step.zone, entry=step.entry, run=step.run,
        inches=round(step.inches, 3), seconds=round(step.seconds, 2), price=round(step.price, 4),
        count=step.count, reason=step.reason, reach=step.reach, station=step.station, path=step.path,
        seams=list(step.seams), points=np.round(step.points, 4).tolist(), marks=list(step.marks),
        instead=None if math.isinf(step.instead) else round(step.instead, 4),
    )  # fmt: skip


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


def away_passes(document: Mapping[str, Any]) -> frozenset[int]:
    """The numbers of the passes that lie on another machine, of a route that was written by `route_json`."""
    return frozenset(each["number"] for each in document.get("passes", ()) if each.get("another"))


def svg_path(points: np.ndarray, digits: int = 4) -> str:
    """Path data for a polyline (n, 2)."""
    rounded = np.round(points, digits).tolist()
    return "M" + " ".join(f"{x:g},{y:g}" for x, y in rounded)
