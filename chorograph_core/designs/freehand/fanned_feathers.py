"""Fanned feathers: feathers all round a shape, as if they came out from behind it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Point, Polygon

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.engine.feathers import stitch_feather, stroke_setting
from chorograph_core.designs.engine.figure_motifs import FigureMotif
from chorograph_core.designs.engine.guides import seen
from chorograph_core.designs.engine.plume_stroke import Thread, thread_for
from chorograph_core.designs.engine.plumes import Growth, grown_side
from chorograph_core.designs.engine.spines import even_spine
from chorograph_core.designs.linework import Linework, Run
from chorograph_core.designs.linking import Edge
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    count_setting,
    length_setting,
    margin_setting,
)
from chorograph_core.designs.space import Space, polygons, turning_points

PEARL = 0.6
"""Radius, in widths of a plume, of the round from which feathers come where nothing lies in the middle."""
AT_FOOT = 0.01
"""Inches from the shape at which a feather begins there."""
SHARE = 0.05
"""Least share of a zone that a shape in it covers to be what feathers come from."""
CENTRE = 0.16
"""Radius of what stays open in the middle of a flower of feathers, in shares of its own."""
ON_CORNER = math.radians(4)
LEAST = 1.2
"""Length of a spine in widths of a plume."""


@dataclass(frozen=True)
class FanSettings(Settings):
    """How many feathers, and their plumes."""

    count: int = count_setting("Feathers", 0, 0, 40, help="0: as many as have room.")
    pitch: float = length_setting("Width of a plume", 0.75, 0.25, 5.0)
    lean: float = angle_setting("Lean", 50.0, 25.0, 80.0, 1.0)
    turned: float = angle_setting("Turned by", 0.0, -180.0, 180.0, 7.5)
    plumes: str = stroke_setting("stacked")
    margin: float = margin_setting()


class FannedFeathers(FigureMotif[FanSettings]):
    """Each feather reaches up to the middle between its two neighbours, and out to whatever edge there is."""

    key = "fanned_feathers"
    name = "Fanned feathers"
    stroke = (
        "up one side of a feather, down its spine, up the other, home; along the shape to the next"
    )
    settings_type = FanSettings

    def fits(self, space, settings=None):
        """It wants a shape to come out from behind, or several."""
        s = self.clean(settings)
        rooms = _rooms(space, s)
        if not rooms:
            return Fit(0.1, ("no room for feathers all round",))
        deep = [(room, core) for room, core in rooms if _depth(room, core) >= 2 * LEAST * s.pitch]
        if not deep:
            return Fit(0.15, ("no room for plumes between the shape and the edge",))
        count = sum(_count(room, core, s) for room, core in deep)
        words = (
            f"{count} feathers round {len(deep)} shapes, each up to the middle between two neighbours"
            if len(deep) > 1
            else f"{count} feathers, each up to the middle between two neighbours"
        )
        return Fit(0.84 if space.polygon.interiors else 0.35, (words,))

    def proposed(self, space):
        """Plumes a fifth as wide as feathers are long."""
        s = self.clean()
        rooms = _rooms(space, s)
        if not rooms:
            return s
        deep = min(_depth(room, core) for room, core in rooms)
        return self.clean({"pitch": max(0.25, min(s.pitch, math.floor(deep / 4 * 16) / 16))})

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run round each shape."""
        s = self.clean(settings)
        runs = [self._round(space, room, core, s) for room, core in _rooms(space, s)]
        return Linework(tuple(run for run in runs if run is not None))

    def _round(self, space: Space, room: Polygon, core: Polygon, s: FanSettings) -> Run | None:
        """All feathers round one shape."""
        count = _count(room, core, s)
        middle = shapely.get_coordinates(core.centroid)[0]
        edge, thread = Edge(core), thread_for(s.pitch)
        growth = Growth(s.pitch, math.radians(s.lean), base=False)
        step = 2 * math.pi / count
        first = _first(space, room, middle, count) + math.radians(s.turned)
        for k in range(count):
            angle = first + k * step
            part = _wedge(room, middle, angle, step)
            line = _spine(part, middle, angle, s.pitch) if part is not None else None
            if part is None or line is None or core.distance(shapely.points(line[0])) > AT_FOOT:
                # Beyond a notch of the zone nothing comes out from behind the shape.
                continue
            spine = even_spine(line)
            sides = [grown_side(spine, part, side, growth) for side in (1, -1)]
            if not any(side.heads for side in sides):
                continue
            _along(thread, edge, line[0])
            name = f"plume of feather {k + 1}"
            stitch_feather(thread, (spine, spine), sides, part, name, s.plumes)
            # Everything of a feather begins and ends at its foot.
            end = min(sides[1].tip, spine.length) if sides[1].heads else 0.0
            thread.add(spine.between(end, 0.0), "retrace")
        return thread.run()

    def closing(self, space, s):
        """Between neighbouring lines."""
        return 0.9 * s.pitch


def _rooms(space: Space, s: FanSettings) -> list[tuple[Polygon, Polygon]]:
    """The room for feathers, and what they come from: a shape that lies in the zone, else a pearl in its
    middle. Round several shapes each has what lies nearer to it than to the others. None where there is no
    room."""
    parts = space.inset(s.margin)
    if not parts:
        return []
    room = parts[0]
    holes = [Polygon(ring) for ring in room.interiors]
    shapes = [hole for hole in holes if hole.area > SHARE * room.area / len(holes)]
    if len(shapes) > 1:
        return _shared(room, shapes, s.margin)
    if shapes:
        return [(room, shapes[0])]
    (x, y), radius = space.middle
    open_ = max(PEARL * s.pitch, CENTRE * (radius - s.margin))
    pearl = Point(x, y).buffer(open_)
    if radius - s.margin < open_ + 2 * LEAST * s.pitch or not room.covers(pearl):
        return []
    return [(room.difference(pearl), pearl)]


