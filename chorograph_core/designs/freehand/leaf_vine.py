"""Leaf vine: a waving stem, a leaf to the left, a leaf to the right, each with a midrib; berries between."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.curves import bezier
from chorograph_core.designs.engine.feathers import (
    BENT,
    goes_round,
    line_through,
    round_line,
    runs_on,
    shortened,
)
from chorograph_core.designs.engine.figure_motifs import FigureMotif, growing_setting
from chorograph_core.designs.engine.plume_stroke import thread_for
from chorograph_core.designs.engine.spines import Spine, even_spine
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    count_setting,
    length_setting,
    margin_setting,
    share_setting,
)
from chorograph_core.measure import format_inches

LONGEST = 3.1
"""Length of a leaf against the way from leaf to leaf."""
BROAD = 0.4
"""Breadth of a leaf against its length."""
COURSE = 2.0
"""Over how many ways from leaf to leaf the way of the stem on the whole is taken."""
SHARES = (1.0, 0.9, 0.8, 0.68, 0.56, 0.45)
BERRIES = (1.0, 0.85, 0.7, 0.55, 0.45)
DOT = 0.06
"""Inches of radius under which a berry is none."""


@dataclass(frozen=True)
class VineSettings(Settings):
    """The stem, its leaves and berries."""

    pitch: float = length_setting("Leaf to leaf", 1.125, 0.375, 8.0, 0.125)
    lean: float = angle_setting("Angle of a leaf", 50.0, 25.0, 80.0, 1.0)
    swings: int = count_setting("Swings of the stem", 2, 0, 40)
    sway: float = share_setting("How far it swings", 0.3, 0.0, 0.7, 0.05)
    berries: str = choice_setting(
        "Berries", (("between", "one between two leaves"), ("none", "none"))
    )
    midrib: str = choice_setting("Midribs", (("yes", "in every leaf"), ("no", "none")))
    growing: str = growing_setting()
    margin: float = margin_setting()


class LeafVine(FigureMotif[VineSettings]):
    """A stem through the zone with leaves that reach to the edge."""

    key = "leaf_vine"
    name = "Leaf vine"
    guided = True
    goes_behind = True
    stroke = (
        "stem, leaf out and back, its midrib up and down, stem; the next leaf to the other side"
    )
    settings_type = VineSettings

    def fits(self, space, settings=None):
        """Leaves must have room on both sides of the stem."""
        s = self.clean(settings)
        wide = 2 * (space.widest[1] - s.margin)
        if wide < 1.3 * s.pitch:
            return Fit(0.12, ("no room for leaves on both sides of a stem",))
        filled = space.polygon.area / space.polygon.convex_hull.area
        parts = space.inset(s.margin)
        along = bool(space.guide) or (
            bool(parts) and (goes_round if space.polygon.interiors else runs_on)(space, parts[0])
        )
        if not along and (space.polygon.interiors or filled < 0.7):
            return Fit(0.2, ("the zone has no one way that a stem could go",))
        if not along and filled < BENT:
            return Fit(0.4, ("the arm that the stem does not go into stays open",))
        long = space.polygon.length / 2 / max(wide, 1e-6)
        return Fit(
            min(0.85, 0.5 + 0.06 * long), (f"leaves up to {format_inches(wide / 2, 8)} long",)
        )

    def proposed(self, space):
        """Leaves that suit the width, and swings that suit the length."""
        s = self.clean()
        wide = 2 * space.widest[1]
        # Beside a stem that swings there is so much room for a leaf that leans.
        reach = LONGEST * math.sin(math.radians(s.lean))
        pitch = min(8.0, max(0.375, round((1 - s.sway) * wide / 2 / reach * 8) / 8))
        long = max(wide, space.polygon.length / 2 - wide)
        return self.clean({"pitch": pitch, "swings": max(1, min(40, round(long / (3.2 * wide))))})

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run for each part, from the foot of the stem to its last leaf, or all round."""
        s = self.clean(settings)
        runs, marks = [], []
        for part in space.inset(s.margin):
            ring = round_line(space, part, s.sway, s.swings)
            line = line_through(space, part, s.sway, s.swings) if ring is None else ring
            if line is None or len(line) < 8:
                continue
            line = line if s.growing == "forward" else line[::-1]
            spine = (
                even_spine(shortened(line, 0.1 * s.pitch, 1.1 * s.pitch))
                if ring is None
                else even_spine(line, closed=True)
            )
            run = _vine(spine, part, s)
            if run is not None:
                runs.append(run)
                marks.append(Mark("line", spine.points[::6], "stem"))
        return Linework(tuple(runs), tuple(marks))

    def closing(self, space, s):
        """Between neighbouring lines."""
        return 0.5 * s.pitch


