"""Draw a legend: every layer of every entry, each class of alike zones once."""

from __future__ import annotations

import logging
import math
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.chart import Chart
from chorograph_core.designs.behind import as_if_open, covered, whole_of_half
from chorograph_core.designs.beside import all_beside
from chorograph_core.designs.caching import DrawingCache, digest, shape_key
from chorograph_core.designs.contract import SPILL, Design, Doorways, Fit
from chorograph_core.designs.keeping import Clipping
from chorograph_core.designs.legend import Entry, Figure, Layer, LayerLinework, role_of
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.patterns import Pattern, TopFacts, laid, passes, together
from chorograph_core.designs.registry import designs
from chorograph_core.designs.settings import SettingError, Settings
from chorograph_core.designs.sides import sides_of
from chorograph_core.designs.sisters import drawn_once, guide_in, varied
from chorograph_core.designs.space import Space, polygons
from chorograph_core.designs.surroundings import Surroundings
from chorograph_core.measure import format_inches
from chorograph_core.rulers import STARTING_RULERS, Ruler
from chorograph_core.zones import LIGHT, Zone, bans_of, in_words

EDGE_FINISHES = {"binding": 0.375, "turned": 0.5, "faced": 0.375, "knife": 0.5}
"""Inches that designs keep from the raw edge. Binding covers 1/4″, and points stay a little inside;
a backing folded to the front, a faced and a knife edge must not be stitched into at all."""
ENGINE = 35
"""Version of what draws here. Raise it when the same document would be drawn otherwise: linework,
plans and paper made by an older engine are then made again."""
IN_THE_FINISH = (
    "Nothing of this zone lies inside the edge's finish; choose another finish in Intake."
)
_log = logging.getLogger(__name__)


def stitchable(chart: Chart, edge_finish: str) -> Polygon:
    """The part of the top that designs may use, given how the edge will be finished; empty for a top
    so small that nothing of it is left."""
    keep = EDGE_FINISHES[edge_finish]
    left = polygons(chart.outline.buffer(-keep, join_style="mitre"))
    return left[0] if left else Polygon()


def draw_legend(
    chart: Chart,
    zones: Sequence[Zone],
    entries: Iterable[Entry],
    edge_finish: str = "binding",
    foot_radius: float = 0.25,
    only: set[str] | None = None,
    cache: DrawingCache | None = None,
    applique: str = "full",
    rulers: tuple[Ruler, ...] = STARTING_RULERS,
    retrace: str = "on",
) -> list[LayerLinework]:
    """Draw every layer of every entry, in the legend's order.

    Each class of alike zones is drawn once and laid on its sisters, so they come out the same, and
    quickly. *only* limits the work to some entries by id. What the client forbids is left empty:
    whole zones, and in appliqué what goes beyond *applique* (see `chorograph_core.zones.bans`).
    *retrace*: strokes go back over their own line on it (``"on"``) or ``"beside"`` it.
    A layer that cannot be drawn comes back without lines and with a `LayerLinework.fault`.
    """
    by_id = {zone.id: zone for zone in zones}
    bans = bans_of(zones, chart, applique)
    limit = stitchable(chart, edge_finish)
    shapely.prepare(limit)
    around = Surroundings(chart, zones)
    top = TopFacts(around, limit, foot_radius, rulers,
                     cache if cache is not None else DrawingCache())  # fmt: skip
    drawn: list[LayerLinework] = []
    for entry in entries:
        if only is not None and entry.id not in only:
            continue
        members = [by_id[z] for z in entry.zones if z in by_id and bans.get(z) != "leave"]
        drawn += _draw_entry(entry, members, top, bans)
    if retrace == "beside":
        drawn = all_beside(drawn, {zone.id: zone.polygon for zone in zones})
    return [one for one in drawn if not broken_ban(one, by_id[one.zone], bans)]


def broken_ban(one: LayerLinework, zone: Zone, bans: Mapping[str, str]) -> str:
    """The ban that this linework breaks, in words; empty if it breaks none."""
    ban = bans.get(zone.id)
    if ban is None or (ban != "leave" and one.role == "ditch"):
        return ""
    if ban == "light" and one.linework.inches <= LIGHT * zone.polygon.area:
        return ""
    return in_words(ban)


