"""The work laid out: passes, network, stations, and which of them every run and seam belongs to."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely import STRtree
from shapely.geometry import Polygon

from chorograph_core.blocks.library import block_library
from chorograph_core.blocks.own_blocks import block_name
from chorograph_core.chart import Chart
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.figures import figures_in
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Linework
from chorograph_core.reckon import Machine, Rates
from chorograph_core.route.building import build
from chorograph_core.route.chains import edges_of
from chorograph_core.route.choosing_passes import passes_for
from chorograph_core.route.ground import Ground
from chorograph_core.route.long_seams import long_seams
from chorograph_core.route.model import TOLERANCE, Kind, Policy, State, Wish
from chorograph_core.route.network import Network, as_drawn, as_lines
from chorograph_core.route.parting import parted
from chorograph_core.route.passes import EDGE, Pass, holding
from chorograph_core.route.precedence import close
from chorograph_core.route.seam_levels import seam_levels
from chorograph_core.route.stations import Station, figure_stations, stations_of
from chorograph_core.zones import Zone
from chorograph_core.zones.edges import done_edges

INSIDE, CRACK = 0.05, 0.005
"""Inches from a station's edge at which a seam lies inside it; and of cracks in it that are none: of zones
that meet along a slanting seam one may lie a hair off."""


class Terrain:
    """A network with what of it is reached in each pass, and what lies in and around each station."""

    def __init__(self, network: Network, stations: list[Station], passes: Sequence[Pass]) -> None:
        self.network, self.passes = network, passes
        tree = STRtree(shapely.points(network.middles))
        shapes = np.array([station.shape for station in stations])
        self.around: list[list[int]] = [[] for _ in stations]
        for station, link in zip(*tree.query(shapes, "dwithin", distance=INSIDE), strict=True):
            self.around[station].append(int(link))
        self.inner: dict[int, int] = {}
        # Over a figure's zones lie the places whose ditches they are.
        places = np.flatnonzero([not station.figure for station in stations])
        # Mitred, since round corners take twenty times as long and come to the same.
        whole = shapely.buffer(shapes[places], CRACK, join_style="mitre")
        cores = shapely.buffer(whole, -CRACK - INSIDE, join_style="mitre")
        for place, link in zip(*tree.query(cores, "contains"), strict=True):
            self.inner[int(link)] = int(places[place])
        self._grounds: dict[int, Ground] = {}
        self._both: dict[tuple[int, int], Ground] = {}

    def ground(self, each: Pass) -> Ground:
        """Where one may go in a pass."""
        if each.number not in self._grounds:
            links = np.arange(len(self.network.links))
            self._grounds[each.number] = Ground(self.network, self._within(links, each))
        return self._grounds[each.number]

    def ground_of_both(self, one: Pass, two: Pass) -> Ground:
        """Where one may go when the quilt is rolled from one pass to another on the way: over what
        either reaches."""
        key = (one.number, two.number)
        if key not in self._both:
            links = np.union1d(self.ground(one).links, self.ground(two).links)
            self._both[key] = Ground(self.network, links)
        return self._both[key]

    def station_ground(self, station: int, each: Pass) -> Ground:
        """Where one may go within a station, in a pass."""
        links = np.array(sorted(self.around[station]), int)
        return Ground(self.network, self._within(links, each))

    def _within(self, links: np.ndarray, each: Pass) -> np.ndarray:
        if len(self.passes) == 1:
            return links
        tops, bottoms = self.network.tops[links], self.network.bottoms[links]
        return links[(tops >= each.top - EDGE) & (bottoms <= each.bottom + EDGE)]


@dataclass
class Layout:
    """*seams* are the seams alone, on which ditches are walked, *network* the seams with every doorway
    of a run on them; *twins* is the node of *network* that lies where one of *seams* does. *required*:
    links of *seams* to stitch, by thread; *pass_of_trail*, *pass_of_link*: numbers of passes; *levels*:
    from where to where down the quilt each zone reaches; *drawn*: all linework, parted where no pass
    holds it; *border*: links of *seams* that join the body to its border; *shapes*: what each zone, and
    each figure, covers; *through*: the trails that are stitched while the quilt is rolled under them; *over*:
    of each trail how many layers that reach beyond its place come before it, once that is asked for.
    """

    chart: Chart
    seams: Network
    network: Network
    on_seams: Terrain
    on_network: Terrain
    twins: dict[int, int]
    stations: list[Station]
    passes: tuple[Pass, ...]
    required: dict[str, list[int]]
    station_of: dict[str, int]
    pass_of_trail: list[int] = field(default_factory=list)
    pass_of_link: dict[int, int] = field(default_factory=dict)
    levels: dict[str, tuple[float, float]] = field(default_factory=dict)
    drawn: Sequence[LayerLinework] = ()
    border: set[int] = field(default_factory=set)
    shapes: dict[str, Polygon] = field(default_factory=dict)
    through: set[int] = field(default_factory=set)
    over: list[int] | None = None

    @property
    def whole(self) -> Pass:
        """All passes together: what can be reached while the quilt is rolled on and back."""
        return Pass(0, self.passes[0].top, self.passes[-1].bottom)

    @property
    def inner(self) -> dict[int, int]:
        """The station, by its place, that a link of *seams* lies inside."""
        return self.on_seams.inner

    def with_doorways(self, node: int, kind: Kind) -> int | None:
        """A node of the network on which stages of a *kind* are gone, as one of that with all doorways; None
        where there is none."""
        return self.twins.get(node) if kind == "ditch" else node

    def kind_of(self, station: Station) -> str:
        """What a station is, in words that its sisters share."""
        if station.figure:
            return station.name
        if not station.name.startswith("block"):
            if station.name.startswith("border"):
                # All four sides are one kind of place.
                return " ".join(station.name.split()[:2])
            return station.name.rstrip("0123456789 ")
        kinds: dict[str, float] = defaultdict(float)
        for zone in station.zones:
            for name in self._patches[zone]:
                patch = self.chart.patch(name)
                kinds[patch.kind] += patch.polygon.area
        return _called(max(kinds, key=lambda kind: kinds[kind]))

    _patches: dict[str, tuple[str, ...]] = field(default_factory=dict)


def laid_out(
    chart: Chart, zones: Sequence[Zone], drawn: Sequence[LayerLinework], machine: Machine,
    policy: Policy, state: State, cache: DrawingCache, passes: tuple[Pass, ...] | None = None,
    seams_kept: Callable[[Any, Callable[[], Network]], Network] | None = None,
) -> Layout:  # fmt: skip
    """Lay out all *drawn* work in *passes*, or in those that serve it best. *seams_kept* may have the bare
    seams of another plan of this chart. Raises `chorograph_core.route.passes.OutOfReach`."""
    if passes is None:
        passes = passes_for(chart, zones, drawn, machine, policy)
    figures = figures_in(drawn)
    stations = stations_of(chart, zones, passes)
    station_of = {zone: k for k, station in enumerate(stations) for zone in station.zones}
    for station in figure_stations({key: one.zones for key, one in figures.items()}, zones):
        station_of[station.key] = len(stations)
        stations.append(station)
    through = policy.oversized == "roll" and machine.kind == "frame"
    levels = seam_levels(chart).between(passes)
    pieces = [parted(one, passes, cache, through, levels) for one in drawn]
    shapes = {zone.id: zone.polygon for zone in zones}
    shapes |= {key: one.space.polygon for key, one in figures.items()}
    edges = edges_of(chart, zones)
    bare = [replace(one, linework=_ditches_only(one)) for one in drawn if one.role == "ditch"]

    def bare_seams() -> Network:
        made = build(edges, bare, policy, machine.rates, cache, shapes)
        close(made, policy.wishes, shapes)
        _part_links(made, passes, _levels(made, passes), policy, machine.rates)
        _part_at(made, _sewn_ends(state))
        _leave_out_sewn(made, state, chart)
        return made

    seams = bare_seams() if seams_kept is None else seams_kept(_content(bare), bare_seams)
    network = build(edges, pieces, policy, machine.rates, cache, shapes, machine.directions)
    close(network, policy.wishes, shapes)
    _part_links(network, passes, _levels(seams, passes), policy, machine.rates)
    _part_at(network, _sewn_ends(state))
    # Doorways part seams that no pass holds into links that one does: those are parted all the same, or
    # who comes to the end of such a seam finds no way on.
    alone = sorted(set(range(len(seams.spots))) - set(_twins(seams, network)))
    _part_at(network, seams.spots[alone])
    on_network, on_seams = (Terrain(each, stations, passes) for each in (network, seams))
    required: dict[str, list[int]] = {one.thread: [] for one in drawn if one.role == "ditch"}
    for number, link in enumerate(seams.links):
        if link.thread:
            required.setdefault(link.thread, []).append(number)
    required = {thread: numbers for thread, numbers in required.items() if numbers}
    lay = Layout(chart, seams, network, on_seams, on_network, _twins(seams, network), stations,
                 passes, required, station_of)  # fmt: skip
    lay.drawn = pieces
    lay.shapes = shapes
    lay._patches = {zone.id: zone.patches for zone in zones}
    kinds = {k: lay.kind_of(station) for k, station in enumerate(stations)}
    for numbers in required.values():
        for number in long_seams(seams, numbers, lay.inner, stations, kinds):
            del on_seams.inner[number]
    lay.border = _border_seams(chart, seams)
    lay.levels = {name: shape.bounds[1::2] for name, shape in shapes.items()}
    _assign(lay, policy.wishes)
    return lay


def _sewn_ends(state: State) -> np.ndarray:
    """Where lines end (n, 2) that were sewn before: with other passes, as on another machine, that may be in
    the middle of a link."""
    ends = [line[k] for line in state.sewn if len(line) > 1 for k in (0, -1)]
    return np.array(ends).reshape(-1, 2)


def _part_at(network: Network, spots: np.ndarray) -> None:
    """Cut links that *spots* (n, 2) lie in the middle of."""
    if not len(spots) or not network.links:
        return
    lines = as_lines([link.points for link in network.links])
    spot, link = STRtree(lines).query(shapely.points(spots), "dwithin", distance=TOLERANCE)
    levels: dict[int, list[float]] = defaultdict(list)
    for k, number in zip(spot.tolist(), link.tolist(), strict=True):
        both = network.links[number].points[[0, -1]]
        if np.hypot(*(both - spots[k]).T).min() > TOLERANCE:
            levels[number].append(float(spots[k][1]))
    for number, each in levels.items():
        network.part_link(number, sorted(set(each)))
    if levels:
        network.settle()


def _leave_out_sewn(seams: Network, state: State, chart: Chart) -> None:
    """Take back the stitching of links that are stitched already."""
    asked = [link for link in seams.links if link.thread]
    if state.done and asked:
        legs = np.array([link.points[:2] for link in asked])
        names = [link.seam for link in asked]
        for number in np.flatnonzero(done_edges(chart, legs, names, state.done)).tolist():
            asked[number].thread = ""
    if not state.sewn:
        return
    left = [number for number, link in enumerate(seams.links) if link.thread]
    sewn = shapely.multilinestrings([shapely.linestrings(line) for line in state.sewn])
    shapely.prepare(sewn)
    middles = shapely.points(seams.middles[left].reshape(-1, 2))
    for number, there in zip(left, shapely.dwithin(sewn, middles, TOLERANCE), strict=True):
        if there:
            seams.links[number].thread = ""


def _border_seams(chart: Chart, seams: Network) -> set[int]:
    """Links along which a border, or its corner, meets what is none."""
    border = [p.polygon for p in chart.patches if p.role in ("border", "corner")]
    if not border or not len(seams.links):
        return set()
    ring = shapely.union_all(border, grid_size=1e-4).boundary
    inner = ring.difference(chart.outline.boundary.buffer(INSIDE))
    if inner.is_empty:
        return set()
    near = shapely.dwithin(shapely.points(seams.middles), inner, INSIDE)
    return set(np.flatnonzero(near).tolist())


def _ditches_only(one: LayerLinework) -> Linework:
    return replace(one.linework, runs=tuple(run for run in one.linework.runs if run.in_ditch))


def _content(bare: Sequence[LayerLinework]) -> tuple:
    """All that the network of bare seams is made of, as far as it is drawn."""
    return tuple(
        (
            one.zone,
            one.entry,
            one.thread,
            one.spi,
            *(run.points.tobytes() for run in one.linework.runs),
        )
        for one in bare
    )


def _twins(seams: Network, network: Network) -> dict[int, int]:
    """For nodes of *seams* the one of *network* that lies in the same place."""
    if not len(seams.spots) or not len(network.spots):
        return {}
    apart, nearest = cKDTree(network.spots).query(seams.spots)
    return {k: int(node) for k, node in enumerate(nearest) if apart[k] < TOLERANCE}


def _levels(seams: Network, passes: Sequence[Pass]) -> list[float]:
    """Where each two passes overlap the height of most corners of the *seams*: from a corner the next seam is
    one step away."""
    heights = np.round(seams.spots[:, 1], 2)
    levels = []
    for one, two in itertools.pairwise(passes):
        there = heights[(heights >= two.top) & (heights <= one.bottom)]
        found, counts = np.unique(there, return_counts=True)
        levels.append(float(found[np.argmax(counts)]) if len(found) else two.top)
    return levels


def _part_links(
    network: Network, passes: Sequence[Pass], levels: Sequence[float], policy: Policy, rates: Rates
) -> None:
    """Cut links that no pass holds at those *levels*."""
    if not levels:
        return
    tops, bottoms = network.tops, network.bottoms
    held = np.zeros(len(tops), bool)
    for each in passes:
        held |= (tops >= each.top - EDGE) & (bottoms <= each.bottom + EDGE)
    for number in np.flatnonzero(~held).tolist():
        network.part_link(number, levels)
    for level in levels:
        network.step_across(level, policy, rates)
    network.settle()


def _assign(lay: Layout, wishes: Sequence[Wish]) -> None:
    """Give every station, run and seam its pass: that of the station where one holds it whole, else of the
    zone, so that its layers stay together, else the first that holds the thing itself."""
    network, seams, passes = lay.network, lay.seams, lay.passes
    whole = [next(iter(holding(passes, *station.bounds[1::2])), 0) for station in lay.stations]
    for trail in network.trails:
        assert trail.run is not None
        top, bottom = trail.run.levels
        home = whole[lay.station_of[trail.zone]]
        if not home and trail.zone in lay.levels:
            home = next(iter(holding(passes, *lay.levels[trail.zone])), 0)
        held = holding(passes, top, bottom)
        if not held:
            lay.through.add(len(lay.pass_of_trail))
            held = holding(passes, top, top)
        lay.pass_of_trail.append(home or next(iter(held), 1))
    by_number = {each.number: each for each in passes}
    kept = {zone for wish in wishes if wish.kind == "drawn" for zone in wish.zones}
    for k, trail in enumerate(network.trails):
        if not trail.free:
            continue
        # What is drawn again lies somewhere else in its zone: all of that must be in reach.
        there = by_number[lay.pass_of_trail[k]]
        if k in lay.through or trail.zone in kept or not there.holds(*lay.levels[trail.zone]):
            rings = trail.heads[: trail.rings]
            if not trail.run.closed:  # type: ignore[union-attr]
                network.trails[k] = as_drawn(trail)
                continue
            network.trails[k] = replace(trail, heads=rings, tails=rings, closed=True, free=False,
                                        doors=trail.doors[: trail.rings], pairs=())  # fmt: skip
    beside: dict[int, list[int]] = defaultdict(list)
    for station, links in enumerate(lay.on_seams.around):
        for number in () if lay.stations[station].figure else links:
            beside[number].append(whole[station])
    levels = list(zip(seams.tops.tolist(), seams.bottoms.tolist(), strict=True))
    for numbers in lay.required.values():
        for number in numbers:
            home = whole[lay.inner[number]] if number in lay.inner else 0
            if not home:
                # A seam is stitched with the first of the stations beside it, not bit by bit before.
                home = min((k for k in beside[number] if k and by_number[k].holds(*levels[number])),
                           default=0)  # fmt: skip
            held = holding(passes, *levels[number])
            lay.pass_of_link[number] = home or next(iter(held), 1)


def _called(key: str) -> str:
    """What a block is called amid a sentence."""
    known = block_library().get(key)
    return known.name.lower() if known else block_name(key) or key.replace("_", " ") or "block"
