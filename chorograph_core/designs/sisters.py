"""Sisters: who of a class of alike zones is drawn, and upon whom that is laid."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from typing import Literal, NamedTuple

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import Alike, Placement, alike, turned_round, ways_onto_itself
from chorograph_core.chart.alike import TOLERANCE
from chorograph_core.designs.caching import rounded
from chorograph_core.designs.legend import Entry, Guide, Layer
from chorograph_core.designs.registry import designs
from chorograph_core.designs.settings import SettingError
from chorograph_core.designs.space import begun_as

NEAR, LEAST = 0.01, 0.25
"""Inches by which a guide may lie beside a seam and be in it; inches of it by which it is a zone's own."""
MOVED = 2.0
"""The level of a placement that turns nothing."""
OTHERWISE = 7919
"""From seed to seed of sisters that vary: a prime, so that none comes again."""


def guide_in(layer: Layer, shape: Polygon) -> Guide | None:
    """The guide of the layer that lies in *shape*, or in its seam, the longest there; None without one: what
    ends there is its neighbour's."""
    near = shape.buffer(NEAR) if layer.guides else shape

    def inches(guide: Guide) -> float:
        return (
            float(near.intersection(shapely.linestrings(guide)).length) if len(guide) > 1 else 0.0
        )

    longest = max(layer.guides, key=inches, default=())
    return longest if inches(longest) > LEAST else None


def guided(layer: Layer, shape: Polygon) -> bool:
    """Whether a guide of the layer lies in *shape*, or in its seam."""
    return guide_in(layer, shape) is not None


class Drawn(NamedTuple):
    """A *shape* that is drawn once, as the zone number *first* is or would be, and the zones it is laid in;
    *cut_from* is that zone where the shape is what the finish leaves of one like it."""

    first: int
    shape: Polygon
    cut_from: Polygon | None
    laid: list[tuple[int, Placement]]


def drawn_once(
    entry: Entry, wholes: Sequence[Polygon], left: Sequence[Polygon],
    middles: Sequence[np.ndarray | None],
) -> Iterator[Drawn]:  # fmt: skip
    """What is drawn for the zones of an entry, and where it is laid. *left* is what the finish leaves of the
    *wholes*, the very same where it leaves all; *middles* are those of their blocks.

    In what is left it is drawn as its sisters are, only shorter: what reaches the edge lies as all others do.
    """
    whichever = all(_undirected(layer) for layer in entry.layers)
    shapes = left if whichever else wholes
    classes = alike(shapes)
    for number in range(max(classes.classes, default=-1) + 1):
        for first, group in drawn_alike(entry, classes, number, shapes, middles):
            whole = [(i, placement) for i, placement in group if left[i] is shapes[i]]
            if whole:
                yield Drawn(first, shapes[first], None, whole)
            for shape, some in (
                _left_alike(group, wholes[first], wholes, left) if not whichever else ()
            ):
                yield Drawn(first, shape, wholes[first], some)


def _left_alike(
    group: Sequence[tuple[int, Placement]], pattern: Polygon, wholes: Sequence[Polygon],
    left: Sequence[Polygon],
) -> list[tuple[Polygon, list[tuple[int, Placement]]]]:  # fmt: skip
    """Those of a group of which the finish takes something, by what it leaves as it lies in their
    *pattern*."""
    found: list[tuple[Polygon, list[tuple[int, Placement]]]] = []
    for i, placement in group:
        if left[i] is wholes[i]:
            continue
        # What comes back from a turn is a hair beside itself; of sides as long the first would be another.
        mine = rounded(begun_as(pattern, shapely.transform(left[i], placement.inverse().apply)))
        for shape, some in found:
            if np.abs(np.subtract(shape.bounds, mine.bounds)).max() > TOLERANCE:
                continue
            if shapely.hausdorff_distance(shape.boundary, mine.boundary) <= TOLERANCE:
                some.append((i, placement))
                break
        else:
            found.append((mine, [(i, placement)]))
    return found


def drawn_alike(
    entry: Entry, classes: Alike, number: int, shapes: Sequence[Polygon],
    middles: Sequence[np.ndarray | None] = (),
) -> Iterable[tuple[int, list[tuple[int, Placement]]]]:  # fmt: skip
    """Who of a class is drawn, and upon whom that is laid, with the placements from it: all of them
    upon each other, but where a design is told which way a zone lies on the frame only on those that lie
    that way too. A zone with a guide is the one that is drawn. *middles* (2,) are those of the blocks the
    shapes lie in: where a design faces its block's, sisters are turned round it."""
    group = classes.members(number)
    first = next(
        (i for i in group if any(guided(layer, shapes[i]) for layer in entry.layers)), group[0]
    )
    back = classes.placements[first].inverse()
    left = [(i, classes.placements[i].after(back)) for i in group]
    # What is turned round the middle of its block is so with all that lies in the zone.
    same_way = not faces(entry) and any(_asked(layer, "runs_alike") for layer in entry.layers)
    if len(group) > 1 and (same_way or any(layer.over == "level" for layer in entry.layers)):
        left = _as_they_stand(left, shapes[first])
    elif middles and faces(entry):
        left = turned_round(left, shapes[first], middles[first], middles)
    if any(layer.over == "varied" for layer in entry.layers):
        for i, placement in left:
            yield i, [(i, placement.after(placement.inverse()))]
        return
    if not same_way and not any(_asked(layer, "lies") for layer in entry.layers):
        yield first, left
        return
    while left:
        base = left[0][1].inverse()
        turned = [(i, placement.after(base)) for i, placement in left]
        same = [(i, placement) for i, placement in turned
                if (_level(placement) == MOVED if same_way else placement.keeps_level)]  # fmt: skip
        kept = {i for i, _ in same}
        yield left[0][0], same
        left = [(i, placement) for i, placement in left if i not in kept]


def varied(entry: Entry, number: int) -> Entry:
    """The entry as it is drawn in its zone *number*: where sisters vary, each from a seed of its own."""
    if all(layer.over != "varied" for layer in entry.layers):
        return entry
    layers = tuple(
        replace(layer, seed=(layer.seed + OTHERWISE * number) % 2**31)
        if layer.over == "varied"
        else layer
        for layer in entry.layers
    )
    return replace(entry, layers=layers)


def faces(entry: Entry) -> bool:
    """Whether sisters of the entry lie alike to the middles of their blocks."""
    return any(layer.over == "turned" or layer.guide or _faces(layer) for layer in entry.layers)


def _faces(layer: Layer) -> bool:
    drawing = designs().get(layer.design)
    return drawing is not None and drawing.turns


def _undirected(layer: Layer) -> bool:
    drawing = designs().get(layer.design)
    return drawing is None or drawing.undirected or drawing.role == "ditch"


def _as_they_stand(
    group: Sequence[tuple[int, Placement]], shape: Polygon
) -> list[tuple[int, Placement]]:
    """The placements of *shape* that turn it least."""
    ways = ways_onto_itself(shape)
    return [
        (i, max((placement, *map(placement.after, ways)), key=_level)) for i, placement in group
    ]


def _level(placement: Placement) -> float:
    """How little is turned: 2 where it is only moved; 0 where it is turned over, or by a quarter."""
    return round(float(np.trace(placement.matrix)), 3)


def _asked(layer: Layer, what: Literal["lies", "runs_alike"]) -> bool:
    """What a layer's design says of its settings."""
    drawing = designs().get(layer.design)
    try:
        return drawing is not None and getattr(drawing, what)(drawing.clean(layer.settings))
    except SettingError:
        return False
