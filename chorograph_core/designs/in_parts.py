"""Draw a filling again in parts, each of which is reached at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.caching import DrawingCache, digest, shape_key
from chorograph_core.designs.drawing import ENGINE, drawn_safely
from chorograph_core.designs.filling import all_fills_alike, widest_gap
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Run
from chorograph_core.designs.registry import designs
from chorograph_core.designs.space import Space, polygons

WIDER = 1.35
"""How many times wider than anywhere in the whole a gap may be where two parts meet: the choice is between
that and a knot at every line that crosses."""
TRIES = 8
"""Seeds that are tried: where two parts meet by chance in a gap, others do not."""
BEGUN = 4
"""How often one begins anew with another first part."""
FINE = 1e-6
"""Inches to which places are the same."""
LEAST = 4.0
"""Square inches below which a part is left to the fill of its neighbour."""


def drawn_in_parts(
    one: LayerLinework, bands: Sequence[Polygon], cache: DrawingCache
) -> LayerLinework | None:
    """The same design in each of the *bands* of what it fills, as runs that keep its name; None where the
    design is none that may be parted, or where the parts do not fill the zone as the whole does."""
    drawing = designs().get(one.design)
    runs = one.linework.runs
    if drawing is None or not drawing.divisible or len(runs) != 1:
        return None
    if one.pattern is None or one.placement is None:
        return None
    laid = shapely.transform(one.pattern.polygon, one.placement.apply)
    # Drawn as if it lay in the corner of the top: sisters beside each other are parted alike, and drawn once.
    corner = np.array(laid.bounds[:2])
    shape, *moved = (
        shapely.set_precision(shapely.transform(each, lambda points: points - corner), FINE)
        for each in (laid, *bands)
    )
    parts = [part for band in moved for part in polygons(shape.intersection(band))]
    if len(parts) < 2 or min(part.area for part in parts) < LEAST:
        return None
    key = digest(
        [
            ENGINE,
            "parts",
            [shape_key(part) for part in parts],
            shape_key(one.pattern.polygon),
            one.design,
            dict(one.settings),
            one.seed,
        ]
    )
    found = cache.get(key)
    if found is None:
        # However a sister is turned, the drawing that parts are to be as good as is that of all of them.
        whole = one.linework.moved(one.placement.inverse()).runs
        most = WIDER * widest_gap(one.pattern.polygon, whole)
        found = (_drawn(one, drawing, shape, parts, whole, most),)
        cache.put(key, found)
    made = found[0]
    if made is None:
        return None
    name = runs[0].figure or "0"
    named = tuple(replace(run, figure=name, points=run.points + corner) for run in made)
    return replace(one, linework=replace(one.linework, runs=named), pattern=None)


def _drawn(
    one: LayerLinework, drawing, shape: Polygon, parts: list[Polygon], whole: Sequence[Run],
    most: float,
) -> list[Run] | None:  # fmt: skip
    """Each part with the first seed that leaves no gap wider than *most* inches towards the part before it;
    *whole* is what is parted, as it lies in its pattern."""
    settings = drawing.clean(one.settings)
    for begun in range(0, BEGUN * TRIES, TRIES):
        all_runs = _one_after_another(one, drawing, settings, shape, parts, most, begun)
        if all_runs and all_fills_alike(shape, whole, all_runs, most):
            return all_runs
    return None


def _one_after_another(one, drawing, settings, shape, parts, most: float, begun: int) -> list[Run]:
    """Each part with a seed that meets the part before it well; nothing where one cannot be drawn."""
    made: list[tuple[Run, ...]] = []
    for k, part in enumerate(parts):
        best: tuple[float, tuple[Run, ...]] | None = None
        for more in range(TRIES):
            runs = _tried(one, drawing, settings, shape, part, one.seed + begun + more)
            if not runs:
                return []
            both = shapely.union_all([*parts[max(0, k - 1) : k], part], grid_size=1e-6)
            gap = widest_gap(both, [*(made[-1] if made else ()), *runs])
            if best is None or gap < best[0]:
                best = gap, runs
            if gap <= most:
                break
        assert best is not None
        made.append(best[1])
    return [run for each in made for run in each]


def _tried(one, drawing, settings, shape, part: Polygon, seed: int) -> tuple[Run, ...]:
    """The design in one part; nothing where it cannot be drawn."""
    margin = float(getattr(settings, "margin", 0.0))
    # Towards a seam a design keeps its margin; where two parts meet there is none to keep from.
    room = next(iter(polygons(part.buffer(margin).intersection(shape))))
    space = Space(room, None, one.pattern.foot_radius, one.pattern.rulers)
    linework, fault = drawn_safely(drawing, space, settings, seed)
    return () if fault else linework.runs
