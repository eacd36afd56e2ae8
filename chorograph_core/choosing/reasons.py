"""What a good quilter would say for and against a candidate: each reason with its number, never a bar."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from chorograph_core.choosing.hearing import Heard
from chorograph_core.choosing.levels import Level
from chorograph_core.choosing.setting_out import Beside, Setting
from chorograph_core.choosing.take_up import density_for, taken_up
from chorograph_core.designs import designs
from chorograph_core.measure import format_density, format_length
from chorograph_core.zones import LIGHT

MORE, MOST_MORE = 0.15, 0.4
"""What each inch a square inch weighs against a design in appliqué, over what holds it; and all of them."""
BUSY, PLAIN = 0.5, 0.25
"""From which share a print hides quilting; up to which cloth is plain."""
STANDS_OUT = 2.0
"""Densities so many times apart tell one zone from the other."""
MELTS = 1.35
RISES = 4.0
OFTEN = 2
"""Quilts in which a design was used, from which it is a habit."""
SHORT = 1.5
"""Inches stitched for each laying of a ruler below which a hand does without it."""
DENSE = 3.0
"""Inches a square inch from which a fill is busy."""


@dataclass(frozen=True)
class Reason:
    """A sentence and what it weighs: above 0 for, below 0 against."""

    weight: float
    text: str


def reasons_for(
    heard: Heard, place: Setting, level: Level, units: str = "in"
) -> tuple[Reason, ...]:
    """All that can be said of a candidate in its place, the weightiest first."""
    found = [reason for rule in RULES for reason in rule(heard, place, level, units)]
    return tuple(sorted(found, key=lambda reason: -abs(reason.weight)))


def score(heard: Heard, reasons: tuple[Reason, ...]) -> float:
    """How well a candidate does: how the design suits the zone, and all that is said of it."""
    return heard.suits + sum(reason.weight for reason in reasons)


def _family(heard: Heard) -> str:
    return designs()[heard.design].family


def _shows(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    fine = _family(heard) == "freehand" and heard.density > 2.0
    if place.busy >= BUSY and fine:
        yield Reason(-0.22, f"{place.fabric} is a busy print: it hides work as fine as this")
    elif place.busy >= BUSY:
        yield Reason(0.12, f"{place.fabric} is a busy print: simple lines are enough on it")
    elif place.busy <= PLAIN and fine:
        yield Reason(0.14, f"{place.fabric or 'the cloth'} is plain: fine work shows on it")


def _of_print(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    if not designs()[heard.design].of_print or place.role == "applique":
        return
    if place.busy >= BUSY:
        yield Reason(0.12, f"{place.fabric} is a print: its shapes lead the line")
    elif place.busy <= PLAIN:
        yield Reason(-0.4, f"{place.fabric or 'the cloth'} is plain: there are no shapes to follow")


def _stands_out(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    given = [one for one in place.beside if one.density > 0]
    if not given or heard.density <= 0:
        return
    near = max(given, key=lambda one: one.density)
    times = heard.density / near.density
    kind = _family(heard) != near.family
    if times >= STANDS_OUT:
        yield Reason(
            0.14, f"{times:.1f} times as dense as {near.name}: {near.name} comes up beside it"
        )
    elif times <= 1 / STANDS_OUT:
        yield Reason(
            0.14, f"{1 / times:.1f} times less dense than {near.name}: it stands up from it"
        )
    elif kind:
        yield Reason(0.1, f"another kind of line than {near.name}: they are told apart")
    elif 1 / MELTS < times < MELTS:
        yield Reason(
            -0.16, f"as dense as {near.name} and of the same kind: the two melt into each other"
        )


def _same_again(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    same = next((one for one in place.beside if one.design == heard.design), None)
    if same is not None:
        yield Reason(-0.3, f"{same.name} beside it has the same design")


def _busy_fills(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    if _family(heard) != "freehand" or heard.density < DENSE:
        return
    other = next((b for b in place.beside if b.family == "freehand" and b.density >= DENSE), None)
    if other is not None:
        words = f"two busy fills touch ({other.name}): give them a breathing line between"
        yield Reason(-0.1, words)


def _holds(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    if place.gap and heard.gap > place.gap:
        wide, most = format_length(heard.gap, units), format_length(place.gap, units)
        yield Reason(-0.45, f"leaves {wide} open; the batting holds up to {most}")


def _rises(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    dense = max((one.density for one in place.beside), default=0.0)
    if heard.density > 0 and dense > RISES * heard.density:
        times = dense / heard.density
        yield Reason(-0.12, f"its neighbour is {times:.1f} times as dense: this will bulge")


def _between(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    given: list[Beside] = [one for one in place.beside if one.density > 0]
    if len(given) < 2:
        return
    low, high = min(given, key=lambda b: b.density), max(given, key=lambda b: b.density)
    if high.density > 3 * low.density and low.density * 1.3 < heard.density < high.density / 1.3:
        yield Reason(0.1, f"between {low.name} and {high.name} in density: it carries the eye over")


def _level(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    told = format_density(heard.density, units, words=True)
    if heard.density <= 0:
        yield Reason(-1.0, "it draws nothing here")
    elif heard.density < level.low:
        far = min(0.3, 0.12 * (level.low - heard.density))
        yield Reason(-far, f"{told}: thin for {level.name} work")
    elif heard.density > level.high:
        # What takes half as long again is hardly a choice any more.
        far = min(0.9, 0.2 + 0.55 * (heard.density / level.high - 1))
        yield Reason(-far, f"{told}: more than {level.name} work pays for")
    else:
        yield Reason(0.1, f"{told}, as {level.name} work has it")


def _time(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    # Minutes for each inch stitched tell what is slow to make, whatever its density.
    inches = heard.density * place.area * max(1, len(place.zones))
    if inches > 0 and heard.layings and heard.minutes / inches > 0.045:
        yield Reason(-0.1, f"{heard.layings} layings of the ruler: slow for what it gives")


def _by_hand(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    each = heard.density * place.area * max(1, len(place.zones)) / max(heard.layings, 1)
    if heard.layings and 0 < each < SHORT:
        told = format_length(each, units)
        yield Reason(-0.25, f"the ruler laid anew every {told}: easier by hand")


def _applique(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    if place.role != "applique" or heard.density <= 0:
        return
    told = format_density(heard.density, units)
    if heard.density <= LIGHT:
        yield Reason(0.2, f"{told}: a few lines hold the appliqué and leave it open")
    else:
        # In a small shape a single line is more than that: what is least is still the best.
        more = min(MOST_MORE, MORE * (heard.density - LIGHT))
        yield Reason(-more, f"{told}: closer than it takes to hold the appliqué")


def _fullness(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    if place.full < 0.005 or heard.density <= 0:
        return
    taken, wanted = taken_up(heard.density, place.loft), density_for(place.full, place.loft)
    if taken >= place.full:
        yield Reason(0.15, f"takes up the {place.full:.1%} by which the border is too full")
    elif heard.density < 0.6 * wanted:
        asked = format_density(wanted, units)
        words = f"takes up {taken:.1%} of a border {place.full:.1%} too full"
        yield Reason(-0.12, f"{words}; {asked} would ease it")


def _at_hand(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    left = place.custom.at_hand.get(heard.layers[0].thread)
    yards = heard.thread / 36
    if left is not None and yards > left:
        yield Reason(-0.5, f"needs {yards:.0f} yd of its thread; {left:.0f} yd are on the shelf")


def _habit(heard: Heard, place: Setting, level: Level, units: str) -> Iterator[Reason]:
    used = place.custom.used.get(heard.design, 0)
    if used >= OFTEN:
        words = f"in {used} of your last {place.custom.quilts} quilts"
        yield Reason(0.03 * min(used, 3), f"{words}: your hand knows it")


RULES: tuple[Callable[[Heard, Setting, Level, str], Iterator[Reason]], ...] = (
    _shows, _of_print, _stands_out, _same_again, _busy_fills, _holds, _rises, _between, _level, _time,
    _by_hand, _applique, _fullness, _at_hand, _habit,
)  # fmt: skip
