"""Numbers on drawings, none on another."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import replace

from chorograph_core.formats.path_cards import Mark

AROUND = 12
"""Directions in which a number finds room beside another, if there is none along its own line."""
FIGURE, TALL, BETWEEN = 0.6, 0.75, 0.35
"""Breadth and height of a figure, and what is left free between two numbers so that they are not read as one,
as shares of the size of their letters."""

Box = tuple[float, float, float, float]


def apart(marks: Iterable[Mark], wide: float) -> list[Mark]:
    """The *marks* as discs so *wide*, none on another: what begins where something else does is numbered a
    little later on its way, or beside it.

    >>> marks = [Mark(1, 0.0, 0.0, 1.0, 0.0), Mark(2, 0.1, 0.0, 0.0, 1.0)]
    >>> [(each.x, each.y) for each in apart(marks, 1.0)]
    [(0.0, 0.0), (0.1, 1.05)]
    """
    placed: list[Mark] = []
    for mark in marks:
        ways = [(mark.dx * far, mark.dy * far) for far in (0.0, 1.05 * wide, 2.1 * wide)]
        turns = [2 * math.pi * k / AROUND for k in range(AROUND)]
        ways += [(far * math.cos(turn), far * math.sin(turn))
                 for far in (1.05 * wide, 2.1 * wide) for turn in turns]  # fmt: skip
        spots = [replace(mark, x=mark.x + x, y=mark.y + y) for x, y in ways]
        free = (s for s in spots if all(math.dist((s.x, s.y), (o.x, o.y)) >= wide for o in placed))
        placed.append(next(free, mark))
    return placed


def beside(
    marks: Sequence[Mark], letter: float, off: float, last: float, frame: Box, taken: Sequence[Box] = ()
) -> list[dict]:  # fmt: skip
    """Where the numbers of *marks* stand, in letters so large: *off* to the right and above what they mark,
    from *last* on to its left; on another side of it where another number stands there, or something else
    that is *taken*, or the *frame* ends. Each is written from its *x* on, or up to it (*ends*)."""
    full = list(taken)
    found = []
    for mark in marks:
        wide, tall = FIGURE * letter * len(str(mark.number)), TALL * letter
        left = mark.x > last
        places = [
            (mark.x - off if ends else mark.x + off, mark.y + down, ends)
            for down in (-off, off + tall, -off - 1.1 * tall, off + 2.1 * tall)
            for ends in (left, not left)
        ]
        boxes = [(x - wide if ends else x, y - tall, x if ends else x + wide, y)
                 for x, y, ends in places]  # fmt: skip
        free = (
            k
            for k, box in enumerate(boxes)
            if _within(box, frame) and not any(_meet(box, other) for other in full)
        )
        k = next(free, 0)
        x0, y0, x1, y1 = boxes[k]
        full.append((x0 - BETWEEN * letter, y0, x1 + BETWEEN * letter, y1))
        x, y, ends = places[k]
        found.append({"number": mark.number, "x": round(x, 3), "y": round(y, 3), "ends": ends})
    return found


def _within(box: Box, frame: Box) -> bool:
    return box[0] >= frame[0] and box[1] >= frame[1] and box[2] <= frame[2] and box[3] <= frame[3]


def _meet(one: Box, other: Box) -> bool:
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]
