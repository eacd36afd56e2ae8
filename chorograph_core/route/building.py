"""The network built: seams and edges laid, every run attached by its doorways."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components
from shapely import STRtree
from shapely.geometry import Polygon

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Run, length
from chorograph_core.designs.redrawing import doors_of, good_pairs
from chorograph_core.reckon import Rates
from chorograph_core.route.chains import Edges, chains_of
from chorograph_core.route.model import TOLERANCE, Policy
from chorograph_core.route.network import Link, Network, Trail, as_lines, open_link
from chorograph_core.route.one_way import against

MOST_DOORS = 8
"""Doorways considered on a closed line."""
NEAR = 1.5
"""Inches: two doorways in one zone this close may be joined straight across."""
MOST_WAYS, WAYS_EACH = 400, 3
"""Short ways between the runs of a zone: so many, or so many for each of their doorways."""
FARTHEST_BRIDGE = 6.0
"""Inches of open fabric between an island of seams and the rest, beyond which there is no step across."""


def build(
    edges: Edges,
    drawn: Sequence[LayerLinework],
    policy: Policy,
    rates: Rates,
    cache: DrawingCache | None,
    shapes: Mapping[str, Polygon],
    directions: str = "all",
) -> Network:
    """Build the network: seams and outline by their *edges*, every run's doorways. *shapes* are those of what
    is *drawn*, by the names of zones and figures, *directions* those in which the machine stitches long
    lines well."""
    chains = chains_of(edges, drawn)
    # A first answer takes the lines as they are drawn: to draw others is a third of its time.
    ports = _Ports(drawn, cache if cache is not None else DrawingCache(), shapes, policy.effort > 0)
    network = Network()
    bridges = _bridges(chains)
    places = np.concatenate([ports.points, bridges.reshape(-1, 2)])
    attach = _lay_chains(network, chains, places, policy, rates)
    for a, b in attach[len(ports.points) :].reshape(-1, 2).tolist():
        if a >= 0 and b >= 0 and a != b:
            open_link(network, a, b, policy, rates)
    _attach_runs(network, ports, attach, policy, rates, shapes, directions)
    network.settle()
    return network


def _bridges(chains) -> np.ndarray:
    """Where islands of seams, such as the outline of what is sewn on, come nearest to the others:
    (n, 2, 2) points on either."""
    if not chains:
        return np.empty((0, 2, 2))
    corners: dict[tuple[float, float], int] = {}
    ends = [
        [
            corners.setdefault((round(x, 4), round(y, 4)), len(corners))
            for x, y in points[[0, -1]].tolist()
        ]
        for points, _ in chains
    ]
    a, b = np.array(ends).T
    size = len(corners)
    count, group = connected_components(
        csr_array((np.ones(len(a)), (a, b)), shape=(size, size)), False
    )
    if count == 1:
        return np.empty((0, 2, 2))
    lines = as_lines([points for points, _ in chains])
    owner = group[a]
    main = int(np.argmax(np.bincount(owner, weights=shapely.length(lines))))
    found = []
    for island in range(count):
        if island == main:
            continue
        others = lines[owner != island]
        own = shapely.multilinestrings(lines[owner == island].tolist())
        near = others[STRtree(others).nearest(own)]
        leg = shapely.shortest_line(own, near)
        if leg.length <= FARTHEST_BRIDGE:
            found.append(shapely.get_coordinates(leg))
    return np.array(found).reshape(-1, 2, 2)


class _Ports:
    """The doorways of all fill runs: points, and which run, end and point index each belongs to."""

    def __init__(
        self, drawn: Sequence[LayerLinework], cache: DrawingCache, shapes, otherwise: bool
    ) -> None:
        self.runs: list[tuple[LayerLinework, int, Run]] = []
        self.slots: list[list[int]] = []
        self.indices: list[list[int]] = []
        self.pairs: list[list[tuple[int, int]]] = []
        points: list[np.ndarray] = []
        for one in drawn:
            for number, run in enumerate(one.linework.runs):
                if run.in_ditch or len(run.points) < 2:
                    continue
                pairs = good_pairs(one, cache, shapes.get(one.zone)) if otherwise else []
                self.pairs.append(pairs)
                doors = _doors(run) if run.closed else [0, len(run.points) - 1]
                spots = run.points[doors]
                if pairs:
                    extra = doors_of(one)
                    doors = [*doors, *range(len(extra))]
                    spots = np.concatenate([spots, extra])
                self.runs.append((one, number, run))
                self.slots.append(list(range(len(points), len(points) + len(doors))))
                self.indices.append(doors)
                points.extend(spots)
        self.points = np.array(points).reshape(-1, 2)


def _doors(run: Run) -> list[int]:
    """Indices of points, spread evenly round a closed run, preferring those far from its middle.

    Those are the ones near the zone's edge, from where the ditch is reached.
    """
    ring = run.points[:-1]
    if len(ring) <= MOST_DOORS:
        return list(range(len(ring)))
    step = np.hypot(*np.diff(run.points, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(step)])[:-1]
    sector = np.minimum((along / max(step.sum(), 1e-9) * MOST_DOORS).astype(int), MOST_DOORS - 1)
    reach = np.hypot(*(ring - ring.mean(axis=0)).T)
    return [
        int(members[np.argmax(reach[members])])
        for k in range(MOST_DOORS)
        if len(members := np.flatnonzero(sector == k))
    ]


def _lay_chains(network, chains, ports, policy: Policy, rates: Rates) -> np.ndarray:
    """Add chains to the network, cut where doorways attach; return the node for each doorway."""
    attach = np.full(len(ports), -1)
    corners: dict[tuple[float, float], int] = {}

    def corner(point: np.ndarray) -> int:
        key = (round(float(point[0]), 4), round(float(point[1]), 4))
        if key not in corners:
            corners[key] = network.add_node(point)
        return corners[key]

    lines = as_lines([points for points, _ in chains])
    open_chain = np.array([not on or policy.edge_open for _, (_, on, _, _) in chains], bool)
    usable = np.flatnonzero(open_chain)
    on_chain: dict[int, list[tuple[float, int]]] = defaultdict(list)
    if len(ports) and len(usable):
        tree = STRtree(lines[usable])
        spots = shapely.points(ports)
        nearest = usable[tree.nearest(spots)]
        along = shapely.line_locate_point(lines[nearest], spots)
        for port, (k, s) in enumerate(zip(nearest.tolist(), along.tolist(), strict=True)):
            on_chain[k].append((s, port))
    totals = shapely.length(lines).tolist()
    for k, (points, (asked, on_outline, on_seam, seam)) in enumerate(chains):
        stops = _stops(sorted(on_chain[k])) if k in on_chain else []
        nodes, at = [corner(points[0])], [0.0]
        last = corner(points[-1])
        inner = [s for s, _ in stops if TOLERANCE <= s <= totals[k] - TOLERANCE]
        pieces = _cut_at(points, inner)
        for s, members in stops:
            if s < TOLERANCE:
                node = nodes[0]
            elif s > totals[k] - TOLERANCE:
                node = last
            else:
                node = network.add_node(pieces[len(nodes)][0])
                nodes.append(node)
                at.append(s)
            attach[members] = node
        if not open_chain[k] and asked is None:
            continue
        # The edge of a cut is hidden only once it is stitched; before, it is open fabric.
        kind = "edge" if on_outline else "ditch" if on_seam or asked else "open"
        harm = {"edge": policy.harm_edge, "ditch": 1.0, "open": policy.harm_open}[kind]
        thread, spi, entry = asked or ("", 11.0, "")
        ends = itertools.pairwise([*nodes, last])
        for piece, s0, s1, (a, b) in zip(pieces, at, [*at[1:], totals[k]], ends, strict=True):
            price = rates.travel_seconds(s1 - s0, kind) / 60 * harm
            network.add_link(Link(a, b, piece, s1 - s0, kind, price, thread, spi, entry, seam))
    return attach


def _stops(wanted: list[tuple[float, int]]) -> list[tuple[float, list[int]]]:
    """Group positions that fall together."""
    groups: list[tuple[float, list[int]]] = []
    for s, port in wanted:
        if groups and s - groups[-1][0] < TOLERANCE:
            groups[-1][1].append(port)
        else:
            groups.append((s, [port]))
    return groups


def _cut_at(points: np.ndarray, positions: list[float]) -> list[np.ndarray]:
    """A polyline (n, 2) in pieces, cut at these distances along it."""
    if not positions:
        return [points]
    if len(points) == 2:
        # Most seams are straight from junction to junction.
        share = np.array([0.0, *positions, length(points)])
        spots = points[0] + share[:, None] / share[-1] * (points[1] - points[0])
        return list(np.stack([spots[:-1], spots[1:]], axis=1))
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    spots = np.column_stack([np.interp(positions, along, points[:, k]) for k in (0, 1)])
    low = np.searchsorted(along, np.array(positions) + 1e-7)
    high = np.searchsorted(along, np.array(positions) - 1e-7)
    firsts, lasts = [0, *low.tolist()], [*high.tolist(), len(points)]
    pieces = []
    for k, (first, last) in enumerate(zip(firsts, lasts, strict=True)):
        before, after = spots[k - 1 : k] if k else spots[:0], spots[k : k + 1]
        pieces.append(np.concatenate([before, points[first:last], after]))
    return pieces


def _attach_runs(network, ports: _Ports, attach, policy, rates, shapes, directions) -> None:
    """Give every run its doorway nodes, step links to the seams, and short ways between runs."""
    nodes = np.empty(len(ports.points), int)
    for port, point in enumerate(ports.points):
        nodes[port] = network.add_node(point)
        goal = int(attach[port])
        if goal < 0:
            continue
        open_link(network, int(nodes[port]), goal, policy, rates)
    by_zone: dict[str, list[int]] = defaultdict(list)
    for k, (one, number, run) in enumerate(ports.runs):
        by_zone[one.zone].append(k)
        own = tuple(int(nodes[slot]) for slot in ports.slots[k])
        key = one.key(number)
        if run.closed:
            pairs = ports.pairs[k]
            rings = len(own) - len(doors_of(one)) if pairs else len(own)
            between = [(own[rings + a], own[rings + b]) for a, b in pairs]
            allowed = [*((node, node) for node in own[:rings]), *between,
                       *((b, a) for a, b in between)]  # fmt: skip
            trail = Trail(key, own, own, not pairs, one.zone, one.layer, True, run, one,
                          doors=tuple(ports.indices[k]), free=bool(pairs), rings=rings,
                          pairs=tuple(allowed) if pairs else ())  # fmt: skip
        elif ports.pairs[k] and directions == "all":
            # As it was drawn between its first two doors, or as a variant between two others.
            between = [(own[0], own[1]), *((own[2 + a], own[2 + b]) for a, b in ports.pairs[k])]
            allowed = [*between, *((b, a) for a, b in between)]
            trail = Trail(key, own, own, False, one.zone, one.layer, True, run, one,
                          doors=tuple(ports.indices[k]), free=True, rings=2,
                          pairs=tuple(allowed))  # fmt: skip
        else:
            trail = Trail(key, own[:1], own[1:2], False, one.zone, one.layer, run.reversible, run,
                          one)  # fmt: skip
            trail = _turned_well(trail, directions)
        network.trails.append(trail)
    for zone_id, members in by_zone.items():
        if len(members) > 1:
            _join_within(network, ports, nodes, members, shapes[zone_id], policy, rates)


def _turned_well(trail: Trail, directions: str) -> Trail:
    """An open run that is only stitched the way that has fewer long lines against the good direction."""
    assert trail.run is not None
    if not trail.reversible:
        return trail
    there, back = against(trail.run, directions), against(trail.run.reversed(), directions)
    if there == back:
        return trail
    if there < back:
        return replace(trail, reversible=False)
    return replace(trail, reversible=False, run=trail.run.reversed(), heads=trail.tails,
                   tails=trail.heads)  # fmt: skip


def _join_within(network, ports, nodes, members, shape, policy, rates) -> None:
    """Short straight ways between doorways of different runs in one zone."""
    slots = np.array([slot for k in members for slot in ports.slots[k]])
    owner = np.array([k for k in members for _ in ports.slots[k]])
    points = ports.points[slots]
    apart = np.hypot(*(points[:, None] - points[None, :]).transpose(2, 0, 1))
    i, j = np.nonzero((apart < NEAR) & (owner[:, None] < owner[None, :]))
    most = max(MOST_WAYS, WAYS_EACH * len(slots))
    if len(i) > most:
        best = np.argsort(apart[i, j], kind="stable")[:most]
        i, j = i[best], j[best]
    if not len(i):
        return
    legs = shapely.linestrings(np.stack([points[i], points[j]], axis=1))
    for a, b, ok in zip(i, j, shapely.covers(shape, legs), strict=True):
        if ok:
            ends = int(nodes[slots[a]]), int(nodes[slots[b]])
            open_link(network, *ends, policy, rates, unseen=0.0)
