"""Outlines found on a photograph, mended by hand: corners dragged, split by a line, joined; and the
grid that several of them make evident."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon
from shapely.ops import split

from chorograph_core.chart.model import ChartError
from chorograph_core.chart.shapes import pen_outline

Ring = list[list[float]]
"""Corners of an outline in inches, the last joined to the first."""
TOGETHER = 0.02
"""Inches within which corners of two outlines count as one."""
LEAST = 0.05
"""Square inches of the smallest outline."""
GENTLE = 38.0
APART = 0.3
SHORT = 5.0
OUT_OF_ROUND = 0.14
"""Inches by which the corners of a found circle may miss it."""
FOOT = 0.25
"""Inches: a grid of patches has a step that is a multiple of this."""
OFF = 0.09
"""Inches by which lines of an evident grid miss it on the average."""


def moved(rings: Sequence[Ring], number: int, corner: int, x: float, y: float) -> dict[int, Ring]:
    """The outlines that change, by number, when a corner of one goes to (*x*, *y*).

    Corners of its neighbours at the same spot go with it; a corner laid on the next one is gone.
    Raises `ChartError` for what is no outline any more.
    """
    ring = _ring(rings, number)
    if not 0 <= corner < len(ring):
        raise ChartError("That corner is gone already.", "touch")
    spot = np.array(ring[corner])
    made = {}
    for k, each in enumerate(rings):
        points = np.array(each, float)
        here = np.hypot(*(points - spot).T) < TOGETHER
        if k == number:
            here = np.arange(len(points)) == corner
        if not here.any():
            continue
        points[here] = (x, y)
        made[k] = _checked(points)
    return made


def cornered(rings: Sequence[Ring], number: int, side: int, x: float, y: float) -> dict[int, Ring]:
    """The outline with a new corner at (*x*, *y*) on its *side* (from 0)."""
    ring = _ring(rings, number)
    if not 0 <= side < len(ring):
        raise ChartError("That side is gone already.", "touch")
    points = np.array([*ring[: side + 1], [x, y], *ring[side + 1 :]], float)
    return {number: _checked(points)}


def parted(rings: Sequence[Ring], number: int, line: Sequence[Sequence[float]]) -> list[Ring]:
    """The pieces of an outline cut by a straight *line*, drawn out until it crosses."""
    shape = Polygon(_ring(rings, number))
    ends = np.array(line, float)
    if ends.shape != (2, 2) or not np.isfinite(ends).all() or np.hypot(*(ends[1] - ends[0])) < 0.05:
        raise ChartError("Draw the line across the outline.", "touch")
    way = (ends[1] - ends[0]) / np.hypot(*(ends[1] - ends[0]))
    far = math.hypot(shape.bounds[2] - shape.bounds[0], shape.bounds[3] - shape.bounds[1])
    cutter = LineString([ends[0] - way * far, ends[1] + way * far])
    pieces = [
        piece
        for piece in split(shape, cutter).geoms
        if isinstance(piece, Polygon) and piece.area >= LEAST
    ]
    if len(pieces) < 2:
        raise ChartError("The line does not cut this outline.", "touch")
    return [_written(piece) for piece in sorted(pieces, key=lambda p: -p.area)]


def united(rings: Sequence[Ring], numbers: Sequence[int], tolerance: float) -> Ring:
    """One outline of several that lie side by side, gaps up to *tolerance* inches closed."""
    if len(set(numbers)) < 2:
        raise ChartError("Choose two outlines to join.", "touch")
    shapes = [Polygon(_ring(rings, number)) for number in numbers]
    whole = shapely.union_all(shapes)
    if not isinstance(whole, Polygon):
        grown = whole.buffer(tolerance / 2, join_style="mitre")
        whole = grown.buffer(-tolerance / 2, join_style="mitre")
    if not isinstance(whole, Polygon):
        raise ChartError("These two do not lie side by side.", "touch")
    return _written(Polygon(whole.exterior).simplify(TOGETHER))


def rounded(ring: Ring) -> Ring:
    """An outline with its gentle bends made round: what was found as many short sides was a curve.

    A corner of less than `GENTLE` degrees between two sides shorter than `SHORT` inches is drawn
    through smoothly, the others stay corners. New points lie at least `APART` inches from others. What
    is a circle but for `OUT_OF_ROUND` inches becomes one.
    """
    points = np.array(ring, float)
    way = np.roll(points, -1, axis=0) - points
    long = np.hypot(*way.T)
    heading = np.degrees(np.arctan2(way[:, 1], way[:, 0]))
    bend = np.abs((heading - np.roll(heading, 1) + 180) % 360 - 180)
    smooth = (bend < GENTLE) & (long < SHORT) & (np.roll(long, 1) < SHORT)
    if not smooth.any():
        return ring
    if smooth.all() and (circle := _circle(points)) is not None:
        return circle
    nodes = [(x, y, bool(s)) for (x, y), s in zip(points.tolist(), smooth, strict=True)]
    made = Polygon(pen_outline(nodes))
    if not made.is_valid:
        return ring
    kept = {tuple(np.round(point, 4)) for point in points}
    thinned: Ring = []
    for point in _written(made.simplify(0.004)):
        # Points that lie closer would be taken for one when the outline is charted.
        near = min((math.dist(point, p) for p in (*thinned[-1:], *points)), default=9.0)
        if tuple(point) in kept or near > APART:
            thinned.append(point)
    return thinned if Polygon(thinned).is_valid else ring


def _circle(points: np.ndarray) -> Ring | None:
    """The circle through *points*, None where they are not all near one.

    Kasa's fit: x² + y² = 2 a x + 2 b y + c is linear in the middle (a, b) and c = r² - a² - b².
    """
    known = np.column_stack([2 * points, np.ones(len(points))])
    (a, b, c), *_ = np.linalg.lstsq(known, (points**2).sum(axis=1), rcond=None)
    radius = math.sqrt(max(c + a * a + b * b, 0.0))
    if np.abs(np.hypot(*(points - (a, b)).T) - radius).max() > OUT_OF_ROUND:
        return None
    # Points apart enough to be told from one another when the outline is charted.
    count = int(min(96, 2 * math.pi * radius / APART))
    turn = np.arange(count) / count * 2 * math.pi
    return np.round(
        np.column_stack([a + radius * np.cos(turn), b + radius * np.sin(turn)]), 4
    ).tolist()


def evident_grid(values: Sequence[float], least: int = 4) -> tuple[float, float] | None:
    """(step, offset) of the widest even grid that *values*, in inches, lie on; None if there is none.

    Needs *least* different lines. A step is a multiple of 1/4″; every line must miss the grid by less
    than 2 × `OFF`, and all on the average by less than `OFF`.
    """
    lines = _clusters(np.sort(np.asarray(values, float)))
    if len(lines) < least:
        return None
    for step in np.arange(24.0, 0.99, -FOOT):
        if (lines[-1] - lines[0]) / step < least - 1.5:
            continue
        angle = lines / step * 2 * math.pi
        offset = math.atan2(np.sin(angle).mean(), np.cos(angle).mean()) / (2 * math.pi) * step
        miss = np.abs((lines - offset + step / 2) % step - step / 2)
        if miss.max() < 2 * OFF and math.sqrt(float((miss**2).mean())) < OFF:
            return float(step), float(offset % step)
    return None


def on_grid(shape: Polygon, across, down, tolerance: float) -> Polygon:
    """*shape* with the coordinates of its corners on the lines of the grids *across* and *down*
    (each (step, offset) or None) where those lie within *tolerance*."""
    points = np.asarray(shape.exterior.coords)[:-1].copy()
    for axis, grid in ((0, across), (1, down)):
        if grid is None:
            continue
        step, offset = grid
        near = np.round((points[:, axis] - offset) / step) * step + offset
        close = np.abs(near - points[:, axis]) <= tolerance
        points[close, axis] = near[close]
    made = Polygon(points)
    return made if made.is_valid and made.area >= LEAST else shape


def lines_of(rings: Sequence[Ring], axis: int) -> list[float]:
    """Where outlines have upright sides (*axis* 0: their x) or level ones (1: their y)."""
    found = []
    for ring in rings:
        points = np.array([*ring, ring[0]], float)
        way = np.diff(points, axis=0)
        long = np.abs(way[:, 1 - axis]) > 0.75
        straight = np.abs(way[:, axis]) < 0.06 * np.abs(way[:, 1 - axis])
        middle = (points[:-1, axis] + points[1:, axis]) / 2
        found += middle[long & straight].tolist()
    return found


def _clusters(values: np.ndarray) -> np.ndarray:
    """The middles of values that lie together."""
    if not len(values):
        return values
    groups = np.split(values, np.flatnonzero(np.diff(values) > 2 * OFF) + 1)
    return np.array([group.mean() for group in groups])


def _ring(rings: Sequence[Ring], number: int) -> Ring:
    if not 0 <= number < len(rings):
        raise ChartError("That outline is gone already.", "touch")
    return rings[number]


def _checked(points: np.ndarray) -> Ring:
    # As it will be kept, so that what is kept was looked at.
    points = points.round(4)
    kept = [k for k in range(len(points)) if np.hypot(*(points[k] - points[k - 1])) > TOGETHER]
    if len(kept) < 3:
        raise ChartError("An outline needs three corners.", "touch")
    shape = Polygon(points[kept])
    if not shape.is_valid or shape.area < LEAST:
        raise ChartError("The outline would cross itself there.", "touch")
    return points[kept].tolist()


def _written(shape: Polygon) -> Ring:
    return np.round(np.asarray(shape.exterior.coords)[:-1], 4).tolist()
