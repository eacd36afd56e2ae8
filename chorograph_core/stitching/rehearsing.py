"""A quilter who is made up, and how she follows a plan: with a hand of her own, tired, interrupted, off the
plan.

Drives rehearsals, the demo and tests. The same *seed* gives the same day.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from chorograph_core.stitching.legs import Leg


@dataclass(frozen=True)
class Quilter:
    """*factors* is how many times as long as foretold she takes, by technique; *strays* by what share one
    thing differs from the next; *tires*: how much longer everything takes after an hour without a break, as a
    share. Every *break_after* minutes she rests for some *break_minutes*; *hours* is a day at the machine.
    The chances are for each leg: that the thread breaks, that she is called away, that it is ripped out,
    left for later, or stitched otherwise. A *bobbin* of so many inches (0: never looked at) holds a tenth
    more or less.
    """

    factors: Mapping[str, float] = field(default_factory=dict)
    strays: float = 0.2
    tires: float = 0.08
    break_after: float = 55.0
    break_minutes: float = 12.0
    hours: float = 4.0
    thread_breaks: float = 0.01
    called_away: float = 0.01
    rips: float = 0.004
    bobbin: float = 0.0
    skips: float = 0.0
    others: float = 0.0


@dataclass(frozen=True)
class Event:
    """Something that happened: *seconds* since the rehearsal began, by the wall; *lasted* since the event
    before, by the clock of the device (None where it was opened anew)."""

    seconds: float
    kind: str
    leg: int
    lasted: float | None
    text: str = ""


DAY = 24 * 3600.0
"""Seconds from one morning to the next."""


def rehearse(
    legs: Sequence[Leg], quilter: Quilter, seed: int, stands: str = "", stop_after: float = np.inf
) -> Iterator[Event]:
    """How she follows *legs*, those left out that *stands* calls done, until she has been at the machine for
    *stop_after* seconds."""
    stands = stands or "." * len(legs)
    todo = [leg for leg in legs if stands[leg.number] not in "xo"]
    return _Rehearsal(quilter, seed).follow(todo, stop_after)


class _Rehearsal:
    """Her days: the *clock* on the wall, seconds *worked* in all, *today*, and since she rested; what is
    left on the *bobbin*."""

    def __init__(self, quilter: Quilter, seed: int) -> None:
        self.quilter, self.rng = quilter, np.random.default_rng(seed)
        self.clock = self.worked = self.since_rest = self.today = self.morning = 0.0
        self.bobbin, self.thread = quilter.bobbin, ""
        self.aside: dict[str, float] = {}
        self.last: float | None = None

    def follow(self, legs: Sequence[Leg], stop_after: float) -> Iterator[Event]:
        queue, skipped = deque(legs), set()
        while queue:
            leg = queue.popleft()
            if self.worked >= stop_after:
                yield self._event("stop", leg)
                return
            fill = leg.kind == "fill" and leg.number not in skipped
            if fill and self._happens(self.quilter.skips):
                # It comes again when all else is done.
                skipped.add(leg.number)
                queue.append(leg)
                yield self._event("skip", leg, "not in the mood for it today")
            else:
                yield from self._stitch(leg)
                yield from self._rest(leg)

    def _stitch(self, leg: Leg) -> Iterator[Event]:
        quilter, fill = self.quilter, leg.kind == "fill"
        if leg.kind == "bobbin":
            self._wind()
        if leg.kind == "thread" and leg.thread != self.thread:
            self._change_thread(leg.thread)
        self.bobbin -= leg.took
        if quilter.bobbin and self.bobbin < 0:
            self._wind()
            self.clock += 75.0
            yield self._event("bobbin", leg, "it held less than was thought")
        took = self._takes(leg)
        if self._happens(quilter.called_away):
            self.clock += float(self.rng.uniform(900, 2700))
        self._work(took)
        if fill and self._happens(quilter.thread_breaks):
            way = str(self.rng.choice(["to the left", "away from me", "at a seam"]))
            yield self._event("broke", leg, way)
            self.clock += 90.0
        if fill and self._happens(quilter.others):
            yield self._event("other", leg, "another motif suggested itself")
        else:
            yield self._event("done", leg)
        if fill and self._happens(quilter.rips):
            yield self._event("rip", leg, "the ruler slipped")
            self._work(1.5 * took)
            yield self._event("done", leg)

    def _rest(self, leg: Leg) -> Iterator[Event]:
        """A break at a good place, and the night."""
        good = leg.cut or leg.kind in ("roll", "thread", "fill")
        if good and self.since_rest > self.quilter.break_after * 60:
            self.clock += float(self.rng.uniform(0.7, 1.4)) * self.quilter.break_minutes * 60
            self.since_rest = 0.0
            yield self._event("rest", leg)
        if self.today > self.quilter.hours * 3600:
            yield self._event("stop", leg)
            self.morning += DAY * (1 + (self.clock - self.morning) // DAY)
            self.clock = self.morning
            self.today = self.since_rest = 0.0
            yield self._event("go", leg)

    def _happens(self, chance: float) -> bool:
        return bool(self.rng.random() < chance)

    def _change_thread(self, thread: str) -> None:
        """Below lies the same thread as on top, each on a bobbin of its own."""
        if self.thread:
            self.aside[self.thread] = self.bobbin
            self._wind()
            self.bobbin = self.aside.pop(thread, self.bobbin)
        self.thread = thread

    def _wind(self) -> None:
        self.bobbin = self.quilter.bobbin * float(self.rng.uniform(0.9, 1.1))

    def _work(self, seconds: float) -> None:
        self.clock += seconds
        self.worked += seconds
        self.since_rest += seconds
        self.today += seconds

    def _event(self, kind: str, leg: Leg, text: str = "") -> Event:
        lasted = None if self.last is None else self.clock - self.last
        self.last = self.clock
        return Event(self.clock, kind, leg.number, lasted, text)

    def _takes(self, leg: Leg) -> float:
        """Seconds that a leg takes her today."""
        factors, s = self.quilter.factors, self.quilter.strays
        mean = sum(seconds * factors.get(name, 1.0) for name, seconds in leg.parts.items())
        tired = 1 + self.quilter.tires * self.since_rest / 3600
        return float(mean * tired * self.rng.lognormal(-s * s / 2, s)) + 1.0
