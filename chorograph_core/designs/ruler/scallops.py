"""Scallops: a row of equal arcs along a border, fitted between its corners, with their echoes."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import arc, turned
from chorograph_core.designs.engine.baselines import depth_over, inward, long_sides
from chorograph_core.designs.engine.families import cut_to
from chorograph_core.designs.engine.sides import Side
from chorograph_core.designs.engine.tracing import Line, traced
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    SettingError,
    Settings,
    choice_setting,
    count_setting,
    length_setting,
)
from chorograph_core.measure import format_inches
from chorograph_core.rulers.fitting import radius_of

NEAR = 1e-4
SHORTEST = 0.55
"""How long the side that arcs stand on must be, as a share of the longest one."""


@dataclass(frozen=True)
class ScallopSettings(Settings):
    """The arcs, what they stand on, and what follows them."""

    chord: float = length_setting("Width of an arc", 6.0, 0.5, 40.0)
    height: float = length_setting("Height of an arc", 2.0, 0.125, 20.0)
    base: str = choice_setting("They stand on", (
        ("inner", "the shorter long side"), ("outer", "the longer long side"),
        ("both", "both, facing each other"), ("woven", "both, interlaced")))  # fmt: skip
    keep: float = length_setting("Nodes from the seam", 0.0, 0.0, 6.0)
    pointed: float = length_setting("First echo at the apex", 0.0, 0.0, 4.0,
                             help="Nothing at the nodes: a larger arc through the same ends.")  # fmt: skip
    parallel: float = length_setting("Then echoes all round", 0.0, 0.0, 4.0, help="0: none.")
    echoes: int = count_setting("How many of these", 1, 1, 20)
    last: float = length_setting("Last arc, its radius", 0.0, 0.0, 60.0,
                          help="A ruler's inner edge at the apex of the last; 0: none.")  # fmt: skip


class Scallops(Design[ScallopSettings]):
    """Arcs from node to node, echoed outwards: pointed first, then parallel."""

    key = "scallops"
    name = "Scallops"
    family = "ruler"
    role = "motif"
    stroke = "arc after arc from end to end, back along the echo"
    crosses = True
    retraces = True
    settings_type = ScallopSettings

    def fits(self, space, settings=None):
        """The arcs must be lower than the border is wide."""
        s = self.clean(settings)
        rows, fault = _rows(space, s)
        if fault:
            return Fit(0.1, (fault,))
        nodes, height, _ = rows[0]
        count, chord = len(nodes) - 1, float(np.hypot(*(nodes[1] - nodes[0])))
        reason = (f"{count} arcs of {format_inches(chord, 16)} by {format_inches(abs(height), 16)}, "
                  f"radius {format_inches(radius_of(chord, abs(height)), 16)}")  # fmt: skip
        long, _ = long_sides(space)
        if np.hypot(*(nodes[-1] - nodes[0])) < SHORTEST * long.length:
            return Fit(
                0.2, (reason, "the side they would stand on is much shorter than the longest one")
            )
        deep = depth_over(space, long)
        top = _tops(s, abs(height))[-1] + s.keep
        if top > deep + 0.01:
            return Fit(0.25, (reason, f"with their echoes they stand {format_inches(top)} high in "
                              f"{format_inches(deep)}"))  # fmt: skip
        return Fit(0.7 if long.length > 2.5 * deep else 0.4, (reason,))

    def proposed(self, space):
        """Two arcs and more, less than half as high as the zone is deep."""
        shorter = min(long_sides(space), key=_length)
        deep = depth_over(space, shorter)
        chord = min(6.0, max(0.5, shorter.length / 2))
        height = math.floor(min(2.0, 0.45 * deep, 0.4 * chord) * 8) / 8
        return self.clean({"chord": chord, "height": max(0.125, height)})

    def draw(self, space, settings=None, seed=0, doorways=None):
        """The rows, each echo a row of its own, in as few runs as can be."""
        s = self.clean(settings)
        rows, fault = _rows(space, s)
        if fault:
            return Linework(notes=(fault,))
        lines, dots = [], []
        for nodes, height, up in rows:
            dots.append(nodes)
            chord = float(np.hypot(*(nodes[1] - nodes[0])))
            lines += _arcs(nodes, height, up, s, space)
        kept = [Line(piece, "curved", line.name, line.position)
                for line in lines for piece in cut_to([line.points], space.polygon, 0.05)]  # fmt: skip
        notes = (f"{len(rows[0][0]) - 1} arcs, {format_inches(chord, 16)} wide, radius "
                 f"{format_inches(radius_of(chord, abs(rows[0][1])), 16)}",)  # fmt: skip
        dotted = np.unique(np.round(np.concatenate(dots), 6), axis=0)
        return Linework(tuple(traced(kept, space.polygon)), (Mark("dot", dotted, "nodes"),), notes)


def _rows(space, s: ScallopSettings):
    """(nodes, height with its sign, way inwards) of each row; or what is wrong, in words."""
    if s.height > s.chord / 2 + NEAR:
        words = f"Height of an arc: {format_inches(s.height, 16)} is more than half of its width."
        raise SettingError(words, "height")
    long, other = long_sides(space)
    pair = [side for side in (long, other) if side.straight] or [long]
    shorter, longer = min(pair, key=_length), max(pair, key=_length)
    bases = {"inner": [shorter], "outer": [longer]}.get(s.base, pair)
    if not all(side.straight for side in bases):
        return [], "the long side is bent; arcs stand on a straight one"
    found = []
    for k, side in enumerate(bases):
        a, b = side.points[0], side.points[-1]
        up = inward(side)
        count = max(1, round(side.length / s.chord))
        chord = side.length / count
        shift = 0.5 if s.base == "woven" and k else 0.0
        at = (np.arange(count + 1) + shift) / count
        at = at[at <= 1 + NEAR]
        nodes = a + (b - a) * at[:, None] + up * s.keep
        if len(nodes) < 2:
            nodes = a + (b - a) * np.array([[0.0], [1.0]]) + up * s.keep
        # Where fewer have room than were wished, they are as high as they can be.
        found.append((nodes, min(s.height, chord / 2), up))
    return found, ""


def _length(side: Side) -> float:
    return side.length


def _tops(s: ScallopSettings, height: float) -> list[float]:
    """Height of the arc and of each of its echoes over the nodes."""
    found = [height]
    if s.pointed > 0:
        found.append(found[-1] + s.pointed)
    if s.parallel > 0:
        found += [found[-1] + s.parallel * k for k in range(1, s.echoes + 1)]
    return found


def _arcs(
    nodes: np.ndarray, height: float, up: np.ndarray, s: ScallopSettings, space
) -> list[Line]:
    foot = format_inches(space.foot_radius, 16)
    made = []
    pointed = [height] + ([height + s.pointed] if s.pointed > 0 else [])
    last = len(nodes) - 2
    for k, (a, b) in enumerate(itertools.pairwise(nodes)):
        sign = 1.0 if (b - a)[0] * up[1] - (b - a)[1] * up[0] > 0 else -1.0
        for number, high in enumerate(pointed):
            made.append(Line(arc(a, b, sign * high), "curved", "arc" if not number else "echo",
                             f"the edge {foot} short of both dots"))  # fmt: skip
        ends = k == 0, k == last
        chord = float(np.hypot(*(b - a)))
        radius = radius_of(chord, pointed[-1])
        for j in range(1, s.echoes + 1 if s.parallel > 0 else 1):
            # Concentric, each as far as the line halfway to the next arc.
            words = "the etched line on the last arc, the centre mark on its apex"
            top = pointed[-1] + s.parallel * j
            made.append(_over(a, b, up, top, radius + s.parallel * j, ends, f"echo {j}", words))
        if s.last > 0 and chord / 2 <= s.last:
            words = "the centre mark on the axis, the edge at the apex of the last"
            made.append(_over(a, b, up, _tops(s, height)[-1], s.last, ends, "last arc", words))
    return made


def _over(
    a, b, up, top: float, radius: float, ends: tuple[bool, bool], name: str, words: str
) -> Line:
    """An arc of *radius* that stands *top* over the middle of a chord, from the line over one node to that
    over the other; at the first and the last node of a row it goes on down to the base."""
    chord = float(np.hypot(*(b - a)))
    along = (b - a) / chord
    centre = (a + b) / 2 + up * (top - radius)
    half = math.asin(min(1.0, chord / 2 / radius))
    down = max(half, math.acos(min(1.0, max(-1.0, (radius - top) / radius))))
    begin, stop = (down if end else half for end in ends)
    first = math.atan2(*(up * math.cos(begin) - along * math.sin(begin))[::-1])
    turn = math.copysign(begin + stop, -(along[0] * up[1] - along[1] * up[0]))
    return Line(turned(centre, radius, first, turn), "curved", name, words)
