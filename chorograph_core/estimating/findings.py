"""What the measures and materials of an intake say, as sentences with their numbers."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from chorograph_core.chart import Fabric
from chorograph_core.estimating.backing import BackingPlan, Piecing, backing_plan
from chorograph_core.estimating.batting import batting_short, batting_size, fabric_notes, roll_short
from chorograph_core.estimating.edges import edge_effect
from chorograph_core.estimating.intake import Backing, Intake
from chorograph_core.estimating.measuring import EVEN, Fullness, Measures, fullness, shape_of
from chorograph_core.measure import CM_PER_INCH, format_length
from chorograph_core.reckon import Machine

SLIP = 0.75
"""Inches by which diagonals may miss the sides before the tape is doubted."""


@dataclass(frozen=True)
class Finding:
    """One sentence. *weight* is ``"fine"``, ``"note"`` or ``"talk"``; *about* names the subject."""

    about: str
    heading: str
    text: str
    weight: str = "note"


def measure_findings(
    measures: Measures, units: str = "in", charted: tuple[float, float] | None = None
) -> list[Finding]:
    """What the tape says: squareness, lean, fullness, and the charted size beside it."""
    shape = shape_of(measures)
    show = lambda inches: format_length(abs(inches), units)  # noqa: E731
    found: list[Finding] = []
    if shape.slip is not None and abs(shape.slip) > SLIP:
        found.append(Finding("measures", "The tape and the sides disagree.",
                             f"The diagonals are {show(shape.slip)} "
                             f"{'longer' if shape.slip > 0 else 'shorter'} than these sides "
                             f"allow. Measure them again.", "talk"))  # fmt: skip
    elif shape.shift is not None and abs(shape.shift) > EVEN:
        way = "right" if shape.shift > 0 else "left"
        found.append(Finding("measures", "The top leans.",
                             f"The diagonals differ by {show(shape.diagonals)}: the bottom sits "
                             f"{show(shape.shift)} to the {way} ({abs(shape.lean or 0.0):.1f}°). Square it "
                             f"on the frame; long straight lines will show it.",
                             "talk" if abs(shape.shift) > 1 else "note"))  # fmt: skip
    for name, spread, belly in (("width", shape.width_spread, shape.width_belly),
                                ("height", shape.height_spread, shape.height_belly)):  # fmt: skip
        if spread is None:
            continue
        if spread <= EVEN:
            found.append(Finding("measures", f"The {name}s agree.",
                                 f"Within {show(spread) if spread else 'a hair'}.", "fine"))  # fmt: skip
            continue
        text = f"They differ by {show(spread)}."
        if belly is not None and abs(belly) > EVEN:
            text += (f" The middle is {show(belly)} {'fuller' if belly > 0 else 'narrower'} than "
                     f"the edges.")  # fmt: skip
        found.append(Finding("measures", f"The {name}s differ.", text,
                             "talk" if spread > 1 else "note"))  # fmt: skip
    if charted and measures.width and measures.height:
        off = (measures.width - charted[0], measures.height - charted[1])
        if max(map(abs, off)) > 0.125:
            found.append(Finding("measures", "The chart says otherwise.",
                                 f"Measured {show(measures.width)} × {show(measures.height)}, "
                                 f"charted {show(charted[0])} × {show(charted[1])}."))  # fmt: skip
    return found + [_full(each, units) for each in fullness(measures)]


def _full(each: Fullness, units: str) -> Finding:
    show = lambda inches: format_length(abs(inches), units)  # noqa: E731
    heading = f"{each.side.capitalize()} border: {show(each.inches)} "
    heading += "short" if each.inches < 0 else "full"
    heading += f", {abs(each.share):.1%}."
    where = (f"Mark border and edge in {_ordinal(each.parts)} and pin mark to mark: every "
             f"{show(each.body_part)} of the edge takes {show(each.border_part)} of "
             f"border.")  # fmt: skip
    one = show(0.25)
    texts = {
        "none": ("Nothing to do.", "fine"),
        "ease": (f"Ease it with even, fairly dense texture. {where}", "note"),
        "tuck": (f"More than texture takes: hide {each.tucks} tuck{'s' * (each.tucks > 1)} of {one} "
                 f"in seams, spread along the side, and ease the rest. {where}", "note"),
        "talk": (f"Too much to quilt in. Talk with the client: take the border off and cut it to "
                 f"{show(each.body_part * each.parts)}, or accept pleats.", "talk"),
        "short": ("The border pulls the body in; it will cup. Talk with the client before "
                  "loading.", "talk"),
    }  # fmt: skip
    text, weight = texts[each.advice]
    return Finding("fullness", heading, text, weight)


def _ordinal(parts: int) -> str:
    """Halves, quarters, eighths: marks come by halving."""
    return {2: "halves", 4: "quarters", 8: "eighths"}.get(parts, f"{parts}ths")


def materials_findings(
    intake: Intake, size: tuple[float, float], fabrics: Sequence[Fabric], machine: Machine,
    edge_finish: str, units: str = "in",
) -> list[Finding]:  # fmt: skip
    """Backing, batting and edge against a top of *size* (width, height) inches: the greatest that were
    measured, since a backing that is too small in the middle is too small."""
    show = lambda inches: format_length(inches, units)  # noqa: E731
    found = []
    if intake.backing is not None:
        found += _backing(backing_for(intake, size, machine), machine, units)
    if intake.batting is not None:
        batting = intake.batting
        needed = batting_size(*size, machine.batting_allowance)
        text = f"It must be {show(needed[0])} × {show(needed[1])}."
        weight = "fine"
        if batting.width and batting.height:
            short = batting_short(needed, (batting.width, batting.height))
            if max(short[:2]) > 0:
                weight = "talk"
                text += f" This one is {show(max(short[:2]))} short."
            elif short[2]:
                text += " Lay it turned by a quarter."
        elif batting.roll:
            missing = roll_short(needed, batting.roll)
            if missing > 0:
                weight = "talk"
                text += (f" The roll is {show(batting.roll)} wide, {show(missing)} short either way "
                         f"round: join it with a zigzag, edge to edge, or take a wider one.")  # fmt: skip
            elif batting.roll < needed[0]:
                text += f" From a roll {show(batting.roll)} wide: lay it turned by a quarter."
        found.append(Finding("batting", f"Batting: {batting.name}.", text, weight))
        found.append(Finding("batting", f"Lines no further apart than {show(batting.gap)}.",
                             "Its maker allows no more; Designs checks every zone against it.",
                             "fine"))  # fmt: skip
        if batting.layers > 1:
            found.append(Finding("batting", f"{batting.layers} layers.",
                                 "Takes up more fabric and thread: a larger needle, and the thread "
                                 "is reckoned for it."))  # fmt: skip
        found += [
            Finding("batting", "It may show.", note)
            for note in fabric_notes(batting.colour, fabrics)
        ]
    effect = edge_effect(edge_finish, *size, units)
    found.append(Finding("edge", f"Edge: {effect.name}.",
                         f"{effect.asks.capitalize()}. Left for designs: {show(effect.width)} × "
                         f"{show(effect.height)}.", "fine"))  # fmt: skip
    return found


def backing_for(intake: Intake, size: tuple[float, float], machine: Machine) -> BackingPlan:
    """The backing plan of an intake that has a backing; of cloth still to be bought where it has none."""
    backing = intake.backing or Backing()
    have = (backing.width, backing.height) if backing.width and backing.height else None
    return backing_plan(*size, machine.backing_allowance, backing.cloth_width, have)


def _backing(plan: BackingPlan, machine: Machine, units: str) -> list[Finding]:
    show = lambda inches: format_length(inches, units)  # noqa: E731
    needed = f"{show(plan.needed[0])} × {show(plan.needed[1])}"
    allowance = show(machine.backing_allowance)
    if plan.large_enough and plan.beyond:
        turned = ", laid turned by a quarter" if plan.turned else ""
        return [Finding("backing", "The backing is large enough.",
                        f"It reaches {show(min(plan.beyond))} beyond the top at least; "
                        f"{allowance} are needed{turned}.", "fine")]  # fmt: skip
    found = []
    if plan.large_enough is False and plan.missing:
        sides = zip(plan.missing, ("width", "height"), strict=True)
        short = [f"{show(inches)} in {name}" for inches, name in sides if inches]
        found.append(Finding("backing", "The backing is too small.",
                             f"It misses {' and '.join(short)}: {needed} are needed, {allowance} on "
                             f"every side.", "talk"))  # fmt: skip
    else:
        found.append(Finding("backing", f"The backing must be {needed}.",
                             f"{allowance} more than the top on every side."))  # fmt: skip
    best = plan.ways[0]
    if best.lengths == 1:
        found.append(Finding("backing", "One length will do.", f"Buy {_cloth(best, units)}, cut "
                             f"{show(best.cut)} long. No seam.", "fine"))  # fmt: skip
        return found
    for rank, way in enumerate(plan.ways):
        found.append(Finding("backing", _heading(way, rank, units), _way(way, show)))
    return found


def _heading(way: Piecing, rank: int, units: str) -> str:
    seams = f"{way.seams} seam{'s' * (way.seams != 1)} {way.direction}"
    return f"{'Pieced' if rank == 0 else 'Or'} with {seams}: {_cloth(way, units)}."


def _way(way: Piecing, show) -> str:
    text = f"{way.lengths} length{'s' * (way.lengths != 1)} of {show(way.cut)}, joined "
    text += f"{show(way.made[0])} × {show(way.made[1])}."
    if way.halved:
        text += " Split one for the two sides, so that no seam lies in the middle."
    if way.direction == "down":
        text += " Seams down the quilt pile up in one place on the roller."
    else:
        text += " Seams across lie flat on the roller."
    return text


def _cloth(way: Piecing, units: str) -> str:
    """What to buy, as shops cut it: yards to an eighth, metres to a tenth, rounded up."""
    if units == "cm":
        return f"{math.ceil(way.lengths * way.cut * CM_PER_INCH / 10 - 1e-9) / 10:g} m"
    whole, rest = divmod(round(way.yards * 8), 8)
    part = {0: "", 2: "1/4", 4: "1/2", 6: "3/4"}.get(rest, f"{rest}/8")
    return " ".join([*([str(whole)] if whole or not part else []), *([part] if part else []), "yd"])
