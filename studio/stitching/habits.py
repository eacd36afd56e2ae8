"""What the logs say of motifs and of threads: which go well, which cost more than is charged, which break."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from chorograph_core.designs import designs
from chorograph_core.stitching.log import Log

FEWEST = 5
"""Things that must be timed before a motif is spoken of."""
WELL, BADLY = 0.9, 1.15
"""Times as long as foretold up to which it goes well, and from which it costs."""


@dataclass(frozen=True)
class Habit:
    """A motif or layout as it went: how often, hours, and how many times as long as foretold."""

    name: str
    times: int
    hours: float
    factor: float

    @property
    def says(self) -> str:
        """What follows from it."""
        percent = round(100 * abs(self.factor - 1))
        if self.factor >= BADLY:
            return f"costs {percent}% more time than is charged for"
        if self.factor <= WELL:
            return f"goes well: {percent}% quicker than foretold"
        return "as foretold"


@dataclass(frozen=True)
class Breaking:
    """A thread that broke: how often, on how many inches stitched, and what was written down of it."""

    key: str
    times: int
    inches: float
    words: tuple[str, ...]

    @property
    def every_yards(self) -> int:
        """Yards from one break to the next, in the mean."""
        return round(self.inches / 36 / self.times)


def habits_of(logs: Iterable[Log]) -> tuple[list[Habit], list[Breaking]]:
    """Motifs that cost most first, and threads that break most often first."""
    known = designs()
    foretold: dict[str, float] = defaultdict(float)
    took: dict[str, float] = defaultdict(float)
    times: dict[str, int] = defaultdict(int)
    inches: dict[str, float] = defaultdict(float)
    broke: dict[str, list[str]] = defaultdict(list)
    for log in logs:
        for piece in log.pieces:
            inches[piece.facts.get("thread", "")] += float(piece.facts.get("inches", 0.0))
            design = piece.facts.get("design", "")
            if design and piece.known and not piece.pause and piece.foretold > 0:
                foretold[design] += piece.foretold
                took[design] += piece.took
                times[design] += 1
        for tap in log.otherwise:
            if tap.kind == "broke" and tap.facts.get("thread"):
                broke[tap.facts["thread"]].append(tap.text)
    motifs = [
        Habit(known[key].name if key in known else key, times[key], took[key] / 3600,
              took[key] / foretold[key])
        for key in foretold if times[key] >= FEWEST
    ]  # fmt: skip
    breaking = [
        Breaking(key, len(words), inches[key], tuple(dict.fromkeys(filter(None, words))))
        for key, words in broke.items()
    ]
    return (
        sorted(motifs, key=lambda each: -each.factor),
        sorted(breaking, key=lambda each: each.every_yards),
    )