def drawn_safely(
    drawing: Design,
    space: Space,
    settings: Settings,
    seed: int = 0,
    doorways: Doorways | None = None,
) -> tuple[Linework, str]:
    """What the design draws, and a sentence where it cannot be kept.

    One design's mistake must not take a page or a plan with it: what raises draws nothing, and a
    run that leaves its zone is taken out.
    """
    try:
        made = _drawn(drawing, space, settings, seed, doorways)
    except SettingError as error:
        return Linework(), str(error)
    except Exception:
        _log.exception("%s cannot be drawn in %s", drawing.key, space.polygon.wkt[:400])
        return Linework(), f"{drawing.name} cannot be drawn in this shape; choose another design."
    # GEOS brings the process down over coordinates that are no numbers.
    lines = [
        shapely.linestrings(run.points)
        if len(run.points) > 1 and np.isfinite(run.points).all() else None
        for run in made.runs
    ]  # fmt: skip
    room = space.polygon.buffer(SPILL + 1e-6)
    shapely.prepare(room)
    good = [line is not None and bool(room.covers(line)) for line in lines]
    if all(good):
        return made, ""
    kept = tuple(run for run, fine in zip(made.runs, good, strict=True) if fine)
    out = [line for line, fine in zip(lines, good, strict=True) if line is not None and not fine]
    if not out:
        return replace(made, runs=kept, kept_doorways=False), ""
    spots = shapely.points(shapely.get_coordinates(out))
    beyond = float(shapely.distance(spots, space.polygon).max())
    far = format_inches(max(1, math.ceil(beyond * 16)) / 16, 16)
    fault = f"{drawing.name} would leave this zone by {far}; that line is left out."
    return replace(made, runs=kept, kept_doorways=False), fault


def _drawn(
    drawing: Design, space: Space, settings: Settings, seed: int, doorways: Doorways | None
) -> Linework:
    """What the design draws; where it follows a guide through shapes on the zone, as it shows beside them."""
    if drawing.goes_behind and (whole := as_if_open(space)) is not space:
        return covered(drawing.draw(whole, settings, seed, doorways), space.polygon)
    return drawing.draw(space, settings, seed, doorways)


def fit_of(drawing: Design, space: Space, settings: Settings | None = None) -> Fit:
    """How well the design suits *space*; not at all, and why, where these settings cannot be drawn."""
    try:
        return drawing.fits(as_if_open(space) if drawing.goes_behind else space, settings)
    except SettingError as error:
        return Fit(0.0, (str(error),))


def _draw_entry(
    entry: Entry, members: list[Zone], top: TopFacts, bans: Mapping[str, str]
) -> list[LayerLinework]:
    layers: list[list[LayerLinework]] = [[] for _ in entry.layers]
    known = [designs().get(layer.design) for layer in entry.layers]
    shared = []
    kept: dict[int, dict[str, BaseGeometry]] = {}
    for k, (layer, drawing) in enumerate(zip(entry.layers, known, strict=True)):
        if drawing is None:
            fault = f"There is no design called “{layer.design}” here; choose another."
            layers[k] = [laid(zone, entry, k, Pattern(Linework(), fault=fault)) for zone in members]
        elif layer.as_one and len(members) > 1 and drawing.role != "ditch":
            # A ditch lies in seams: what is round a whole region is stitched zone by zone as well.
            # Where the client allows only so much in one of them, its piece may have to be left out.
            as_one = not any(bans.get(zone.id) == "light" for zone in members)
            free = [zone for zone in members if bans.get(zone.id) != "outline"]
            layers[k], kept[k] = _over_region(entry, k, drawing, free, top, as_one)
        elif drawing.looks_round:
            layers[k] = [_round_about(entry, k, drawing, zone, top) for zone in members]
        else:
            shared.append(k)
    for zone in [zone for zone in members if zone.whole is not None] if shared else []:
        for k, made in _behind(entry, zone, top, _kept_in(zone, kept)):
            if k in shared:
                layers[k].append(laid(zone, entry, k, made))
    members = [zone for zone in members if zone.whole is None]
    if shared and members:
        clipped = [top.within(zone.polygon) for zone in members]
        for zone in (z for z, shape in zip(members, clipped, strict=True) if shape is None):
            for k in shared:
                layers[k].append(laid(zone, entry, k, Pattern(Linework(), fault=IN_THE_FINISH)))
        inside = [(z, s) for z, s in zip(members, clipped, strict=True) if s is not None]
        # What a figure over all of them keeps free is otherwise in each.
        for zone, shape in inside:
            taken = _kept_in(zone, kept)
            cut_from = None if shape is zone.polygon else zone.polygon
            for k, made in enumerate(
                _patterns(entry, shape, top, taken, cut_from) if taken else ()
            ):
                if k in shared:
                    layers[k].append(laid(zone, entry, k, replace(made, whole=None)))
        inside = [(z, s) for z, s in inside if not _kept_in(z, kept)]
        wholes = [zone.polygon for zone, _ in inside]
        middles = [top.around.middle_round(zone) for zone, _ in inside]
        for one in drawn_once(entry, wholes, [shape for _, shape in inside], middles):
            drawn_as = varied(entry, one.first)
            patterns = _patterns(drawn_as, one.shape, top, cut_from=one.cut_from)
            for i, placement in one.laid:
                for k in shared:
                    made = patterns[k]
                    if i != one.first:
                        made = replace(made, linework=made.linework.moved(placement))
                    layers[k].append(laid(inside[i][0], drawn_as, k, made, placement))
    return [one for layer in layers for one in layer]


