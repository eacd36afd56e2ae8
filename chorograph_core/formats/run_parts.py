"""What a run sheet is made of: rows in parts, a part for each thread in each pass."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from chorograph_core.formats.path_cards import Mark, PathCard
from chorograph_core.formats.wording import listed

MOST_NAMED = 8
"""Places that wait for another thread, up to which they are named."""


@dataclass
class Row:
    """One thing to do in a part. *path* is the letter of a card, *kind* as of the steps."""

    kind: str
    text: str
    detail: str = ""
    path: str = ""
    number: int = 0


@dataclass
class Parked:
    """What waits in a pass for another *thread*: the names of its *places*, and *zones* by id."""

    thread: str
    places: list[str]
    zones: list[str]

    @property
    def sentence(self) -> str:
        """What is done with it before the quilt is rolled on."""
        where = (
            listed(self.places) if len(self.places) <= MOST_NAMED else f"{len(self.places)} places"
        )
        return f"Waiting for {self.thread}: {where}. Pin it flat, pins parallel to the roller."


@dataclass
class Part:
    """What is done in one thread in one pass: *rows* in order, and its map: *lines* (kind, points),
    long *seams* (points, the row that says where one is begun) with *marks* on them, *stops* (number,
    letter, x, y) where stations are entered. *where* is the machine it is done on, if not the first. *zones*
    has what is filled in it, with the place it lies in, *parked* what waits there for another thread, *check*
    what is looked at before the quilt is rolled on."""

    kind: str
    thread: str
    reach: int
    top: float
    bottom: float
    where: str = ""
    rows: list[Row] = field(default_factory=list)
    lines: list[tuple[str, np.ndarray]] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)
    seams: list[tuple[np.ndarray, Row | None]] = field(default_factory=list)
    stops: list[tuple[int, str, float, float]] = field(default_factory=list)
    exits: list[tuple[float, float]] = field(default_factory=list)
    minutes: float = 0.0
    zones: dict[str, str] = field(default_factory=dict)
    parked: list[Parked] = field(default_factory=list)
    check: list[str] = field(default_factory=list)

    @property
    def bare(self) -> bool:
        """Whether nothing is stitched in it yet."""
        return not self.lines and not self.stops


@dataclass
class RunSheet:
    """*before* is done before the first stitch, *cards* are learned once, *parts* follow in order."""

    before: list[Row]
    cards: list[PathCard]
    parts: list[Part]

    @property
    def instructions(self) -> list[str]:
        """Everything that is told, in order."""
        told = [row.text for row in self.before]
        told += [sentence for card in self.cards for sentence in card.sentences]
        return told + [row.text for part in self.parts for row in part.rows]
