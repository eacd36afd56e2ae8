"""Passes: what a frame reaches before the quilt is rolled on, and where it is best rolled on.

The depth that can be reached is the throat less the roll of quilted quilt and a clearance, and the roll
grows: rolled length ℓ of thickness t on a bar d across is √(d² + 4ℓt/π) across, since what is rolled up
lies in a ring of area ℓt. Tops of passes are chosen by dynamic programming over the places where
something begins: a roll costs its minutes, something that a pass does not hold whole costs what parting
it costs.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from chorograph_core.reckon import Machine

CLOTH = 0.03
"""Inches that top and backing add to the batting on the roll: two cottons at a sixty-sixth each."""
LEAST = 4.0
"""Inches of depth below which no work can be planned in passes."""
EDGE = 0.01
"""Inches that something may lie over the edge of a pass: seams are not drawn more exactly."""
OVERLAP = 2.0
"""Inches by which passes overlap where there is depth to spare."""
LOOSE = 3.0
"""How many times the room of its cloth a quilt takes that is bundled into a throat and still moves."""
STEP = 0.5
"""Inches between places where a pass may begin, beside those where something does."""


class OutOfReach(ValueError):
    """The machine reaches nothing. The message says why."""


@dataclass(frozen=True)
class Pass:
    """What is reached at once: from *top* to *bottom* inches down the quilt. Numbered from 1, those on
    *another* machine after those on the first."""

    number: int
    top: float
    bottom: float
    another: bool = False

    def holds(self, top: float, bottom: float) -> bool:
        """Whether what reaches from *top* to *bottom* lies in it."""
        return self.top - EDGE <= top and bottom <= self.bottom + EDGE


@dataclass(frozen=True)
class Piece:
    """Something that lies from *top* to *bottom* and costs *parting* minutes when no pass holds it."""

    top: float
    bottom: float
    parting: float


def depth_at(machine: Machine, rolled: float) -> float:
    """Inches that are reached once *rolled* inches of the quilt are on the take-up bar.

    >>> round(depth_at(Machine(throat=24, take_up=3, clearance=4, loft=0.09), 0), 2)
    17.0
    """
    thick = machine.loft + CLOTH
    roll = math.sqrt(machine.take_up**2 + 4 * max(0.0, rolled) * thick / math.pi)
    depth = machine.throat - roll - machine.clearance - (2.0 if machine.ruler_base else 0.0)
    return depth / 2 if machine.seated else depth


def passes_of(
    machine: Machine, top: float, bottom: float, pieces: Sequence[Piece], sweeps: int = 1
) -> tuple[Pass, ...]:
    """The passes of a quilt that reaches from *top* to *bottom*, rolled through *sweeps* times.

    A machine that does not roll has one, or two between which the quilt is turned, where all of it does not
    fit into the throat. Raises `OutOfReach` where a pass would have no depth.
    """
    if machine.kind != "frame":
        return _bundled(machine, top, bottom)
    deepest = bottom - top
    if min(depth_at(machine, 0), depth_at(machine, deepest)) < LEAST:
        raise OutOfReach(
            "The throat leaves too little beside the roll at the end of this quilt to stitch in. Look at the "
            "throat, the clearance and the bar of the machine on the Shelf, or at sitting and ruler base."
        )
    if deepest <= depth_at(machine, 0):
        return (Pass(1, top, bottom),)
    begins = {round(piece.top, 3) for piece in pieces} | {top}
    begins |= set(np.arange(top, bottom, STEP).round(3).tolist())
    tops = np.array(sorted(y for y in begins if top <= y < bottom))
    reach = np.array([y + depth_at(machine, y - top) for y in tops])
    roll = machine.rates.advance / 60 * sweeps
    pieces = sorted(pieces, key=lambda piece: piece.top)
    starts = np.array([piece.top for piece in pieces])
    ends = np.array([piece.bottom for piece in pieces])
    partings = np.array([piece.parting for piece in pieces])
    begin = np.searchsorted(starts, tops - 1e-6)
    ahead = np.searchsorted(tops, reach, side="right")
    least = np.full(len(tops) + 1, np.inf)
    choice = np.full(len(tops) + 1, -1)
    for i in reversed(range(len(tops))):
        if reach[i] >= bottom - 1e-6:
            least[i], choice[i] = 0.0, len(tops)
        later = np.arange(i + 1, ahead[i])
        if len(later):
            # What this pass parts of what begins in it before the next does, for each place of the next.
            some = slice(begin[i], begin[later[-1]])
            parted = np.where(ends[some] > reach[i] + 1e-6, partings[some], 0.0)
            owed = np.concatenate([[0.0], np.cumsum(parted)])[begin[later] - begin[i]]
            total = roll + owed + least[later]
            # Of equals the one that goes furthest.
            best = later[np.flatnonzero(total <= total.min() + 1e-9)[-1]]
            if total.min() < least[i] - 1e-9:
                least[i], choice[i] = float(total.min()), int(best)
    made: list[Pass] = []
    at = 0
    while at < len(tops):
        made.append(Pass(len(made) + 1, float(tops[at]), float(min(reach[at], bottom))))
        at = int(choice[at])
    return _spread(made, machine, pieces)


def fits_the_throat(machine: Machine) -> float:
    """Inches of a quilt that fit, bundled, into the throat of a sit-down machine: a loose roll takes `LOOSE`
    times the room of its cloth, and a round one of the width that the hands leave free.

    >>> round(fits_the_throat(Machine(kind="sit-down", throat=9, clearance=4, loft=0.09)), 1)
    54.5
    """
    room = max(0.0, machine.throat - machine.clearance)
    return math.pi * room**2 / (4 * LOOSE * (machine.loft + CLOTH))


def _bundled(machine: Machine, top: float, bottom: float) -> tuple[Pass, ...]:
    """What is reached with the lower end in the throat, and with the upper one once the quilt is turned."""
    most = fits_the_throat(machine)
    if bottom - top <= most:
        return (Pass(1, top, bottom),)
    if bottom - top > 2 * most - 2 * OVERLAP:
        raise OutOfReach(
            "This quilt is too large for the throat: not even half of it fits in beside the needle. Look at "
            "the throat and the clearance of the machine on the Shelf, or quilt it in parts and join them."
        )
    return (Pass(1, top, top + most), Pass(2, bottom - most, bottom))


def _spread(made: list[Pass], machine: Machine, pieces: Sequence[Piece]) -> tuple[Pass, ...]:
    """The same passes moved up until they overlap well, as far as nothing more is parted by it: what has to
    go on from one pass to the next has then room to do so."""
    if len(made) < 2:
        return tuple(made)
    top, bottom = made[0].top, made[-1].bottom
    tops = [each.top for each in made]
    slack = tops[-1] + depth_at(machine, tops[-1] - top) - bottom
    parted = parting_of(made, pieces)
    for share in (0.0, 0.25, 0.5, 0.75, 1.0):
        moved = [y - slack * share * k / (len(tops) - 1) for k, y in enumerate(tops)]
        tried = [Pass(k, y, min(y + depth_at(machine, y - top), bottom))
                 for k, y in enumerate(moved, 1)]  # fmt: skip
        if tried[-1].bottom >= bottom - 1e-6 and parting_of(tried, pieces) <= parted + 1e-9:
            made = tried
            if min(a.bottom - b.top for a, b in itertools.pairwise(made)) >= OVERLAP:
                break
    return tuple(made)


def parting_of(passes: Sequence[Pass], pieces: Sequence[Piece]) -> float:
    """What it costs that no pass holds some of the pieces."""
    return sum(
        piece.parting
        for piece in pieces
        if not any(each.holds(piece.top, piece.bottom) for each in passes)
    )


def holding(passes: Sequence[Pass], top: float, bottom: float) -> list[int]:
    """Numbers of the passes that hold what lies from *top* to *bottom*, in order."""
    return [each.number for each in passes if each.holds(top, bottom)]


def fewest_rolls(machine: Machine, top: float, bottom: float) -> int:
    """Rolls that no way through the quilt can do without: each pass as deep as it can be."""
    if machine.kind != "frame":
        return 0
    rolls, at = 0, top
    while at + depth_at(machine, at - top) < bottom - 1e-6:
        at += depth_at(machine, at - top)
        rolls += 1
    return rolls
