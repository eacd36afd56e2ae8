"""A route cut into legs: each one thing for the hand, told in a sentence, tapped when it is done."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from chorograph_core.designs.legend import spi_in
from chorograph_core.formats.path_cards import design_name
from chorograph_core.formats.wording import basting_in, heading, legs_of, place_in
from chorograph_core.job import Job
from chorograph_core.measure import format_length, in_units
from chorograph_core.reckon import Machine, thread_inches
from chorograph_core.route.marking import PENS, marks_told
from chorograph_core.route.progress import junctions
from chorograph_core.route.securing import SPI as BASTING
from chorograph_core.route.spool import ORDINARY
from chorograph_core.route.stations import Station, figure_stations, stations_of

SMALL = 45.0
"""Seconds below which alike things in one place are one leg: nobody taps every ten seconds."""
LONG = 240.0
"""Seconds from which a way in the ditch is parted: after a stop one wants to know where one was."""
ALONE = ("mark", "unmark", "thread", "roll", "bobbin", "tuck", "secure", "unpick", "move")
"""Steps that are legs of their own; several of a kind in a row are one."""
TELLING = 3
"""Turns of a way through ditches that are told; more are drawn alone."""


@dataclass
class Leg:
    """One thing for the hand: steps *first* to before *stop* of a route, for so many *seconds*.

    *kind* is ``"ditch"``, ``"fill"`` or the kind of its steps. *title* is what is done, *detail* how.
    *station* is the place by its key, *place* by its name, *box* its bounds; *path* is the path by its
    letter, *way* by its title. *on*: the machine it is done on, if not the first. *cut*: it ends with a cut.
    *starts*: it begins with a new start. *took* are the inches of thread that it takes from the bobbin.
    *parts* are the seconds foretold, by what the studio's rates call them; *check* is what is looked at
    before.
    """

    number: int
    kind: str
    first: int
    stop: int
    thread: str = ""
    entry: str = ""
    zone: str = ""
    station: str = ""
    place: str = ""
    path: str = ""
    way: str = ""
    reach: int = 1
    on: str = ""
    title: str = ""
    detail: str = ""
    seconds: float = 0.0
    inches: float = 0.0
    spi: float = 0.0
    took: float = 0.0
    cut: bool = False
    starts: bool = False
    box: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    parts: dict[str, float] = field(default_factory=dict)
    runs: list[str] = field(default_factory=list)
    check: list[str] = field(default_factory=list)


def route_legs(job: Job, route: Mapping[str, Any], units: str = "in") -> list[Leg]:
    """The legs of a route as its JSON holds it; every step lies in one of them."""
    steps = route["steps"]
    legs = _cut(steps, junctions(job.chart))
    _Teller(job, route, units).tell(legs)
    return legs


def _cut(steps: Sequence[Mapping[str, Any]], meets: Collection[tuple[float, float]]) -> list[Leg]:
    """Steps into legs: ways, starts and layings go with what they lead to, a cut with what it ends. A long
    way in the ditch is parted where seams meet."""
    legs: list[Leg] = []
    now: Leg | None = None
    key: tuple = ()
    begun = 0
    for number, step in enumerate(steps):
        kind = step["kind"]
        if kind == "tie_off" and now is not None and now.kind not in ALONE and begun == number:
            now.stop, now.cut, key = number + 1, True, ()
            begun = number + 1
            continue
        theirs: tuple
        if kind in ALONE:
            theirs = (kind, step["reach"], step["thread"] if kind == "thread" else "")
        elif kind == "stitch" and step["seams"]:
            theirs = ("ditch", step["station"], step["path"], step["reach"], step["thread"])
        elif kind == "stitch" or (kind == "travel" and step["run"]):
            theirs = ("fill", step["run"])
        else:
            continue
        parted = now is not None and now.kind == "ditch" and _long(steps, now, meets)
        if now is None or theirs != key or kind in ("bobbin", "roll") or parted:
            now = Leg(len(legs), theirs[0], begun, number + 1)
            legs.append(now)
            key = theirs
        now.stop = begun = number + 1
    if legs and begun < len(steps):
        legs[-1].stop = len(steps)
    return _gathered(legs, steps)


def _long(steps, leg: Leg, meets: Collection[tuple[float, float]]) -> bool:
    """Whether a leg in the ditch is long enough, and ends where seams meet."""
    points = steps[leg.stop - 1]["points"]
    there = bool(points) and (round(points[-1][0], 2), round(points[-1][1], 2)) in meets
    return there and _seconds(steps, leg.first, leg.stop) >= LONG


def _gathered(legs: list[Leg], steps: Sequence[Mapping[str, Any]]) -> list[Leg]:
    """Small fillings of one design in one place, one after the other, as one leg."""
    made: list[Leg] = []
    for leg in legs:
        last = made[-1] if made else None
        if last is not None and last.kind == leg.kind == "fill" and not last.cut:
            one, two = _main(steps, last), _main(steps, leg)
            alike = all(one[name] == two[name] for name in ("station", "entry", "thread", "reach"))
            fresh = any(step["kind"] in ("start", "path") for step in steps[leg.first : leg.stop])
            both = _seconds(steps, last.first, leg.stop)
            if alike and not fresh and both <= SMALL:
                last.stop, last.cut = leg.stop, leg.cut
                continue
        leg.number = len(made)
        made.append(leg)
    return made


def _seconds(steps: Sequence[Mapping[str, Any]], first: int, stop: int) -> float:
    return sum(step["seconds"] for step in steps[first:stop])


def _main(steps: Sequence[Mapping[str, Any]], leg: Leg) -> Mapping[str, Any]:
    """The step by which a leg is known: its first stitching, else its first of its own kind."""
    mine = steps[leg.first : leg.stop]
    wanted = "stitch" if leg.kind in ("ditch", "fill") else leg.kind
    return next((step for step in mine if step["kind"] == wanted), mine[-1])


class _Teller:
    def __init__(self, job: Job, route: Mapping[str, Any], units: str) -> None:
        self.job, self.units, self.route = job, units, route
        self.steps = route["steps"]
        stations = [
            *stations_of(job.chart, job.zones),
            *figure_stations(route.get("over") or {}, job.zones),
        ]
        self.stations: dict[str, Station] = {each.key: each for each in stations}
        self.threads = {thread.key: thread for thread in job.threads}
        self.labels = {zone.id: zone.label or zone.id for zone in job.zones}
        self.shapes = {zone.id: zone.polygon for zone in job.zones}
        self.titles = {each["key"]: each["title"] for each in route.get("paths", ())}
        self.passes = {each["number"]: each for each in route.get("passes", ())}
        self.entries = {entry.id: entry for entry in job.legend}

    def tell(self, legs: list[Leg]) -> None:
        gone: set[str] = set()
        for leg in legs:
            mine = self.steps[leg.first : leg.stop]
            main = _main(self.steps, leg)
            leg.thread, leg.entry, leg.zone = main["thread"], main["entry"], main["zone"]
            leg.station, leg.path, leg.reach = main["station"], main["path"], main["reach"]
            leg.way = self.titles.get(leg.path, "")
            leg.on = self._machine(leg).name if self._another(leg) else ""
            leg.seconds = sum(step["seconds"] for step in mine)
            leg.inches = sum(step["inches"] for step in mine if step["kind"] == "stitch")
            leg.starts = any(step["kind"] == "start" for step in mine)
            leg.runs = list(dict.fromkeys(step["run"] for step in mine if step["run"]))
            leg.spi = spi_in(self.entries.get(leg.entry), main["run"], main["seams"]) or 0.0
            leg.took = self._took(leg, mine)
            leg.box = self._box(leg, mine)
            station = self.stations.get(leg.station)
            leg.place = station.name if station is not None else self.labels.get(leg.zone, "")
            leg.parts = _parts(mine)
            again = bool(leg.runs) and leg.runs[0] in gone
            gone.update(leg.runs)
            leg.title, leg.detail = self._words(leg, mine, main)
            if again and leg.kind == "fill":
                leg.title = f"Go on: {leg.title[:1].lower()}{leg.title[1:]}"
            if leg.cut and leg.kind in ("ditch", "fill"):
                leg.detail = "; ".join(filter(None, (leg.detail, "then tie off and cut")))

    def _took(self, leg: Leg, mine) -> float:
        machine, loft = self._machine(leg), self.job.loaded_machine.loft
        took = sum(
            thread_inches(step["inches"], BASTING if step["kind"] == "secure" else leg.spi or ORDINARY, loft)
            for step in mine if step["kind"] in ("stitch", "travel", "secure")
        )  # fmt: skip
        starts = sum(step["kind"] == "start" for step in mine)
        return took + starts * thread_inches(0.0, ORDINARY, loft, 1, machine.tail)

    def _another(self, leg: Leg) -> bool:
        return bool(self.passes.get(leg.reach, {}).get("another"))

    def _machine(self, leg: Leg) -> Machine:
        return self.job.machine_in(self._another(leg))

    def _box(self, leg: Leg, mine) -> tuple[float, float, float, float]:
        station = self.stations.get(leg.station)
        points = [np.asarray(step["points"], float) for step in mine if len(step["points"])]
        if station is not None and leg.kind in ("ditch", "fill", "unpick"):
            bounds = np.array(station.bounds, float)
        elif points:
            whole = np.concatenate(points)
            bounds = np.concatenate([whole.min(axis=0), whole.max(axis=0)])
        else:
            x0, y0, x1, y1 = self.job.chart.outline.bounds
            window = self.passes.get(leg.reach, {"top": y0, "bottom": y1})
            bounds = np.array([x0, window["top"], x1, window["bottom"]])
        if points:
            whole = np.concatenate(points)
            bounds[:2] = np.minimum(bounds[:2], whole.min(axis=0))
            bounds[2:] = np.maximum(bounds[2:], whole.max(axis=0))
        x0, y0, x1, y1 = (round(float(value), 2) for value in bounds)
        return x0, y0, x1, y1

    def _words(self, leg: Leg, mine, main) -> tuple[str, str]:
        told = getattr(self, f"_{leg.kind}")(leg, mine, main)
        return told if isinstance(told, tuple) else (told, "")

    # --- what is stitched
    def _fill(self, leg: Leg, mine, main) -> tuple[str, str]:
        lines: dict[str, list[np.ndarray]] = {}
        for step in mine:
            if step["kind"] == "stitch":
                lines.setdefault(step["run"], []).append(np.asarray(step["points"], float))
        if not lines:
            # Where the quilt is rolled under the needle on a long way from line to line.
            inches = format_length(round(sum(step["inches"] for step in mine), 1), self.units)
            return "Along the edge, on to the next line", inches
        design = design_name(self.job, main)
        station = self.stations.get(leg.station)
        box = station.bounds if station is not None else leg.box
        middles = [(whole.min(axis=0) + whole.max(axis=0)) / 2
                   for whole in (np.concatenate(parts) for parts in lines.values())]  # fmt: skip
        many = station is not None and len(station.zones) > 1
        spot = place_in(box, middles[0])
        where = _where(box, middles[0], spot) if many else ""
        times = f", {len(lines)} times" if len(lines) > 1 else ""
        title = f"{design}{times}{' ' + where if where and not times else ''}"
        if times and many:
            title += f", first {where}"
        elif not many and leg.place:
            title += f", {leg.place}"
        first, last = next(iter(lines.values()))[0][0], list(lines.values())[-1][-1][-1]
        told = [self._in_and_out(leg, first, last, len(lines) > 1)]
        told += self._laid(mine)
        return title, "; ".join(told)

    def _in_and_out(self, leg: Leg, first, last, several: bool) -> str:
        """Where one comes in and goes out: told of the zone itself where there is but one."""
        shape = self.shapes.get(leg.zone)
        own = shape is not None and not several
        box = shape.bounds if own and shape is not None else leg.box
        one, two = place_in(box, first), place_in(box, last)
        its = "its" if own else "the"
        return (
            f"in and out at {its} {one}" if one == two else f"in at {its} {one}, out at {its} {two}"
        )

    def _laid(self, mine) -> list[str]:
        drawn = sum(s["count"] for s in mine if s["kind"] == "ruler" and s["how"] == "by hand")
        if drawn:
            return [
                f"{drawn} stretch{'es' if drawn > 1 else ''} by hand along a drawn line: no ruler fits"
            ]
        layings = sum(step["count"] for step in mine if step["kind"] == "ruler")
        reasons = dict.fromkeys(
            step["reason"] for step in mine if step["kind"] == "ruler" and step["reason"]
        )
        if not layings or self.job.policy.straight == "eye":
            return []
        times = "once" if layings == 1 else f"{layings} times"
        how = f": {in_units(next(iter(reasons)), self.units)}" if len(reasons) == 1 else ""
        if layings > 1 and self.job.machine.kind == "sit-down":
            # Nothing holds the quilt but the needle while both hands lay the ruler.
            return [f"ruler laid {layings} times, needle down in between{how}"]
        return [f"ruler laid {times}{how}"]

    def _ditch(self, leg: Leg, mine, main) -> tuple[str, str]:
        moving = [np.asarray(s["points"], float) for s in mine
                  if s["kind"] in ("stitch", "travel") and len(s["points"]) > 1]  # fmt: skip
        points = np.concatenate(moving)
        if leg.path in ("", "seams"):
            box = self.job.chart.outline.bounds
            ways = legs_of(points)
            way = f", {heading(ways[0])}" if len(ways) == 1 else ""
            title = f"Long seams, straight on{way}" if way else "Long seams, straight on"
            first, last = place_in(box, points[0]), place_in(box, points[-1])
            return title, f"from the {first} of the quilt to the {last}"
        ways = legs_of(points)
        turns = ""
        if len(ways) <= TELLING + 1:
            inches = [format_length(float(np.hypot(*(w[1] - w[0]))), self.units) for w in ways]
            told = [f"{heading(w)} {far}" for w, far in zip(ways, inches, strict=True)]
            turns = ": " + ", ".join(told)
        detail = (
            f"in at the {place_in(leg.box, points[0])}, out at the {place_in(leg.box, points[-1])}"
        )
        return f"In the ditch, {leg.place}" if leg.place else "In the ditch", detail + turns

    # --- what is done between
    def _mark(self, leg: Leg, mine, main) -> tuple[str, str]:
        names = dict.fromkeys(
            self.entries[step["entry"]].name for step in mine if step["entry"] in self.entries
        )
        count = sum(step["count"] for step in mine)
        first, *more = [*names] or ["the design"]
        told = first if not more else f"{first} and {len(more)} more"
        all_of_them = f" in {', '.join(names)}" if more else ""
        pen = PENS[self.job.policy.pen]
        fades = f"; they fade in about {pen.life:.0f} min" if pen.life else ""
        return (
            f"Mark {told}",
            f"{marks_told(count)}{all_of_them} with {pen.name}; only what is needed{fades}",
        )

    def _unmark(self, leg: Leg, mine, main) -> tuple[str, str]:
        return "Take the marks out", f"{PENS[self.job.policy.pen].out}; try it on a scrap first"

    def _thread(self, leg: Leg, mine, main) -> tuple[str, str]:
        thread = self.threads.get(leg.thread)
        name = thread.name if thread else leg.thread
        return f"Thread {name}", "top and bobbin; try the tension on the edge of the batting"

    def _bobbin(self, leg: Leg, mine, main) -> tuple[str, str]:
        return "Change the bobbin", in_units(main["reason"], self.units)

    def _roll(self, leg: Leg, mine, main) -> tuple[str, str]:
        if main["how"] == "under":
            return "Roll the quilt under the needle", "needle down, machine stopped; nothing is cut"
        window = self.passes.get(leg.reach)
        if window is None:
            return "Roll the quilt", ""
        top, bottom = (format_length(window[side], self.units) for side in ("top", "bottom"))
        if self._machine(leg).kind != "frame":
            return "Turn the quilt", f"from {top} to {bottom} down can be reached"
        return f"Roll {main['how']} to pass {leg.reach}", f"from {top} to {bottom} down the quilt"

    def _move(self, leg: Leg, mine, main) -> tuple[str, str]:
        who = self.job.handover.who if self.job.handover else ""
        how = "cut, rolled loosely, nothing dragging; the basting stays in"
        on = f"{who} goes on at the {leg.on}" if who else f"the rest is stitched on the {leg.on}"
        return f"Over to the {leg.on}", f"{how}; {on}"

    def _secure(self, leg: Leg, mine, main) -> tuple[str, str]:
        if main["run"].startswith("hold:"):
            return "Baste across", f"{basting_in(self.units)}, as dotted"
        return "Baste along the edge", f"within what the binding hides, {basting_in(self.units)}"

    def _unpick(self, leg: Leg, mine, main) -> tuple[str, str]:
        inches = format_length(round(sum(step["inches"] for step in mine)), self.units)
        return "Take out the basting", f"{inches}, before it is stitched over"

    def _tuck(self, leg: Leg, mine, main) -> tuple[str, str]:
        count = len(mine)
        return ("Lay a tuck" if count == 1 else f"Lay {count} tucks"), "in seams, and pin"


def _where(box, middle, spot: str) -> str:
    """Where something lies in a place, more closely where that is its middle: four may meet there."""
    if spot != "middle":
        return f"at the {spot}"
    x0, y0, x1, y1 = box
    wide, tall = 0.3 * (x1 - x0), 0.3 * (y1 - y0)
    closely = place_in((x0 + wide, y0 + tall, x1 - wide, y1 - tall), middle)
    return "in the middle" if closely == "middle" else f"in the middle, {closely}"


COUNTED = {
    "ruler": "ruler_move", "thread": "thread_change", "bobbin": "bobbin", "roll": "advance",
    "path": "look_up", "mark": "mark", "unmark": "unmark", "tuck": "tuck", "unpick": "unpick",
    "secure": "basting", "move": "move",
}  # fmt: skip


def _parts(mine: Sequence[Mapping[str, Any]]) -> dict[str, float]:
    """Seconds foretold by what they are spent on: techniques of stitching, and the rest by its rate."""
    found: dict[str, float] = {}
    for step in mine:
        kind = step["kind"]
        if kind == "stitch":
            name = "ditch" if step["seams"] else step["how"]
        elif kind == "travel":
            name = "ditch" if step["how"] in ("ditch", "edge", "link") else step["how"]
        elif kind in ("start", "tie_off"):
            name = "cut"
        else:
            name = COUNTED[kind]
        found[name] = round(found.get(name, 0.0) + step["seconds"], 2)
    return {name: seconds for name, seconds in found.items() if seconds > 0}
