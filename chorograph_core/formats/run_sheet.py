"""The run sheet: a route as numbered instructions, grouped by thread and area."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely

from chorograph_core.designs import designs
from chorograph_core.designs.curves import thin
from chorograph_core.job import Job
from chorograph_core.measure import format_length
from chorograph_core.rulers import count_placements
from chorograph_core.zones import Zone

BREAK_AFTER = 50.0
"""Minutes at the machine after which a break is due."""
LONGEST_DITCH = 40.0
"""Inches of ditch in one instruction; more is hard to keep in mind."""
PIECE = 14.0
"""Inches of ditch that are never parted between two instructions, corners permitting."""
MOST = 16
"""Instructions under one map."""
WIDEST = 32.0
"""Inches a map shows at most, once it has a few instructions."""
FEW = 5


@dataclass
class Instruction:
    """One numbered thing to do. *kind* is that of its first step; *at* where it begins."""

    number: int
    kind: str
    text: str
    detail: str = ""
    at: tuple[float, float] | None = None


@dataclass
class Group:
    """Instructions done in one thread in one area, with what its map shows.

    *paths* are (kind, points (n, 2)) lines; *area* says where on the top they lie.
    """

    thread: str
    area: str = ""
    instructions: list[Instruction] = field(default_factory=list)
    paths: list[tuple[str, np.ndarray]] = field(default_factory=list)
    inches: float = 0.0
    minutes: float = 0.0

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Bounds of the paths: x0, y0, x1, y1."""
        points = [points for _, points in self.paths] or [
            np.array([i.at for i in self.instructions if i.at] or [(0.0, 0.0)])
        ]
        stacked = np.concatenate(points)
        (x0, y0), (x1, y1) = stacked.min(axis=0), stacked.max(axis=0)
        return float(x0), float(y0), float(x1), float(y1)


def run_sheet(job: Job, steps: Sequence[Mapping[str, Any]], units: str = "in") -> list[Group]:
    """Groups in the order of work, from the steps of a route as its JSON holds them."""
    return _Writer(job, units).write(steps)


