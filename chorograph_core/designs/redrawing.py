"""Draw a design again between two doorways that the route chose."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.caching import DrawingCache, digest, shape_key
from chorograph_core.designs.drawing import ENGINE, drawn_safely
from chorograph_core.designs.filling import fills_alike, widest_gap
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Linework, Run
from chorograph_core.designs.registry import designs
from chorograph_core.designs.space import Space

WIDER = 0.005
"""Share by which a zone must be larger than what the design was given, for the difference to count."""
AT_DOOR = 0.01
"""Inches within which a line ends at its doorway."""


def doors_of(one: LayerLinework) -> np.ndarray:
    """Points (n, 2) at which this linework could begin or end if it were drawn again."""
    if one.pattern is None or len(one.linework.runs) != 1:
        return np.empty((0, 2))
    drawing = designs().get(one.design)
    if drawing is None or one.placement is None:
        return np.empty((0, 2))
    return one.placement.apply(drawing.doors(one.pattern, one.settings))


def good_pairs(
    one: LayerLinework, cache: DrawingCache, zone: Polygon | None = None
) -> list[tuple[int, int]]:
    """Pairs (low, high) of doors between which the design fills its *zone* as it did first.

    Who redraws is checked: at its doorways, and in how it fills, the strip along a raw edge that the
    design keeps free among it.
    """
    count = len(doors_of(one))
    if not one.linework.runs[0].closed:
        # Each variant has a beginning and an end of its own.
        if one.pattern is None or not count or not _variants(one, one.pattern):
            return []
        return [(k, k + 1) for k in range(0, count, 2) if _between(one, k, k + 1, cache, zone)]
    pairs = [(low, high) for low in range(count) for high in range(low + 1, count)]
    return [pair for pair in pairs if _between(one, *pair, cache, zone) is not None]


def _variants(one: LayerLinework, space: Space) -> tuple[Linework, ...]:
    drawing = designs()[one.design]
    return drawing.variants(space, drawing.clean(one.settings))


def redraw(
    one: LayerLinework, start: int, stop: int, cache: DrawingCache, zone: Polygon | None = None
) -> LayerLinework:
    """Draw it again from door number *start* to door number *stop*, a pair of `good_pairs`.

    Raises ValueError for doors between which it cannot be drawn well.
    """
    # There and back are the same line, so one drawing serves both ways.
    made = _between(one, min(start, stop), max(start, stop), cache, zone)
    if made is None or one.placement is None:
        raise ValueError("This design cannot be drawn between these doors.")
    laid = made.moved(one.placement)
    if start > stop:
        laid = replace(laid, runs=(laid.runs[0].reversed(),))
    return replace(one, linework=laid)


def _between(
    one: LayerLinework, low: int, high: int, cache: DrawingCache, zone: Polygon | None
) -> Linework | None:
    """The linework in its pattern zone between two doors; None where none is good."""
    assert one.pattern is not None and one.placement is not None
    part = one.pattern.polygon
    if zone is not None and abs(zone.area - part.area) > WIDER * part.area:
        part = shapely.transform(zone, one.placement.undo)
    what = [ENGINE, shape_key(one.pattern.polygon), shape_key(part), one.design, dict(one.settings),
            one.seed, one.pattern.guide, one.pattern.guide_width]  # fmt: skip
    key = digest([*what, low, high])
    found = cache.get(key)
    if found is None:
        drawing = designs()[one.design]
        settings = drawing.clean(one.settings)
        doors = drawing.doors(one.pattern, settings)
        fault = ""
        if not one.linework.runs[0].closed:
            variant = _variants(one, one.pattern)[low // 2]
            made = replace(variant, kept_doorways=True)
        else:
            ends = (_spot(doors[low]), _spot(doors[high]))
            made, fault = drawn_safely(drawing, one.pattern, settings, one.seed, ends)
        first = one.linework.runs[0]
        first = replace(first, points=one.placement.undo(first.points))
        good = (
            not fault
            and _keeps_doorways(made, doors[low], doors[high])
            and fills_alike(
                part, first, made.runs[0], lambda: _gap_as_drawn(part, first, what, cache)
            )
        )
        found = (made if good else None,)
        cache.put(key, found)
    return found[0]


def _gap_as_drawn(part: Polygon, first: Run, what: list, cache: DrawingCache) -> float:
    """How widely *part* gapes as it was drawn *first*: asked for again with each pair of doors."""
    key = digest(["gap", *what])
    found = cache.get(key)
    if found is None:
        found = widest_gap(part, [first])
        cache.put(key, found)
    return found


def _spot(point: np.ndarray) -> tuple[float, float]:
    return (float(point[0]), float(point[1]))


def _keeps_doorways(made: Linework, start: np.ndarray, stop: np.ndarray) -> bool:
    """Whether a design that says so really begins and ends where it was asked to."""
    if not made.kept_doorways or len(made.runs) != 1:
        return False
    ends = made.runs[0].points[[0, -1]]
    return bool(np.abs(ends - np.array([start, stop])).max() < AT_DOOR)
