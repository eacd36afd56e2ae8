"""A cone that will not last: the changes of design or thread that would make it reach, before the first
stitch."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry
from chorograph_core.job import Job, job_linework
from chorograph_core.reckon import reckon
from chorograph_core.steering.helping import Help, apart, spacing_now, with_help

STEPS = (1.25, 1.5, 2.0)
"""How much wider a spacing is tried, the least change first."""
MOST = 4
MARGIN, SPARE = 1.1, 2.0
"""How much more a change must save than is missing, and so many yards beside: the ways between lines come out
otherwise with the lines."""


@dataclass(frozen=True)
class Reaching:
    """Changes made together that save so many *yards* of a thread, top and bobbin, reserve included;
    *takes* is what they take more of other threads, by key."""

    changes: tuple[Help, ...]
    yards: float
    takes: Mapping[str, float]


def ways_to_reach(
    job: Job, thread: str, missing: float, free: Mapping[str, float], cache: DrawingCache
) -> list[Reaching]:
    """Up to `MOST` ways in which *thread*, of which so many yards are *missing*, would reach: single changes,
    the smallest first; where none is enough, lines as wide as they may be, or as much as must be in another
    thread, the nearest colour first; then both. *free* is what other threads have to spare, yards."""
    missing = missing * MARGIN + SPARE
    singles: list[Reaching] = []
    widest: list[Reaching] = []
    moves: dict[str, list[Reaching]] = {}
    most = job.intake.batting.gap if job.intake.batting is not None else 4.0
    for entry in job.legend:
        for number, layer in enumerate(entry.layers):
            if layer.thread != thread:
                continue
            before = _yards(job, entry, cache)
            wider = [made for made in _widened(job, entry, number, most, before, cache)
                     if made.yards >= 1]  # fmt: skip
            enough = next((made for made in wider if made.yards >= missing), None)
            if enough is not None:
                singles.append(enough)
            elif wider:
                widest.append(wider[-1])
            for other in job.threads:
                if other.key == thread or other.key not in free:
                    continue
                made = _moved(job, entry, number, thread, other.key, before, cache)
                if made.yards >= 1 and made.takes.get(other.key, 0.0) <= free[other.key]:
                    moves.setdefault(other.key, []).append(made)
    singles += [made for some in moves.values() for made in some if made.yards >= missing]
    colours = {each.key: each for each in job.threads}

    def least(each: Reaching) -> tuple[bool, float, float]:
        """Wider lines first, then the thread whose colour comes nearest."""
        change = each.changes[0]
        if change.kind == "wider":
            return (False, 0.0, each.yards)
        return (True, apart(colours[thread], colours[change.other]), each.yards)

    singles.sort(key=least)
    if singles:
        return singles[:MOST]
    nearest = sorted(moves, key=lambda key: apart(colours[thread], colours[key]))
    ways = [_together(widest, missing)]
    ways += [_together([], missing, {key: moves[key]}, free) for key in nearest]
    if not any(ways):
        ways = [_together(widest, missing, {key: moves[key]}, free) for key in nearest]
    if not any(ways):
        ways = [_together(widest, missing, {key: moves[key] for key in nearest}, free)]
    return [way for way in ways if way is not None][:MOST]


def _together(
    widest: Sequence[Reaching], missing: float, moves: Mapping[str, Sequence[Reaching]] | None = None,
    free: Mapping[str, float] | None = None,
) -> Reaching | None:  # fmt: skip
    """As few of the largest savings as are enough: *moves* to other threads, as far as what is *free* of
    those goes, then lines as wide as they may be; None where all are not."""
    chosen: list[Reaching] = []
    left = dict(free or {})
    gone: set[tuple[str, int]] = set()

    def saved() -> float:
        return sum(each.yards for each in chosen)

    for key, some in (moves or {}).items():
        for made in sorted(some, key=lambda each: -each.yards):
            change, takes = made.changes[0], made.takes.get(key, 0.0)
            if (
                saved() < missing
                and (change.entry, change.layer) not in gone
                and takes <= left[key]
            ):
                chosen.append(made)
                gone.add((change.entry, change.layer))
                left[key] -= takes
    for made in sorted(widest, key=lambda each: -each.yards):
        change = made.changes[0]
        if saved() < missing and (change.entry, change.layer) not in gone:
            chosen.append(made)
    if saved() < missing or not chosen:
        return None
    total: dict[str, float] = {}
    for made in chosen:
        for key, yards in made.takes.items():
            total[key] = total.get(key, 0.0) + yards
    return Reaching(tuple(change for each in chosen for change in each.changes), saved(), total)


def _widened(job: Job, entry: Entry, number: int, most: float, before, cache) -> list[Reaching]:
    spacing = spacing_now(entry.layers[number])
    if spacing is None:
        return []
    parameter, now = spacing
    made: list[Reaching] = []
    for step in STEPS:
        to = min(round(now * step * 8) / 8, parameter.high)
        if to <= now or (parameter.key != "size" and to > most):
            continue
        change = Help("wider", entry.id, number, parameter.key, to)
        try:
            after = _yards(with_help(job, change), _same(with_help(job, change), entry), cache)
        except ValueError:
            continue
        thread = entry.layers[number].thread
        made.append(Reaching((change,), before.get(thread, 0.0) - after.get(thread, 0.0), {}))
    return made


def _moved(job: Job, entry: Entry, number: int, thread: str, other: str, before, cache) -> Reaching:
    change = Help("moved", entry.id, number, thread=thread, other=other)
    after = _yards(with_help(job, change), _same(with_help(job, change), entry), cache)
    takes = {key: after[key] - before.get(key, 0.0) for key in after
             if after[key] - before.get(key, 0.0) > 0.05}  # fmt: skip
    return Reaching((change,), before.get(thread, 0.0) - after.get(thread, 0.0), takes)


def _same(job: Job, entry: Entry) -> Entry:
    return next(each for each in job.legend if each.id == entry.id)


def _yards(job: Job, entry: Entry, cache: DrawingCache) -> dict[str, float]:
    """Yards of each thread that the lines of an entry take, top and bobbin, reserve included; ditches, which
    neighbours share, left out."""
    drawn = [
        replace(one, linework=replace(
            one.linework, runs=tuple(run for run in one.linework.runs if not run.in_ditch)))
        for one in job_linework(job, cache, {entry.id})
    ]  # fmt: skip
    machine = job.loaded_machine
    whole, _ = reckon(drawn, machine)
    return {
        key: 2 * inches * (1 + machine.reserve) / 36 for key, inches in whole.thread_inches.items()
    }
