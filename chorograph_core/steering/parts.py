"""Parts of a route: what is filled between two moments of it, to be kept in its order or exchanged with
another part."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from chorograph_core.route import Step
from chorograph_core.route.model import Wish


class NoPart(ValueError):
    """Nothing there can be kept or exchanged. The message says why."""


@dataclass(frozen=True)
class Part:
    """What is filled in one *thread* for so many *minutes*: the *zones* in the order of their stitching, the
    *passes* they lie in, the *stations* that are gone through. *once* are the zones that are come to once
    alone, by their stations: of what is done in several goes no order can be told."""

    thread: str
    zones: tuple[str, ...]
    passes: tuple[int, ...]
    stations: tuple[str, ...]
    minutes: float
    once: tuple[tuple[str, str], ...]

    @property
    def firm(self) -> tuple[str, ...]:
        """The zones of which an order can be told; all, where there are none."""
        return tuple(zone for zone, _ in self.once) or self.zones


def part_of(
    steps: Sequence[Step], begins: float, ends: float, over: Mapping[str, Collection[str]]
) -> Part:
    """What is filled from *begins* to *ends*, seconds into a route, whole places only: each in which
    something of that time falls, in the thread that takes most of it. *over* has the zones under each
    figure. Raises `NoPart` where only seams are stitched, or less.
    """
    visits = visits_of(steps)
    there = [visit for visit in visits if visit.begins < ends - 1e-6 and visit.ends > begins + 1e-6]
    if not there:
        raise NoPart(
            "No zone is filled in this part of the route. The order of seams follows from going straight on."
        )
    seconds: dict[str, float] = defaultdict(float)
    for visit in there:
        seconds[visit.thread] += min(visit.ends, ends) - max(visit.begins, begins)
    thread = max(seconds, key=lambda name: seconds[name])
    mine = [visit for visit in there if visit.thread == thread]
    goes: dict[str, list[str]] = defaultdict(list)
    for visit in visits:
        if visit.thread == thread:
            for zone in _under(visit, over):
                goes[zone].append(visit.station)
    zones = dict.fromkeys(zone for visit in mine for zone in _under(visit, over))
    return Part(
        thread, tuple(zones), tuple(sorted({visit.reach for visit in mine})),
        tuple(dict.fromkeys(visit.station for visit in mine)),
        sum(visit.ends - visit.begins for visit in mine) / 60,
        tuple((zone, goes[zone][0]) for zone in zones if len(goes[zone]) == 1),
    )  # fmt: skip


def kept_in_order(part: Part) -> Wish:
    """The wish that a part shall go on being stitched in the order it has."""
    if len({station for _, station in part.once}) < 2:
        raise NoPart("This is one place alone: put its path in an order of your own instead.")
    return Wish("kept", part.firm, thread=part.thread)


def exchanged(part: Part, other: Part, later: bool) -> Wish:
    """The wish that *part* comes before *other*, or after it where it is to be done *later*. Raises `NoPart`
    where no wish can bring that about."""
    if part.thread != other.thread:
        raise NoPart(
            "They are stitched in other threads, whose order the way of working says: exchange parts of one "
            "thread."
        )
    if set(part.passes).isdisjoint(other.passes):
        raise NoPart(
            "They lie in other passes of the frame; what is not under the needle cannot come first."
        )
    if not set(part.stations).isdisjoint(other.stations):
        raise NoPart("It is the same place: put its path in an order of your own instead.")
    first, second = (other, part) if later else (part, other)
    after = tuple(zone for zone in second.firm if zone not in set(first.firm))
    return Wish("before", first.firm, after, part.thread)


def _under(visit: Visit, over: Mapping[str, Collection[str]]) -> dict[str, None]:
    return dict.fromkeys(zone for name in visit.zones for zone in over.get(name, (name,)))


@dataclass
class Visit:
    """A place gone through in one go: the *zones* filled there, from when to when."""

    station: str
    thread: str
    reach: int
    begins: float
    ends: float
    zones: dict[str, None]


def visits_of(steps: Sequence[Step]) -> list[Visit]:
    """The places in which zones are filled, in the order in which they are gone through."""
    made: list[Visit] = []
    at = 0.0
    for step in steps:
        if step.kind == "stitch" and not step.seams and step.zone:
            last = made[-1] if made else None
            where = (step.station, step.thread, step.reach)
            if last is None or (last.station, last.thread, last.reach) != where:
                last = Visit(*where, at, at, {})
                made.append(last)
            last.zones[step.zone] = None
            last.ends = at + step.seconds
        at += step.seconds
    return made