def _vine(spine: Spine, part, s: VineSettings):
    """Leaves have their room first, berries what is left between them."""
    room = part.buffer(0.008)
    shapely.prepare(room)
    # All round the last leaf is not on the side of the first; else one stands at the tip.
    count = (
        2 * max(1, round(spine.length / s.pitch / 2))
        if spine.closed
        else max(2, round(spine.length / s.pitch))
    )
    step = spine.length / count
    stops = ((np.arange(count) + 0.5) * step).tolist()
    stops += [] if spine.closed else [spine.length]
    taken: list[shapely.Polygon] = []
    leaves = []
    for k, stop in enumerate(stops):
        side = 0 if k == count else 1 if k % 2 == 0 else -1
        leaves.append((stop, _leaf(spine, stop, side, s, room, taken), f"leaf {k + 1}"))
    figures = list(leaves)
    if s.berries == "between":
        for k in range(count if spine.closed else count - 1):
            stop = (k + 1) * step
            figures.append((stop, _berry(spine, stop, 1 if k % 2 == 0 else -1, s, room, taken), ""))
    thread, gone = thread_for(s.pitch), 0.0
    for stop, lines, name in sorted(figures, key=lambda figure: figure[0]):
        if not lines:
            continue
        thread.add(spine.between(gone, stop))
        gone = stop
        for line, kind in lines:
            thread.add(line, kind)
        if name:
            thread.unit(name)
    thread.add(spine.between(gone, spine.length))
    return thread.run(spine.closed)


def _leaf(spine: Spine, stop: float, side: int, s, room, taken) -> list[tuple[np.ndarray, str]]:
    """An almond from the stem, as long as nothing is in its way; nothing where it would be a sliver."""
    foot = spine.at(stop)
    # From where the stem goes on the whole, or leaves would lie on each other inside its bends.
    [way] = spine.course(np.array([stop]), COURSE * s.pitch)
    angle = math.atan2(way[1], way[0]) + side * math.radians(s.lean)
    stem = shapely.linestrings(spine.points)
    for share in SHARES:
        long = LONGEST * s.pitch * share
        out, back, rib = _almond(foot, angle, long)
        shape = shapely.Polygon(np.vstack([out, back]))
        clear = (
            room.covers(shapely.linestrings(np.vstack([out, back])))
            and not any(shape.intersects(other) for other in taken)
            and not shape.buffer(-0.02 * long).intersects(stem)
        )
        if clear:
            taken.append(shape.buffer(0.02 * long))
            veins = [(rib, "stitch"), (rib[::-1], "retrace")] if s.midrib == "yes" else []
            return [(out, "stitch"), (back, "stitch"), *veins]
    return []


def _almond(foot: np.ndarray, angle: float, long: float):
    along = np.array([math.cos(angle), math.sin(angle)])
    aside = np.array([-along[1], along[0]])
    wide = BROAD * long
    stalk = foot + along * 0.08 * long
    tip = foot + along * long
    swell, draw = along * 0.18 * long, along * 0.42 * long
    near, far = aside * wide * 0.85, aside * wide * 0.5
    out = bezier(stalk, stalk + swell + near, tip - draw + far, tip, 18)
    back = bezier(tip, tip - draw - far, stalk + swell - near, stalk, 18)
    bow = stalk + along * 0.62 * long
    rib = bezier(
        stalk, stalk + along * 0.2 * long + aside * 0.05 * long, bow - along * 0.2 * long, bow, 10
    )
    return np.vstack([foot, out]), back, rib


def _berry(spine: Spine, stop: float, side: int, s, room, taken) -> list[tuple[np.ndarray, str]]:
    """A berry on its stalk, out and back, on whichever side of the stem it has the more room; nothing where
    it would be a dot."""
    foot, way = spine.at(stop), spine.way(stop)
    for share in BERRIES:
        radius, reach = 0.17 * s.pitch * share, 0.42 * s.pitch * share
        if radius < DOT:
            return []
        for turn in (side, -side):
            angle = math.atan2(way[1], way[0]) + turn * math.radians(75)
            along = np.array([math.cos(angle), math.sin(angle)])
            middle = foot + along * (reach + radius)
            figure = shapely.union(
                shapely.Point(middle).buffer(radius * 1.1), shapely.linestrings([foot, middle])
            )
            if not room.covers(figure) or any(figure.intersects(other) for other in taken):
                continue
            round_ = angle + math.pi + np.linspace(0, 2 * math.pi, 25)
            ring = middle + radius * np.column_stack([np.cos(round_), np.sin(round_)])
            ring[-1] = ring[0]
            taken.append(figure)
            stalk = np.vstack([foot, ring[0]])
            return [(stalk, "stitch"), (ring, "stitch"), (stalk[::-1], "retrace")]
    return []
