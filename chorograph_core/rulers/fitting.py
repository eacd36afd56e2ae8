"""Which edge of which ruler stitches a stretch, what comes nearest, and which ruler would help most."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from chorograph_core.rulers.model import Edge, Ruler

OFF = 1 / 16
"""Inches by which an edge may leave the wanted arc in the middle of one laying."""


def radius_of(chord: float, height: float) -> float:
    """Radius of the arc over *chord* with *height* in its middle: r = c² / 8h + h / 2. Inches.

    >>> radius_of(8.0, 2.0)
    5.0
    """
    return chord * chord / (8 * height) + height / 2


def height_over(chord: float, radius: float) -> float:
    """Height of the arc of *radius* over *chord*, the lesser of the two: r − √(r² − c²/4).

    >>> height_over(8.0, 5.0)
    2.0
    """
    return radius - math.sqrt(max(0.0, radius * radius - chord * chord / 4))


def off_by(edge: Edge, radius: float, chord: float) -> float:
    """How far, in inches, the middle of one laying along *edge* lies from an arc of *radius* over
    *chord*, both through the ends of the laying; infinite where it cannot span anything."""
    if edge.radius is None:
        return math.inf if edge.kind == "s" else height_over(min(chord, edge.reach), radius)
    span = min(chord, edge.reach, 2 * edge.radius, 2 * radius)
    return abs(height_over(span, edge.radius) - height_over(span, radius))


def edges_for(edges: Sequence[Edge], radius: float, chord: float, off: float = OFF) -> list[Edge]:
    """Those of *edges* that stitch an arc of *radius* over *chord*: fewest layings first, then nearest."""
    fine = [
        edge for edge in edges if edge.radius is not None and off_by(edge, radius, chord) <= off
    ]
    return sorted(
        fine, key=lambda e: (math.ceil(chord / e.along() - 1e-9), off_by(e, radius, chord), e.ruler)
    )


def s_edge_for(edges: Sequence[Edge], radius: float, chord: float) -> Edge | None:
    """The S-edge whose half waves are arcs of *radius* over *chord* and less."""
    fine = [
        edge for edge in edges
        if edge.kind == "s" and edge.bend and edge.period and chord <= edge.period / 2 + OFF
        and abs(height_over(min(chord, 2 * edge.bend), edge.bend)
                - height_over(min(chord, 2 * radius), radius)) <= OFF / 2
    ]  # fmt: skip
    return max(fine, key=lambda e: (e.reach, e.ruler), default=None)


def nearest_edge(edges: Sequence[Edge], radius: float) -> Edge | None:
    """The curved edge whose stitched radius comes nearest, by its ratio."""
    curved = [edge for edge in edges if edge.radius is not None]
    return min(curved, key=lambda e: (abs(math.log(e.radius / radius)), e.ruler), default=None)  # type: ignore[operator]


@dataclass(frozen=True)
class Reach:
    """What one laying of the studio's rulers stitches, for counting them: *straight* inches, and the curved
    *edges*. With a channel *lock* a straight line along the frame or across it takes one setting, however
    long it is."""

    straight: float
    edges: tuple[Edge, ...] = ()
    lock: bool = False

    @cached_property
    def _hash(self) -> int:
        return hash((self.straight, self.edges, self.lock))

    def __hash__(self) -> int:
        """Found once: counts of layings are kept by it."""
        return self._hash

    def __getstate__(self) -> dict[str, Any]:
        """Without its hash: another process has another."""
        return {key: value for key, value in vars(self).items() if key != "_hash"}

    def layings(self, inches: float) -> int:
        """For a straight stretch.

        >>> Reach(10.0).layings(24)
        3
        """
        return math.ceil(inches / self.straight - 1e-9)

    def around(self, radius: float, inches: float) -> int:
        """For an arc: by the best edge owned; where none fits, a piece of up to a quarter circle at a time,
        drawn first and followed by hand or by a straight edge in short steps."""
        chord = 2 * radius * math.sin(min(inches / radius, math.pi) / 2)
        best = next(iter(edges_for(self.edges, radius, chord)), None)
        along = best.along() if best else min(self.straight, radius * math.pi / 2)
        return max(1, math.ceil(inches / along - 1e-9))


def reach_of(rulers: Sequence[Ruler], straight: float, foot_radius: float) -> Reach:
    """How far the edges of *rulers* reach; *straight* is that of the straight one in use."""
    return Reach(straight, tuple(
        edge for ruler in rulers for edge in ruler.edges(foot_radius) if edge.kind != "straight"
    ))  # fmt: skip


@dataclass(frozen=True)
class Wish:
    """A ruler that would serve: an arc that stitches *radius* over up to *chord*, for so many *spans*."""

    radius: float
    chord: float
    spans: int


def to_buy(arcs: Sequence[tuple[float, float]], edges: Sequence[Edge]) -> Wish | None:
    """Of (radius, chord) *arcs* that no owned edge stitches, the one radius that would stitch most."""
    bare = [(r, c) for r, c in arcs if not edges_for(edges, r, c)]
    best: Wish | None = None
    for radius in sorted({round(r, 2) for r, _ in bare}):
        edge = Edge("wish", "convex", max(c for _, c in bare), radius)
        served = [c for r, c in bare if off_by(edge, r, c) <= OFF]
        if best is None or len(served) > best.spans:
            best = Wish(radius, max(served), len(served))
    return best
