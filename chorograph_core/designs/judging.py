"""How well a drawing fills its zone: the measures by which designs are judged."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.ndimage import distance_transform_edt, uniform_filter
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Design
from chorograph_core.designs.curves import resample
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.settings import Settings
from chorograph_core.designs.space import Space

STEP = 1 / 32
"""Inches between the spots of the distance field."""
MOST_SPOTS = 600_000
BARS = {
    "gap": 1.6, "tip": 2.0, "evenness": 0.35, "edge": 0.8, "ruled edge": 1.35, "corners": 0,
    "spill": 0.02, "roundness": 0, "crossings": 0, "retrace": 0.05, "feathers": 0.40, "unbroken": 1.0,
}  # fmt: skip
"""What a drawing may have at most."""


@dataclass(frozen=True)
class Judged:
    """One drawing's measures; None where there is nothing to measure.

    *gap*: diameter of the largest circle in the zone that touches no stitching, over the spacing, *tip*
    the same where the zone narrows to a corner under 60 degrees. *evenness*: variation of the density
    in windows of three spacings away from the edge. *edge*: 95th percentile of the way from the margin
    to the nearest stitch, over the spacing. *corners*: convex ones under 120 degrees without a stitch
    within a spacing, or within what lines ruled off both sides leave. *spill*: inches outside. *roundness*:
    turns too tight for a hand. *crossings*.
    *retrace*: share stitched twice. *unbroken*: runs for each piece of the zone.
    """

    gap: float | None
    tip: float | None
    evenness: float | None
    edge: float | None
    corners: int
    spill: float
    roundness: int | None
    crossings: int | None
    retrace: float
    unbroken: float

    def faults(self, drawing: Design) -> list[str]:
        """The measures that do not hold."""
        ruled = drawing.family == "ruler"
        bars = {
            "gap": BARS["gap"], "tip": BARS["tip"], "evenness": BARS["evenness"],
            "edge": BARS["ruled edge" if ruled else "edge"], "corners": BARS["corners"],
            "spill": BARS["spill"], "roundness": BARS["roundness"], "crossings": BARS["crossings"],
            "retrace": BARS["feathers" if drawing.retraces else "retrace"],
            "unbroken": BARS["unbroken"],
        }  # fmt: skip
        return [
            name for name, bar in bars.items()
            if (value := getattr(self, name)) is not None and value > bar + 1e-9
        ]  # fmt: skip


def judged(drawing: Design, space: Space, settings: Settings, linework: Linework) -> Judged:
    """Measure *linework* as drawn by *drawing* in *space*. What a figure without a spacing leaves open is
    not judged.

    Raises ValueError for linework without lines.
    """
    spacing = drawing.spacing(space, settings)
    lines = [shapely.linestrings(run.points) for run in linework.runs if len(run.points) > 1]
    if not lines:
        raise ValueError("There is nothing to judge.")
    zone, margin = space.polygon, float(getattr(settings, "margin", 0.0))
    parts = space.inset(margin) or [zone]
    stitched = shapely.unary_union(lines)
    shapely.prepare(stitched)
    fills = spacing > 0
    field = _Field(zone, lines) if fills else None
    gap, tip = field.gaps(sharp_corners(zone, 60), spacing) if field else (0.0, 0.0)
    total = sum(line.length for line in lines)
    freehand = drawing.family == "freehand"
    return Judged(
        gap / spacing if fills else None,
        tip / spacing if fills else None,
        field.evenness(spacing) if field else None,
        _edge(parts, stitched) / spacing if fills else None,
        sum(
            stitched.distance(shapely.points(corner)) > reach + 1e-6
            for part in parts
            for corner, reach in _corners(part, spacing, drawing.family == "ruler")
        )
        if fills
        else 0,
        float(shapely.distance(shapely.points(shapely.get_coordinates(lines)), zone).max()),
        _tight(linework, max(0.06, spacing / 8)) if freehand and not drawing.pointed else None,
        None if drawing.crosses else sum(map(_crossings, lines)) + _crossed(lines),
        max(0.0, 1 - shapely.union_all(lines, grid_size=1e-4).length / total),
        len(lines) / len(parts),
    )


class _Field:
    """The zone as spots: which lie inside, how many inches are stitched in each."""

    def __init__(self, zone: Polygon, lines: list[shapely.LineString]) -> None:
        x0, y0, x1, y1 = zone.bounds
        self.step = max(STEP, math.sqrt((x1 - x0) * (y1 - y0) / MOST_SPOTS))
        pad = 2 * self.step
        xs = np.arange(x0 - pad, x1 + pad + self.step, self.step)
        ys = np.arange(y0 - pad, y1 + pad + self.step, self.step)
        self.origin = np.array([xs[0], ys[0]])
        grid = np.meshgrid(xs, ys)
        self.inside = shapely.contains_xy(zone, *(g.ravel() for g in grid)).reshape(grid[0].shape)
        dense = [shapely.get_coordinates(shapely.segmentize(line, self.step / 2)) for line in lines]
        middles = np.concatenate([(p[1:] + p[:-1]) / 2 for p in dense])
        inches = np.concatenate([np.hypot(*np.diff(p, axis=0).T) for p in dense])
        where = np.rint((middles - self.origin) / self.step).astype(int)
        where[:, 0] = where[:, 0].clip(0, len(xs) - 1)
        where[:, 1] = where[:, 1].clip(0, len(ys) - 1)
        self.inches = np.zeros(self.inside.shape)
        np.add.at(self.inches, (where[:, 1], where[:, 0]), inches)

    def gaps(self, tips: list[np.ndarray], spacing: float) -> tuple[float, float]:
        """Diameters of the widest circles: away from *tips*, and within two spacings of one."""
        free = self.inside & (self.inches == 0)
        radius = distance_transform_edt(free) * self.step
        rows, columns = np.nonzero(free)
        spots = self.origin + np.column_stack([columns, rows]) * self.step
        near = np.zeros(len(spots), bool)
        for tip in tips:
            near |= np.hypot(*(spots - tip).T) < 2 * spacing
        wide = 2 * radius[rows, columns]
        return float(wide[~near].max(initial=0.0)), float(wide[near].max(initial=0.0))

    def evenness(self, spacing: float) -> float | None:
        """Variation (standard deviation over mean) in windows that lie inside altogether."""
        size = max(1, round(3 * spacing / self.step))
        if min(self.inside.shape) <= size:
            return None
        whole = uniform_filter(self.inside.astype(float), size, mode="constant") > 1 - 1e-6
        if whole.sum() < 4:
            return None
        density = uniform_filter(self.inches, size, mode="constant")[whole]
        return float(density.std() / density.mean()) if density.mean() > 0 else None


def _edge(parts: list[Polygon], stitched: shapely.Geometry) -> float:
    spots = np.concatenate(
        [shapely.get_coordinates(shapely.segmentize(part.exterior, 0.1)) for part in parts]
    )
    return float(np.percentile(shapely.distance(shapely.points(spots), stitched), 95))


def _corners(part: Polygon, spacing: float, ruled: bool) -> list[tuple[np.ndarray, float]]:
    """Convex corners under 120 degrees and how far the nearest stitch may be from each: a spacing, or where
    two ruled lines meet that lie as far from its sides as ruled lines may."""
    if not ruled:
        return [(corner, spacing) for corner in sharp_corners(part, 120)]
    return [(corner, BARS["ruled edge"] * spacing / math.sin(math.radians(angle) / 2))
            for corner, angle in _with_angles(part, 120)]  # fmt: skip


def sharp_corners(shape: Polygon, degrees: float) -> list[np.ndarray]:
    """Convex corners of the outer edge with less than *degrees* between their sides."""
    return [corner for corner, _ in _with_angles(shape, degrees)]


def _with_angles(shape: Polygon, degrees: float) -> list[tuple[np.ndarray, float]]:
    """The same, each with the degrees between its sides."""
    ring = shapely.get_coordinates(shape.simplify(0.02).exterior)[:-1]
    if not shape.exterior.is_ccw:
        ring = ring[::-1]
    into, onto = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    cross = into[:, 0] * onto[:, 1] - into[:, 1] * onto[:, 0]
    turn = np.degrees(np.arctan2(cross, (into * onto).sum(axis=1)))
    ccw = 1 if Polygon(ring).exterior.is_ccw else -1
    return [
        (corner, max(180.0 - float(by), 1.0))
        for corner, by in zip(ring, turn * ccw, strict=True)
        if by > 180 - degrees
    ]


def _tight(linework: Linework, radius: float) -> int:
    """Places where the line turns by more than 60 degrees within the arc that a circle of *radius*
    would need for it: a kink, or a turn tighter than that."""
    reach = radius * math.pi / 3
    found = 0
    for run in linework.runs:
        line = shapely.linestrings(run.points)
        count = max(3, int(line.length / (reach / 4)))
        if line.length < 2 * reach:
            continue
        points = resample(run.points, line.length / (count - 1))
        legs = np.diff(points, axis=0)
        heading = np.unwrap(np.arctan2(legs[:, 1], legs[:, 0]))
        over = np.abs(heading[4:] - heading[:-4]) > math.radians(64)
        found += int(np.count_nonzero(over[1:] & ~over[:-1])) + int(over[0])
    return found


def _crossed(lines: list[shapely.LineString]) -> int:
    """How many pairs of lines cross each other."""
    if len(lines) < 2:
        return 0
    one, other = shapely.STRtree(lines).query(lines, predicate="crosses")
    return int((one < other).sum())


def _crossings(line: shapely.LineString) -> int:
    """How often the line meets itself: noded, it falls into two parts more for each place."""
    if line.is_simple:
        return 0
    parts = shapely.get_num_geometries(shapely.union_all([line], grid_size=1e-4))
    return max(1, (int(parts) - 1) // 2)
