"""The run sheet: what is learned once on cards, then pass by pass where it is done."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from chorograph_core.designs import designs
from chorograph_core.designs.curves import thin
from chorograph_core.designs.legend import main_layer
from chorograph_core.formats.path_cards import Visit, card_of
from chorograph_core.formats.run_parts import Parked, Part, Row, RunSheet
from chorograph_core.formats.seam_marks import number_seams
from chorograph_core.formats.wording import basting_in, listed, place_in
from chorograph_core.job import Job
from chorograph_core.measure import format_length, in_units
from chorograph_core.reckon import Machine
from chorograph_core.route.marking import marks_told
from chorograph_core.route.passes import Pass
from chorograph_core.route.securing import INSET
from chorograph_core.route.stations import Station, figure_stations, stations_of
from chorograph_core.route.steps import EMPTY

BREAK_AFTER = 50.0
"""Minutes at the machine after which a break is due."""
SMALL = 6.0
"""Inches across, up to which a station is marked in its middle."""


def run_sheet(job: Job, route: Mapping[str, Any], units: str = "in") -> RunSheet:
    """The sheet of a route as its JSON holds it."""
    return _Writer(job, route, units).sheet()


class _Writer:
    def __init__(self, job: Job, route: Mapping[str, Any], units: str) -> None:
        self.job, self.units, self.route = job, units, route
        self.threads = {thread.key: thread.name for thread in job.threads}
        top, bottom = job.chart.outline.bounds[1::2]
        whole = {"number": 1, "top": top, "bottom": bottom}
        self.passes = {each["number"]: each for each in route.get("passes") or [whole]}
        passes = [
            Pass(each["number"], each["top"], each["bottom"]) for each in self.passes.values()
        ]
        stations = [
            *stations_of(job.chart, job.zones, passes),
            *figure_stations(route.get("over") or {}, job.zones),
        ]
        self.stations: dict[str, Station] = {station.key: station for station in stations}
        self.before: list[Row] = []
        self.parts: list[Part] = []
        self.visits: dict[str, list[Visit]] = {}
        self.since_break = 0.0
        self.under = self.empty = False
        self.now: Visit | None = None
        self.kinds = self._kinds(route["steps"])
        self.basted = job.policy.days == "basted" or job.handover is not None
        if self.basted:
            # All that comes before the first stitch is basting.
            first = next((k for k, s in enumerate(route["steps"]) if s["kind"] == "start"), 0)
            basted = any(step["kind"] == "secure" for step in route["steps"][:first])
            self.kinds[:first] = ["baste"] * first if basted else self.kinds[:first]

    @staticmethod
    def _kinds(steps) -> list[str]:
        """For each step whether what comes next is in the ditch or a filling."""
        kinds, now = [], "fill"
        for step in reversed(steps):
            if step["kind"] == "stitch":
                now = "ditch" if step["run"].startswith("ditch:") else "fill"
            kinds.append(now)
        return kinds[::-1]

    def sheet(self) -> RunSheet:
        for step, kind in zip(self.route["steps"], self.kinds, strict=True):
            self._take(step, kind)
        titles = {path["key"]: path["title"] for path in self.route.get("paths", ())}
        cards = [
            card_of(self.job, titles.get(key, key), visits, self.units)
            for key, visits in self.visits.items()
            if visits[0].moving
        ]
        self._park()
        for part in self.parts:
            number_seams(part)
        # Reasons come from the plan, which is the same for every studio.
        for row in [*self.before, *(row for part in self.parts for row in part.rows)]:
            row.text, row.detail = in_units(row.text, self.units), in_units(row.detail, self.units)
        return RunSheet(self.before, cards, self.parts)

    def _take(self, step, kind: str) -> None:
        if step["kind"] == "unmark":
            part = self.parts[-1] if self.parts else self._part(step, kind)
            part.minutes += step["seconds"] / 60
            part.rows.append(Row("mark", "Marks out.", f"{step['reason'].capitalize()}."))
            return
        if step["kind"] == "mark" and self.parts:
            # With a pen that fades, just before it is used.
            name = self._named(step["entry"])
            part = self._part(step, kind)
            part.minutes += step["seconds"] / 60
            part.rows.append(
                Row(
                    "mark",
                    f"Mark now for {name}: {marks_told(step['count'])}.",
                    step["reason"],
                )
            )
            return
        if step["kind"] == "mark":
            name = self._named(step["entry"])
            self.before.append(
                Row("mark", f"Mark for {name}: {marks_told(step['count'])}.", step["reason"])
            )
            return
        part = self._part(step, kind)
        part.minutes += step["seconds"] / 60
        self.since_break += step["seconds"] / 60
        getattr(self, f"_{step['kind']}")(part, step)
        if self.since_break >= BREAK_AFTER and step["kind"] in (
            "path",
            "tie_off",
            "roll",
            "thread",
        ):
            self.since_break = 0.0
            part.rows.append(Row("break", "A break: neck, back and arms."))

    def _named(self, entry: str) -> str:
        """An entry of the legend by the name it was given, or by its design's."""
        found = next((each for each in self.job.legend if each.id == entry), None)
        if found is None:
            return "the design"
        design = designs().get(found.layers[main_layer(found)].design)
        return found.name or (design.name.lower() if design else "the design")

    def _part(self, step, kind: str) -> Part:
        # What the quilt is rolled under is one part, however often it is.
        self.under = step["how"] == "under" or (
            self.under and step["kind"] not in ("roll", "thread")
        )
        if self.under and self.parts:
            part, window = self.parts[-1], self.passes[step["reach"]]
            part.top, part.bottom = (
                min(part.top, window["top"]),
                max(part.bottom, window["bottom"]),
            )
            return part
        same = self.parts and (self.parts[-1].kind, self.parts[-1].thread, self.parts[-1].reach) == (
            kind, self.threads.get(step["thread"], step["thread"]), step["reach"],
        )  # fmt: skip
        # A tie-off belongs to what it ends, not to the thread that comes next.
        if self.parts and (same or step["kind"] in ("tie_off", "bobbin")):
            return self.parts[-1]
        window = self.passes.get(step["reach"], next(iter(self.passes.values())))
        if step["kind"] == "roll" and self.parts and self.parts[-1].bare:
            # The thread was changed before the quilt is rolled to where it is used.
            part = self.parts[-1]
            part.reach, part.top, part.bottom = step["reach"], window["top"], window["bottom"]
            return part
        name = self.threads.get(step["thread"], step["thread"])
        where = self._machine(step).name if window.get("another") else ""
        kind = "move" if step["kind"] == "move" else kind
        self.parts.append(Part(kind, name, step["reach"], window["top"], window["bottom"], where))
        self.now = None
        return self.parts[-1]

    def _machine(self, step) -> Machine:
        return self.job.machine_in(self.passes[step["reach"]].get("another", False))

    def _move(self, part: Part, step) -> None:
        first, other = self.job.machine, self._machine(step)
        off = "Off the frame" if first.kind == "frame" else f"Off the {first.name}"
        text = (
            f"{off} and under the {other.name}: basted as it is, rolled loosely, nothing dragging."
        )
        who = self.job.handover.who if self.job.handover else ""
        part.rows.append(Row("move", text, f"{who} goes on from here" if who else ""))
        self.since_break = 0.0

    def _thread(self, part: Part, step) -> None:
        part.rows.append(Row("thread", f"Thread {part.thread}, and bobbins of the same."))

    def _roll(self, part: Part, step) -> None:
        if step["how"] == "under":
            row = next((row for row in part.rows if row.kind == "under"), None)
            if row is None:
                row = Row(
                    "under",
                    "",
                    "Needle down and the machine stopped while it rolls; nothing is cut.",
                )
                part.rows.append(row)
            row.number += step["count"]
            row.text = f"Roll the quilt on and back under the needle, {row.number} times in all."
            return
        if self._machine(step).kind != "frame":
            window = self.passes[step["reach"]]
            top, bottom = (format_length(window[side], self.units) for side in ("top", "bottom"))
            end = "upper" if step["how"] == "on" else "lower"
            part.rows.append(
                Row("roll", f"Turn the quilt, its {end} end bundled into the throat: from {top} to {bottom} "
                            f"down can be reached.")
            )  # fmt: skip
            return
        # From where to where that is stands above.
        part.rows.append(Row("roll", f"Roll {step['how']} to pass {step['reach']}."))

    def _start(self, part: Part, step) -> None:
        if self.empty:
            self.empty = False
            return
        part.rows.append(Row("start", f"Start {self._spot(step['points'][-1])}."))

    def _tie_off(self, part: Part, step) -> None:
        why = step["reason"].partition(": ")[2]
        if why == EMPTY:
            self._return_empty(part, step)
            return
        if why in ("everything is done", "this thread has nothing left to do here"):
            part.rows.append(Row("tie_off", "Tie off and cut: this thread is done here."))
        else:
            part.rows.append(Row("tie_off", "Tie off and cut."))

    def _return_empty(self, part: Part, step) -> None:
        """Told once for a part, however many lines it has."""
        self.empty = True
        row = next((row for row in part.rows if row.kind == "empty"), None)
        if row is None:
            row = Row("empty", "")
            part.rows.append(row)
        row.number += 1
        way = {"right": "to the right", "left": "to the left", "up": "away from you",
               "down": "towards you"}.get(self._machine(step).directions, "one way")  # fmt: skip
        row.text = f"Long lines {way} only: cut at the end, take the machine back empty, {row.number} times."

    def _secure(self, part: Part, step) -> None:
        if step["run"].startswith("hold:"):
            self._hold(part, step)
        elif not part.rows or part.rows[-1].kind != "secure":
            inset = format_length(INSET, self.units)
            text = f"Baste along the edge, {inset} in, {basting_in(self.units)}, as dotted."
            hidden = self.job.policy.edge_finish == "binding"
            part.rows.append(
                Row("secure", text, "" if hidden else "taken out before the edge is finished")
            )
        part.lines.append(("secure", thin(np.asarray(step["points"], float), 0.04)))

    def _hold(self, part: Part, step) -> None:
        """Loose lines across, told once for each pass."""
        text = f"Baste straight across, {basting_in(self.units)}, as dotted."
        if not self.basted:
            text = "Hold the batting by a loose serpentine down the middle of the pass, as dotted."
        if not part.rows or part.rows[-1].text != text:
            part.rows.append(Row("secure", text, "taken out again, place by place"))

    def _tuck(self, part: Part, step) -> None:
        """Those of one side in a pass are one row."""
        side = step["run"].partition(":")[2].partition(".")[0]
        x, y = step["points"][0]
        left, top = self.job.chart.outline.bounds[:2]
        far, way = (x - left, "from the left") if side in ("top", "bottom") else (y - top, "down")
        where = f"{format_length(round(far * 2) / 2, self.units)} {way}"
        row = part.rows[-1] if part.rows else None
        if row is None or row.kind != "tuck" or f"the {side}" not in row.text:
            row = Row("tuck", "", where)
            part.rows.append(row)
        else:
            row.detail += f", {where}"
        row.number += 1
        many = "a tuck" if row.number == 1 else f"{row.number} tucks"
        row.text = (
            f"Lay {many} of {format_length(0.25, self.units)} at the {side}, in seams, and pin."
        )

    def _unpick(self, part: Part, step) -> None:
        station = self.stations.get(step["station"])
        inches = format_length(round(step["inches"]), self.units)
        row = part.rows[-1] if part.rows else None
        where = station.name if station else "what is left anywhere"
        if row is not None and row.kind == "unpick":
            row.detail += f", {where}"
        else:
            part.rows.append(Row("unpick", f"Take out the basting, {inches}.", where))

    def _bobbin(self, part: Part, step) -> None:
        part.rows.append(Row("bobbin", "Change the bobbin.", step["reason"]))

    def _path(self, part: Part, step) -> None:
        self.now = Visit(step["path"], self.stations.get(step["station"]))
        if step["path"] == "seams":
            part.rows.append(
                Row("seams", "Long seams, straight on from edge to edge, as numbered on the map.")
            )
            return
        self.visits.setdefault(step["path"], []).append(self.now)
        name = self.now.station.name if self.now.station else "the next place"
        number = len(part.stops) + 1
        rows = part.rows
        if rows and rows[-1].kind == "path" and rows[-1].path == step["path"]:
            rows[-1].detail += f"\n{name}"
        else:
            rows.append(Row("path", step["reason"], name, step["path"], number))
        part.stops.append(
            (number, step["path"], *(self.now.station.middle if self.now.station else (0, 0)))
        )

    def _ruler(self, part: Part, step) -> None:
        self._stitch(part, step)

    def _travel(self, part: Part, step) -> None:
        self._stitch(part, step)

    def _stitch(self, part: Part, step) -> None:
        at_station = self.now is not None and step["path"] == self.now.path
        if at_station and self.now is not None:
            self.now.steps.append(step)
            self.now.seconds += step["seconds"]
        if not len(step["points"]):
            return
        if step["kind"] == "stitch" and step["zone"] and self.now is not None:
            name = self.now.station.name if self.now.station is not None else step["zone"]
            part.zones[step["zone"]] = name
        points = np.asarray(step["points"], float)
        if at_station and self.now is not None and self.now.station is not None:
            if len(self.now.moving) == 1:
                number, letter, *at = part.stops[-1]
                if (
                    min(self.now.station.shape.bounds[2:] - np.array(self.now.station.bounds[:2]))
                    > SMALL
                ):
                    # In a narrow strip its middle is clearer than where it is entered.
                    at = points[0].tolist()
                part.stops[-1] = (number, letter, float(at[0]), float(at[1]))
                part.exits.append((0.0, 0.0))
            part.exits[-1] = (float(points[-1, 0]), float(points[-1, 1]))
            return
        kind = "stitch" if step["kind"] == "stitch" else "travel"
        part.lines.append((kind, thin(points, 0.04)))
        if kind == "stitch" and step["path"] == "seams":
            part.seams.append((points, self._begun(part)))

    @staticmethod
    def _begun(part: Part) -> Row | None:
        """The row that says where the seam is begun that comes next."""
        rows = part.rows[-2:]
        if len(rows) == 2 and rows[0].kind == "start" and rows[1].kind == "seams":
            return rows[0]
        return rows[-1] if rows and rows[-1].kind in ("start", "seams") else None

    def _park(self) -> None:
        """What a pass leaves for another thread when it is rolled on, to be pinned flat, and what else is
        looked at before."""
        for number, part in enumerate(self.parts[:-1]):
            if part.kind == "baste" or self.parts[number + 1].reach == part.reach:
                continue
            later: dict[str, dict[str, str]] = {}
            for other in self.parts[number + 1 :]:
                if other.reach == part.reach and other.thread != part.thread and other.zones:
                    later.setdefault(other.thread, {}).update(other.zones)
            part.parked = [
                Parked(thread, list(dict.fromkeys(zones.values())), list(zones))
                for thread, zones in sorted(later.items())
            ]
            part.check = self._checked(part)

    def _checked(self, part: Part) -> list[str]:
        places = list(dict.fromkeys(part.zones.values()))
        if part.kind == "ditch" or not places:
            done = "Everything drawn on this map is stitched."
        elif len(places) == 1:
            done = f"{part.thread} has nothing left here but what was done: {places[0]}."
        else:
            done = f"{part.thread}: all {len(places)} places are done, the last is {places[-1]}."
        return [
            done,
            *(parked.sentence for parked in part.parked),
            "A hand under the quilt: no fold, nothing caught, the backing smooth.",
        ]

    def _spot(self, point) -> str:
        """Where a start lies: in the nearest station, in words."""
        best = min(self.stations.values(), key=lambda s: _apart(s, point))
        where = place_in(best.bounds, point)
        return (
            f"in the middle of {best.name}"
            if where == "middle"
            else f"at the {where} of {best.name}"
        )


def _apart(station: Station, point: Sequence[float]) -> float:
    x0, y0, x1, y1 = station.bounds
    dx = max(x0 - point[0], 0.0, point[0] - x1)
    dy = max(y0 - point[1], 0.0, point[1] - y1)
    # Of those that touch it the smallest is named.
    return float(np.hypot(dx, dy)) + 1e-4 * (x1 - x0 + y1 - y0)


def places_in_words(row: Row) -> str:
    """The places of a row that follows a path in several."""
    return listed(row.detail.split("\n"))
