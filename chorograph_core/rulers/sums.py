"""The bench table: sums of ruler work that are asked without a quilt before one."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from chorograph_core.measure import format_length
from chorograph_core.rulers.fitting import edges_for, height_over, nearest_edge, radius_of
from chorograph_core.rulers.model import Ruler
from chorograph_core.rulers.rows import places

MOST_DOTS = 400


class SumError(ValueError):
    """A sum that has no answer. *field* is what is wrong, the message says why."""

    def __init__(self, message: str, field: str) -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class Answer:
    """An answer: one line that counts, what else to know, and where dots go, in inches from one end."""

    main: str
    more: tuple[str, ...] = ()
    dots: tuple[float, ...] = ()
    chord: float = 0.0
    height: float = 0.0


def arcs_in_border(
    length: float,
    chord: float,
    height: float,
    rulers: Sequence[Ruler],
    foot: float,
    unit: str = "in",
) -> Answer:
    """Equal arcs along a border: n = round(L / c), chords L / n, radius c² / 8h + h / 2, and which rulers
    stitch them.

    >>> arcs_in_border(52, 6.5, 2.75, (), 0.25).main
    '8 arcs, 6 1/2″ wide and 2 3/4″ high: radius 3 9/32″'
    """
    _positive(length=length, chord=chord, height=height)
    count = max(1, round(length / chord))
    if count > MOST_DOTS:
        raise SumError("So many arcs nobody stitches; write wider ones.", "chord")
    real = length / count
    if height > real / 2 + 1e-9:
        most = format_length(real / 2, unit, 32)
        raise SumError(f"An arc is at most half as high as it is wide: {most} here.", "height")
    radius = radius_of(real, height)
    told = _told(unit)
    return Answer(
        f"{count} arc{'s' if count > 1 else ''}, {told(real)} wide and {told(height)} high: "
        f"radius {told(radius)}",
        which_rulers(radius, real, rulers, foot, unit),
        tuple(real * k for k in range(count + 1)), real, height,
    )  # fmt: skip


def arc_of(
    chord: float, height: float, rulers: Sequence[Ruler], foot: float, unit: str = "in"
) -> Answer:
    """The radius of an arc from its chord and height."""
    _positive(chord=chord, height=height)
    if height > chord / 2 + 1e-9:
        raise SumError("An arc is at most half as high as it is wide.", "height")
    radius = radius_of(chord, height)
    told = _told(unit)
    edge = (f"A ruler for it has an outer edge of {told(radius - foot)} or an inner edge of "
            f"{told(radius + foot)}: the foot takes {told(foot)}.")  # fmt: skip
    if radius <= foot:
        edge = "It is tighter than the foot; draw it and follow it by hand."
    return Answer(f"radius {told(radius)}", (edge, *which_rulers(radius, chord, rulers, foot, unit)), (),
                  chord, height)  # fmt: skip


def which_rulers(
    radius: float, chord: float, rulers: Sequence[Ruler], foot: float, unit: str = "in"
) -> tuple[str, ...]:
    """Which edges of *rulers* stitch an arc, and in how many layings; what comes nearest where none does."""
    told, names = _told(unit), {ruler.key: ruler.name for ruler in rulers}
    edges = [edge for ruler in rulers for edge in ruler.edges(foot)]
    inches = 2 * radius * math.asin(min(1.0, chord / 2 / radius))
    found = []
    for edge in edges_for(edges, radius, chord)[:3]:
        times = math.ceil(inches / edge.along() - 1e-9)
        found.append(f"{names[edge.ruler]}, {edge.name}, stitches {told(edge.radius or 0)}: "
                     f"{times} laying{'s' if times > 1 else ''} an arc.")  # fmt: skip
    if found:
        return tuple(found)
    near = nearest_edge(edges, radius)
    if near is None or near.radius is None:
        return ("There is no curved ruler on the shelf: draw it and follow it by hand.",)
    words = f"No ruler of yours stitches it. Nearest is {names[near.ruler]}, {near.name}: {told(near.radius)}"
    if chord <= min(near.reach, 2 * near.radius):
        words += f", which stands {told(height_over(chord, near.radius))} high over {told(chord)}"
    return (f"{words}.", "Else draw it and follow it by hand.")


def line_for(spacing: float, rulers: Sequence[Ruler], foot: float, unit: str = "in") -> Answer:
    """The etched line that goes on the last stitching: spacing less the foot; what there is instead."""
    _positive(spacing=spacing)
    told = _told(unit)
    if spacing < foot - 1 / 64:
        words = f"Closer than the foot, {told(foot)}, no edge can be laid: follow a marked line by hand."
        raise SumError(words, "spacing")
    straight = [ruler for ruler in rulers if ruler.shape == "straight" and ruler.safe]
    have = [r.name for r in straight if r.etched_line(spacing, foot) is not None]
    more = []
    if abs(spacing - foot) < 1 / 64:
        more.append("Without reading any line: the side of the foot against the last stitching, or the edge "
                    "itself on it.")  # fmt: skip
    if have:
        more.append(f"Of yours: {', '.join(have)}.")
    else:
        known = sorted({foot, *(line + foot for ruler in straight for line in ruler.lines)})
        near = sorted(known, key=lambda each: abs(each - spacing))[:2]
        more.append("No ruler of yours has that line. "
                    + (f"They space {' or '.join(told(each) for each in sorted(near))}; " if near else "")
                    + "or put tape on one there.")  # fmt: skip
    return Answer(f"the {told(spacing - foot)} line on the last stitching", tuple(more))


def lines_across(width: float, spacing: float, fitting: str, unit: str = "in") -> Answer:
    """How many lines across a width, how far apart, and how wide the gaps at its ends are.

    >>> lines_across(10, 0.75, "even").main
    '12 lines, 25/32″ apart'
    """
    _positive(width=width, spacing=spacing)
    if width / spacing > MOST_DOTS:
        raise SumError("So many lines nobody stitches; write a wider spacing.", "spacing")
    told = _told(unit)
    found = places(width, spacing, fitting)
    if spacing >= width:
        return Answer("no line has room", (f"{told(spacing)} is wider than {told(width)}.",))
    at, apart = found.at.tolist(), found.spacing
    lines = f"{len(at)} line{'s' if len(at) > 1 else ''}, {told(apart)} apart"
    return Answer(lines, (f"First gap {told(at[0])}, last gap {told(width - at[-1])}.",), tuple(at))


def _positive(**lengths: float) -> None:
    for name, inches in lengths.items():
        if not inches > 0:
            raise SumError("Write a length above zero.", name)


def _told(unit: str):
    return lambda inches: format_length(inches, unit, 32)
