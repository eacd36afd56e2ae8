"""A quilter who is made up, and how she follows a plan: with a hand of her own, tired, interrupted, off the
plan.

Drives rehearsals, the demo and tests. The same *seed* gives the same day.
"""

from __future__ import annotations

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


NIGHT = 20 * 3600.0
"""Seconds from the end of one day to the morning of the next."""


def rehearse(
    legs: Sequence[Leg], quilter: Quilter, seed: int, stands: str = "", stop_after: float = np.inf
) -> Iterator[Event]:
    """How she follows *legs*, those left out that *stands* calls done, until she has been at the machine for
    *stop_after* seconds."""
    rng = np.random.default_rng(seed)
    stands = stands or "." * len(legs)
    clock = worked = since_rest = today = 0.0
    last: float | None = None
    left = quilter.bobbin
    later: list[int] = []

    def event(kind: str, leg: int, text: str = "") -> Event:
        nonlocal last
        made = Event(clock, kind, leg, None if last is None else clock - last, text)
        last = clock
        return made

    open_legs = [leg.number for leg in legs if stands[leg.number] not in "xo"]
    for number in [*open_legs, -1]:
        todo = [number] if number >= 0 else later
        for leg in (legs[k] for k in todo):
            if worked >= stop_after:
                yield event("stop", leg.number)
                return
            if number >= 0 and rng.random() < quilter.skips and leg.kind == "fill":
                later.append(leg.number)
                yield event("skip", leg.number, "not in the mood for it today")
                continue
            if leg.kind == "bobbin":
                left = quilter.bobbin * float(rng.uniform(0.9, 1.1))
            left -= leg.took
            if quilter.bobbin and left < 0:
                left = quilter.bobbin * float(rng.uniform(0.9, 1.1))
                clock += 75.0
                yield event("bobbin", leg.number, "it held less than was thought")
            took = _takes(leg, quilter, rng, since_rest)
            if rng.random() < quilter.called_away:
                clock += float(rng.uniform(900, 2700))
            clock, worked = clock + took, worked + took
            since_rest, today = since_rest + took, today + took
            if rng.random() < quilter.thread_breaks and leg.kind == "fill":
                yield event(
                    "broke",
                    leg.number,
                    str(rng.choice(["to the left", "away from me", "at a seam"])),
                )
                clock += 90.0
            kind = "other" if rng.random() < quilter.others and leg.kind == "fill" else "done"
            yield event(
                kind, leg.number, "another motif suggested itself" if kind == "other" else ""
            )
            if rng.random() < quilter.rips and leg.kind == "fill":
                yield event("rip", leg.number, "the ruler slipped")
                clock += 1.5 * took
                yield event("done", leg.number)
            if since_rest > quilter.break_after * 60 and (
                leg.cut or leg.kind in ("roll", "thread", "fill")
            ):
                clock += float(rng.uniform(0.7, 1.4)) * quilter.break_minutes * 60
                since_rest = 0.0
                yield event("rest", leg.number)
            if today > quilter.hours * 3600:
                yield event("stop", leg.number)
                clock += NIGHT
                today = since_rest = 0.0
                yield event("go", leg.number)


def _takes(leg: Leg, quilter: Quilter, rng: np.random.Generator, since_rest: float) -> float:
    """Seconds that a leg takes her today."""
    mean = sum(seconds * quilter.factors.get(name, 1.0) for name, seconds in leg.parts.items())
    tired = 1 + quilter.tires * since_rest / 3600
    s = quilter.strays
    return float(mean * tired * rng.lognormal(-s * s / 2, s)) + 1.0
