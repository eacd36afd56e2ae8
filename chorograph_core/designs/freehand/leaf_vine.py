"""Leaf vine: a waving stem, a leaf to the left, a leaf to the right, each with a midrib; berries between."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Fit, Linework, Mark
from chorograph_core.designs.curves import bezier
from chorograph_core.designs.engine.feathers import line_through, shortened
from chorograph_core.designs.engine.figure_motifs import FigureMotif, growing_setting
from chorograph_core.designs.engine.plume_stroke import Thread, thread_for
from chorograph_core.designs.engine.plumes import Spine, even_spine
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    count_setting,
    length_setting,
    margin_setting,
    share_setting,
)

LONGEST = 3.1
"""Length of a leaf against the way from leaf to leaf."""
BROAD = 0.4
"""Breadth of a leaf against its length."""
SHARES = (1.0, 0.9, 0.8, 0.68, 0.56, 0.45, 0.34, 0.26)


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
        if space.polygon.area < 0.7 * space.polygon.convex_hull.area:
            return Fit(0.2, ("the zone has no one way that a stem could go",))
        long = space.polygon.length / 2 / max(wide, 1e-6)
        return Fit(min(0.85, 0.5 + 0.06 * long), (f"leaves up to {wide / 2:.1f}″ long",))

    def proposed(self, space):
        """Leaves that suit the width, and swings that suit the length."""
        s = self.clean()
        wide = 2 * space.widest[1]
        pitch = max(0.375, min(s.pitch, math.floor(wide / 2.6 * 8) / 8))
        long = max(wide, space.polygon.length / 2 - wide)
        return self.clean({"pitch": pitch, "swings": max(1, min(40, round(long / (3.2 * wide))))})

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run for each part, from the foot of the stem to its last leaf."""
        s = self.clean(settings)
        runs, marks = [], []
        for part in space.inset(s.margin):
            line = line_through(space, part, s.sway, s.swings)
            if line is None or len(line) < 8:
                continue
            line = line if s.growing == "forward" else line[::-1]
            spine = even_spine(shortened(line, 0.1 * s.pitch, 1.1 * s.pitch))
            run = _vine(spine, part, s)
            if run is not None:
                runs.append(run)
                marks.append(Mark("line", spine.points[::6], "stem"))
        return Linework(tuple(runs), tuple(marks))

    def closing(self, space, s):
        """Between neighbouring lines."""
        return 0.5 * s.pitch


def _vine(spine: Spine, part, s: VineSettings):
    room = part.buffer(0.008)
    shapely.prepare(room)
    thread = thread_for(s.pitch)
    count = max(2, round(spine.length / s.pitch))
    stops = (np.arange(count) + 0.5) * spine.length / count
    gone = 0.0
    taken: list[shapely.Polygon] = []
    for k, stop in enumerate(stops.tolist()):
        side = 1 if k % 2 == 0 else -1
        thread.add(spine.between(gone, stop))
        gone = stop
        _leaf(thread, spine, stop, side, s, room, taken, f"leaf {k + 1}")
        if s.berries == "between" and k + 1 < count:
            spot = stop + spine.length / count / 2
            thread.add(spine.between(gone, spot))
            gone = spot
            _berry(thread, spine, spot, side, s, room, taken)
    thread.add(spine.between(gone, spine.length))
    _leaf(thread, spine, spine.length, 0, s, room, taken, f"leaf {count + 1}")
    return thread.run()


def _leaf(thread: Thread, spine: Spine, stop: float, side: int, s, room, taken, name: str) -> None:
    """An almond from the stem, as long as nothing is in its way; not at all where it would be a sliver."""
    foot, way = spine.at(stop), spine.way(stop)
    angle = math.atan2(way[1], way[0]) + side * math.radians(s.lean)
    for share in SHARES:
        long = LONGEST * s.pitch * share
        out, back, rib = _almond(foot, angle, long)
        shape = shapely.Polygon(np.vstack([out, back]))
        if room.covers(shapely.linestrings(np.vstack([out, back]))) and not any(
            shape.intersects(other) for other in taken
        ):
            taken.append(shape.buffer(-0.02 * long))
            thread.add(out)
            thread.add(back)
            if s.midrib == "yes":
                thread.add(rib)
                thread.add(rib[::-1], "retrace")
            thread.unit(name)
            return


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


def _berry(thread: Thread, spine: Spine, stop: float, side: int, s, room, taken) -> None:
    foot, way = spine.at(stop), spine.way(stop)
    # On the side from which the next leaf does not come.
    angle = math.atan2(way[1], way[0]) + side * math.radians(75)
    along = np.array([math.cos(angle), math.sin(angle)])
    for share in SHARES:
        radius = 0.17 * s.pitch * share
        reach = 0.42 * s.pitch * share
        middle = foot + along * (reach + radius)
        disc = shapely.Point(middle).buffer(radius * 1.1)
        if room.covers(disc) and not any(disc.intersects(other) for other in taken):
            begin = angle + math.pi
            turn = begin + np.linspace(0, 2 * math.pi, 25)
            ring = middle + radius * np.column_stack([np.cos(turn), np.sin(turn)])
            ring[-1] = ring[0]
            taken.append(disc)
            stalk = np.vstack([foot, ring[0]])
            thread.add(stalk)
            thread.add(ring)
            thread.add(stalk[::-1], "retrace")
            return
