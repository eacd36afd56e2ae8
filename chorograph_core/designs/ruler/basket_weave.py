"""Basket weave: a grid whose cells are ruled one way and the other in turn."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.axes import axes_at, base_angle
from chorograph_core.designs.engine.chaining import chained
from chorograph_core.designs.engine.families import (
    family,
    fitted_places,
    linked,
    measured_from,
    position_of,
)
from chorograph_core.designs.linework import Linework, Mark, Run, Span
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    count_setting,
    length_setting,
    refuse_thousands,
)
from chorograph_core.designs.space import polygons
from chorograph_core.measure import format_inches

MOST_LINES = 4000
OBLIQUE = 0.02
"""Inches by which a way may be off the border and still runs along it."""
HAIR = 0.01
"""Inches by which a way may lie outside its cell."""


@dataclass(frozen=True)
class WeaveSettings(Settings):
    """The size of a cell and the lines in it."""

    cell: float = length_setting("Side of a cell", 2.0, 0.5, 12.0)
    lines: int = count_setting("Lines in a cell", 4, 2, 16)
    angle: float = angle_setting("Turned by", 0.0, -90.0, 90.0, 7.5)
    relative: str = measured_from()


class BasketWeave(Design[WeaveSettings]):
    """Cells of a grid that fits, ruled alternately."""

    key = "basket_weave"
    name = "Basket weave"
    family = "ruler"
    stroke = "to and fro in one cell, into the next, to and fro the other way"
    # Lines end on the borders along which one goes on to the next cell.
    crosses = True
    settings_type = WeaveSettings

    def fits(self, space, settings=None):
        """A weave needs a few cells to read."""
        s = self.clean(settings)
        cells = _count(space, s)
        reason = f"about {cells:.0f} cells, lines {format_inches(s.cell / s.lines, 16)} apart"
        if cells < 4:
            return Fit(0.2, (reason, "too few to read as a weave"))
        return Fit(0.66, (reason,))

    def spacing(self, space, settings=None):
        """Of the lines in a cell."""
        s = self.clean(settings)
        return s.cell / s.lines

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Cell after cell; each is a unit."""
        s = self.clean(settings)
        _count(space, s)
        angle = base_angle(space, s.relative) + math.radians(s.angle)
        cells, sides = _cells(space.polygon, angle, s.cell)
        choices, marks = [], []
        for k, (part, upright) in enumerate(cells):
            way = angle + (math.pi / 2 if upright else 0.0)
            apart = sides[0 if upright else 1] / s.lines
            made = _ruled(part, way, apart, s.lines, angle, sides)
            if made:
                choices += _ways_through(made, part, position_of(apart, space))
            if made and k < 2:
                marks.append(Mark("line", made[len(made) // 2], "which way the cells run"))
        runs = _elbowed(_nearest_after_nearest(choices, angle), angle, space.polygon.buffer(1e-4))
        joined = chained(runs, space.polygon, 3 * s.cell, as_given=True)
        return Linework(tuple(joined), tuple(marks))


def _count(space, s: WeaveSettings) -> float:
    """Cells in the zone.

    Raises `SettingError` for more than anybody would stitch.
    """
    cells = float(space.polygon.area) / s.cell**2
    refuse_thousands(cells * s.lines, MOST_LINES, "Side of a cell", "cell", "lines")
    return cells


def _ways_through(lines: list[np.ndarray], part: Polygon, position: str) -> list[list[Run]]:
    """The runs of a cell, each as the ways in which it may be gone."""
    if part.convex_hull.area < part.area * 1.001:
        ways = [_serpentine(each, position) for each in _begun(lines)]
        # Past a notch that hardly counts, along the border is across it.
        if all(part.buffer(HAIR).covers(shapely.linestrings(way.points)) for way in ways):
            return [ways]
    return [[run, run.reversed()] for run in linked(lines, part, position)]


def _elbowed(runs: list[Run], angle: float, room: Polygon) -> list[Run]:
    """The way from cell to cell goes along their borders, round the corner between them: nothing slants."""
    along = np.array([math.cos(angle), math.sin(angle)])
    across = np.array([-along[1], along[0]])
    made = runs[:1]
    for before, run in itertools.pairwise(runs):
        step = run.points[0] - before.points[-1]
        if min(abs(step @ along), abs(step @ across)) > OBLIQUE:
            # First along the border on which the last line ended: square to that line.
            last = before.points[-1] - before.points[-2]
            ways = (across, along) if abs(last @ along) > abs(last @ across) else (along, across)
            elbows = (before.points[-1] + way * (step @ way) for way in ways)
            elbow = next((each for each in elbows if _covers(room, before, each, run)), None)
            if elbow is not None:
                spans = (
                    Span(1, "ditch", "link"),
                    *(replace(x, stop=x.stop + 1) for x in run.spans),
                )
                run = replace(run, points=np.vstack([elbow, run.points]), spans=spans)
        made.append(run)
    return made


def _covers(room: Polygon, before: Run, elbow: np.ndarray, run: Run) -> bool:
    """Whether the way round an elbow stays in the zone."""
    way = np.array([before.points[-1], elbow, run.points[0]])
    return bool(room.covers(shapely.linestrings(way)))


def _begun(lines: list[np.ndarray]) -> list[list[np.ndarray]]:
    """The same lines to be gone to and fro from each of the four corners of a cell."""
    other = [line[::-1] for line in lines]
    return [lines, other, lines[::-1], other[::-1]]


def _serpentine(lines: list[np.ndarray], position: str) -> Run:
    """To and fro, along the border of the cell from line to line."""
    points, spans, stop = [lines[0]], [], len(lines[0]) - 1
    spans.append(Span(stop, "straight", position=position))
    for k, line in enumerate(lines[1:], 1):
        way = line if k % 2 == 0 else line[::-1]
        points.append(way)
        spans.append(Span(stop + 1, "ditch", "link"))
        stop += len(way)
        spans.append(Span(stop, "straight", position=position))
    return Run(np.concatenate(points), "straight", tuple(spans), position=position)


def _nearest_after_nearest(choices: list[list[Run]], angle: float) -> list[Run]:
    """One of the ways through each cell, so that what leads from cell to cell is shortest (dynamic
    programming over the cells in their order)."""
    if not choices:
        return []
    frame = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
    cost = np.zeros(len(choices[0]))
    back: list[np.ndarray] = []
    for before, after in itertools.pairwise(choices):
        ends = np.array([run.points[-1] for run in before])
        starts = np.array([run.points[0] for run in after])
        # Measured along the borders, where one goes.
        gone = np.abs((ends[:, None] - starts[None]) @ frame).sum(axis=2)
        step = gone + cost[:, None]
        back.append(step.argmin(axis=0))
        cost = step.min(axis=0)
    k = int(np.argmin(cost))
    found = [choices[-1][k]]
    for options, came in zip(choices[-2::-1], back[::-1], strict=True):
        k = int(came[k])
        found.append(options[k])
    return found[::-1]


def _ruled(part: Polygon, way: float, apart: float, lines: int, angle: float, sides) -> list:
    """Lines in a cell: half a gap from its borders, so that cells side by side are even."""
    across = np.array([-math.sin(way), math.cos(way)])
    points = shapely.get_coordinates(part) @ across
    low, high = float(points.min()), float(points.max())
    whole = lines * apart
    if abs(high - low - whole) > 0.02:
        return family(part, way, apart, "even").lines or family(part, way, high - low, "even").lines
    along = np.array([math.cos(way), math.sin(way)])
    reach = shapely.get_coordinates(part) @ along
    rows = [
        np.array([(reach.min() - 1) * along + h * across, (reach.max() + 1) * along + h * across])
        for h in low + apart * (np.arange(lines) + 0.5)
    ]
    cuts = shapely.intersection(shapely.linestrings(rows), part)
    return [shapely.get_coordinates(piece) for cut in cuts for piece in shapely.get_parts(cut)
            if piece.geom_type == "LineString" and piece.length > 0.15]  # fmt: skip


def _cells(polygon: Polygon, angle: float, cell: float):
    """(part of a cell within *polygon*, whether it is ruled upright) row by row, to and fro, and the sides of
    a whole cell: fitted so that a rectangle holds whole cells only."""
    along, across, u, v = axes_at(polygon, angle)
    counts = [len(fitted_places(float(np.ptp(w)), cell, "even").at) + 1 for w in (u, v)]
    if np.ptp(u) < cell * 1.5:
        counts[0] = max(1, round(float(np.ptp(u)) / cell))
    if np.ptp(v) < cell * 1.5:
        counts[1] = max(1, round(float(np.ptp(v)) / cell))
    us = np.linspace(u.min(), u.max(), counts[0] + 1)
    vs = np.linspace(v.min(), v.max(), counts[1] + 1)
    order = [(i, j) for j in range(counts[1])
             for i in (range(counts[0]) if j % 2 == 0 else range(counts[0] - 1, -1, -1))]  # fmt: skip
    squares = [
        Polygon([a * along + b * across for a, b in (
            (us[i], vs[j]), (us[i + 1], vs[j]), (us[i + 1], vs[j + 1]), (us[i], vs[j + 1]))])
        for i, j in order
    ]  # fmt: skip
    found = [
        (part, (i + j) % 2 == 0)
        for (i, j), square, cut in zip(
            order, squares, shapely.intersection(squares, polygon), strict=True
        )
        for part in polygons(cut)
        if part.area > 0.02 * square.area
    ]
    return found, (float(us[1] - us[0]), float(vs[1] - vs[0]))
