"""The run sheet: a route as numbered instructions, grouped by thread and area."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely

from chorograph_core.designs import designs
from chorograph_core.designs.curves import thin
from chorograph_core.formats.job import Job
from chorograph_core.measure import format_length
from chorograph_core.zones import Zone

BREAK_AFTER = 50.0
"""Minutes at the machine after which a break is due."""
LONGEST_DITCH = 72.0
"""Inches of ditch in one instruction; more is hard to keep in mind."""
MOST = 16
"""Instructions under one map."""
_SIDES = ("left", "middle", "right")


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

    *paths* are (kind, points (n, 2)) lines, *box* the part of the top in inches.
    """

    thread: str
    area: str
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
        self.zones: dict[str, Zone] = {zone.id: zone for zone in job.zones}
        self.entries = {entry.id: entry for entry in job.legend}
        self.threads = {thread.key: thread.name for thread in job.threads}
        self.groups: list[Group] = []
        self.count = 0
        self.since_break = 0.0
        self.thread = ""

    def write(self, steps: Sequence[Mapping[str, Any]]) -> list[Group]:
        """Go through the steps and gather what belongs to one instruction."""
        k = 0
        while k < len(steps):
            step = steps[k]
            kind = step["kind"]
            if kind == "thread":
                self.thread = self.threads.get(step["thread"], step["thread"])
                self._group(f"Thread {self.thread}", force=True)
                self._say(step, f"Thread {self.thread}; wind bobbins of the same.", step["reason"])
                k += 1
            elif kind == "mark":
                self._group("Before the first stitch")
                name = self._entry_name(step["entry"])
                self._say(step, f"Mark for {name}: {step['count']} marks.", step["reason"])
                k += 1
            elif kind in ("stitch", "travel"):
                k = self._lines(steps, k)
            else:
                self._single(step)
                k += 1
        return [group for group in self.groups if group.instructions]

    def _single(self, step) -> None:
        if step["kind"] == "start":
            point = step["points"][-1]
            self._group(self._area(point, step["zone"]))
            self._say(step, f"Start {self._spot(point)}.", step["reason"], tuple(point))
        elif step["kind"] == "tie_off":
            self._say(step, "Tie off and cut.", step["reason"].partition(": ")[2])
        elif step["kind"] == "bobbin":
            self._say(step, "Change the bobbin.", step["reason"])
        elif step["kind"] == "ruler":
            self._group(self._area(None, step["zone"]))
            edge = step["how"].capitalize()
            text = f"{edge}, laid {step['count']} times in {self._zone_name(step['zone'])}."
            self._say(step, text, step["reason"])

    def _lines(self, steps, k: int) -> int:
        """One run, one stretch of travel, or a stretch of ditches, as one instruction."""
        step = steps[k]
        ditch = step["run"].startswith("ditch:") or (not step["run"] and not step["zone"])
        members = []
        inches = 0.0
        area = self._area(step["points"][0], step["zone"])
        while k < len(steps) and steps[k]["kind"] in ("stitch", "travel"):
            other = steps[k]
            if ditch:
                same = other["run"].startswith("ditch:") or (not other["run"] and not other["zone"])
                if members and (inches > LONGEST_DITCH or
                                self._area(other["points"][0], "") != area):  # fmt: skip
                    same = False
            elif step["run"]:
                same = other["run"] == step["run"]
            else:
                same = other["kind"] == "travel" and not other["run"] and bool(other["zone"])
            if not same:
                break
            members.append(other)
            inches += other["inches"]
            k += 1
        self._group(area)
        self._write_lines(members, ditch)
        return k

    def _write_lines(self, members, ditch: bool) -> None:
        first = members[0]
        stitched = sum(m["inches"] for m in members if m["kind"] == "stitch")
        moved = sum(m["inches"] for m in members if m["kind"] == "travel")
        at = tuple(first["points"][0])
        end = members[-1]["points"][-1]
        if ditch:
            over = f", {self._length(moved)} of it gone over again" if moved > 0.5 else ""
            text = f"Ditches to {self._number_spot(end)}: {self._length(stitched + moved)}{over}."
            detail = self._turns(members)
        elif first["run"]:
            zone = self._zone_name(first["zone"])
            design = self._design_name(first)
            text = f"{design} in {zone}: {self._length(stitched)}."
            extra = []
            if moved > 0.5:
                extra.append(f"{self._length(moved)} along the seam or back over a line")
            extra.append(f"ends {self._spot(end)}")
            detail = "; ".join(extra)
        else:
            ways = {"ditch": "in the ditch", "edge": "along the raw edge", "open": "straight across"}
            used = dict.fromkeys(ways[m["how"]] for m in members if m["how"] in ways)
            text = f"Travel {self._length(moved)} {', then '.join(used)}."
            detail = f"to {self._zone_name(first['zone'])}" if first["zone"] else ""
        self._say(first, text, detail, at, sum(m["seconds"] for m in members))
        group = self.groups[-1]
        group.inches += stitched
        for member in members:
            kind = "stitch" if member["kind"] == "stitch" else "travel"
            group.paths.append((kind, thin(np.asarray(member["points"], float), 0.04)))

    def _turns(self, members) -> str:
        """The way in words: right 12, down 6."""
        points = np.concatenate([np.asarray(m["points"], float) for m in members])
        points = shapely.get_coordinates(shapely.simplify(shapely.linestrings(points), 0.3))
        words: list[tuple[str, float]] = []
        for dx, dy in np.diff(points, axis=0):
            if abs(dx) > 2.5 * abs(dy):
                way = "right" if dx > 0 else "left"
            elif abs(dy) > 2.5 * abs(dx):
                way = "down" if dy > 0 else "up"
            else:
                way = f"slant {'down' if dy > 0 else 'up'} {'right' if dx > 0 else 'left'}"
            reach = float(np.hypot(dx, dy))
            if words and words[-1][0] == way:
                words[-1] = (way, words[-1][1] + reach)
            else:
                words.append((way, reach))
        if len(words) > 12:
            return "as on the map"
        return ", ".join(f"{way} {self._length(reach)}" for way, reach in words)

    def _say(self, step, text: str, detail: str, at=None, seconds: float | None = None) -> None:
        minutes = (step["seconds"] if seconds is None else seconds) / 60
        if not self.groups:
            self._group("Before the first stitch")
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

    def _group(self, area: str, force: bool = False) -> None:
        last = self.groups[-1] if self.groups else None
        if last is not None and last.thread == self.thread and not force:
            small = sum(i.kind in ("stitch", "ruler") for i in last.instructions) < 3
            if (last.area == area and len(last.instructions) < MOST) or (
                small and last.area.startswith("Thread") is False and area != last.area
                and len(last.paths) > 0 and len(last.instructions) < 6 and self._near(last, area)
            ):  # fmt: skip
                return
            if last.area.startswith("Thread") and not last.paths:
                last.area = area
                return
        self.groups.append(Group(self.thread, area))

    @staticmethod
    def _near(group: Group, area: str) -> bool:
        return group.area.split(",")[0] == area.split(",")[0]

    def _area(self, point, zone_id: str) -> str:
        """Which part of the top: a border's side, or a cell of a coarse grid."""
        zone = self.zones.get(zone_id)
        if zone is not None and zone.patches:
            if self.job.chart.patch(zone.patches[0]).role == "border":
                return zone.label or "border"
        if zone is not None:
            centre = zone.polygon.representative_point().coords[0]
            point = centre
        x0, y0, x1, y1 = self.job.chart.outline.bounds
        bands = max(1, round((y1 - y0) / 26))
        column = min(2, int(3 * (point[0] - x0) / (x1 - x0)))
        band = min(bands - 1, int(bands * (point[1] - y0) / (y1 - y0)))
        row = f"band {band + 1} of {bands}" if bands > 1 else "the top"
        return f"{row}, {_SIDES[column]}"

    def _design_name(self, step) -> str:
        entry = self.entries.get(step["entry"])
        if entry is None:
            return "Stitch"
        try:
            layer = entry.layers[int(step["run"].rsplit("/", 2)[1])]
        except (ValueError, IndexError):
            return entry.name
        return designs()[layer.design].name

    def _entry_name(self, entry_id: str) -> str:
        entry = self.entries.get(entry_id)
        return entry.name or designs()[entry.layers[-1].design].name if entry else "the design"

    def _zone_name(self, zone_id: str) -> str:
        zone = self.zones.get(zone_id)
        if zone is None:
            return "the next zone"
        return zone.label or zone.id

    def _spot(self, point) -> str:
        return (
            f"{self._length(point[0])} from the left, {self._length(point[1])} from the top"
        )

    def _number_spot(self, point) -> str:
        return f"({self._length(point[0])}, {self._length(point[1])})"

    def _length(self, inches: float) -> str:
        return format_length(float(inches), self.units)
