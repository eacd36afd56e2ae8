"""The travel network: seams and edges as a graph, with every run's doorways attached to it."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely
from scipy.sparse import csr_array

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Run, length
from chorograph_core.reckon import Rates
from chorograph_core.route.model import TOLERANCE, Policy

UNSEEN = 0.25
"""Inches of a step between seam and design that nobody notices."""
ON_LEVEL = 0.005
"""Inches within which a corner lies on a level down the quilt: less than what a pass may be overrun by."""
HOP = 2.5
"""Inches between the ends of seams that were cut where a pass ends, within which one may step across."""


Heading = tuple[float, float]


@dataclass(slots=True)
class Link:
    """An edge of the graph. *kind* is ``"ditch"``, ``"edge"`` or ``"open"``; *price* lost minutes.

    *thread* is the key of the thread in which it must be stitched, empty when it need not be.
    """

    a: int
    b: int
    points: np.ndarray
    inches: float
    kind: str
    price: float
    thread: str = ""
    spi: float = 11.0
    entry: str = ""
    seam: str = ""
    _headings: tuple[Heading, Heading] | None = field(default=None, init=False, repr=False)

    def way(self, start: int) -> np.ndarray:
        """The points as walked from node *start*."""
        return self.points if start == self.a else self.points[::-1]

    @property
    def headings(self) -> tuple[Heading, Heading]:
        """Where its first and its last leg lead, from node *a* on."""
        if self._headings is None:
            first, last = self.points[1] - self.points[0], self.points[-1] - self.points[-2]
            self._headings = (float(first[0]), float(first[1])), (float(last[0]), float(last[1]))
        return self._headings

    def heading(self, start: int, last: bool = False) -> Heading:
        """Where one goes first, or last, on the way from node *start*."""
        if start == self.a:
            return self.headings[last]
        x, y = self.headings[not last]
        return -x, -y


@dataclass(frozen=True)
class Trail:
    """A run, or a piece of one, with its doorways in the network.

    *heads* and *tails* are the nodes it may be entered and left at; *doors* gives, for a closed
    trail, the index of the point at which each of its nodes lies. A *free* trail is a closed one whose
    design can also be drawn between some of its doorways: its first *rings* nodes lie on the closed
    line, the others are doorways by number, and *pairs* has all (entry, exit) nodes it allows. So is an
    open one that can be drawn from other ends: its first two nodes are those of the line as it is. *kept* is
    what was found out about it, for the next plan over it.
    """

    key: str
    heads: tuple[int, ...]
    tails: tuple[int, ...]
    closed: bool
    zone: str = ""
    layer: int = 0
    reversible: bool = True
    run: Run | None = None
    drawn: LayerLinework | None = None
    doors: tuple[int, ...] = ()
    free: bool = False
    rings: int = 0
    pairs: tuple[tuple[int, int], ...] = ()
    kept: dict = field(default_factory=dict, init=False, repr=False, compare=False)

    def begun_at(self, entry: int) -> Run:
        """Its run as it is stitched from the node *entry* on."""
        assert self.run is not None
        if self.closed:
            return self.run.begun_at(self.doors[self.heads.index(entry)])
        return self.run if entry == self.heads[0] else self.run.reversed()

    def options(self) -> list[tuple[int, int]]:
        """All (entry, exit) pairs of nodes: two for an open trail, one for each door of a closed one,
        and those between which a free one can be drawn."""
        if self.free:
            return list(self.pairs)
        if self.closed:
            return [(node, node) for node in self.heads]
        ways = [(self.heads[0], self.tails[0])]
        return [*ways, ways[0][::-1]] if self.reversible else ways


@dataclass
class Network:
    """Nodes (x, y), links between them, and the runs attached; *ways* are the paths found on it, *alike* what
    was found to be alike in it, *paired* how ends that meet go on into each other."""

    nodes: list[tuple[float, float]] = field(default_factory=list)
    links: list[Link] = field(default_factory=list)
    trails: list[Trail] = field(default_factory=list)
    ways: dict[tuple, list] = field(default_factory=dict)
    alike: dict[tuple, list] = field(default_factory=dict)
    paired: dict[tuple, list[tuple[int, int | None]]] = field(default_factory=dict)

    def add_node(self, point: Sequence[float]) -> int:
        """Add a node and return its number."""
        self.nodes.append((float(point[0]), float(point[1])))
        return len(self.nodes) - 1

    def add_link(self, link: Link) -> int:
        """Add a link and return its number."""
        number = len(self.links)
        self.links.append(link)
        return number

    def settle(self) -> None:
        """Note where the links lie, once all are laid: *ends* (n, 2), *prices* (n,), *tops* and
        *bottoms* (n,) down the quilt, *middles* (n, 2)."""
        self.ends = np.array([(link.a, link.b) for link in self.links], int).reshape(-1, 2)
        self.prices = np.array([link.price for link in self.links])
        self.spots = np.array(self.nodes).reshape(-1, 2)
        lines = [link.points for link in self.links]
        counts = np.array([len(line) for line in lines], int)
        whole = np.concatenate([*lines, np.empty((0, 2))])
        first = np.cumsum(counts) - counts
        down = whole[:, 1]
        self.tops = np.minimum.reduceat(down, first) if len(lines) else down
        self.bottoms = np.maximum.reduceat(down, first) if len(lines) else down
        self.middles = (whole[first] + whole[first + counts - 1]) / 2
        for number in np.flatnonzero(counts > 2).tolist():
            self.middles[number] = _halfway(lines[number])

    def matrix(
        self, links: np.ndarray | None = None, free: Sequence[tuple[int, int]] = ()
    ) -> csr_array:
        """Prices as a sparse symmetric matrix; of parallel links the cheapest counts. Only these
        *links*, and ways between nodes that are *free*."""
        ends = self.ends if links is None else self.ends[links]
        prices = self.prices if links is None else self.prices[links]
        if len(free):
            ends = np.concatenate([ends, np.array(free, int)])
            prices = np.concatenate([prices, np.zeros(len(free))])
        low, high = ends.min(axis=1), ends.max(axis=1)
        size = len(self.nodes)
        rank = np.lexsort((prices, high, low))
        rank = rank[low[rank] != high[rank]]
        key = low[rank] * size + high[rank]
        kept = rank[np.concatenate([[True], np.diff(key) != 0])] if len(rank) else rank
        price = np.maximum(prices[kept], 1e-9)
        rows = np.concatenate([low[kept], high[kept]])
        columns = np.concatenate([high[kept], low[kept]])
        return csr_array((np.tile(price, 2), (rows, columns)), shape=(size, size))

    def part_link(self, number: int, levels: Sequence[float]) -> None:
        """Cut link *number* where it crosses a level down the quilt: what is beyond becomes links of
        its own. To be followed by `settle`."""
        link = self.links[number]
        pieces = _cut_at_levels(link.points, levels)
        if len(pieces) < 2:
            return
        nodes = [link.a, *(self.add_node(piece[-1]) for piece in pieces[:-1]), link.b]
        made = []
        for piece, a, b in zip(pieces, nodes, nodes[1:], strict=False):
            inches = length(piece)
            price = link.price * inches / max(link.inches, 1e-9)
            made.append(replace(link, a=a, b=b, points=piece, inches=inches, price=price))
        self.links[number] = made[0]
        for one in made[1:]:
            self.add_link(one)

    def step_across(self, level: float, policy: Policy, rates: Rates) -> None:
        """Join neighbouring nodes at a *level* down the quilt, a narrow strip apart, by a step across
        it: where a seam was cut at the end of a pass nothing else leads on from it."""
        at = [node for node, spot in enumerate(self.nodes) if abs(spot[1] - level) < TOLERANCE]
        at.sort(key=lambda node: self.nodes[node][0])
        for a, b in itertools.pairwise(at):
            if 0 < self.nodes[b][0] - self.nodes[a][0] <= HOP:
                open_link(self, a, b, policy, rates)


def as_lines(each: Sequence[np.ndarray]) -> np.ndarray:
    """Polylines (n, 2) as geometries, all at once: one by one they take longer than what is asked of them."""
    if not len(each):
        return np.empty(0, object)
    counts = [len(points) for points in each]
    return shapely.linestrings(
        np.concatenate(each), indices=np.repeat(np.arange(len(each)), counts)
    )


def _halfway(points: np.ndarray) -> np.ndarray:
    """The point half way along a polyline (n, 2)."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    return np.array([np.interp(along[-1] / 2, along, points[:, k]) for k in (0, 1)])


