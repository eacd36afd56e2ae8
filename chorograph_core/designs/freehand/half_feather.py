"""Half feather: plumes on one side of a seam that serves as the spine."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.curves import resample
from chorograph_core.designs.engine.baselines import depth_over, long_sides
from chorograph_core.designs.engine.feathers import BENT, shortened, stroke_setting
from chorograph_core.designs.engine.figure_motifs import growing_setting
from chorograph_core.designs.engine.guides import at_edge, closes, guide_within
from chorograph_core.designs.engine.lanes import strays
from chorograph_core.designs.engine.plume_stroke import stitch_side, thread_for
from chorograph_core.designs.engine.plumes import Growth, grown_side
from chorograph_core.designs.engine.spines import even_spine
from chorograph_core.designs.linework import Linework, Run
from chorograph_core.designs.rails import Strip
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    count_setting,
    length_setting,
    margin_setting,
)
from chorograph_core.designs.space import Space, polygons
from chorograph_core.designs.strip import strip_of
from chorograph_core.measure import format_inches

TALLEST = 5.0
"""Plumes so many times taller than wide are no half feather."""
COMPACT = 1.6
"""How many times as long as wide a zone is at least that is better filled by a half feather than by a whole
one."""
ROOM, FEW = 0.012, 3.0
"""Of a zone, less what plumes take of its edge, what is a room of its own behind a neck; and plumes' widths
squared in which there is no row of them."""
ALONG = 0.72
"""How much of the way through a zone the seam of its spine goes at least."""
MITRED = 0.3
"""Share of its depth by which a border's inner edge may be shorter otherwise than by two mitres."""
INSIDE = 0.03
"""Inches by which the spine stays inside the line it follows, so that one can look out from it."""


@dataclass(frozen=True)
class HalfFeatherSettings(Settings):
    """The plumes, and the seam they grow from."""

    pitch: float = length_setting("Plume width", 1.0, 0.25, 5.0, 0.125)
    height: float = length_setting(
        "Tallest plume", 0.0, 0.0, 24.0, 0.125, help="0: out to the edge."
    )
    lean: float = angle_setting("Lean", 52.0, 25.0, 80.0, 1.0)
    count: int = count_setting("Plumes", 0, 0, 400, help="0: as many as have room.")
    plumes: str = stroke_setting()
    spine: str = choice_setting(
        "Spine on", (("first", "the longer seam"), ("second", "the seam across"))
    )
    towards: str = growing_setting()
    margin: float = margin_setting()


