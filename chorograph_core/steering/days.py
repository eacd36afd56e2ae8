"""The plan cut into days: each ends where a stop is clean, with breaks for the back on the way."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from chorograph_core.route import Step

BREAK = 50.0
"""Minutes after which back, neck and arm want a break."""
EARLY = 0.8
"""Of a day's minutes: from there on a clean stop is worth going home earlier."""
NEAR = 8.0
"""Minutes by which a break waits, or comes early, for the end of a line."""
REASONS = (
    "where the thread is changed",
    "before the quilt is rolled on",
    "at the end of a path",
    "at the end of a line",
    "in the middle of a line",
)
"""How clean a stop is, the cleanest first."""


CARRIED = -2
"""How a day ends after which the quilt lies under another machine."""


@dataclass(frozen=True)
class Day:
    """What is stitched on one day: from *begins* to *ends*, seconds along the route; *minutes* at the
    machine, the new start included that a stop with the needle down takes; *how* clean its end is (a place
    in `REASONS`, -1 for the end of all, `CARRIED` where the quilt goes to another machine); *breaks*, seconds
    along the route; *away*: stitched at that machine."""

    begins: float
    ends: float
    minutes: float
    how: int
    breaks: tuple[float, ...]
    away: bool = False

    @property
    def reason(self) -> str:
        """Where it ends, in words."""
        if self.how < 0:
            return "and it is carried over" if self.how == CARRIED else "and all is done"
        return f"ends {REASONS[self.how]}"


def days_of(
    steps: Sequence[Step], capacities: Iterable[float], cut_seconds: float, begins: float = 0.0
) -> list[Day]:
    """Cut a route into days that hold so many minutes each (*capacities*, days without any are passed over);
    it is taken up at *begins* seconds. What does not fit into any is left out.

    A stop where the thread is not cut anyway costs a cut and a new start, *cut_seconds*.
    """
    times, kinds, up = _stops(steps)
    whole = float(sum(step.seconds for step in steps))
    made: list[Day] = []
    at, owed = begins, 0.0
    hours: Iterator[float] = iter(capacities)
    while at < whole - 1e-6:
        room = next((60 * each for each in hours if each > 0), None)
        if room is None:
            break
        last = at + max(room - owed, 0.0)
        if last >= whole - 1e-6:
            made.append(Day(at, whole, (whole - at + owed) / 60, -1, _breaks(times, at, whole)))
            break
        stop, how, free = _end(times, kinds, up, at, last)
        if stop <= at + 1e-6:
            # A day shorter than what the start takes: it goes by.
            owed = max(0.0, owed - room)
            continue
        made.append(Day(at, stop, (stop - at + owed) / 60, how, _breaks(times, at, stop)))
        at, owed = stop, 0.0 if free else cut_seconds
    return made


def days_of_two(
    steps: Sequence[Step], own: Iterable[float], hers: Iterable[float], away: Collection[int],
    cut_seconds: float, begins: float = 0.0,
) -> list[Day]:  # fmt: skip
    """The same for a route that goes on at another machine, in the passes numbered *away*: what is done
    before it is carried over in days of *own* minutes, the rest in days of *hers*."""
    there = (k for k, step in enumerate(steps) if step.reach in away and step.kind != "move")
    over = next(there, len(steps))
    gone = float(sum(step.seconds for step in steps[:over]))
    made = days_of(steps[:over], own, cut_seconds, begins) if begins < gone else []
    if made and made[-1].how == -1:
        made[-1] = replace(made[-1], how=CARRIED)
    for each in days_of(steps[over:], hers, cut_seconds, max(begins - gone, 0.0)):
        breaks = tuple(gone + stop for stop in each.breaks)
        made.append(
            replace(
                each, begins=gone + each.begins, ends=gone + each.ends, breaks=breaks, away=True
            )
        )
    return made


def _stops(steps: Sequence[Step]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Where one can stop: seconds, how clean it is, whether the thread is cut there anyway."""
    times: list[float] = []
    kinds: list[int] = []
    up: list[bool] = []
    at, down = 0.0, False
    for number, step in enumerate(steps):
        kind = {"thread": 0, "roll": 1, "path": 2}.get(step.kind)
        if kind is None and number and step.kind == "stitch" and steps[number - 1].run != step.run:
            kind = 3
        if kind is not None and number:
            times.append(at)
            kinds.append(kind)
            up.append(not down)
        if step.kind in ("start", "stitch", "travel"):
            down = True
        elif step.kind in ("tie_off", "secure"):
            down = False
        at += step.seconds
    return np.array(times), np.array(kinds, int), np.array(up, bool)


def _end(times, kinds, up, at: float, last: float) -> tuple[float, int, bool]:
    """The best stop of a day that can go on to *last*: the cleanest of its last hours, else the latest."""
    for share in (EARLY, 0.4):
        there = np.flatnonzero((times > at + share * (last - at)) & (times <= last + 1e-6))
        if len(there):
            best = there[np.lexsort((-times[there], ~up[there], kinds[there]))[0]]
            return float(times[best]), int(kinds[best]), bool(up[best])
    return last, len(REASONS) - 1, False


def _breaks(times: np.ndarray, at: float, stop: float) -> tuple[float, ...]:
    """Breaks within a day, each where something ends if anything does near it."""
    made: list[float] = []
    here = at
    while stop - here > 1.4 * BREAK * 60:
        wished = here + BREAK * 60
        near = times[np.abs(times - wished) <= NEAR * 60]
        here = float(near[np.abs(near - wished).argmin()]) if len(near) else wished
        made.append(here)
    return tuple(made)
