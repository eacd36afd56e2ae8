"""What the owned rulers make of some work, in words: how it is laid, what no edge stitches, what would."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from chorograph_core.measure import format_length
from chorograph_core.rulers.fitting import edges_for, height_over, nearest_edge, to_buy
from chorograph_core.rulers.model import Edge, Ruler, straight_ruler
from chorograph_core.rulers.placing import RulerPlacement, s_edge_along
from chorograph_core.rulers.shapes import Stretch, stretches_of, waves_in


@dataclass(frozen=True)
class Laid:
    """How often each ruler is laid, by its name and edge; *by_hand* inches are followed along a mark."""

    times: tuple[tuple[str, int], ...]
    by_hand: float
    said: tuple[str, ...]


def nearest_spacings(rulers: Sequence[Ruler], foot_radius: float, spacing: float) -> list[float]:
    """The spacings nearest to *spacing*, below and above, that a line of the straight ruler reads.

    >>> nearest_spacings([Ruler("a", "a")], 0.25, 0.9)
    [0.75, 1.0]
    """
    ruler = straight_ruler(rulers)
    known = sorted({foot_radius, *(line + foot_radius for line in ruler.lines)})
    below = [each for each in known if each <= spacing + 1e-9][-1:]
    above = [each for each in known if each > spacing + 1e-9][:1]
    return [*below, *above]


def laid_with(
    placements: Sequence[RulerPlacement], lines: Sequence[np.ndarray], rulers: Sequence[Ruler],
    foot_radius: float, unit: str = "in",
) -> Laid:  # fmt: skip
    """Sum up *placements* of *lines*; say of arcs that no edge stitches what comes nearest, what height
    would fit instead, and which ruler would serve most of them."""
    names = {ruler.key: ruler.name for ruler in rulers}
    times = Counter(
        f"{names.get(laid.ruler, laid.ruler)}, {laid.edge}"
        for laid in placements
        if not laid.by_hand
    )
    edges = [edge for ruler in rulers for edge in ruler.edges(foot_radius)]
    groups = [wave for line in lines for wave in waves_in(stretches_of(line))]
    arcs = [s for wave in groups if not s_edge_along(wave, edges) for s in wave if s.kind == "arc"]
    bare = [s for s in arcs if not edges_for(edges, s.radius, s.chord)]
    hand = [laid for laid in placements if laid.by_hand]
    inches = sum(float(np.hypot(*np.diff(laid.stitched, axis=0).T).sum()) for laid in hand)
    said: tuple[str, ...] = ()
    if hand and bare:
        waves = [wave for wave in groups if len(wave) > 1]
        told = partial(format_length, units=unit, denominator=16)
        said = _about_waves(waves, edges, names, told) or _about_arcs(bare, edges, names, told)
    return Laid(tuple(times.most_common()), inches, said)


def _about_waves(
    waves: list[list[Stretch]], edges: list[Edge], names: dict, told: Callable[[float], str]
) -> tuple[str, ...]:
    """What the nearest S-edge stitches instead of *waves* that none does; nothing where none is owned, or
    where an edge makes their arcs one by one."""
    owned = [edge for edge in edges if edge.kind == "s" and edge.period and edge.height]
    if not waves or not owned:
        return ()
    wave = max(waves, key=lambda each: max(s.inches for s in each))
    best = max(wave, key=lambda s: s.inches)
    if edges_for(edges, best.radius, best.chord) or s_edge_along(wave, edges):
        return ()
    long, high = 2 * best.chord, 2 * height_over(best.chord, best.radius)
    near = min(owned, key=lambda edge: (abs(math.log((edge.period or 1.0) / long)), edge.ruler))
    assert near.period and near.height
    name = names.get(near.ruler, near.ruler).capitalize()
    return (
        f"No edge of yours stitches waves {told(long)} long and {told(high)} high; drawn first, they are "
        "followed by hand.",
        f"{name} makes them {told(near.period)} long and {told(near.height)} high: so set, "
        "they are ruled.",
    )


def _about_arcs(
    bare: list[Stretch], edges: list[Edge], names: dict, told: Callable[[float], str]
) -> tuple[str, ...]:
    radius, chord = Counter((round(s.radius, 2), round(s.chord, 1)) for s in bare).most_common(1)[
        0
    ][0]
    said = [
        f"No edge of yours stitches a radius of {told(radius)}; drawn first, it is followed by hand."
    ]
    near = nearest_edge(edges, radius)
    if near is not None and near.radius is not None:
        words = f"Nearest is {names.get(near.ruler, near.ruler)}, {near.name}: {told(near.radius)}"
        if 0.3 < chord <= min(near.reach, 2 * near.radius):
            words += (
                f"; over {told(chord)} that arc stands {told(height_over(chord, near.radius))} high"
            )
        said.append(words + ".")
    wish = to_buy([(s.radius, s.chord) for s in bare], edges)
    if wish is not None:
        said.append(f"One ruler that stitches {told(wish.radius)} would serve {wish.spans} of "
                    f"{len(bare)} arcs.")  # fmt: skip
    return tuple(said)
