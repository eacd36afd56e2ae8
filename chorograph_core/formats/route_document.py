"""The route as it is written: its shape is that of these dataclasses and nothing else; the JSON Schema
follows from them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from chorograph_core.formats.document import DIALECT, schema_id
from chorograph_core.route.model import STEP_KINDS

FORMAT: Literal["chorograph-route"] = "chorograph-route"
VERSION = 2

Point = Annotated[list[float], Meta(min_length=2, max_length=2)]
Share = Annotated[float, Meta(ge=0)]


@dataclass(frozen=True)
class FloorByKind:
    """Minutes that no route avoids, by kind; *together*: of one kind or another besides, since not all of
    them can be least at once."""

    travel: Share
    changes: Share
    rolls: Share
    lookups: Share
    together: Share = 0.0


@dataclass(frozen=True)
class Figures:
    """What the route says of itself. Inches and minutes; *lost* is what is neither stitching nor the fewest
    layings. *away_minutes* are those on another machine. *unkept*: why a wish, by its number, could not be
    kept. *replay*: ``"clean"``, or its faults."""

    zones: int
    stitched_inches: Share
    travel_inches: dict[str, float]
    cuts: int
    minutes: Share
    lost_minutes: Share
    floor_lost_minutes: Share
    lost_by_kind: dict[str, float]
    floor_by_kind: FloorByKind
    rolls: int
    passes: int
    paths: int
    seconds: Share
    unkept: dict[str, str]
    replay: Literal["clean"] | list[str]
    away_minutes: Share = 0.0


@dataclass(frozen=True)
class FloorParts:
    """The floor as it was found: minutes, by stage where stages are told apart; layings as a number;
    *together* as in `FloorByKind`."""

    links: Share
    changes: Share
    stages: list[tuple[str, float]]
    rolls: Share
    lookups: Share
    layings: int
    together: Share = 0.0


@dataclass(frozen=True)
class PassPart:
    """What the frame reaches at once, in inches down the quilt; *another*: on the machine that part of it was
    handed over to."""

    number: int
    top: float
    bottom: float
    another: bool = False


@dataclass(frozen=True)
class PathPart:
    """A path that is learned once, and the stations where it is followed, in order."""

    key: str
    title: str
    stations: list[str]


@dataclass(frozen=True)
class StepPart:
    """One thing to do; docs/format.md says what each part means. *instead* is null where no other way leads
    there."""

    kind: str
    how: str
    thread: str
    zone: str
    entry: str
    run: str
    inches: Share
    seconds: Share
    price: Share
    count: int
    reason: str
    reach: int
    station: str
    path: str
    seams: list[str]
    points: list[Point]
    marks: list[str]
    instead: float | None


@dataclass(frozen=True)
class RouteFile:
    """A route as it is written. Lengths in inches, x right, y down, origin as in the job's chart."""

    format: Literal["chorograph-route"]
    version: Annotated[int, Meta(ge=1)]
    units: Literal["in"]
    title: str
    figures: Figures
    floor: FloorParts
    passes: list[PassPart]
    paths: list[PathPart]
    redrawn: list[str]
    over: dict[str, list[str]]
    steps: list[StepPart]


def route_schema() -> dict[str, Any]:
    """The JSON Schema of a route, made from the annotations."""
    made = msgspec.json.schema(RouteFile)
    made["$defs"]["StepPart"]["properties"]["kind"] = {"enum": sorted(STEP_KINDS)}
    return {
        "$schema": DIALECT,
        "$id": schema_id("route", VERSION),
        "title": "Chorograph route",
        "description": "A planned route. All lengths are inches, x right, y down.",
        **made,
    }
