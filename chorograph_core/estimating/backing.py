"""The backing: is it large enough, and if it must be pieced, from how many lengths of cloth."""

from __future__ import annotations

import math
from dataclasses import dataclass

SEAM = 0.5
"""Inches that each piece loses in a backing seam: selvages off, half an inch taken."""
YARD = 36.0
MOST_LENGTHS = 12


@dataclass(frozen=True)
class Piecing:
    """Joining *lengths* pieces of cloth side by side. Lengths in inches.

    *seams* run ``"down"`` (top to bottom) or ``"across"`` (parallel to the rollers). Each piece is
    cut *cut* long; *made* is the finished (width, height); *yards* what to buy, rounded up to an
    eighth. *halved*: one of two lengths may be split to either side, so that no seam lies in the
    middle of the back.
    """

    direction: str
    lengths: int
    seams: int
    cut: float
    made: tuple[float, float]
    yards: float
    halved: bool = False


@dataclass(frozen=True)
class BackingPlan:
    """What the backing must measure, and what is missing. Inches.

    *needed* is (width, height). *beyond*: how far the backing in hand reaches over the top on each
    side, (left and right, top and bottom), laid the better way round (*turned*); *missing* how much
    the whole width and height are short. *ways* has the piecings, the one to take first.
    """

    needed: tuple[float, float]
    beyond: tuple[float, float] | None
    missing: tuple[float, float] | None
    turned: bool
    ways: tuple[Piecing, ...]

    @property
    def large_enough(self) -> bool | None:
        """Whether the backing in hand will do; None when none was measured."""
        return None if self.missing is None else max(self.missing) <= 1e-9


def backing_plan(
    width: float,
    height: float,
    allowance: float,
    cloth_width: float,
    have: tuple[float, float] | None = None,
    seam: float = SEAM,
) -> BackingPlan:
    """Plan the backing of a top *width* by *height* that needs *allowance* on every side.

    With *n* lengths of usable cloth width *c*, each seam taking *seam* from both its pieces, the
    joined width is n·c − 2·seam·(n − 1); so n = ⌈(W − 2·seam) / (c − 2·seam)⌉, and every length is
    cut as long as the other side. Raises ValueError for a cloth no wider than its seams.
    """
    if cloth_width <= 2 * seam + 1:
        raise ValueError("The cloth is narrower than its seams.")
    needed = (width + 2 * allowance, height + 2 * allowance)
    beyond = missing = None
    turned = False
    if have is not None:
        straight = _short(needed, have)
        swapped = _short(needed, have[::-1])
        turned = sum(swapped) < sum(straight) - 1e-9
        missing = swapped if turned else straight
        laid = have[::-1] if turned else have
        beyond = ((laid[0] - width) / 2, (laid[1] - height) / 2)
    down = _piecing("down", needed[0], needed[1], cloth_width, seam)
    across = _piecing("across", needed[1], needed[0], cloth_width, seam)
    # Without a seam nothing lies on the roller: the shorter cut is the better.
    ways = sorted(
        (across, down),
        key=lambda way: (way.yards, way.seams, 0 if way.seams else way.cut, way.direction),
    )
    return BackingPlan(needed, beyond, missing, turned, tuple(ways))


def _short(needed: tuple[float, float], have: tuple[float, float]) -> tuple[float, float]:
    return (max(0.0, needed[0] - have[0]), max(0.0, needed[1] - have[1]))


def _piecing(direction: str, over: float, along: float, cloth: float, seam: float) -> Piecing:
    """Lengths laid side by side over *over* inches, each *along* inches long."""
    count = max(1, math.ceil((over - 2 * seam) / (cloth - 2 * seam) - 1e-9))
    wide = count * cloth - 2 * seam * (count - 1)
    made = (wide, along) if direction == "down" else (along, wide)
    # Split in two for the sides, the second length costs one seam more.
    halved = count == 2 and wide - 2 * seam >= over
    yards = math.ceil(count * along / YARD * 8 - 1e-9) / 8
    return Piecing(direction, count, count - 1, along, made, yards, halved)