class _Writer:
    def __init__(self, job: Job, units: str) -> None:
        self.job = job
        self.units = units
        self.reach = job.loaded_machine.rates.ruler_reach
        self.zones: dict[str, Zone] = {zone.id: zone for zone in job.zones}
        self.entries = {entry.id: entry for entry in job.legend}
        self.threads = {thread.key: thread.name for thread in job.threads}
        self.groups = [Group("", "Before the first stitch")]
        self.count = 0
        self.since_break = 0.0
        self.waiting: list[Mapping[str, Any]] = []

    def write(self, steps: Sequence[Mapping[str, Any]]) -> list[Group]:
        """Go through the steps and gather what belongs to one instruction."""
        steps = [piece for step in steps for piece in self._parted(step)]
        k = 0
        while k < len(steps):
            step = steps[k]
            if step["kind"] in ("stitch", "travel"):
                k = self._lines(steps, k)
                continue
            self._single(step)
            k += 1
        found = [group for group in self.groups if group.instructions]
        for group in found:
            group.area = group.area or self._area(group)
        return found

    def _single(self, step) -> None:
        kind = step["kind"]
        if kind == "thread":
            name = self.threads.get(step["thread"], step["thread"])
            self.groups.append(Group(name))
            self._say(step, f"Thread {name}, and bobbins of the same.", step["reason"])
        elif kind == "mark":
            text = f"Mark for {self._entry_name(step['entry'])}: {step['count']} marks."
            self._say(step, text, step["reason"])
        elif kind == "start":
            point = step["points"][-1]
            self._room_for(np.asarray([point], float))
            self._say(step, f"Start {self._spot(point)}.", step["reason"], tuple(point))
        elif kind == "tie_off":
            self._say(step, "Tie off and cut.", step["reason"].partition(": ")[2])
        elif kind == "bobbin":
            self._say(step, "Change the bobbin.", step["reason"])
        elif kind == "ruler":
            self.waiting.append(step)

    def _lines(self, steps, k: int) -> int:
        """One run with the way to it, or a stretch of ditches, as one instruction."""
        step = steps[k]
        ditch = self._is_ditch(step)
        if not ditch and not step["run"]:
            # Travel belongs to what it leads to.
            self.waiting.append(step)
            return k + 1
        members, inches = [], 0.0
        while k < len(steps) and steps[k]["kind"] in ("stitch", "travel"):
            other = steps[k]
            same = self._is_ditch(other) if ditch else other["run"] == step["run"]
            if not same or (ditch and inches > LONGEST_DITCH):
                break
            members.append(other)
            inches += other["inches"]
            k += 1
        self._write_lines(members, ditch)
        return k

    def _parted(self, step) -> list[Mapping[str, Any]]:
        """A long stretch of ditch cut at corners, so that each instruction can say every turn."""
        if step["kind"] not in ("stitch", "travel") or step["inches"] <= PIECE:
            return [step]
        if not self._is_ditch(step):
            return [step]
        points = np.asarray(step["points"], float)
        along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
        stops, last = [0], 0.0
        for k in range(1, len(points) - 1):
            if along[k] - last >= PIECE:
                stops.append(k)
                last = along[k]
        stops.append(len(points) - 1)
        return [
            {
                **step,
                "points": points[a : b + 1],
                "inches": along[b] - along[a],
                "count": count_placements(points[a : b + 1], self.reach) if step["count"] else 0,
                "seconds": step["seconds"] * (along[b] - along[a]) / along[-1],
            }
            for a, b in itertools.pairwise(stops)
        ]

    @staticmethod
    def _is_ditch(step) -> bool:
        return step["run"].startswith("ditch:") or not (step["run"] or step["zone"])

    def _write_lines(self, members, ditch: bool) -> None:
        way = [step for step in self.waiting if step["kind"] == "travel"]
        ruler = [step for step in self.waiting if step["kind"] == "ruler"]
        self.waiting = []
        shown = [np.asarray(m["points"], float) for m in (*way, *members)]
        self._room_for(np.concatenate(shown))
        first, end = members[0], members[-1]["points"][-1]
        stitched = sum(m["inches"] for m in members if m["kind"] == "stitch")
        moved = sum(m["inches"] for m in members if m["kind"] == "travel")
        details = []
        if ditch:
            over = f", {self._length(moved)} of it gone over again" if moved > 0.5 else ""
            text = f"Ditches, {self._length(stitched + moved)}{over}."
            details.append(self._turns(members))
            layings = sum(m["count"] for m in members)
            details.append(f"ruler laid {layings} times" if layings > 1 else "")
        else:
            text = f"{self._design_name(first)} in {self._zone_name(first['zone'])}."
            if way:
                details.append(self._way(way))
            details += [
                f"{step['how']} laid {step['count']} times, {step['reason']}" for step in ruler
            ]
            details.append(f"{self._length(stitched)}, ends {self._spot(end)}")
        seconds = sum(step["seconds"] for step in (*way, *ruler, *members))
        at = tuple(first["points"][0])
        self._say(first, text, "; ".join(filter(None, details)), at, seconds)
        group = self.groups[-1]
        group.inches += stitched
        for member, points in zip((*way, *members), shown, strict=True):
            kind = "stitch" if member["kind"] == "stitch" else "travel"
            group.paths.append((kind, thin(points, 0.04)))

    def _way(self, way) -> str:
        ways = {"ditch": "in the ditch", "edge": "along the raw edge", "open": "across"}
        words = []
        for step in way:
            if step["inches"] > 0.3:
                words.append(f"{self._length(step['inches'])} {ways.get(step['how'], '')}".strip())
        return f"go {', then '.join(words)}" if words else ""

    def _turns(self, members) -> str:
        """The way in words: right 12, down 6."""
        points = np.concatenate([np.asarray(m["points"], float) for m in members])
        points = shapely.get_coordinates(shapely.simplify(shapely.linestrings(points), 0.3))
        words: list[tuple[str, float]] = []
        for dx, dy in np.diff(points, axis=0):
            reach = float(np.hypot(dx, dy))
            if reach < 0.4:
                continue
            if abs(dx) > 2.5 * abs(dy):
                way = "right" if dx > 0 else "left"
            elif abs(dy) > 2.5 * abs(dx):
                way = "down" if dy > 0 else "up"
            else:
                way = f"slant {'down' if dy > 0 else 'up'} {'right' if dx > 0 else 'left'}"
            if words and words[-1][0] == way:
                words[-1] = (way, words[-1][1] + reach)
            else:
                words.append((way, reach))
        if len(words) > 14:
            return "as on the map"
        return ", ".join(f"{way} {self._length(reach)}" for way, reach in words)

    def _say(self, step, text: str, detail: str, at=None, seconds: float | None = None) -> None:
        minutes = (step["seconds"] if seconds is None else seconds) / 60
        group = self.groups[-1]
        group.minutes += minutes
        self.since_break += minutes
        self.count += 1
        group.instructions.append(Instruction(self.count, step["kind"], text, detail, at))
        if self.since_break >= BREAK_AFTER:
            self.since_break = 0.0
            group.instructions.append(
                Instruction(0, "break", "A break: neck, back and arms.",
                            f"{BREAK_AFTER:.0f} minutes since the last one")
            )  # fmt: skip

    def _room_for(self, points: np.ndarray) -> None:
        """Begin a new map when this one is full or would show too much of the top."""
        group = self.groups[-1]
        count = len(group.instructions)
        full = count >= MOST
        if not full and count >= FEW and group.paths:
            x0, y0, x1, y1 = group.box
            low = np.minimum(points.min(axis=0), (x0, y0))
            high = np.maximum(points.max(axis=0), (x1, y1))
            full = max(high - low) > WIDEST
        if full:
            self.groups.append(Group(group.thread))

    def _area(self, group: Group) -> str:
        """Where on the top a group lies, in words."""
        x0, y0, x1, y1 = group.box
        left, top, right, bottom = self.job.chart.outline.bounds
        across = ((x0 + x1) / 2 - left) / (right - left)
        down = ((y0 + y1) / 2 - top) / (bottom - top)
        row = "top" if down < 0.33 else "bottom" if down > 0.67 else "middle"
        column = "left" if across < 0.33 else "right" if across > 0.67 else "centre"
        wide = x1 - x0 > 0.6 * (right - left) and y1 - y0 > 0.6 * (bottom - top)
        return "all over the top" if wide else f"{row} {column}"

    def _design_name(self, step) -> str:
        entry = self.entries.get(step["entry"])
        if entry is None:
            entry = next((e for e in self.job.legend if step["zone"] in e.zones), None)
        if entry is None:
            return "Stitch"
        try:
            layer = entry.layers[int(step["run"].rsplit("/", 2)[1])]
        except (ValueError, IndexError):
            return entry.name
        return _name_of(layer.design)

    def _entry_name(self, entry_id: str) -> str:
        entry = self.entries.get(entry_id)
        return entry.name or _name_of(entry.layers[-1].design) if entry else "the design"

    def _zone_name(self, zone_id: str) -> str:
        zone = self.zones.get(zone_id)
        return "the next zone" if zone is None else zone.label or zone.id

    def _spot(self, point) -> str:
        return f"{self._length(point[0])} across, {self._length(point[1])} down"

    def _length(self, inches: float) -> str:
        return format_length(float(inches), self.units)


def _name_of(key: str) -> str:
    drawing = designs().get(key)
    return key if drawing is None else drawing.name