def _shared(room: Polygon, shapes: list[Polygon], margin: float) -> list[tuple[Polygon, Polygon]]:
    """What of *room* lies nearest to each of the *shapes* that has feathers all round, the first at the upper
    left; neighbours keep *margin* inches off each other."""
    fine = max(0.25, max(shape.length for shape in shapes) / 120)
    spots = [
        shapely.get_coordinates(shapely.segmentize(each.exterior, fine))[:-1] for each in shapes
    ]
    owner = np.repeat(np.arange(len(shapes)), [len(each) for each in spots])
    # Of spots that lie quite evenly many are as far from each other: cells would meet in no clean way.
    uneven = np.vstack(spots) + np.random.default_rng(1).uniform(-1e-3, 1e-3, (len(owner), 2))
    cells = shapely.get_parts(
        shapely.voronoi_polygons(shapely.multipoints(uneven), extend_to=room, ordered=True)
    )
    cells = shapely.make_valid(shapely.set_precision(cells, 1e-5))
    found = []
    for k in sorted(range(len(shapes)), key=lambda k: sum(shapes[k].centroid.coords[0])):
        own = shapely.union_all(cells[owner == k]).buffer(-margin / 2, join_style="mitre")
        mine = [
            each for each in polygons(room.intersection(own)) if each.distance(shapes[k]) < AT_FOOT
        ]
        if mine:
            found.append((mine[0], shapes[k]))
    return found


def _depth(room: Polygon, core: Polygon) -> float:
    """From the shape to the edge, inches, in the mean of all ways."""
    return math.sqrt((room.area + core.area) / math.pi) - math.sqrt(core.area / math.pi)


def _corners(room: Polygon, middle: np.ndarray) -> np.ndarray:
    """In which directions, radians, the corners of *room* lie that stand out from its *middle*."""
    ring = shapely.get_coordinates(room.simplify(0.05).exterior)[:-1]
    far = np.hypot(*(ring - middle).T)
    out = (far > np.roll(far, 1) - 1e-6) & (far > np.roll(far, -1) - 1e-6)
    sharp = np.isin(np.arange(len(ring)), turning_points(ring))
    found = ring[out & sharp & (far > 0.75 * far.max())] - middle
    return np.arctan2(found[:, 1], found[:, 0])


def _first(space: Space, room: Polygon, middle: np.ndarray, count: int) -> float:
    """The direction of the first feather: into a corner, where every corner then has a feather of its own;
    else along the zone's longest side."""
    corners, step = _corners(room, middle), 2 * math.pi / count
    if len(corners):
        first = float(corners.min())
        off = np.abs((corners - first + step / 2) % step - step / 2)
        if (off < ON_CORNER).all():
            return first
    return space.frame.axis


def _count(room: Polygon, core: Polygon, s: FanSettings) -> int:
    """As many as are about half as wide as long, where their number is not given; one or two for each corner
    where the corners lie evenly round."""
    if s.count:
        return s.count
    inner = math.sqrt(core.area / math.pi)
    outer = math.sqrt((room.area + core.area) / math.pi)
    wide = max(3.4 * s.pitch, 0.62 * (outer - inner))
    about = float(np.clip(round(math.pi * (inner + outer) / wide), 3, 40))
    corners = np.sort(_corners(room, shapely.get_coordinates(core.centroid)[0]))
    gaps = np.diff(np.append(corners, corners[:1] + 2 * math.pi))
    if len(corners) >= 3 and np.ptp(gaps) < ON_CORNER:
        return max(1, round(about / len(corners))) * len(corners)
    return int(about)


def _wedge(room: Polygon, middle: np.ndarray, angle: float, step: float) -> Polygon | None:
    """What of *room* lies nearer to a feather than to those on either side of it."""
    x0, y0, x1, y1 = room.bounds
    far = 2 * math.hypot(x1 - x0, y1 - y0)
    half = min(step / 2, math.pi / 2 - 0.01)
    turn = angle + np.linspace(-half, half, 9)
    fan = middle + far * np.column_stack([np.cos(turn), np.sin(turn)])
    parts = polygons(room.intersection(Polygon(np.vstack([middle[None], fan]))))
    return parts[0] if parts else None


def _spine(part: Polygon, middle: np.ndarray, angle: float, pitch: float) -> np.ndarray | None:
    """From the shape out, nearly to the edge."""
    way = np.array([math.cos(angle), math.sin(angle)])
    x0, y0, x1, y1 = part.bounds
    ray = shapely.linestrings([middle, middle + way * 2 * math.hypot(x1 - x0, y1 - y0)])
    held = [piece for piece in shapely.get_parts(ray.intersection(part)) if piece.length > 1e-6]
    if not held:
        return None
    first = min(held, key=lambda piece: float(shapely.distance(piece, shapely.points(middle))))
    begin = shapely.get_coordinates(first)[0]
    far = float(seen((begin + way * 1e-4)[None], way[None], part)[0])
    if far < LEAST * pitch:
        return None
    return np.vstack([begin, begin + way * (far - min(0.8 * pitch, 0.3 * far))])


def _along(thread: Thread, edge: Edge, foot: np.ndarray) -> None:
    """On to the foot of the next feather along the shape they come out from."""
    if not thread.points:
        return
    (ring, begin), (_, stop) = edge.locate(thread.points[-1][-1]), edge.locate(foot)
    thread.add(np.vstack([edge.way(ring, begin, stop), foot]), "link", "ditch")