def _cut_at_levels(points: np.ndarray, levels: Sequence[float]) -> list[np.ndarray]:
    """A polyline in pieces, cut wherever it crosses one of *levels* down the quilt."""
    pieces, piece = [], [points[0]]
    for k, (one, two) in enumerate(itertools.pairwise(points), 2):
        crossed = sorted(
            (y - one[1]) / (two[1] - one[1])
            for y in levels
            if min(one[1], two[1]) + ON_LEVEL < y < max(one[1], two[1]) - ON_LEVEL
        )
        for share in crossed:
            spot = one + share * (two - one)
            pieces.append(np.array([*piece, spot]))
            piece = [spot]
        piece.append(two)
        if k < len(points) and any(abs(two[1] - y) <= ON_LEVEL for y in levels):
            # A corner of the line lies on the level: it is cut there.
            pieces.append(np.array(piece))
            piece = [two]
    return [*pieces, np.array(piece)]


def open_link(
    network: Network, a: int, b: int, policy: Policy, rates: Rates, unseen: float = UNSEEN
) -> None:
    """Add a straight step across open fabric; *unseen* inches of it count as hidden."""
    points = np.array([network.nodes[a], network.nodes[b]])
    inches = math.dist(network.nodes[a], network.nodes[b])
    # A hop of a quarter inch from the seam hardly shows; what is longer does.
    shown = max(0.0, inches - unseen) * policy.harm_open + min(inches, unseen)
    price = rates.seconds(shown, "open") / 60 if inches > TOLERANCE else 0.0
    network.add_link(Link(a, b, points, inches, "open", price))


def as_drawn(trail: Trail) -> Trail:
    """An open run that can be drawn from other ends, but is not."""
    return replace(trail, heads=trail.heads[:1], tails=trail.heads[1:2], doors=(), free=False, rings=0,
                   pairs=())  # fmt: skip


def along(network: Network, members: Sequence[tuple[int, int]]) -> np.ndarray:
    """The line (n, 2) along links, each as (number, node it begins at)."""
    return joined([network.links[number].way(start) for number, start in members])


def joined(parts: Sequence[np.ndarray]) -> np.ndarray:
    """Polylines end to end without doubled points."""
    made = [parts[0]]
    for part in parts[1:]:
        near = np.hypot(*(part[0] - made[-1][-1])) < TOLERANCE
        made.append(part[1:] if near else part)
    return np.concatenate(made)
