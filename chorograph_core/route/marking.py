"""Marks in time: with what one marks, how long it lasts, and what is marked when."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Mark, length
from chorograph_core.reckon import Rates
from chorograph_core.route.model import Policy


@dataclass(frozen=True)
class Pen:
    """Something to mark with: its *name*, minutes until its marks are gone (None: they stay), how they come
    out and whether that takes time of its own (*wetted*)."""

    name: str
    life: float | None
    out: str
    wetted: bool = False


_FADED = "what has not faded by itself is wetted out; never iron over it"
PENS = {
    "chalk": Pen("chalk", None, "brush the chalk off"),
    "soluble": Pen("water-soluble pen", None,
                   "wet all marks out with cold water and let the quilt dry; never iron over them", True),
    "fading": Pen("air-fading pen", 240.0, _FADED, True),
    "humid": Pen("air-fading pen on a humid day", 45.0, _FADED, True),
    "crease": Pen("crease marker", None, "creases go with steam, held above the cloth"),
}  # fmt: skip
"""What quilters mark with; minutes are defaults: an air-fading mark is gone within hours, on a humid day
within one."""
SAFE = 0.8
"""How much of a pen's life is counted on: a hand may be slower than the plan."""


def marks_of(one: LayerLinework, policy: Policy) -> list[Mark]:
    """What of a layer is drawn on the top first: what its design wants, as far as the studio marks, and by
    eye every straight line that no seam tells."""
    wanted = {"all": ("line", "dot"), "spines": ("line",), "none": ()}[policy.marking]
    marks = [mark for mark in one.linework.marks if mark.kind in wanted]
    if policy.straight == "eye" and policy.marking != "none":
        marks += [
            Mark("line", points, "straight lines")
            for run in one.linework.runs if not run.in_ditch
            for points, technique, kind in run.pieces()
            if technique == "straight" and kind == "stitch"
        ]  # fmt: skip
    return marks


def name_of(one: LayerLinework) -> str:
    """How a layer of a zone is called where it is marked."""
    return f"{one.zone}/{one.layer}"


@dataclass
class Batch:
    """What is marked in one go for one layer of an entry: its *members*, *seconds* it takes, *reason* in
    words."""

    entry: str
    layer: int
    design: str
    members: list[str]
    count: int
    seconds: float
    reason: str


def batches(
    drawn: Iterable[LayerLinework], policy: Policy, rates: Rates, done: Collection[str] = ()
) -> Iterator[Batch]:
    """Marks for some layers, gathered by what they are of; what is *done* is left out."""
    groups: dict[tuple[str, int], list[LayerLinework]] = {}
    for one in drawn:
        if one.linework.runs and f"mark:{name_of(one)}" not in done and marks_of(one, policy):
            groups.setdefault((one.entry, one.layer), []).append(one)
    for (entry, layer), members in groups.items():
        marks = [mark for one in members for mark in marks_of(one, policy)]
        dots = sum(len(mark.points) for mark in marks if mark.kind == "dot")
        inches = sum(length(mark.points) for mark in marks if mark.kind == "line")
        what = ", ".join(dict.fromkeys(mark.label for mark in marks))
        lines = sum(mark.kind == "line" for mark in marks)
        zones = f"{len(members)} zone{'s' if len(members) != 1 else ''}"
        yield Batch(
            entry, layer, members[0].design, [name_of(one) for one in members], dots + lines,
            dots * rates.mark_dot + inches * rates.mark_inch,
            f"{what}, in {zones}: {_to_draw(dots, inches)}",
        )  # fmt: skip


def _to_draw(dots: int, inches: float) -> str:
    """Dots and inches of line, in words."""
    spots = "one dot" if dots == 1 else f"{dots} dots"
    if not dots:
        return f"{inches:.0f}″ of line"
    return f"{spots} and {inches:.0f}″ of line" if inches else spots


def ahead_of(places: Sequence[Sequence[float]], life: float) -> tuple[int, int]:
    """How much is marked in one go, so that none has faded when it is come to, of *places* in which things
    take so many minutes each, one after the other: whole places beside the first, and things of the first; at
    least one thing. Of a place that is not the first either all is marked or nothing."""
    safe = SAFE * life
    starts = list(itertools.accumulate(places[0], initial=0.0))
    first = max(1, sum(start <= safe for start in starts[:-1]))
    gone, whole = starts[-1], 0
    if first < len(places[0]):
        return 0, first
    for place in places[1:]:
        if not place or gone + sum(place[:-1]) > safe:
            break
        gone += sum(place)
        whole += 1
    return whole, first


def marks_told(count: int) -> str:
    """How many marks, in words.

    >>> marks_told(1), marks_told(12)
    ('one mark', '12 marks')
    """
    return "one mark" if count == 1 else f"{count} marks"