def _kept_in(zone: Zone, kept: Mapping[int, Mapping[str, BaseGeometry]]) -> dict[int, BaseGeometry]:
    """What figures over several zones keep free of the ground in this one, by layer."""
    return {k: of[zone.id] for k, of in kept.items() if zone.id in of}


def _round_about(entry: Entry, k: int, drawing: Design, zone: Zone, top: TopFacts) -> LayerLinework:
    """A layer that depends on what lies round the zone: drawn in its own place."""
    layer = entry.layers[k]
    space = top.around.told(top.space(zone.polygon, layer), zone)
    try:
        settings = drawing.clean(layer.settings)
    except SettingError as error:
        return laid(zone, entry, k, Pattern(Linework(), fault=str(error)))
    made, fault = drawn_safely(drawing, space, settings, layer.seed)
    return laid(zone, entry, k, Pattern(passes(made, layer.passes), fault=fault))


def _over_region(
    entry: Entry, k: int, drawing: Design, members: list[Zone], top: TopFacts, as_one: bool
) -> tuple[list[LayerLinework], dict[str, BaseGeometry]]:
    """One figure over all zones of the entry, each with its piece of it; and what it keeps free of the ground
    in them.

    Zones that touch are one region, or those of them that lie on one side of a border. The pieces carry
    the figure: they are one line to the eye, and to whoever plans the way. Else, not *as_one*, each piece is
    stitched in its own zone.
    """
    layer = entry.layers[k]
    try:
        settings = drawing.clean(layer.settings)
    except SettingError as error:
        return [laid(z, entry, k, Pattern(Linework(), fault=str(error))) for z in members], {}
    groups = sides_of(members) if layer.over == "sides" else [members]
    pieces: dict[str, list[Linework]] = {zone.id: [] for zone in members}
    faults: dict[str, str] = dict.fromkeys(pieces, "")
    wholes = [shapely.union_all([z.polygon for z in each], grid_size=1e-5) for each in groups]
    grouped = [
        (region, group)
        for whole, group in zip(wholes, groups, strict=True)
        for region in polygons(whole.intersection(top.limit))
    ]
    regions = [region for region, _ in grouped]
    if len(regions) > 1 and layer.over != "sides":
        settings = drawing.alongside(settings)
    within = [
        [(zone.id, part) for zone in group for part in polygons(zone.polygon.intersection(region))]
        for region, group in grouped
    ]
    owners = Counter(zone for parts in within for zone in {name for name, _ in parts})
    figures: dict[str, Figure] = {}
    kept: dict[str, BaseGeometry] = {}
    for number, (region, parts) in enumerate(zip(regions, within, strict=True)):
        space = replace(top.space(region, layer), parts=tuple(part for _, part in parts))
        made, fault = _over_all(layer, drawing, space, settings, top)
        round_it = k + 1 < len(entry.layers) and made.runs
        free = drawing.reserves(space, settings, made) if round_it else None
        names = list(dict.fromkeys(name for name, _ in parts))
        # A zone that the finish parts has pieces of two figures: those stay pieces.
        one = as_one and len(names) > 1 and all(owners[name] == 1 for name in names)
        if one and made.runs:
            figure = Figure(f"{names[0]}+", tuple(names), space, passes(made, layer.passes))
            figures |= dict.fromkeys(names, figure)
        clipping = Clipping(made)
        for name, part in parts:
            faults[name] = faults[name] or fault
            if free is not None and free.intersects(part):
                kept[name] = free if name not in kept else kept[name].union(free)
            # A zone may hold several parts of a figure: each has a name of its own in it.
            taken = sum(len(piece.runs) for piece in pieces[name])
            piece = passes(clipping.to(part) if one else covered(made, part), layer.passes)
            runs = [
                replace(run, figure=f"f{number}.{j}") for j, run in enumerate(piece.runs, taken)
            ]
            pieces[name].append(replace(piece, runs=tuple(runs)))
    found = [
        replace(laid(zone, entry, k, Pattern(together(pieces[zone.id]), fault=faults[zone.id])),
                figure=figures.get(zone.id))
        for zone in members
    ]  # fmt: skip
    return [one for one in found if one.linework.runs or one.fault], kept


