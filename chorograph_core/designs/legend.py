"""The legend: which zones get which layers of design, thread and stitch length; and drawing it."""

from __future__ import annotations

import hashlib
import json
from collections import OrderedDict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import Chart, Placement, alike
from chorograph_core.designs.behind import covered
from chorograph_core.designs.contract import Linework, Run, Space, Span, polygons
from chorograph_core.designs.registry import design
from chorograph_core.zones import LIGHT, Zone, bans_of, in_words

EDGE_FINISHES = {"binding": 0.375, "turned": 0.5, "faced": 0.375, "knife": 0.5}
"""Inches that designs keep from the raw edge. Binding covers 1/4″, and points stay a little inside;
a backing folded to the front, a faced and a knife edge must not be stitched into at all."""


@dataclass(frozen=True)
class Layer:
    """One design in a zone. *passes*: how often each line is stitched over."""

    design: str
    settings: Mapping[str, Any] = field(default_factory=dict)
    thread: str = "main"
    spi: float = 11.0
    passes: int = 1
    seed: int = 0


@dataclass(frozen=True)
class Entry:
    """One line of the legend: a name, zones by id, and layers in stitching order."""

    id: str
    name: str
    zones: tuple[str, ...]
    layers: tuple[Layer, ...]


@dataclass(frozen=True)
class Thread:
    """A thread: key, name, colour ``#rrggbb``, weight (wt), and what one cone holds in yards."""

    key: str
    name: str
    colour: str
    weight: float = 40.0
    yards: float = 1500.0


@dataclass(frozen=True)
class LayerLinework:
    """The linework of one layer of one zone, with what the route must know about it.

    *pattern* and *placement* say where it was drawn first and how it was laid here, so that it can
    be drawn again from other doorways; None where it cannot.
    """

    zone: str
    entry: str
    layer: int
    design: str
    thread: str
    spi: float
    passes: int
    linework: Linework
    pattern: Space | None = None
    placement: Placement | None = None
    settings: Mapping[str, Any] = field(default_factory=dict)
    seed: int = 0

    def key(self, run: int) -> str:
        """Name of one run in the route."""
        return f"{self.zone}/{self.layer}/{run}"


class DrawingCache:
    """Linework of one pattern zone by what it was drawn from; the least used is dropped."""

    def __init__(self, most: int = 600) -> None:
        self._kept: OrderedDict[str, Any] = OrderedDict()
        self._most = most

    def get(self, key: str) -> Any | None:
        """What was drawn for *key*, or None."""
        found = self._kept.get(key)
        if found is not None:
            self._kept.move_to_end(key)
        return found

    def put(self, key: str, made: Any) -> None:
        """Keep *made* for next time."""
        self._kept[key] = made
        while len(self._kept) > self._most:
            self._kept.popitem(last=False)


def stitchable(chart: Chart, edge_finish: str) -> Polygon:
    """The part of the top that designs may use, given how the edge will be finished."""
    keep = EDGE_FINISHES[edge_finish]
    return polygons(chart.outline.buffer(-keep, join_style="mitre"))[0]


def draw_legend(
    chart: Chart,
    zones: Sequence[Zone],
    entries: Iterable[Entry],
    edge_finish: str = "binding",
    foot_radius: float = 0.25,
    only: set[str] | None = None,
    cache: DrawingCache | None = None,
    applique: str = "full",
) -> list[LayerLinework]:
    """Draw every layer of every entry, in the legend's order.

    Each class of alike zones is drawn once and laid on its sisters, so they come out the same, and
    quickly. *only* limits the work to some entries by id. What the client forbids is left empty:
    whole zones, and in appliqué what goes beyond *applique* (see `chorograph_core.zones.bans`).
    """
    by_id = {zone.id: zone for zone in zones}
    bans = bans_of(zones, chart, applique)
    limit = stitchable(chart, edge_finish)
    shapely.prepare(limit)
    cache = cache if cache is not None else DrawingCache()
    drawn: list[LayerLinework] = []
    for entry in entries:
        if only is not None and entry.id not in only:
            continue
        members = [by_id[z] for z in entry.zones if z in by_id and bans.get(z) != "leave"]
        drawn += _draw_entry(entry, members, chart, limit, foot_radius, cache)
    return [one for one in drawn if not broken_ban(one, by_id[one.zone], bans)]


