"""What the taps at the machine say of the time it took: piece by piece, pauses left out by a rule one can
see."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any

from chorograph_core.estimating.learning import Timed

TIMES, MORE = 3.0, 300.0
"""What took more than three times as long as foretold, and five minutes more, had a pause in it."""
AFTERWARDS = 0.3
"""What was tapped in less than this share of what was foretold was tapped together with what comes next."""
COUNTS = ("done", "other")
RESTS = ("go", "rest")
"""Taps before which nobody stitched."""


@dataclass(frozen=True)
class Tapped:
    """A tap as the log reads it."""

    kind: str
    at: datetime
    device: str
    plan: int | None
    leg: int | None
    lasted: float | None
    facts: Mapping[str, Any]
    text: str = ""


@dataclass
class Piece:
    """Something that was done: what it was (*facts*), the seconds *foretold* and those it *took*, and the
    *pause* that was left out of them. *known* is False where the time was taken from the clock of the day."""

    at: datetime
    facts: Mapping[str, Any]
    foretold: float
    took: float
    pause: float = 0.0
    known: bool = True

    @property
    def parts(self) -> Mapping[str, float]:
        return self.facts.get("parts", {})


@dataclass
class Day:
    """A day at the machine: seconds *took*, *foretold* for the same, *pause* left out, *written* by hand."""

    day: date
    took: float = 0.0
    foretold: float = 0.0
    pause: float = 0.0
    written: float = 0.0
    pieces: int = 0


@dataclass
class Sum:
    """What one kind of thing took, and was foretold, in seconds."""

    name: str
    foretold: float = 0.0
    took: float = 0.0
    pieces: int = 0


@dataclass
class Log:
    """Pieces in order, the days, what was *written* down by hand (Tapped), and what went *otherwise*."""

    pieces: list[Piece] = field(default_factory=list)
    days: list[Day] = field(default_factory=list)
    written: list[Tapped] = field(default_factory=list)
    otherwise: list[Tapped] = field(default_factory=list)

    @property
    def took(self) -> float:
        """Seconds at the machine, those that were written down with them."""
        return sum(day.took + day.written for day in self.days)

    @property
    def foretold(self) -> float:
        """Seconds foretold for all that was timed."""
        return sum(piece.foretold for piece in self.pieces)

    @property
    def pause(self) -> float:
        return sum(piece.pause for piece in self.pieces)

    def by(self, what: Callable[[Piece], str]) -> list[Sum]:
        """Sums by a name for each piece, the longest first; pieces without a name are left out."""
        found: dict[str, Sum] = {}
        for piece in self.pieces:
            if name := what(piece):
                one = found.setdefault(name, Sum(name))
                one.foretold += piece.foretold
                one.took += piece.took
                one.pieces += 1
        return sorted(found.values(), key=lambda each: -each.took)

    def by_technique(self, names: Mapping[str, str]) -> list[Sum]:
        """Sums by technique, those of *names*: what a piece took is shared out as its seconds were
        foretold."""
        found: dict[str, Sum] = {}
        for piece in self.pieces:
            whole = sum(piece.parts.values())
            for key, seconds in piece.parts.items():
                if key in names and whole > 0:
                    one = found.setdefault(key, Sum(names[key]))
                    one.foretold += piece.foretold * seconds / whole
                    one.took += piece.took * seconds / whole
                    one.pieces += 1
        return sorted(found.values(), key=lambda each: -each.took)


def log_of(taps: Sequence[Tapped], zone=None) -> Log:
    """The log of one job from its *taps*, in order of their time; *zone* is the time zone that days are told
    in."""
    log = Log()
    before: dict[str, Tapped] = {}
    gathered: dict[str, float] = defaultdict(float)
    counted: set[tuple[int | None, int | None]] = set()
    for tap in taps:
        if tap.kind == "hand":
            log.written.append(tap)
            continue
        if tap.kind in ("other", "skip", "rip", "broke", "bobbin", "needle", "cut", "note"):
            log.otherwise.append(tap)
        seconds, known = _since(tap, before.get(tap.device))
        before[tap.device] = tap
        if tap.kind in RESTS:
            continue
        gathered[tap.device] += seconds
        if tap.kind not in COUNTS:
            continue
        whole = gathered.pop(tap.device)
        again = (tap.plan, tap.leg) in counted
        counted.add((tap.plan, tap.leg))
        # What is done once more was foretold once.
        foretold = 0.0 if again else float(tap.facts.get("seconds", 0.0))
        took, pause = _without_pause(whole, float(tap.facts.get("seconds", 0.0)), known)
        log.pieces.append(Piece(tap.at, tap.facts, foretold, took, pause, known))
    log.days = _days(log, zone)
    return log


def _since(tap: Tapped, last: Tapped | None) -> tuple[float, bool]:
    """Seconds since the tap before on the same device, and whether its own clock told them."""
    if tap.lasted is not None:
        return tap.lasted, True
    if last is None:
        return 0.0, False
    return max(0.0, (tap.at - last.at).total_seconds()), False


def _without_pause(whole: float, foretold: float, known: bool) -> tuple[float, float]:
    if foretold > 0 and whole > TIMES * foretold + MORE:
        return foretold, whole - foretold
    if not known and whole == 0.0:
        return foretold, 0.0
    return whole, 0.0


@dataclass(frozen=True)
class Bobbin:
    """A bobbin that was changed: *inches* of thread it had given, and whether it *ran out* by itself or was
    changed as planned; *on* which machine, if not the first."""

    at: datetime
    thread: str
    inches: float
    ran_out: bool
    on: str = ""


def bobbins_of(log: Log) -> list[Bobbin]:
    """Bobbins that were changed, in order: what each gave since the one before. Each thread
    has its own, which waits while another is in the needle."""
    things: list[tuple[datetime, int, Piece | Tapped]]
    things = [(piece.at, 0, piece) for piece in log.pieces]
    things += [(tap.at, 1, tap) for tap in log.otherwise if tap.kind == "bobbin"]
    found: list[Bobbin] = []
    gave: dict[str, float] = defaultdict(float)
    now = ""
    for at, _, each in sorted(things, key=lambda thing: thing[:2]):
        kind = each.facts.get("kind", "")
        ran_out = isinstance(each, Tapped)
        # What ran out before another thread was put in was the last one's.
        if not (ran_out and kind == "thread" and now):
            now = str(each.facts.get("thread", "")) or now
        if kind == "move":
            # What lies on the bobbins of the first machine stays there.
            gave.clear()
        if ran_out or kind == "bobbin":
            if gave[now]:
                found.append(Bobbin(at, now, gave.pop(now), ran_out, str(each.facts.get("on", ""))))
        elif isinstance(each, Piece):
            gave[now] += float(each.facts.get("took", 0.0))
    return found


def _days(log: Log, zone) -> list[Day]:
    days: dict[date, Day] = {}

    def day_of(at: datetime) -> Day:
        when = at.astimezone(zone).date()
        return days.setdefault(when, Day(when))

    for piece in log.pieces:
        day = day_of(piece.at)
        day.took += piece.took
        day.foretold += piece.foretold
        day.pause += piece.pause
        day.pieces += 1
    for tap in log.written:
        day_of(tap.at).written += 60 * float(tap.facts.get("minutes", 0))
    return [days[when] for when in sorted(days)]


def timed_of(pieces: Iterable[Piece]) -> list[Timed]:
    """Pieces as they teach: what was tapped together is taken together, what had a pause in it or was timed
    by the clock of the day teaches nothing."""
    made: list[Timed] = []
    parts: dict[str, float] = defaultdict(float)
    took = 0.0
    for piece in pieces:
        if piece.pause or not piece.known or piece.foretold <= 0:
            parts, took = defaultdict(float), 0.0
            continue
        for name, seconds in piece.parts.items():
            parts[name] += seconds
        took += piece.took
        whole = sum(parts.values())
        if whole > 0 and took >= AFTERWARDS * whole:
            made.append(Timed(dict(parts), took))
            parts, took = defaultdict(float), 0.0
    return made