def _over_all(
    layer: Layer, drawing: Design, space: Space, settings: Settings, top: TopFacts
) -> tuple[Linework, str]:
    """A design over a region, drawn once for as long as it is remembered."""
    key = digest([ENGINE, "region", shape_key(space.polygon),
                  [shape_key(part) for part in space.parts], top.foot_radius, layer.design,
                  [repr(ruler) for ruler in top.rulers], repr(settings), layer.seed,
                  space.guide, space.guide_width])  # fmt: skip
    found = top.cache.get(key)
    if found is None:
        found = drawn_safely(drawing, space, settings, layer.seed)
        top.cache.put(key, found)
    return found


def _behind(entry: Entry, zone: Zone, top: TopFacts, kept: Mapping[int, BaseGeometry]):
    """(layer, pattern) of a zone that runs behind something: drawn in the whole, then covered."""
    assert zone.whole is not None
    whole, visible = top.within(zone.whole), top.within(zone.polygon)
    if whole is None or visible is None:
        for k in range(len(entry.layers)):
            yield k, Pattern(Linework(), fault=IN_THE_FINISH)
        return
    cut_from = None if whole is zone.whole else zone.whole
    for k, made in enumerate(_patterns(entry, whole, top, kept, cut_from)):
        yield k, replace(made, linework=covered(made.linework, visible), whole=None)


def _patterns(
    entry: Entry, shape: Polygon, top: TopFacts, kept: Mapping[int, BaseGeometry] | None = None,
    cut_from: Polygon | None = None,
) -> list[Pattern]:  # fmt: skip
    """All layers of an entry in one shape; where that is the half of a whole, what fills it is drawn in
    the whole and cut, and what frames it is its own. *kept*: what a layer over several zones keeps free;
    *cut_from*: the zone of which the shape is what the finish leaves."""
    own = _draw_pattern(entry, shape, top, kept or {}, cut_from)
    if all(layer.over != "whole" for layer in entry.layers):
        return own
    whole = _draw_pattern(entry, whole_of_half(shape), top, kept or {}, cut_from)
    return [
        mine if role_of(layer) in ("ditch", "frame")
        else replace(made, linework=covered(made.linework, shape), whole=None)
        for layer, mine, made in zip(entry.layers, own, whole, strict=True)
    ]  # fmt: skip


def _draw_pattern(
    entry: Entry, shape: Polygon, top: TopFacts, kept: Mapping[int, BaseGeometry],
    cut_from: Polygon | None,
) -> list[Pattern]:  # fmt: skip
    """All layers of an entry in one shape. What is drawn elsewhere only shrinks the room for the
    rest; a motif leaves the rest what it does not keep free."""
    key = digest(
        [ENGINE, shape_key(shape), cut_from and shape_key(cut_from), top.foot_radius,
         [repr(ruler) for ruler in top.rulers],
         [(la.design, dict(la.settings), la.seed, la.passes, la.over,
           guide_in(la, shape) or (), la.guide_width) for la in entry.layers],
         [(k, shapely.to_wkb(shapely.set_precision(area, 1e-4)).hex()) for k, area in kept.items()]]
    )  # fmt: skip
    found = top.cache.get(key)
    if found is not None:
        return found
    made: list[Pattern] = []
    room = [shape]
    for k, layer in enumerate(entry.layers):
        drawing = designs().get(layer.design)
        if drawing is None:
            made.append(Pattern(Linework()))
            continue
        try:
            settings = drawing.clean(layer.settings)
        except SettingError as error:
            made.append(Pattern(Linework(), fault=str(error)))
            continue
        parts = [replace(top.space(part, layer), cut_from=cut_from) for part in room]
        if drawing.looks_round or layer.as_one:
            made.append(Pattern(Linework()))
            pieces = [Linework() for _ in parts]
        else:
            results = [drawn_safely(drawing, part, settings, layer.seed) for part in parts]
            pieces = [piece for piece, _ in results]
            fault = next((fault for _, fault in results if fault), "")
            whole = parts[0] if len(parts) == 1 and layer.passes == 1 else None
            made.append(Pattern(passes(together(pieces), layer.passes), whole, fault))
        if k + 1 < len(entry.layers):
            room = _room_left(drawing, settings, parts, pieces)
        if k in kept:
            room = [rest for part in room for rest in polygons(part.difference(kept[k]))]
    top.cache.put(key, made)
    return made


def _room_left(
    drawing: Design, settings: Settings, parts: Sequence[Space], pieces: Sequence[Linework]
) -> list[Polygon]:
    """What the next layer may use."""
    left: list[Polygon] = []
    for part, piece in zip(parts, pieces, strict=True):
        for rest in drawing.remaining(part, settings):
            kept = drawing.reserves(part, settings, piece)
            left += [rest] if kept is None else polygons(rest.difference(kept))
    return left