def broken_ban(one: LayerLinework, zone: Zone, bans: Mapping[str, str]) -> str:
    """The ban that this linework breaks, in words; empty if it breaks none."""
    ban = bans.get(zone.id)
    if ban is None or (ban != "leave" and one.design == "ditch"):
        return ""
    if ban == "light" and one.linework.inches <= LIGHT * zone.polygon.area:
        return ""
    return in_words(ban)


def _draw_entry(entry, members, chart, limit, foot_radius, cache) -> list[LayerLinework]:
    layers: list[list[LayerLinework]] = [[] for _ in entry.layers]
    ditches = [k for k, layer in enumerate(entry.layers) if layer.design == "ditch"]
    raw_edge = chart.outline.exterior
    for k in ditches:
        # Ditches run up to the raw edge and depend on where it is, so they are never shared.
        for zone in members:
            made = design("ditch").draw(
                Space(zone.polygon, raw_edge, foot_radius), entry.layers[k].settings
            )
            layers[k].append(_drawn(zone, entry, k, made))
    inner = [k for k in range(len(entry.layers)) if k not in ditches]
    behind = [zone for zone in members if zone.whole is not None] if inner else []
    for zone in behind:
        for k, linework in _behind(entry, zone, limit, foot_radius, cache):
            layers[k].append(_drawn(zone, entry, k, linework))
    members = [zone for zone in members if zone.whole is None]
    if inner and members:
        clipped = [
            zone.polygon
            if limit.covers(zone.polygon)
            else next(iter(polygons(zone.polygon.intersection(limit))), None)
            for zone in members
        ]
        inside = [
            (z, shape) for z, shape in zip(members, clipped, strict=True) if shape is not None
        ]
        classes = alike([shape for _, shape in inside])
        for number in range(max(classes.classes, default=-1) + 1):
            group = classes.members(number)
            pattern = inside[group[0]][1]
            made = _draw_pattern(entry, pattern, foot_radius, cache)
            for i in group:
                placement: Placement = classes.placements[i]
                for k in inner:
                    linework, room = made[k]
                    laid = linework if i == group[0] else linework.moved(placement)
                    layers[k].append(_drawn(inside[i][0], entry, k, laid, room, placement))
    return [one for layer in layers for one in layer]


def _behind(entry: Entry, zone: Zone, limit: Polygon, foot_radius: float, cache):
    """(layer, linework) of a zone that runs behind something: drawn in the whole, then covered."""
    whole = next(iter(polygons(zone.whole.intersection(limit))), None)
    visible = next(iter(polygons(zone.polygon.intersection(limit))), None)
    if whole is None or visible is None:
        return
    made = _draw_pattern(entry, whole, foot_radius, cache)
    for k, layer in enumerate(entry.layers):
        if layer.design != "ditch":
            yield k, covered(made[k][0], visible)


def _draw_pattern(entry: Entry, shape: Polygon, foot_radius: float, cache: DrawingCache):
    """All layers of an entry in one shape; ditches only shrink what is left for the rest."""
    key = hashlib.sha256(
        json.dumps(
            [
                shapely.to_wkb(shapely.set_precision(shape, 1e-9), hex=True),
                foot_radius,
                [(la.design, dict(la.settings), la.seed, la.passes) for la in entry.layers],
            ],
            sort_keys=True,
        ).encode()
    ).hexdigest()
    found = cache.get(key)
    if found is not None:
        return found
    made = []
    room = [shape]
    for layer in entry.layers:
        drawing = design(layer.design)
        settings = drawing.clean(layer.settings)
        parts = [Space(part, None, foot_radius) for part in room]
        if layer.design == "ditch":
            made.append((Linework(), None))
        else:
            pieces = [drawing.draw(part, settings, layer.seed) for part in parts]
            whole = parts[0] if len(parts) == 1 and layer.passes == 1 else None
            made.append((_passes(_together(pieces), layer.passes), whole))
        if drawing.frames:
            room = [left for part in parts for left in drawing.remaining(part, settings)]
    cache.put(key, made)
    return made


