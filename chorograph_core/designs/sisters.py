"""Sisters: who of a class of alike zones is drawn, and upon whom that is laid."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import Alike, Placement
from chorograph_core.designs.legend import Entry, Guide, Layer
from chorograph_core.designs.registry import designs
from chorograph_core.designs.settings import SettingError

NEAR, LEAST = 0.01, 0.25
"""Inches by which a guide may lie beside a seam and be in it; inches of it by which it is a zone's own."""
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


def drawn_alike(
    entry: Entry, classes: Alike, number: int, shapes: Sequence[Polygon]
) -> Iterable[tuple[int, list[tuple[int, Placement]]]]:
    """Who of a class is drawn, and upon whom that is laid, with the placements from it: all of them
    upon each other, but where a design is told which way a zone lies on the frame only on those that lie
    that way too. A zone with a guide is the one that is drawn."""
    group = classes.members(number)
    first = next(
        (i for i in group if any(guided(layer, shapes[i]) for layer in entry.layers)), group[0]
    )
    back = classes.placements[first].inverse()
    left = [(i, classes.placements[i].after(back)) for i in group]
    if any(layer.over == "varied" for layer in entry.layers):
        for i, placement in left:
            yield i, [(i, placement.after(placement.inverse()))]
        return
    if not any(_lies(layer) for layer in entry.layers):
        yield first, left
        return
    while left:
        base = left[0][1].inverse()
        turned = [(i, placement.after(base)) for i, placement in left]
        same = [(i, placement) for i, placement in turned if placement.keeps_level]
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


def _lies(layer: Layer) -> bool:
    drawing = designs().get(layer.design)
    try:
        return drawing is not None and drawing.lies(drawing.clean(layer.settings))
    except SettingError:
        return False
