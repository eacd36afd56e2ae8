"""Path cards: each path drawn once, large and numbered, and told in sentences."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from chorograph_core.designs import designs
from chorograph_core.designs.curves import thin
from chorograph_core.formats.wording import (
    heading,
    legs_of,
    listed,
    place_in,
    round_about,
    way_in_words,
)
from chorograph_core.job import Job
from chorograph_core.measure import format_length
from chorograph_core.route.stations import Station
from chorograph_core.rulers import laid_with, placements_along

MOST_TOLD = 7
"""Kinds of lines one after the other that are told one by one."""
MOST_LEGS = 22
"""Legs of a way that are told one by one; more are only drawn."""
MOST_NUMBERS = 24
"""Numbers on one drawing; more are not read."""


@dataclass
class Visit:
    """One time that a path is followed: its steps, and where."""

    path: str
    station: Station | None
    steps: list[Mapping[str, Any]] = field(default_factory=list)
    seconds: float = 0.0

    @property
    def moving(self) -> list[Mapping[str, Any]]:
        return [step for step in self.steps if step["kind"] in ("stitch", "travel")]


@dataclass
class Mark:
    """A number on a drawing: at *x*, *y*, with the direction (*dx*, *dy*) in which one sets off."""

    number: int
    x: float
    y: float
    dx: float
    dy: float


@dataclass
class PathCard:
    """A path as it is drawn and told. *lines* are (kind, points (n, 2)) in the place where it is
    followed first, *zones* the ids of what lies there, *places* all stations in order, *things* the runs
    in order as (name, words): what may be put in another order."""

    key: str
    title: str
    thread: str
    lines: list[tuple[str, np.ndarray]]
    marks: list[Mark]
    sentences: list[str]
    zones: tuple[str, ...]
    box: tuple[float, float, float, float]
    places: list[str]
    minutes: float
    placements: int
    single: bool = False
    things: list[tuple[str, str]] = field(default_factory=list)

    @property
    def where(self) -> str:
        """All the places, in words."""
        return listed(list(dict.fromkeys(self.places)))


def card_of(job: Job, title: str, visits: Sequence[Visit], units: str) -> PathCard:
    """The card of a path that was followed in *visits*, drawn as in the first of them."""
    first = visits[0]
    moving = first.moving
    points = np.concatenate([np.asarray(step["points"], float) for step in moving])
    station = first.station
    (x0, y0), (x1, y1) = points.min(axis=0), points.max(axis=0)
    box = station.bounds if station is not None else (x0, y0, x1, y1)
    runs = _runs(moving)
    ditches = any(step["run"].startswith("ditch:") for step in moving)
    single = len(runs) == 1 and not ditches
    if ditches:
        marks, sentences = _told_by_turns(moving, box, units)
    else:
        marks, sentences = _told_by_runs(job, runs, box, units)
    if single:
        sentences = [f"{design_name(job, runs[0][1][0])}, from one end to the other."]
    things = [] if ditches else _things(job, runs, box)
    placements = sum(step["count"] for step in first.steps if step["kind"] in ("ruler", "stitch"))
    if placements:
        laid = f"The ruler is laid {placements} time{'s' if placements > 1 else ''}"
        sentences.append(f"{laid}{_by_which(job, moving, units)}.")
    return PathCard(
        first.path, title, moving[0]["thread"],
        [("stitch" if step["kind"] == "stitch" else "travel", thin(np.asarray(step["points"], float), 0.03))
         for step in moving],
        marks, sentences, station.zones if station is not None else (), _four(box),
        [visit.station.name for visit in visits if visit.station is not None],
        sum(visit.seconds for visit in visits) / len(visits) / 60, placements, single, things,
    )  # fmt: skip


def _things(job: Job, runs, box) -> list[tuple[str, str]]:
    """What is done one after the other, each in words: its design and where it lies."""
    told = []
    for name, steps in runs:
        line = np.concatenate([np.asarray(step["points"], float) for step in steps])
        spot = place_in(box, (line.min(axis=0) + line.max(axis=0)) / 2)
        told.append((name, f"{design_name(job, steps[0])}, {spot}"))
    return told


def _by_which(job: Job, moving: Sequence[Mapping], units: str) -> str:
    """Which rulers, where there is more than the straight one; what is followed by hand."""
    foot = job.machine.foot_radius
    lines = [np.asarray(step["points"], float) for step in moving
             if step["kind"] == "stitch" and step["how"] in ("straight", "curved")]  # fmt: skip
    placed = [laid for line in lines for laid in placements_along(line, job.rulers, foot, "")]
    if not any(laid.by_hand or laid.edge != "straight edge" for laid in placed):
        return ""
    told = laid_with(placed, [], job.rulers, foot, units)
    parts = [name for name, _ in told.times]
    if told.by_hand:
        parts.append(f"{format_length(told.by_hand, units)} by hand along a mark")
    return f": {'; '.join(parts)}"


def _four(box) -> tuple[float, float, float, float]:
    return float(box[0]), float(box[1]), float(box[2]), float(box[3])


def _runs(moving: Sequence[Mapping[str, Any]]) -> list[tuple[str, list[Mapping[str, Any]]]]:
    """Stitched runs in order, each with its own steps; the ways between them are left out."""
    found: list[tuple[str, list]] = []
    for step in moving:
        if not step["run"] or step["run"].startswith("ditch:"):
            continue
        if found and found[-1][0] == step["run"]:
            found[-1][1].append(step)
        else:
            found.append((step["run"], [step]))
    return found


def _told_by_turns(moving, box, units: str) -> tuple[list[Mark], list[str]]:
    """A way through ditches: in at a corner, then turn by turn."""
    points = np.concatenate([np.asarray(step["points"], float) for step in moving])
    legs = legs_of(points)
    step = max(1, -(-len(legs) // MOST_NUMBERS))
    marks = [_mark(k // step + 1, leg) for k, leg in enumerate(legs) if k % step == 0]
    again = sum(each["inches"] for each in moving if each["kind"] == "travel")
    way = f": {way_in_words(points, units)}" if len(legs) <= MOST_LEGS else ", as numbered"
    sentences = [f"In at the {place_in(box, points[0])}{way}."]
    if again > 0.5:
        sentences.append(f"{format_length(again, units)} of it are gone over again.")
    sentences.append(f"Out at the {place_in(box, points[-1])}.")
    return marks, sentences


def _told_by_runs(job: Job, runs, box, units: str) -> tuple[list[Mark], list[str]]:
    """Runs one after the other, those of one design together."""
    marks: list[Mark] = []
    told: list[tuple[str, list[np.ndarray]]] = []
    for number, (_, steps) in enumerate(runs, 1):
        line = np.concatenate([np.asarray(step["points"], float) for step in steps])
        if number <= MOST_NUMBERS:
            marks.append(_mark(number, line))
        design = design_name(job, steps[0])
        if told and told[-1][0] == design:
            told[-1][1].append(line)
        else:
            told.append((design, [line]))
    centre = np.array([(box[0] + box[2]) / 2, (box[1] + box[3]) / 2])
    sentences, number = [], 1
    if len(told) > MOST_TOLD:
        names = listed(list(dict.fromkeys(design for design, _ in told)))
        sentences.append(f"{names} by turns, 1 to {len(runs)} as numbered.")
        told = []
    for design, lines in told:
        middles = np.array([(line.min(axis=0) + line.max(axis=0)) / 2 for line in lines])
        last = number + len(lines) - 1
        which = f"{number}" if last == number else f"{number} to {last}"
        spot = place_in(box, middles[0])
        if len(lines) == 1:
            words = f"{design} at the {spot}" if spot != "middle" else f"{design} in the middle"
        else:
            way = round_about(middles, centre) or _along(middles)
            words = f"{design}, {len(lines)} times, from the {spot}{', ' + way if way else ''}"
        sentences.append(f"{which}: {words}.")
        number = last + 1
    ends = runs[-1][1][-1]["points"][-1]
    start = runs[0][1][0]["points"][0]
    sentences.insert(0, f"In at the {place_in(box, start)}, out at the {place_in(box, ends)}.")
    return marks, sentences


def _along(middles: np.ndarray) -> str:
    """In which direction things follow each other, when they do in one."""
    ways = {heading(np.array(pair)) for pair in itertools.pairwise(middles)}
    return f"going {ways.pop()}" if len(ways) == 1 else ""


def _mark(number: int, line: np.ndarray) -> Mark:
    step = np.hypot(*np.diff(line, axis=0).T)
    far = int(np.searchsorted(np.cumsum(step), min(0.6, step.sum() * 0.5)))
    ahead = line[min(far + 1, len(line) - 1)] - line[0]
    size = float(np.hypot(*ahead)) or 1.0
    return Mark(number, *(float(v) for v in (*line[0], *(ahead / size))))


def design_name(job: Job, step: Mapping[str, Any]) -> str:
    """What a run is called: its design."""
    entry = next((entry for entry in job.legend if entry.id == step["entry"]), None)
    if entry is None:
        entry = next((e for e in job.legend if step["zone"] in e.zones), None)
    if entry is None:
        return "Stitch"
    try:
        key = entry.layers[int(step["run"].rsplit("/", 2)[1])].design
    except (ValueError, IndexError):
        return entry.name
    drawing = designs().get(key)
    return key if drawing is None else drawing.name
