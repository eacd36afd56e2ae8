"""The tray of the drawer: every design as a small drawing of the chosen zone, best first."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs import Design, Fit, Linework, Settings, Space, designs
from chorograph_core.designs.drawing import drawn_safely, fit_of, stitchable
from chorograph_core.designs.figures import wholes
from chorograph_core.designs.legend import Entry, Layer, LayerLinework, main_layer
from chorograph_core.designs.linework import length
from chorograph_core.designs.sides import largest_figure
from chorograph_core.designs.sisters import guide_in
from chorograph_core.designs.space import largest_within, window_of
from chorograph_core.designs.surroundings import Surroundings
from chorograph_core.formats.drawing import outline_path
from chorograph_core.job import Job as CoreJob
from chorograph_core.reckon import evenness, reckon, stitched_once
from chorograph_core.rulers import Ruler, laid_with
from chorograph_core.zones import Zone
from studio.derived import Derived
from studio.shelf.models import OwnMotif
from studio.workbench.linework import path_of

_log = logging.getLogger(__name__)
WINDOW = 12.5
"""Inches of a large zone that a small drawing shows: a block of the usual size is seen whole."""
AT_ONCE = 12
"""Tiles that are drawn first: as many as are in sight, and some."""
FINE = 0.012
"""Share of what is shown by which its lines may be off."""
ALIKE = 0.01
"""Share by which the lines of alike places may differ in length."""
WILL_DO = 0.35
"""Score of a design from which nothing much speaks against it."""
WORDS = ((0.7, "suits"), (WILL_DO, "will do"), (0.0, "hardly"))
KINDS = {"straight": "straight lines", "curved": "curves by ruler", "figure": "figures",
         "edge": "edges", "hand": "by hand"}  # fmt: skip


@dataclass(frozen=True)
class Tile:
    """A design as the tray shows it: how it suits, why, and path data of its lines in the zone; *stroke* is
    that of a motif of the studio's own, which gives it its *name*."""

    design: Design
    score: float
    word: str
    reason: str
    kind: str
    path: str
    name: str
    stroke: str = ""

    @property
    def hand(self) -> str:
        """Which tool it is made with, as the tray sifts by it."""
        return "ruler" if self.design.family == "ruler" else "hand"


@dataclass(frozen=True)
class Tray:
    """The tiles, best first, and what is drawn under all of them: the zone, in its view box. *more*: there
    are others, which suit less."""

    tiles: tuple[Tile, ...]
    outline: str
    frame: str
    more: bool


def tray_of(
    core: CoreJob,
    zone: Zone,
    chosen: Layer | None,
    own: Sequence[OwnMotif] = (),
    rest: bool = False,
    looked_at: str = "",
) -> Tray:
    """The tray for *zone*: what suits best and is to be seen at once, with the design that is *looked_at*, or
    all the *rest*. The design in use is judged and drawn by its own settings. *own* are the studio's
    motifs."""
    space = space_of(core, zone)
    used = (chosen.design, repr(sorted(chosen.settings.items()))) if chosen else ("", "")
    drawn = tuple((each.name, key, each.stroke) for each in own for key in each.designs)
    key = (
        shapely.to_wkb(space.polygon),
        core.machine.foot_radius,
        core.rulers,
        used,
        drawn,
        rest,
        looked_at,
    )
    return _TRAYS(key, lambda: _tray(space, chosen, drawn, rest, looked_at))


_TRAYS: Derived[Tray] = Derived("tray", 64)


def _tray(space: Space, chosen: Layer | None, own: tuple, rest: bool, looked_at: str) -> Tray:
    shown = window_of(space, WINDOW)
    x0, y0, x1, y1 = shown.polygon.bounds
    side = max(x1 - x0, y1 - y0)
    pad = 0.05 * side
    frame = (f"{(x0 + x1 - side) / 2 - pad:.3f} {(y0 + y1 - side) / 2 - pad:.3f} "
             f"{side + 2 * pad:.3f} {side + 2 * pad:.3f}")  # fmt: skip
    offered = _offered(space, chosen, own)
    first = [k for k, each in enumerate(offered) if k < AT_ONCE or each.design.key == looked_at]
    wanted = [k for k in range(len(offered)) if k not in first] if rest else first
    seed = chosen.seed if chosen else 0
    tiles = tuple(_tile(offered[k], shown, seed, side) for k in wanted)
    more = not rest and len(first) < len(offered)
    return Tray(tiles, outline_path(shown.polygon, 3), frame, more)


@dataclass(frozen=True)
class _Offer:
    """A design as it would begin in a zone, and how it suits; a motif of the studio's own by its *name* and
    *stroke*."""

    design: Design
    settings: Settings
    fit: Fit
    name: str = ""
    stroke: str = ""


def _offered(space: Space, chosen: Layer | None, own: tuple) -> list[_Offer]:
    """All designs, best first."""

    def offer(design: Design, name: str = "", stroke: str = "") -> _Offer:
        settings = begun_with(design, space, chosen)
        if stroke:
            settings = design.clean({**vars(settings), "stroke": stroke})
        return _Offer(design, settings, fit_of(design, space, settings), name, stroke)

    found = []
    for design in designs().values():
        used = chosen is not None and chosen.design == design.key
        # A motif of one's own is one of those on the shelf, or the one in use.
        kept = chosen.settings.get("stroke", "") if chosen is not None and used else ""
        if not design.own:
            found.append(offer(design))
        elif used and all(stroke != kept for _, _, stroke in own):
            found.append(offer(design, stroke=kept))
    found += [offer(designs()[key], name, stroke) for name, key, stroke in own]
    return sorted(found, key=lambda each: -each.fit.score)


