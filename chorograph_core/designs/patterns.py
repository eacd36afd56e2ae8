"""What a layer is as drawn in one shape, and how it comes to lie in a zone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from shapely.geometry import Polygon

from chorograph_core.chart import Placement
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer, LayerLinework, role_of
from chorograph_core.designs.linework import Linework, Run, Span
from chorograph_core.designs.sisters import guide_in
from chorograph_core.designs.space import Space, largest_within
from chorograph_core.designs.surroundings import Surroundings
from chorograph_core.rulers import Ruler
from chorograph_core.zones import Zone


@dataclass(frozen=True)
class TopFacts:
    """What all zones of a top share: how far designs may go, foot, rulers, what was drawn before."""

    around: Surroundings
    limit: Polygon
    foot_radius: float
    rulers: tuple[Ruler, ...]
    cache: DrawingCache

    def space(self, shape: Polygon, layer: Layer) -> Space:
        guide = guide_in(layer, shape)
        return Space(shape, None, self.foot_radius, self.rulers, (), guide, layer.guide_width)

    def within(self, shape: Polygon) -> Polygon | None:
        """The part of a zone that designs may use; None where nothing of it is left."""
        return largest_within(shape, self.limit)


@dataclass(frozen=True)
class Pattern:
    """A layer as drawn in the pattern zone: *whole* is the space it may be drawn again in."""

    linework: Linework
    whole: Space | None = None
    fault: str = ""


def together(pieces: Sequence[Linework]) -> Linework:
    return Linework(
        tuple(run for piece in pieces for run in piece.runs),
        tuple(mark for piece in pieces for mark in piece.marks),
        tuple(dict.fromkeys(note for piece in pieces for note in piece.notes)),
    )


def passes(linework: Linework, passes: int) -> Linework:
    """Bold lines: each run is stitched *passes* times, to and fro, or round and round."""
    if passes <= 1:
        return linework
    return replace(linework, runs=tuple(_bold(run, passes) for run in linework.runs))


def _bold(run: Run, passes: int) -> Run:
    points, spans = [run.points], list(run.spans) or [Span(len(run.points) - 1, run.technique)]
    last = run
    for _ in range(passes - 1):
        last = last if run.closed else last.reversed()
        base = spans[-1].stop
        points.append(last.points[1:])
        own = last.spans or (Span(len(last.points) - 1, run.technique),)
        spans += [replace(span, stop=base + span.stop) for span in own]
    return replace(run, points=np.concatenate(points), spans=tuple(spans), units=())


def laid(
    zone: Zone, entry: Entry, k: int, made: Pattern, placement: Placement | None = None
) -> LayerLinework:
    layer: Layer = entry.layers[k]
    return LayerLinework(
        zone.id, entry.id, k, layer.design, layer.thread, layer.spi, layer.passes, made.linework,
        made.whole if placement is not None else None, placement, layer.settings, layer.seed,
        role_of(layer), made.fault,
    )  # fmt: skip
