"""Where basting comes out again: what of it is no more once a place is stitched."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.space import polygons
from chorograph_core.formats.drawing import outline_path
from chorograph_core.job import Job as CoreJob
from chorograph_core.route.passes import Pass
from chorograph_core.route.stations import figure_stations, stations_of

DIGITS = 2


def taken_out(core: CoreJob, route: Mapping[str, Any]) -> list[tuple[int, str]]:
    """For each step that takes basting out its number, and path data of where that lay, in inches. What is
    handed over keeps its own until the other machine comes to it."""
    steps = route["steps"]
    numbers = [k for k, step in enumerate(steps) if step["kind"] == "unpick"]
    if not numbers:
        return []
    away = set(core.handover.zones) if core.handover is not None else set()
    kept = shapely.union_all([zone.polygon for zone in core.zones if zone.id in away])
    over = next((k for k, step in enumerate(steps) if step["kind"] == "move"), len(steps))
    figures = {
        each.key: each.shape for each in figure_stations(route.get("over") or {}, core.zones)
    }
    places = [_places(core, route, another) for another in (False, True)]
    found = []
    for number in numbers:
        key = steps[number]["station"]
        shape = figures.get(key)
        if shape is None:
            shape = places[number > over].get(key, core.chart.outline)
            if number < over and key and not kept.is_empty:
                shape = shape.difference(kept)
        found.append((number, " ".join(outline_path(part, DIGITS) for part in polygons(shape))))
    return found


def _places(core: CoreJob, route: Mapping[str, Any], another: bool) -> dict[str, Polygon]:
    passes: Sequence[Pass] = [
        Pass(each["number"], each["top"], each["bottom"])
        for each in route.get("passes", ())
        if bool(each.get("another")) == another
    ]
    return {each.key: each.shape for each in stations_of(core.chart, core.zones, passes)}
