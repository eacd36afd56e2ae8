"""Leaf: one large leaf with a midrib and veins, fitted to the zone."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.curves import bezier
from chorograph_core.designs.engine.feathers import line_through, shortened
from chorograph_core.designs.engine.figure_motifs import FigureMotif, growing_setting
from chorograph_core.designs.engine.guides import seen
from chorograph_core.designs.engine.plume_stroke import thread_for
from chorograph_core.designs.engine.spines import Spine, even_spine
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    count_setting,
    margin_setting,
    share_setting,
)
from chorograph_core.measure import format_inches

LEAST = 1.2
"""Inches: a leaf of less length is a blot."""
SHARES = (1.0, 0.94, 0.86, 0.76, 0.64, 0.5, 0.36, 0.24)
"""How much of a leaf is tried, the whole of it first, until it has room."""
STALK = 0.08
"""Length of the stalk against that of the leaf."""


@dataclass(frozen=True)
class LeafSettings(Settings):
    """How broad, how many veins."""

    broad: float = share_setting("Breadth", 0.55, 0.2, 0.9, 0.05, help="Against its length.")
    veins: int = count_setting("Veins on a side", 5, 0, 24)
    lean: float = angle_setting("Angle of the veins", 42.0, 20.0, 80.0, 1.0)
    sway: float = share_setting("Bend of the midrib", 0.12, 0.0, 0.5, 0.02)
    growing: str = growing_setting()
    margin: float = margin_setting()


class Leaf(FigureMotif[LeafSettings]):
    """An almond about its midrib, out to whatever edge there is."""

    key = "leaf"
    name = "Leaf"
    stroke = "up the midrib, vein by vein home, round the edge to the tip and back"
    guided = True
    goes_behind = True
    settings_type = LeafSettings

    def fits(self, space, settings=None):
        """It wants a zone longer than wide, or a square on its diagonal."""
        s = self.clean(settings)
        made = _leaf(space, s)
        if made is None:
            return Fit(0.1, ("no room for a leaf",))
        spine = made[0]
        if space.polygon.interiors or space.polygon.area < 0.72 * space.polygon.convex_hull.area:
            return Fit(0.2, ("the zone has no one way that a midrib could go",))
        return Fit(0.55, (f"a leaf {format_inches(spine.length, 8)} long",))

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run from the foot of the stalk and back to it."""
        s = self.clean(settings)
        made = _leaf(space, s)
        if made is None:
            return Linework()
        spine, sides = made
        thread = thread_for(spine.length / 3)
        thread.add(spine.between(0, spine.length))
        thread.unit("midrib")
        gone = spine.length
        first, last = (STALK + 0.1) * spine.length, 0.86 * spine.length
        for k in reversed(range(s.veins)):
            place = first + (last - first) * (k + 0.5) / s.veins
            thread.add(spine.between(gone, place), "retrace")
            gone = place
            for side, edge in zip((1, -1), sides, strict=True):
                vein = _vein(spine, place, side, edge, s)
                if vein is not None:
                    thread.add(vein)
                    thread.add(vein[::-1], "retrace")
            thread.unit(f"veins {s.veins - k}")
        base = STALK * spine.length
        thread.add(spine.between(gone, base), "retrace")
        thread.add(sides[0])
        thread.unit("edge out")
        thread.add(sides[1][::-1])
        thread.add(spine.between(base, 0), "retrace")
        thread.unit("edge home")
        run = thread.run()
        marks = (Mark("line", spine.points[::6], "midrib"),)
        return Linework((run,) if run else (), marks)

    def closing(self, space, s):
        """All between its edges is its own."""
        spine = _midrib(space, s)
        return 0.9 * s.broad * spine.length if spine is not None else 1.0


def _midrib(space, s: LeafSettings) -> Spine | None:
    parts = space.inset(s.margin)
    line = line_through(space, parts[0], s.sway) if parts else None
    if line is None or len(line) < 8:
        return None
    line = line if s.growing == "forward" else line[::-1]
    spine = even_spine(shortened(line, 0.02, 0.02))
    return spine if spine.length >= LEAST else None


def _leaf(space, s: LeafSettings) -> tuple[Spine, list[np.ndarray]] | None:
    """Midrib and both edges, as broad as there is room for."""

    def find() -> tuple[Spine, list[np.ndarray]] | None:
        spine = _midrib(space, s)
        if spine is None:
            return None
        part = space.inset(s.margin)[0]
        room = part.buffer(0.015)
        shapely.prepare(room)
        for share in SHARES:
            sides = [_edge(spine, part, side, s, share) for side in (1, -1)]
            if all(room.covers(shapely.linestrings(edge)) for edge in sides):
                return spine, sides
        return None

    return space.fact(("leaf", s), find)


def _edge(spine: Spine, part, side: int, s: LeafSettings, share: float) -> np.ndarray:
    """One edge of the leaf, from where the stalk ends to the tip: an almond, less where there is no room."""
    t = np.linspace(0, 1, 60)
    places = (STALK + (1 - STALK) * t) * spine.length
    foot, way = spine.at(places), spine.way(places)
    aside = np.column_stack([-way[:, 1], way[:, 0]]) * side
    wish = share * s.broad / 2 * spine.length * np.sin(math.pi * t**0.82) ** 0.9
    free = np.maximum(seen(foot[1:-1], aside[1:-1], part) - 0.02, 0.0)
    # Evenly narrower, not dented where the edge comes in.
    ratio = np.min(np.minimum(1.0, free / np.maximum(wish[1:-1], 1e-6)))
    tight = max(0.35, float(ratio))
    wide = wish * tight
    wide[1:-1] = np.minimum(wide[1:-1], free)
    return foot + aside * wide[:, None]


def _vein(
    spine: Spine, place: float, side: int, edge: np.ndarray, s: LeafSettings
) -> np.ndarray | None:
    """From the midrib, bending forward, nearly to the edge."""
    foot, way = spine.at(place), spine.way(place)
    angle = math.atan2(way[1], way[0]) + side * math.radians(s.lean)
    look = np.array([math.cos(angle), math.sin(angle)])
    inside = shapely.make_valid(
        shapely.Polygon(np.vstack([edge, spine.between(STALK * spine.length, spine.length)[::-1]]))
    )
    if inside.is_empty:
        return None
    ray = shapely.linestrings([foot + look * 1e-3, foot + look * 2 * spine.length])
    held = [piece for piece in shapely.get_parts(ray.intersection(inside)) if piece.length > 0.1]
    if not held:
        return None
    near = min(held, key=lambda piece: float(piece.distance(shapely.points(foot))))
    if near.distance(shapely.points(foot)) > 0.1:
        return None
    long = 0.86 * near.length
    tip = foot + look * long
    vein = bezier(foot, foot + way * 0.2 * long, tip - look * 0.4 * long, tip, 12)
    # Where the leaf is pinched a bent vein would swing over its edge.
    within = inside.buffer(0.01).covers(shapely.linestrings(vein))
    return vein if within else np.linspace(foot, tip, 12)