def _together(pieces: Sequence[Linework]) -> Linework:
    return Linework(
        tuple(run for piece in pieces for run in piece.runs),
        tuple(mark for piece in pieces for mark in piece.marks),
        tuple(move for piece in pieces for move in piece.ruler_moves),
        tuple(dict.fromkeys(note for piece in pieces for note in piece.notes)),
    )


def _passes(linework: Linework, passes: int) -> Linework:
    """Bold lines: each run is stitched *passes* times, to and fro, or round and round."""
    if passes <= 1:
        return linework
    return Linework(
        tuple(_bold(run, passes) for run in linework.runs),
        linework.marks,
        linework.ruler_moves,
        linework.notes,
    )


def _bold(run: Run, passes: int) -> Run:
    points, spans = [run.points], list(run.spans) or [Span(len(run.points) - 1, run.technique)]
    last = run
    for _ in range(passes - 1):
        last = last if run.closed else last.reversed()
        base = spans[-1].stop
        points.append(last.points[1:])
        own = last.spans or (Span(len(last.points) - 1, run.technique),)
        spans += [Span(base + s.stop, s.technique, s.kind) for s in own]
    return replace(run, points=np.concatenate(points), spans=tuple(spans))


def _drawn(zone: Zone, entry: Entry, k: int, linework: Linework, pattern=None, placement=None):
    layer = entry.layers[k]
    return LayerLinework(
        zone.id, entry.id, k, layer.design, layer.thread, layer.spi, layer.passes, linework,
        pattern, placement, layer.settings, layer.seed,
    )  # fmt: skip


def doors_of(one: LayerLinework) -> np.ndarray:
    """Points (n, 2) at which this linework could begin or end if it were drawn again."""
    if one.pattern is None or len(one.linework.runs) != 1:
        return np.empty((0, 2))
    drawing = design(one.design)
    return one.placement.apply(drawing.doors(one.pattern, one.settings))


def redraw(one: LayerLinework, start: int, stop: int, cache: DrawingCache) -> LayerLinework:
    """Draw it again from door number *start* to door number *stop*.

    Where the design finds no such line (a tiny zone), the closed one is stitched and gone back over
    as far as the second door.
    """
    drawing = design(one.design)
    # There and back are the same line, so one drawing serves both ways.
    low, high = min(start, stop), max(start, stop)
    key = hashlib.sha256(
        json.dumps(
            [
                shapely.to_wkb(shapely.set_precision(one.pattern.polygon, 1e-9), hex=True),
                one.design, dict(one.settings), one.seed, low, high,
            ],
            sort_keys=True,
        ).encode()
    ).hexdigest()  # fmt: skip
    made = cache.get(key)
    if made is None:
        settings = drawing.clean(one.settings)
        doors = drawing.doors(one.pattern, settings)
        made = drawing.draw(
            one.pattern, settings, one.seed, (tuple(doors[low]), tuple(doors[high]))
        )
        if not made.kept_doorways or len(made.runs) != 1:
            made = Linework((_round_and_on(made.runs[0], doors[low], doors[high]),))
        cache.put(key, made)
    laid = made.moved(one.placement)
    if start > stop:
        laid = replace(laid, runs=(laid.runs[0].reversed(),))
    return replace(one, linework=laid)


def _round_and_on(run: Run, start: np.ndarray, stop: np.ndarray) -> Run:
    """Once round a closed run from near *start*, then back over it to near *stop*."""
    ring = run.points[:-1]
    first = int(np.argmin(np.hypot(*(ring - start).T)))
    ring = np.roll(ring, -first, axis=0)
    goal = int(np.argmin(np.hypot(*(ring - stop).T)))
    around = np.vstack([start, ring, ring[:1]])
    short = ring[: goal + 1] if goal <= len(ring) / 2 else np.vstack([ring[:1], ring[goal:][::-1]])
    back = short[1:] if len(short) > 1 else short[:0]
    points = np.vstack([around, back, stop])
    spans = [Span(len(around) - 1, run.technique)]
    if len(back):
        spans.append(Span(len(around) + len(back) - 1, "retrace", "retrace"))
    spans.append(Span(len(points) - 1, run.technique))
    return Run(points, run.technique, tuple(spans))