def _tile(one: _Offer, shown: Space, seed: int, side: float) -> Tile:
    made, fault = drawn_safely(one.design, shown, one.settings, seed)
    word = next(word for least, word in WORDS if one.fit.score >= least)
    reason = fault or "; ".join(one.fit.reasons[-1:])
    title = f"{one.name}, {one.design.own}" if one.name else one.design.name
    path = path_of(made, FINE * side / 2)
    kind = _kind(one.design, made)
    return Tile(one.design, one.fit.score, word, reason, kind, path, title, one.stroke)


def begun_with(design: Design, space: Space, chosen: Layer | None) -> Settings:
    """Its own settings where it is in use, else those it proposes for the zone."""
    if chosen is not None and chosen.design == design.key:
        kept, _ = design.settled(chosen.settings, chosen.version)
        return design.clean(kept)
    try:
        return design.proposed(space)
    except Exception:
        # One design's mistake must not take the tray with it.
        _log.exception("%s proposes nothing in %s", design.key, space.polygon.wkt[:400])
        return design.clean()


def _kind(design: Design, made: Linework) -> str:
    if design.family != "ruler":
        return "hand"
    if design.role in ("ditch", "frame"):
        return "edge"
    if design.role != "fill":
        return "figure"
    return "curved" if any(run.technique == "curved" for run in made.runs) else "straight"


def space_of(core: CoreJob, zone: Zone, layer: Layer | None = None) -> Space:
    """What designs may fill of *zone*, with what of it runs behind something, and all that they may know
    about it; the guide of *layer*, where it lies there."""
    limit = stitchable(core.chart, core.policy.edge_finish)
    shape = zone.polygon if zone.whole is None else zone.whole
    left = largest_within(shape, limit) or shape
    guide = guide_in(layer, left) if layer is not None else None
    wide = layer.guide_width if layer is not None and guide else 0.0
    cut_from = None if left is shape else shape
    space = Space(left, None, core.machine.foot_radius, core.rulers, (), guide, wide, cut_from)
    return Surroundings(core.chart, core.zones).told(space, zone)


def figure_space_of(core: CoreJob, members: Sequence[Zone], over: str) -> Space:
    """What the largest of the figures fills that a design makes laid *over* all *members*."""
    limit = stitchable(core.chart, core.policy.edge_finish)
    whole, parts = largest_figure(members, over, limit)
    return Space(whole, None, core.machine.foot_radius, core.rulers, parts)


@dataclass(frozen=True)
class Figures:
    """What an entry comes to: minutes and inches stitched a square inch as its line in the legend has them,
    layings, inches of top thread; *dots* and inches of line to be *marked* first, and the minutes that
    takes; how the rulers serve it in one of so many *places*, zones or figures over many, the largest unless
    they are *alike*; how it came out."""

    minutes: float
    layings: int
    thread: float
    density: float
    dots: int
    marked: float
    marking: float
    rulers: tuple[tuple[str, int], ...]
    said: tuple[str, ...]
    notes: tuple[str, ...]
    places: int = 1
    alike: bool = True


def figures_of(
    core: CoreJob, entry: Entry, drawn: Sequence[LayerLinework], others: Sequence[LayerLinework],
    units: str,
) -> Figures:  # fmt: skip
    """Of *entry* of the job *core*, whose linework is *drawn*; a ditch that one of the *others* asks for
    first is theirs, as in the legend."""
    by_entry: dict[str, list[LayerLinework]] = {each.id: [] for each in core.legend}
    here = set(entry.zones)
    for one in (*(other for other in others if other.zone not in here), *drawn):
        by_entry.setdefault(one.entry, []).append(one)
    all_of_it = [one for each in core.legend for one in by_entry[each.id]]
    own = [one for one in stitched_once(wholes(all_of_it)) if one.entry == entry.id]
    whole, _ = reckon(own, core.loaded_machine)
    zones = [zone for zone in core.zones if zone.id in here]
    even = evenness(zones, tuple(drawn))
    rates = core.machine.rates
    area = sum(zone.polygon.area for zone in zones)
    main = main_layer(entry)
    # Who stitches a figure goes on across the seams: rulers are laid along the whole of it.
    places = [one for one in own if one.layer == main and one.linework.runs]
    inches = [sum(length(run.points) for run in one.linework.runs) for one in places]
    alike = bool(inches) and max(inches) <= (1 + ALIKE) * min(inches)
    # The sides of a quilt may differ: what is said is said of the largest.
    first = places[0 if alike else int(np.argmax(inches))] if places else None
    times: tuple[tuple[str, int], ...] = ()
    said: tuple[str, ...] = ()
    if first is not None:
        laid = _laid(
            first.linework, core.rulers, core.machine.foot_radius, core.machine.kind, units
        )
        times, said = laid.times, laid.said
    return Figures(
        whole.minutes, whole.ruler_moves, sum(whole.thread_inches.values()),
        sum(each.inches for each in even.values()) / area if area else 0.0, whole.dots,
        whole.marked_inches, (whole.dots * rates.mark_dot + whole.marked_inches * rates.mark_inch) / 60,
        times, said,
        first.linework.notes if first is not None else (), len(places), alike,
    )  # fmt: skip


def _laid(made: Linework, rulers: tuple[Ruler, ...], foot: float, kind: str, units: str):
    lines = [points for run in made.runs for points, technique, piece in run.pieces()
             if piece == "stitch" and technique in ("straight", "curved") and len(points) > 1]  # fmt: skip
    placed = [laid for run in made.runs if not run.in_ditch
              for laid in run.placements(rulers, foot, kind)]  # fmt: skip
    return laid_with(placed, [np.asarray(line) for line in lines], rulers, foot, units)