class HalfFeather(Design[HalfFeatherSettings]):
    """Plumes lean towards the tip, start along the spine, and have round heads."""

    key = "half_feather"
    name = "Half feather"
    family = "freehand"
    guided = True
    goes_behind = True
    stroke = "plume out and round the head; back over the head; the next plume in to the spine"
    version = 2
    pointed = True
    crosses = True
    retraces = True
    faces = True
    settings_type = HalfFeatherSettings

    def upgrade(self, settings, from_version):
        """Lean was a share of the height."""
        made: dict[str, Any] = dict(settings)
        if from_version < 2 and "lean" in made:
            share = float(made["lean"]) if isinstance(made["lean"], (int, float)) else 0.45
            made["lean"] = round(math.degrees(math.atan2(1.0, max(0.2, min(share, 1.0)) * 1.7)))
        return made

    def fits(self, space, settings=None):
        """A plume must be taller than wide, and there must be a few of them."""
        s = self.clean(settings)
        parts = space.inset(s.margin)
        if not parts:
            return Fit(0.0, ("no room for a plume",))
        lane = strip_of(space, parts[0])
        plumes = lane.length / s.pitch
        tall = lane.mean_width / s.pitch
        reasons = [f"{plumes:.0f} plumes, {format_inches(lane.mean_width, 8)} tall on average"]
        bent = space.polygon.area < BENT * space.polygon.convex_hull.area
        along = long_sides(space)[0].length / max(lane.length, 1e-9)
        if bent and (strays(lane, parts[0]) or along < 0.75):
            return Fit(0.15, ("the seam has no side to itself that plumes could grow on",))
        rooms = [room for part in parts for room in polygons(part.buffer(-s.pitch / 3))]
        rooms.sort(key=lambda room: -room.area)
        if any(ROOM * space.polygon.area < room.area < FEW * s.pitch**2 for room in rooms[1:]):
            return Fit(0.15, ("it has a room behind a neck: plumes do not go round into it",))
        if along < ALONG:
            return Fit(0.3, ("no seam that goes all along for a spine",))
        if tall < 0.9:
            return Fit(0.25, (*reasons, "plumes would be wider than tall"))
        if tall > TALLEST or min(lane.length, _facing(lane)) < COMPACT * lane.mean_width:
            return Fit(0.32, (*reasons, "a whole feather fills so compact a zone better"))
        if plumes < 3:
            return Fit(0.3, (*reasons, "fewer than three plumes read as a mistake"))
        return Fit(min(0.9, 0.5 + 0.02 * plumes), tuple(reasons))

    def proposed(self, space):
        """On the seam towards the middle: of a side with mitred corners that is the shorter one, and the
        longer is the raw edge."""
        settings = super().proposed(space)
        long, across = long_sides(space)
        deep = depth_over(space, long)
        mitred = abs(long.length - across.length - 2 * deep) < MITRED * deep
        return replace(settings, spine="second") if mitred and long.length > 4 * deep else settings

    def spacing(self, space, settings=None):
        """As set."""
        return self.clean(settings).pitch

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run for each part, from the first plume's foot to the last one's."""
        s = self.clean(settings)
        runs: list[Run] = []
        growth = Growth(s.pitch, math.radians(s.lean), s.height, count=s.count)
        for part in space.inset(s.margin):
            if part.area < s.pitch**2 * 0.5:
                continue
            guide = guide_within(space, part)
            if guide is not None:
                # A guide is a spine in the open: it has no seam to keep off.
                guide = guide if s.towards == "forward" else guide[::-1]
                side = at_edge(guide, part) or (1 if s.spine == "first" else -1)
                line, round_ = resample(guide, 0.1), closes(guide)
                spine = even_spine(
                    line if round_ else shortened(line, INSIDE, 0.6 * s.pitch), round_
                )
            else:
                line, side = _seam(
                    space if part is space.polygon else Space(part, cut_from=space.cut_from), s
                )
                line = shortened(line, INSIDE, 0.6 * s.pitch)
                spine = even_spine(_drawn_in(line, side, INSIDE * 1.5))
            thread = thread_for(s.pitch)
            grown = grown_side(spine, part, side, growth)
            open_spine = guide is not None
            stitch_side(
                thread, spine, grown, "plume", s.plumes, "retrace" if open_spine else "link", part
            )
            if open_spine and grown.heads:
                # Its spine is a line to be seen: stitched on the way home.
                thread.add(spine.between(min(grown.tip, spine.length), spine.length))
                thread.add(spine.between(spine.length, 0.0))
                thread.unit("spine")
            elif grown.heads:
                # On to the far end of its seam, from where one goes on.
                thread.add(spine.between(grown.tip, spine.length), "link", "ditch")
            run = thread.run()
            # One plume by itself in a part of a zone is a mistake.
            if run is not None and grown.count > (1 if runs else 0):
                runs.append(run)
        return Linework(tuple(runs))


def _facing(lane: Strip) -> float:
    """Inches along which the two sides of a strip lie opposite each other, square to it: of one cut slantwise
    less than it is long."""
    way = lane.left[-1] - lane.left[0]
    far = float(np.hypot(*way))
    if far < 1e-6:
        return lane.length
    ends = [np.sort((rail[[0, -1]] - lane.left[0]) @ way / far) for rail in (lane.left, lane.right)]
    short = float(min(ends[0][1], ends[1][1]) - max(ends[0][0], ends[1][0]))
    return lane.length - max(far - max(short, 0.0), 0.0)


def _seam(space: Space, s: HalfFeatherSettings) -> tuple[np.ndarray, int]:
    """The side that is the spine, the way plumes grow, and on which side of it the zone lies (+1:
    on its right on paper)."""
    line = long_sides(space)[0 if s.spine == "first" else 1].points
    # Sides run counter-clockwise as numbers go, so the zone lies on the side towards which y grows from x.
    return (line, 1) if s.towards == "forward" else (line[::-1], -1)


def _drawn_in(line: np.ndarray, side: int, inches: float) -> np.ndarray:
    way = np.gradient(line, axis=0)
    way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    return line + np.column_stack([-way[:, 1], way[:, 0]]) * inches * side
